"""A revision as page and printed sheet, from its saved data only."""

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
    """A saved revision as text, in one unit system."""

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


def record(revision: Revision, units: str, page: int = 0) -> RecordView:
    """Return a revision for its page.

    Args:
        revision: The revision.
        units: Unit system, "mm" or "in".
        page: Page of its runs, from 1, limited to the last.

    Raises:
        NewerVersion: A newer version saved it.
        Unreadable: It is damaged.
    """
    plan = get_plan(revision)
    page_runs = list_runs(revision, page)
    return RecordView(
        revision,
        revision.procedure.label,
        plan,
        units,
        urlencode(link_query(plan.joint)),
        sentence_text(plan.sentence, units),
        plan_lines(plan, units),
        plan_notices(plan, units),
        build_summary(plan, units),
        format_ranges(revision.bands, units),
        build_dial(plan, units),
        [run_row(run, units, plan, revision.bands) for run in page_runs.runs],
        page_runs.revisions,
        [run_row(run, units) for run in page_runs.proving],
        page_runs.count,
        page_runs.page,
        page_runs.pages,
        page_runs.set_at,
        _describe_earlier_rule(page_runs.proving),
    )


def _describe_earlier_rule(proving: Sequence[RunRow]) -> str:
    """Return the rule that a revision passed, if it is an earlier one."""
    earlier = [run for run in proving if run.minor < RULE_FROM]
    return EARLIER_RULE if earlier and len(earlier) == len(proving) else ""


def draw_sheet(view: RecordView) -> Drawing:
    """Return the drawing of the printed sheet, with its figures."""
    return cut_through(view.plan, view.habit, "paper", labels=False)


def draw_for_paper(view: RecordView) -> list[tuple[str, Drawing]]:
    """Return every drawing of a record for paper, with its name."""
    return [(name, draw(key, view.plan, view.habit, "paper")) for key, (name, _) in VIEWS.items()]
