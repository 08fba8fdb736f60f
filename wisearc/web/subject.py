"""The subject of a page: a joint by its link, or a draft or procedure by its number."""

from __future__ import annotations

from collections.abc import Mapping
from urllib.parse import parse_qsl

from flask import url_for
from msgspec import Struct

from ..core.plan.plan import Plan
from ..core.run.verification import Bands
from ..services.errors import Missing
from ..services.inventory.shop import load_shop
from ..services.planning.planner import cached_plan, query_text, read_query
from ..services.procedures import book
from ..services.records import Revision
from ..services.set_up import checklists
from ..services.templates.templates import cut_link


class Subject(Struct, frozen=True):
    """The subject.

    Its name among set-ups, number or "", plan, page, next and previous page, revision, allowed
    ranges.
    """

    what: str
    label: str
    plan: Plan
    address: str
    onward: str
    next_label: str
    back: str
    revision: Revision | None = None
    bands: Bands | None = None

    @property
    def cut(self) -> str:
        """Return the query of the template for its tube end, or "" for a square end."""
        return cut_link(self.plan)


def find_by_link(link: str) -> Subject:
    """Return the subject of the link of a joint.

    Raises:
        Missing: The link is not valid.
    """
    joint, problems = read_query(parse_qsl(link))
    if problems or not link:
        raise Missing("This address contains no joint. Open Plan, and go to Set up from there.")
    text = query_text(joint)
    plan_at = url_for("plan.page") + f"?{text}"
    return Subject(
        text,
        "",
        cached_plan(joint, load_shop()),
        url_for("set_up.page") + f"?{text}",
        plan_at,
        "Save as a draft",
        plan_at,
    )


def find_by_number(number: str, letter: str) -> Subject:
    """Return the subject of a revision.

    Args:
        number: Procedure number.
        letter: Revision letter.

    Raises:
        Missing: The revision does not exist.
    """
    revision = book.find(number, letter)
    label = f"{revision.procedure.label} {revision.letter}"
    at = {"number": revision.procedure.label, "letter": revision.letter}
    page = url_for("procedures.revision", number=at["number"], letter=at["letter"])
    subject = checklists.format_subject(revision.procedure.label, revision.letter)
    plan = checklists.plan_kept(revision.procedure.label, revision.letter)
    return Subject(
        subject,
        label,
        plan,
        url_for("set_up.kept", number=at["number"], letter=at["letter"]),
        url_for("procedures.show_runs", number=at["number"], letter=at["letter"]) + "#write",
        "Record the run",
        page,
        revision,
        revision.bands,
    )


def find_subject(form: Mapping[str, str]) -> Subject:
    """Return the subject of a form."""
    subject = form.get("what", "")
    if subject.startswith(checklists.KEPT):
        number, _, letter = subject.removeprefix(checklists.KEPT).partition("/")
        return find_by_number(number, letter)
    return find_by_link(subject)
