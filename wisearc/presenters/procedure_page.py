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
from ..drawings.runs.run_chart import RunPoint, draw_run_chart
from ..drawings.templates.cut import cut_through
from ..formats.link import link_query
from ..formats.plan_dial import Dial, build_dial
from ..formats.plan_lines import Line, Notice, build_summary, plan_lines, plan_notices
from ..services.procedures.book import (
    list_last_runs,
    list_photographed_runs,
    list_runs,
    load_revision_data,
)
from ..services.procedures.faces import format_ranges
from ..services.procedures.procedures import get_plan
from ..services.records import JobRow, Revision, RunRow
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
    revisions: list[Revision]
    proving: list[RunView]
    run_count: int
    good_count: int
    photograph_count: int
    jobs: list[JobRow]
    set_at: str | None
    earlier_rule: str = ""


class RunListView(Struct, frozen=True):
    """A page of the runs of a revision as text, with its number and the number of pages."""

    runs: list[RunView]
    count: int
    page: int
    pages: int


class PhotographView(Struct, frozen=True):
    """A photograph of a run: its SHA-256, file name, and run."""

    sha256: str
    file: str
    run: RunRow


def record(revision: Revision, units: str) -> RecordView:
    """Return a revision for its page.

    Args:
        revision: The revision.
        units: Unit system, "mm" or "in".

    Raises:
        NewerVersion: A newer version saved it.
        Unreadable: It is damaged.
    """
    plan = get_plan(revision)
    data = load_revision_data(revision)
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
        data.revisions,
        [run_row(run, units) for run in data.proving],
        data.run_count,
        data.good_count,
        data.photograph_count,
        data.jobs,
        data.set_at,
        _describe_earlier_rule(data.proving),
    )


def list_run_views(view: RecordView, page: int = 0) -> RunListView:
    """Return a page of the runs of a revision as text.

    Args:
        view: The revision.
        page: Page of its runs, from 1, limited to the last.
    """
    run_page = list_runs(view.revision, page)
    rows = [run_row(run, view.habit, view.plan, view.revision.bands) for run in run_page.runs]
    return RunListView(rows, run_page.count, run_page.page, run_page.pages)


def list_photographs(revision: Revision) -> list[PhotographView]:
    """Return the photographs of the valid runs of a revision, the newest first.

    Args:
        revision: The revision.
    """
    return [
        PhotographView(photograph.sha256, photograph.file, run)
        for run in list_photographed_runs(revision)
        for photograph in run.document.photographs
    ]


def draw_runs(view: RecordView) -> Drawing | None:
    """Return the chart of the last runs, or None without runs or without a range for the setting.

    Args:
        view: The revision.
    """
    low, high = view.revision.bands.get("machine_a") or view.revision.bands.get(
        "current_a", (None, None)
    )
    runs = list_last_runs(view.revision)
    if low is None or high is None or not runs:
        return None
    points = [RunPoint(run.made_on, run.document.set.current_a, bool(run.good)) for run in runs]
    return draw_run_chart(points, low, high)


def _describe_earlier_rule(proving: Sequence[RunRow]) -> str:
    """Return the rule that a revision passed, if it is an earlier one."""
    earlier = [run for run in proving if run.minor < RULE_FROM]
    return EARLIER_RULE if earlier and len(earlier) == len(proving) else ""


def draw_sheet(view: RecordView) -> Drawing:
    """Return the drawing of the printed sheet, with its figures."""
    return cut_through(view.plan, view.habit, "paper", labels=False)


def draw_section(view: RecordView) -> Drawing:
    """Return the drawing of the joint for the page, with its figures."""
    return cut_through(view.plan, view.habit, "screen", labels=True)


def draw_for_paper(view: RecordView) -> list[tuple[str, Drawing]]:
    """Return every drawing of a record for paper, with its name."""
    return [(name, draw(key, view.plan, view.habit, "paper")) for key, (name, _) in VIEWS.items()]
