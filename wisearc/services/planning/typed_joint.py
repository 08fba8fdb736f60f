"""A joint typed as text: "1.5 304 sheet, outside corner", or "like P-0003 but 2 mm"."""

from __future__ import annotations

import re

from msgspec import Struct

from ...core.errors import InputError
from ...core.joint.data import make_joint
from ...core.joint.joint import Joint
from ...core.joint.phrase import change_by_phrase, parse_phrase
from ...core.plan.plan import Plan
from ...core.shop.shop import Shop
from ...store import queries
from ...store.errors import StoreError
from ...store.models import Revision
from ..procedures.procedures import get_plan
from .approaches import build_new_joint
from .planner import cached_plan

MAX_PHRASE_LENGTH = 300
_LIKE = re.compile(
    r"^(?:(?:like|as|same as)\s+)?(P-?\d{1,6})(?:\s*/?\s*((?-i:[A-Z]{1,3}))(?=$|[\s,;]))?"
    r"\s*[,;]?\s*(?:but\s+)?",
    re.IGNORECASE,
)


class TypedJoint(Struct, frozen=True):
    """A typed joint with its plan.

    `revision` is the procedure revision that the text names without a change, or None.
    """

    joint: Joint
    plan: Plan
    revision: Revision | None = None


def read_typed_joint(text: str, units: str, shop: Shop) -> TypedJoint:
    """Return the joint of a text, with its plan.

    Without text it is the joint of a new page.

    Args:
        text: The text.
        units: Unit system of numbers without unit.
        shop: The shop.

    Raises:
        InputError: A word is not understood, or the procedure is missing.
    """
    typed = " ".join(text[:MAX_PHRASE_LENGTH].split())
    match = _LIKE.match(typed)
    if match is not None:
        revision = _find_revision(match[1], match[2] or "")
        plan, rest = get_plan(revision), typed[match.end() :]
        joint = make_joint(plan.joint)
        if not rest:
            return TypedJoint(joint, plan, revision)
        joint = make_joint(change_by_phrase(rest, units, joint))
        return TypedJoint(joint, cached_plan(joint, shop))
    base = build_new_joint()
    joint = make_joint(parse_phrase(typed, units, base)) if typed else base
    return TypedJoint(joint, cached_plan(joint, shop))


def _find_revision(number: str, letter: str) -> Revision:
    label = f"P-{int(number.lstrip('Pp-')):04}"
    try:
        return queries.get_revision(label, letter.upper() or None)
    except StoreError as error:
        raise InputError("joint", number, "is not in the library. Give another number") from error
