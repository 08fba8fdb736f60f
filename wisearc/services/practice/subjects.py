"""The seam that is practised: that of a lesson, of a plan in a link, or of a procedure."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from ...core.joint.data import make_joint
from ...core.plan.plan import Plan
from ...core.schema.json_types import JsonObject
from ...core.shop.shop import ASSUMED, Shop
from ..errors import Missing
from ..inventory.shop import load_shop
from ..planning.planner import cached_plan, query_text, read_query
from ..procedures import book, procedures
from .lessons import get_lesson
from .messages import SeamRequest
from .seams import encode_plan, encode_shop

# The coupon of a plan without a lesson, mm: the reach of a wrist. Handbook 11.3.
PLAN_PIECE_MM = 60.0


class Subject(Struct, frozen=True):
    """The seam of a page.

    Plan, shop, length of the coupon mm, whether a stop or tacks are practised, lesson or "", and
    the query of its address.
    """

    plan: Plan
    shop: Shop
    length_mm: float
    has_stop: bool
    has_tacks: bool
    lesson: str
    query: dict[str, str]

    @property
    def joint(self) -> JsonObject:
        """Return the data of its joint."""
        return self.plan.joint

    def build_request(self, ask: str, seam: str = "") -> SeamRequest:
        """Return a request about a seam on it.

        Args:
            ask: What it asks for.
            seam: Key of the seam.
        """
        return SeamRequest(
            0,
            ask,
            seam,
            encode_plan(self.plan),
            encode_shop(self.shop),
            self.length_mm,
            self.has_stop,
            self.has_tacks,
        )


def find_subject(
    lesson: str = "", kept: str = "", link: Sequence[tuple[str, str]] = (), has_stop: bool = False
) -> Subject:
    """Return the seam of a page.

    Args:
        lesson: Key of a lesson, or "".
        kept: Label of a revision, such as "P-0001/A", or "".
        link: The pairs of the link of a joint.
        has_stop: Whether a stop and a restart are practised. A lesson has its choice.

    Raises:
        Missing: The lesson, its seam or the revision does not exist, or the link is not valid.
    """
    if lesson:
        row = get_lesson(lesson)
        if row.seam is None:
            raise Missing("This lesson has no seam.")
        plan = cached_plan(make_joint(row.seam.joint), ASSUMED)
        seam = row.seam
        return Subject(
            plan,
            ASSUMED,
            seam.length_mm,
            seam.has_stop,
            seam.has_tacks,
            lesson,
            {"lesson": lesson},
        )
    shop = load_shop()
    if kept:
        number, _, letter = kept.partition("/")
        plan, query = procedures.get_plan(book.find(number, letter)), {"kept": kept}
    else:
        joint, problems = read_query(link)
        if problems or not link:
            raise Missing(
                "This address contains no joint. Open Plan, and go to the practice from there."
            )
        plan, query = cached_plan(joint, shop), {"link": query_text(joint)}
    if has_stop:
        query["stop"] = "yes"
    return Subject(plan, shop, PLAN_PIECE_MM, has_stop, False, "", query)
