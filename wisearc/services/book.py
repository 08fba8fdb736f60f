"""A record as a page shows it, its sheet, its drawings and its file: from what was kept and nothing else."""

from __future__ import annotations

import json
from dataclasses import dataclass
from urllib.parse import urlencode

from ..core.joint_words import sentence_text
from ..core.plan import Plan
from ..drawings.canvas import Drawing
from ..drawings.cut import cut_through
from ..drawings.views import VIEWS, draw
from ..formats.link import link_query
from ..formats.plan_dial import Dial, dial
from ..formats.plan_lines import Line, Notice, plan_lines, plan_notices, summary
from ..formats.procedure_json import procedure_file
from ..store import queries, setups
from ..store.models import Revision
from .faces import bands_in_words
from .keeping import file_of, plan_of
from .run_rows import RunRow, run_row
from .setting_up import kept_as

RUNS_A_PAGE, RUNS_ON_SHEET = 50, 3


@dataclass(frozen=True)
class RecordView:
    """A revision in words, in one unit habit, from what was kept."""

    revision: Revision
    number: str
    plan: Plan
    habit: str
    link: str
    text: str
    lines: list[Line]
    notices: list[Notice]
    summary: list[tuple[str, str]]
    bands: list[tuple[str, str]]
    dial: Dial
    runs: list[RunRow]
    revisions: list[Revision]
    proving: list[RunRow]
    run_count: int
    page: int
    pages: int
    set_at: str | None


def find(number: str, letter: str | None = None) -> Revision:
    """A revision, or the newest. Raises Missing."""
    return queries.revision(number, letter)


def record(revision: Revision, habit: str, page: int = 0) -> RecordView:
    """A revision as a page shows it. Raises Newer, Unreadable.

    Parameters: habit, "mm" or "in"; page of its runs, from 1, the last where there is no such.
    """
    plan = plan_of(revision)
    count, _ = queries.room_taken(revision)
    pages = max(1, -(-count // RUNS_A_PAGE))
    at = page if 1 <= page <= pages else pages
    return RecordView(
        revision, revision.procedure.label, plan, habit, urlencode(link_query(plan.joint)), sentence_text(plan.sentence, habit),
        plan_lines(plan, habit), plan_notices(plan, habit), summary(plan, habit), bands_in_words(revision.bands, habit), dial(plan, habit),
        [run_row(run, habit, plan, revision.bands) for run in queries.runs(revision, (at - 1) * RUNS_A_PAGE, RUNS_A_PAGE)], queries.revisions(revision.procedure),
        [run_row(run, habit) for run in queries.proving(revision, RUNS_ON_SHEET)], count, at, pages,
        setups.set_last(kept_as(revision.procedure.label, revision.letter)),
    )  # fmt: skip


def was_sent(revision: Revision, once: str) -> bool:
    """Whether a run was written down that was sent with a form's token."""
    return queries.run_sent(revision, once) is not None


def sheet_drawing(view: RecordView) -> Drawing:
    """The drawing of the printed sheet, its figures beside it."""
    return cut_through(view.plan, view.habit, "paper", labels=False)


def paper_drawings(view: RecordView) -> list[tuple[str, Drawing]]:
    """Every drawing of a record, for paper, with its name."""
    return [(name, draw(key, view.plan, view.habit, "paper")) for key, (name, _) in VIEWS.items()]


def procedure_text(revision: Revision) -> str:
    """A revision as the text of a procedure file, as it was kept."""
    return json.dumps(procedure_file(file_of(revision)), ensure_ascii=False, indent=2, allow_nan=False) + "\n"
