"""Statistics of the library.

Flaws and effective changes, history by family, drift, as pages and CSV.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Callable, Iterable
from functools import lru_cache

from msgspec import Struct

from ...core import catalogue
from ...core.catalogue.teaching import Drill
from ...core.history.families import format_family
from ...core.history.lessons import LearntRun
from ...core.history.shop_history import OwnRecord
from ...core.history.statistics import Chart, FaultLine, build_chart, count_flaws, list_weak_drills
from ...drawings.canvas import Drawing
from ...drawings.runs.control_chart import draw_control_chart
from ...formats.jobs.job_csv import write_table
from ...store import lessons, queries
from ...store.database import open_transaction
from ...store.errors import Missing
from ..clock import get_now
from ..inventory.shop import load_shop
from ..procedures.library_search import list_record
from .history import find_history, list_similar_runs, normalise_initials

# The number of last runs in the statistics.
MAX_RUNS_READ = 5000
MAX_LISTED_RUNS = 300
COLUMNS = (
    "run",
    "procedure",
    "revision",
    "made_on",
    "machine",
    "hand",
    "joints",
    "metals",
    "good",
    "counts",
    "left_out",
    "current_unknown",
    "current_of_bench",
    "pace_of_plan",
    "postflow_of_plan",
    "faults",
    "cause",
    "change",
)


class Drift(Struct, frozen=True):
    """The chart of a machine or a welder, with its subject."""

    name: str
    chart: Chart
    drawing: Drawing


class RecordView(Struct, frozen=True):
    """The statistics.

    Number of runs and of good runs, flaws, families with their history, drift of machines and of
    the present welder, drills with their reason ("": all runs).
    """

    runs: int
    good: int
    faults: tuple[FaultLine, ...]
    families: tuple[tuple[str, str, str, OwnRecord | None], ...]
    machines: tuple[Drift, ...]
    hand: Drift | None
    weak: tuple[tuple[Drill, int, int], ...]
    weak_window: str


def format_flaw(fault: str) -> str:
    """Return the name of a flaw."""
    return catalogue.load_flaws().get(fault, "oxidised root" if fault == "sugar" else fault)


def describe_change(code: str) -> str:
    """Return the short text of a change, without figures."""
    row = catalogue.read_changes().get(code)
    return row.short if row else code


def view(welder: str, units: str = "mm") -> RecordView:
    """Return the statistics.

    Args:
        welder: Initials of the person at this device, whose drift and weaknesses are shown, or "".
        units: Unit system of the names of families.
    """
    return _calculate(lessons.get_version(), welder, load_shop().bench_machine, units)


@lru_cache(maxsize=8)
def _calculate(version: int, welder: str, machine: str, units: str) -> RecordView:
    """Return the statistics of a state of the history.

    Args:
        version: Mark of the state, for the cache.
        welder: Initials of the welder, or "".
        machine: Machine of the bench.
        units: Unit system.
    """
    rows = lessons.list_last(MAX_RUNS_READ)
    row_views = []
    for family, metals, _ in lessons.list_families():
        history = find_history(family, metals, machine, normalise_initials(welder))
        row_views.append((family, metals, format_family(family, metals, units), history))
    mine = [row for row in rows if welder and row.hand == normalise_initials(welder)]
    own_chart = build_chart(mine)
    faults = {key: row.faults for key, row in catalogue.load_drills().items()}
    weak = list_weak_drills(mine or rows, faults)
    return RecordView(
        len(rows),
        sum(row.good for row in rows),
        count_flaws(rows),
        tuple(row_views),
        tuple(_list_machine_drift(rows)),
        (
            Drift(welder, own_chart, draw_control_chart(own_chart, f"{welder} over time"))
            if own_chart
            else None
        ),
        tuple((catalogue.load_drills()[key], n, of) for key, n, of in weak),
        welder if mine else "",
    )


def _list_machine_drift(rows: Iterable[LearntRun]) -> Iterable[Drift]:
    """Return the charts of the machines in alphabetical order."""
    by: defaultdict[str, list[LearntRun]] = defaultdict(list)
    for row in rows:
        if row.machine:
            by[row.machine].append(row)
    for name in sorted(by):
        chart = build_chart(by[name][:MAX_LISTED_RUNS])
        if chart is not None:
            yield Drift(name, chart, draw_control_chart(chart, f"{name} over time"))


def build_history_view(family: str, metals: str, machine: str, welder: str) -> OwnRecord:
    """Return the history of a family with every run behind it.

    Args:
        family: Joint family.
        metals: Metal family.
        machine: Machine.
        welder: Initials of the welder.

    Raises:
        Missing: The family has no runs.
    """
    history = find_history(family, metals, machine, normalise_initials(welder))
    rows = lessons.list_similar(family, metals, 1)
    if history is None and not rows:
        raise Missing("No good run of similar joints has a recorded current.")
    return history or OwnRecord(1.0, 0.0, 0.0, None, None, tuple(list_similar_runs(family, metals)))


def exclude_run(number: int, out: bool, at: Callable[[], str] = get_now) -> None:
    """Exclude a run from the shop history, or include it again.

    Args:
        number: Number of the run.
        out: Whether to exclude it.
        at: Current time, UTC.

    Raises:
        Missing: The run does not exist.
    """
    with open_transaction():
        run = queries.get_any_run(number)
        lessons.set_left_out(run, at() if out else None)
        list_record(run.revision, run=run)


def confirm_current(number: int, confirmed: bool, at: Callable[[], str] = get_now) -> None:
    """Record whether the set current of a run was read off while welding.

    Args:
        number: Number of the run.
        confirmed: Whether it was.
        at: Current time, UTC.

    Raises:
        Missing: The run does not exist.
    """
    with open_transaction():
        run = queries.get_any_run(number)
        lessons.set_read_off(run, at() if confirmed else None)
        list_record(run.revision, run=run)


def record_csv() -> str:
    """Return the history rows as CSV: the last five thousand, oldest first, with plain ratios."""
    rows = []
    for row in reversed(lessons.list_last(MAX_RUNS_READ)):
        number, _, letter = row.label.partition(" ")
        ratios = [
            "" if value is None else f"{math.exp(value):.4f}"
            for value in (row.told.ratio, row.told.pace, row.told.held)
        ]
        fields = (
            row.run,
            number,
            letter,
            row.made_on,
            row.machine,
            row.hand,
            row.told.family,
            row.told.metals,
        )
        counts = (int(row.good), f"{row.told.weight:g}", int(row.left_out), int(row.told.unknown))
        rows.append(
            [
                *map(str, (*fields, *counts)),
                *ratios,
                " ".join(row.told.faults),
                row.told.cause,
                row.told.change,
            ]
        )
    return write_table(COLUMNS, rows)
