"""What is set up: a joint by its link, or a draft or procedure by its number."""

from __future__ import annotations

from collections.abc import Mapping
from urllib.parse import parse_qsl

from flask import url_for
from msgspec import Struct

from ..core.plan.plan import Plan
from ..core.run.verification import Bands
from ..services.errors import Missing
from ..services.inventory.shop import load_shop
from ..services.planning.planning import cached_plan, query_text, read_query
from ..services.procedures import book
from ..services.records import Revision
from ..services.set_up import setting_up
from ..services.templates.templates import cut_link


class Subject(Struct, frozen=True):
    """What is set up: how it is called among set-ups, its number or "", its plan, its page, where
    it goes on and goes back to; the revision it is, and what that holds within.
    """

    what: str
    label: str
    plan: Plan
    address: str
    onward: str
    onward_words: str
    back: str
    revision: Revision | None = None
    bands: Bands | None = None

    @property
    def cut(self) -> str:
        """The query of the template of its tube's end, "" where that is square."""
        return cut_link(self.plan)


def find_by_link(link: str) -> Subject:
    """The subject of a joint's link. Raises Missing where it is none."""
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
    """The subject of a revision. Raises Missing."""
    revision = book.find(number, letter)
    label = f"{revision.procedure.label} {revision.letter}"
    at = {"number": revision.procedure.label, "letter": revision.letter}
    page = url_for("procedures.revision", number=at["number"], letter=at["letter"])
    what = setting_up.format_subject(revision.procedure.label, revision.letter)
    plan = setting_up.plan_kept(revision.procedure.label, revision.letter)
    return Subject(
        what,
        label,
        plan,
        url_for("set_up.kept", number=at["number"], letter=at["letter"]),
        f"{page}#write",
        "Record the run",
        page,
        revision,
        revision.bands,
    )


def find_subject(form: Mapping[str, str]) -> Subject:
    """The subject that a form names."""
    what = form.get("what", "")
    if what.startswith(setting_up.KEPT):
        number, _, letter = what.removeprefix(setting_up.KEPT).partition("/")
        return find_by_number(number, letter)
    return find_by_link(what)
