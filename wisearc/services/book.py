"""A record as a page shows it, its sheet, its drawings and its file: from what was kept and nothing else."""

from __future__ import annotations

import json
from dataclasses import dataclass
from urllib.parse import urlencode

from ..core.errors import BadInput
from ..core.joint_words import sentence_text
from ..core.plan import Plan
from ..core.quantities import Quantity
from ..core.record import BANDS
from ..drawings.canvas import Drawing
from ..drawings.cut import cut_through
from ..drawings.views import VIEWS, draw
from ..formats.link import link_query
from ..formats.plan_json import read_plan
from ..formats.plan_lines import Line, Notice, plan_lines, plan_notices, summary
from ..formats.procedure_json import procedure_file
from ..formats.upgrades import NewerFormat
from ..store import queries
from ..store.errors import Newer, Unreadable
from ..store.models import Revision, Run
from .keeping import file_of


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
    runs: list[Run]
    revisions: list[Revision]


def find(number: str, letter: str | None = None) -> Revision:
    """A revision, or the newest. Raises Missing."""
    return queries.revision(number, letter)


def plan_of(revision: Revision) -> Plan:
    """The plan of a revision as it was kept. Raises Newer or Unreadable where it cannot be shown as it was."""
    name = f"{revision.procedure.label} {revision.letter}"
    try:
        return read_plan(revision.plan)
    except NewerFormat as error:
        raise Newer(f"{name} {error.rule}. It is not shown, so that nothing of it is shown wrong.") from error
    except BadInput as error:
        words = "Its record was changed or damaged outside Wise Arc; put back a copy of the data. Its file can still be saved as it stands."
        raise Unreadable(f"{name} cannot be shown: {error}. {words}") from error


def record(revision: Revision, habit: str) -> RecordView:
    """A revision as a page shows it. Parameters: habit, "mm" or "in". Raises Newer, Unreadable."""
    plan = plan_of(revision)
    return RecordView(
        revision, revision.procedure.label, plan, habit, urlencode(link_query(plan.joint)), sentence_text(plan.sentence, habit),
        plan_lines(plan, habit), plan_notices(plan, habit), summary(plan, habit), bands_in_words(revision, habit), queries.runs(revision),
        queries.revisions(revision.procedure),
    )  # fmt: skip


def bands_in_words(revision: Revision, habit: str) -> list[tuple[str, str]]:
    """The bands within which a revision holds, in words."""
    rows = []
    for key, (low, high) in revision.bands.items():
        name, quantity = BANDS.get(key, (key, "plain"))
        ends = [None if end is None else Quantity(end, quantity).text(habit) for end in (low, high)]
        if None not in ends:
            rows.append((name, f"{ends[0]} to {ends[1]}"))
        elif ends != [None, None]:
            rows.append((name, f"{ends[0]} at least" if ends[1] is None else f"{ends[1]} at most"))
    return rows


def sheet_drawing(view: RecordView) -> Drawing:
    """The drawing of the printed sheet, its figures beside it."""
    return cut_through(view.plan, view.habit, "paper", labels=False)


def paper_drawings(view: RecordView) -> list[tuple[str, Drawing]]:
    """Every drawing of a record, for paper, with its name."""
    return [(name, draw(key, view.plan, view.habit, "paper")) for key, (name, _) in VIEWS.items()]


def procedure_text(revision: Revision) -> str:
    """A revision as the text of a procedure file, as it was kept."""
    return json.dumps(procedure_file(file_of(revision)), ensure_ascii=False, indent=2, allow_nan=False) + "\n"
