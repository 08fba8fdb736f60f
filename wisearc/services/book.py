"""Reading the book: the list, a record as a page shows it, its sheet and its file."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any

from ..core.joint import joint_from_kept
from ..drawings.canvas import Drawing
from ..drawings.cut import cut_through
from ..drawings.views import VIEWS, draw
from ..formats.joint_words import Part, joint_sentence, sentence_text
from ..formats.plan_lines import Line, Notice, plan_cautions, plan_lines, summary
from ..store import queries
from ..store.models import Revision, Run
from .keeping import write_procedure
from .planning import query_text

STATES = ("draft", "proved", "superseded")


@dataclass(frozen=True)
class RecordView:
    """A revision in words, in one unit habit, from the data as it was kept."""

    kept: Revision
    number: str
    link: str
    sentence: list[Part]
    text: str
    lines: list[Line]
    cautions: list[Notice]
    summary: list[tuple[str, str]]
    runs: list[Run]
    revisions: list[Revision]


def listed(search: str = "", status: str = "") -> list[dict[str, Any]]:
    """The book, searched. Parameters: search words; status, one of STATES or ""."""
    return queries.book(search, status if status in STATES else "")


def find(number: str, letter: str | None = None) -> Revision:
    """A revision, or the newest. Raises Missing."""
    return queries.revision(number, letter)


def record(kept: Revision, habit: str) -> RecordView:
    """A revision as a page shows it. Parameters: kept; habit, "mm" or "in"."""
    joint = joint_from_kept(kept.joint)
    return RecordView(
        kept, kept.procedure.label, query_text(joint), joint_sentence(joint, habit), sentence_text(joint, habit), plan_lines(kept.plan, habit),
        plan_cautions(kept.plan, habit), summary(kept.plan, habit), queries.runs(kept), queries.revisions(kept.procedure),
    )  # fmt: skip


def sheet_drawing(kept: Revision, habit: str) -> Drawing:
    """The drawing of the printed sheet, its figures beside it."""
    return cut_through(kept.plan, habit, "paper", labels=False)


def paper_drawings(kept: Revision, habit: str) -> list[tuple[str, Drawing]]:
    """Every drawing of a revision, for paper, with its name."""
    return [(name, draw(view, kept.plan, habit, "paper")) for view, (name, _) in VIEWS.items()]


def procedure_text(kept: Revision) -> str:
    """A revision as the text of a procedure file."""
    return json.dumps(write_procedure(kept), ensure_ascii=False, indent=2, allow_nan=False) + "\n"
