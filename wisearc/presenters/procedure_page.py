"""A revision as its page and its sheet show it, from what was saved and nothing else."""

from __future__ import annotations

from collections.abc import Sequence
from urllib.parse import urlencode

from msgspec import Struct

from ..core.joint.words import sentence_text
from ..core.plan.plan import Plan
from ..core.run.quality import EARLIER_RULE, RULE_FROM
from ..drawings.canvas import Drawing
from ..drawings.plan.views import VIEWS, draw
from ..drawings.templates.cut import cut_through
from ..formats.link import link_query
from ..formats.plan_dial import Dial, build_dial
from ..formats.plan_lines import Line, Notice, build_summary, plan_lines, plan_notices
from ..services.procedures.book import list_runs
from ..services.procedures.faces import format_ranges
from ..services.procedures.procedures import get_plan
from ..services.records import Revision, RunRow
from .runs import RunView, run_row


class RecordView(Struct, frozen=True):
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
    runs: list[RunView]
    revisions: list[Revision]
    proving: list[RunView]
    run_count: int
    page: int
    pages: int
    set_at: str | None
    earlier_rule: str = ""


def record(revision: Revision, habit: str, page: int = 0) -> RecordView:
    """A revision as a page shows it. Raises NewerVersion, Unreadable.

    Parameters: habit, "mm" or "in"; page of its runs, from 1, the last where there is no such.
    """
    plan = get_plan(revision)
    beside = list_runs(revision, page)
    return RecordView(
        revision,
        revision.procedure.label,
        plan,
        habit,
        urlencode(link_query(plan.joint)),
        sentence_text(plan.sentence, habit),
        plan_lines(plan, habit),
        plan_notices(plan, habit),
        build_summary(plan, habit),
        format_ranges(revision.bands, habit),
        build_dial(plan, habit),
        [run_row(run, habit, plan, revision.bands) for run in beside.runs],
        beside.revisions,
        [run_row(run, habit) for run in beside.proving],
        beside.count,
        beside.page,
        beside.pages,
        beside.set_at,
        _describe_earlier_rule(beside.proving),
    )


def _describe_earlier_rule(proving: Sequence[RunRow]) -> str:
    """The rule that a revision passed, where it is not today's."""
    earlier = [run for run in proving if run.minor < RULE_FROM]
    return EARLIER_RULE if earlier and len(earlier) == len(proving) else ""


def draw_sheet(view: RecordView) -> Drawing:
    """The drawing of the printed sheet, its figures beside it."""
    return cut_through(view.plan, view.habit, "paper", labels=False)


def draw_for_paper(view: RecordView) -> list[tuple[str, Drawing]]:
    """Every drawing of a record, for paper, with its name."""
    return [(name, draw(key, view.plan, view.habit, "paper")) for key, (name, _) in VIEWS.items()]
