"""What the book's runs say together: faults and their cures, own records by family, drift, as pages
and as CSV; what to practise, and what was practised.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Callable, Iterable, Sequence

from msgspec import Struct

from ...core import catalogue
from ...core.catalogue.rows import Drill
from ...core.errors import InputError
from ...core.history.families import format_family
from ...core.history.lessons import LearntRun
from ...core.history.shop_history import OwnRecord
from ...core.history.statistics import Chart, FaultLine, build_chart, count_flaws, list_weak_drills
from ...core.schema import checks
from ...core.schema.figures import format_value
from ...drawings.canvas import Drawing
from ...drawings.runs.control_chart import draw_control_chart
from ...formats.jobs.job_csv import write_table
from ...store import lessons, queries
from ...store.database import open_transaction
from ...store.errors import Missing
from ...store.models import Drilled
from ..inventory.shop import load_shop
from ..procedures.finding import list_record
from ..procedures.procedures import build_token, get_now
from .history import find_history, list_similar_runs, normalise_initials

# so many of the last runs are looked at together
MAX_RUNS_READ = 5000
MAX_SHOWN, MAX_ATTEMPTS = 300, 30
# so many within target one after another, and a drill is done: estimate
DONE_AFTER = 3
MAX_VALUE = 10_000.0
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
    "current_of_bench",
    "pace_of_plan",
    "postflow_of_plan",
    "faults",
    "cause",
    "change",
)


class Drift(Struct, frozen=True):
    """The chart of a machine or a hand, and what it is of."""

    name: str
    chart: Chart
    drawing: Drawing


class RecordView(Struct, frozen=True):
    """What the record says: how many runs were looked at, of them good; faults; families with their
    own records; drift of machines and of the hand at this device; what to practise, and whose runs
    say so, "" for all.
    """

    runs: int
    good: int
    faults: tuple[FaultLine, ...]
    families: tuple[tuple[str, str, str, OwnRecord | None], ...]
    machines: tuple[Drift, ...]
    hand: Drift | None
    weak: tuple[tuple[Drill, int, int], ...]
    weak_of: str


def format_flaw(fault: str) -> str:
    """A fault of the record in words."""
    return catalogue.load_flaws().get(fault, "oxidised root" if fault == "sugar" else fault)


def change_words(code: str) -> str:
    """A change in few words, without its figures."""
    row = catalogue.read_changes().get(code)
    return row.short if row else code


def view(hand: str) -> RecordView:
    """What the record says. Parameters: hand, who stands at this device, whose own drift and
    weaknesses are shown, or "".
    """
    rows = lessons.list_last(MAX_RUNS_READ)
    shop = load_shop()
    found = []
    for family, metals, _ in lessons.list_families():
        own = find_history(family, metals, shop.bench_machine, normalise_initials(hand))
        found.append((family, metals, format_family(family, metals), own))
    mine = [row for row in rows if hand and row.hand == normalise_initials(hand)]
    own_chart = build_chart(mine)
    faults = {key: row.faults for key, row in catalogue.load_drills().items()}
    weak = list_weak_drills(mine or rows, faults)
    return RecordView(
        len(rows),
        sum(row.good for row in rows),
        count_flaws(rows),
        tuple(found),
        tuple(_list_machine_drift(rows)),
        (
            Drift(hand, own_chart, draw_control_chart(own_chart, f"{hand} over time"))
            if own_chart
            else None
        ),
        tuple((catalogue.load_drills()[key], n, of) for key, n, of in weak),
        hand if mine else "",
    )


def _list_machine_drift(rows: Iterable[LearntRun]) -> Iterable[Drift]:
    """The machines in the order of their names: none before another for what it did."""
    by: defaultdict[str, list[LearntRun]] = defaultdict(list)
    for row in rows:
        if row.machine:
            by[row.machine].append(row)
    for name in sorted(by):
        chart = build_chart(by[name][:MAX_SHOWN])
        if chart is not None:
            yield Drift(name, chart, draw_control_chart(chart, f"{name} over time"))


def build_history_view(family: str, metals: str, machine: str, hand: str) -> OwnRecord:
    """The own record of a family, with every run behind it. Raises Missing where no run tells."""
    found = find_history(family, metals, machine, normalise_initials(hand))
    rows = lessons.list_similar(family, metals, 1)
    if found is None and not rows:
        raise Missing("No good run of similar joints has a recorded current.")
    return found or OwnRecord(1.0, 0.0, 0.0, None, None, tuple(list_similar_runs(family, metals)))


def exclude_run(number: int, out: bool, at: Callable[[], str] = get_now) -> None:
    """Leave a run out of the own record, or take it in again. Parameters: number, the run's. Raises
    Missing.
    """
    with open_transaction():
        run = queries.get_any_run(number)
        lessons.set_left_out(run, at() if out else None)
        list_record(run.revision, run=run)


def record_csv() -> str:
    """What every run tells, as CSV: the last five thousand, oldest first; ratios as they are, not
    as logarithms.
    """
    rows = []
    for row in reversed(lessons.list_last(MAX_RUNS_READ)):
        number, _, letter = row.label.partition(" ")
        ratios = [
            "" if value is None else f"{math.exp(value):.4f}"
            for value in (row.told.ratio, row.told.pace, row.told.held)
        ]
        told = (
            row.run,
            number,
            letter,
            row.made_on,
            row.machine,
            row.hand,
            row.told.family,
            row.told.metals,
        )
        counts = (int(row.good), f"{row.told.weight:g}", int(row.left_out))
        rows.append(
            [
                *map(str, (*told, *counts)),
                *ratios,
                " ".join(row.told.faults),
                row.told.cause,
                row.told.change,
            ]
        )
    return write_table(COLUMNS, rows)


class DrillView(Struct, frozen=True):
    """A drill: its row; the last tries of a hand, the newest first; how many of the last were
    within target one after another; whether that is enough.
    """

    drill: Drill
    tries: Sequence[Drilled]
    in_a_row: int

    @property
    def done(self) -> bool:
        """Whether it is done: three within target, one after another."""
        return self.in_a_row >= DONE_AFTER


def build_drill_view(key: str, hand: str) -> DrillView:
    """A drill and its tries. Raises Missing."""
    drill = catalogue.load_drills().get(key)
    if drill is None:
        raise Missing("There is no such drill.")
    tries = lessons.list_attempts(key, normalise_initials(hand), MAX_ATTEMPTS)
    in_a_row = 0
    for one in tries:
        if not one.met:
            break
        in_a_row += 1
    return DrillView(drill, tries, in_a_row)


def format_target(drill: Drill, habit: str) -> str:
    """What a drill is good within, in words."""
    if drill.most is not None:
        return (
            f"at most {format_value(drill.most, drill.quantity, habit)}" if drill.most else "none"
        )
    return f"at least {format_value(drill.least, drill.quantity, habit)}"


def record_attempt(
    key: str, hand: str, value: float, note: str, once: str, at: Callable[[], str] = get_now
) -> Drilled:
    """Take down a try of a drill; it proves nothing and counts for no procedure. Raises InputError,
    Missing.
    """
    drill = build_drill_view(key, hand).drill
    signed = normalise_initials(hand)
    if not signed:
        raise InputError("who", "", "Enter your initials, so that your attempts stay together")
    checks.check_number("value", value, 0, MAX_VALUE)
    checks.check_line("note", note, 300)
    token = build_token(once, [key, signed, value, note])
    with open_transaction():
        done: Drilled | None = Drilled.get_or_none(Drilled.once == token) if token else None
        return done or Drilled.create(
            drill=key,
            hand=signed,
            value=value,
            met=int(drill.met(value)),
            note=note,
            once=token or None,
            at=at(),
        )


def remove_attempt(number: int, back: bool = False, at: Callable[[], str] = get_now) -> None:
    """Take a try back, or bring it back."""
    with open_transaction():
        Drilled.update(removed_at=None if back else at()).where(Drilled.id == number).execute()
