"""Runs as text: settings, materials, measurements, observations, corrections, travel speed."""

from __future__ import annotations

from functools import partial
from typing import Any

from msgspec import Struct

from ..core import catalogue
from ..core.plan.plan import Plan
from ..core.quantities import format_plain
from ..core.run.inspection import BEAD_SURFACES
from ..core.run.quality import find_observed
from ..core.run.range_check import Judged, judge_ranges
from ..core.run.recorded_repair import RESULTS, RecordedRepair, list_repairable
from ..core.run.run import (
    ARC_FIGURES,
    ENDS,
    RUST_TESTS,
    BackFace,
    Coupon,
    FrontFace,
    Run,
    RunFigure,
    explain_rust_test,
    list_run_figures,
    run_figures,
)
from ..core.run.verification import Bands, find_outside, judge_run
from ..core.schema.figures import format_value
from ..services.purge.purge_run import format_purge as purge_words
from ..services.records import RunRow

_LABELS = {
    "when": "Date",
    "machine": "Machine",
    "notes": "Notes",
    "front": "Face",
    "back": "Root",
    "faults": "Flaws",
    "good": "Recorded as",
}


class RunFigureView(Struct, frozen=True):
    """A figure of a run: label, value, and its corrected values with person and date."""

    label: str
    text: str
    struck: tuple[tuple[str, str], ...] = ()


class RunView(Struct, frozen=True):
    """A run for a page: figures, other corrections, result for each allowed range, and coupon."""

    run: RunRow
    figures: tuple[RunFigureView, ...]
    corrected: tuple[RunFigureView, ...]
    judged: tuple[Judged, ...] = ()
    coupon: tuple[str, ...] = ()
    closer: str = ""

    @property
    def record(self) -> Run:
        """Return the recorded run."""
        return self.run.document


def run_row(
    run: RunRow, units: str, plan: Plan | None = None, bands: Bands | None = None
) -> RunView:
    """Return a run as text.

    Args:
        run: The run.
        units: Unit system.
        plan: The plan for its allowed ranges, or None.
        bands: The allowed ranges, or None.
    """
    before, record, figures = _list_before(run, units), run.document, []
    for figure in list_run_figures():
        value, name = figure.of(record), f"{figure.part}.{figure.key}"
        if value is not None or name in before:
            text = _format_value(value, figure.quantity, units)
            figures.append(RunFigureView(figure.label, text, before.pop(name, ())))
    if travel_speed := record.travel_mm_s:
        figures.append(
            RunFigureView("Travel speed", format_value(round(travel_speed, 2), "speed", units))
        )
    if record.purge:
        figures.append(RunFigureView("Purge", purge_words(record.purge)))
    if record.arc:
        arc_figures = (
            (declared, getattr(record.arc, key)) for key, declared in ARC_FIGURES.items()
        )
        figures += [
            RunFigureView(declared.label, format_value(value, declared.quantity, units))
            for declared, value in arc_figures
            if declared.key != "arc_s" and value not in (None, 0)
        ]
    if record.look:
        figures.append(RunFigureView("Bead", BEAD_SURFACES[record.look]))
    figures += [
        RunFigureView("Repair", describe_repair(repair, units)) for repair in record.repairs
    ]
    corrected = [
        RunFigureView(_label(key), _format_now(record, key, units), struck)
        for key, struck in before.items()
    ]
    ranges = judge_ranges(record, bands or {}, plan) if plan is not None else []
    return RunView(
        run,
        tuple(figures),
        tuple(corrected),
        tuple(ranges),
        tuple(describe_coupon(record.coupon)),
        _describe_inspection(run, plan, units),
    )


class ChangedField(Struct, frozen=True):
    """A field that someone corrected: label, earlier value, present value, person."""

    label: str
    was: str
    now: str
    who: str


def list_corrections_since(run: RunRow, known: int, units: str) -> list[ChangedField]:
    """Return the fields that were corrected after a page was opened.

    Args:
        run: The run.
        known: Number of corrections that the page showed.
        units: Unit system.
    """
    document = run.document
    return [
        ChangedField(
            _label(key),
            _format_value(value, _get_quantity(key), units),
            _format_now(document, key, units),
            str(correction["who"]),
        )
        for correction in run.corrections[max(0, known) :]
        for key, value in correction["was"].items()
    ]


def describe_repair(repair: RecordedRepair, units: str) -> str:
    """Return a recorded repair as text: flaw, result, length, welder and date.

    Args:
        repair: The repair.
        units: Unit system.
    """
    name = list_repairable()[repair.flaw].label
    length = f", {repair.length.text(units)}" if repair.length else ""
    return f"{name}: {RESULTS[repair.result]}{length}, {repair.who} {repair.when}"


def _describe_inspection(run: RunRow, plan: Plan | None, units: str) -> str:
    """Return the inspection of a good run if it found a problem."""
    if plan is None or not run.good or not run.document.seen:
        return ""
    quality = judge_run(find_observed(run.document), plan)
    return quality.reason.text(units) if quality.refuses else ""


def describe_coupon(coupon: Coupon | None) -> list[str]:
    """Return the coupon as text."""
    if coupon is None:
        return []
    text = [f"Coupon{', ' + coupon.label if coupon.label else ''}."]
    text += [
        f"{did}: did not break." if end == "held" else f"{did}: broke {ENDS[end]}."
        for end, did in ((coupon.bend, "Bent"), (coupon.hammer, "Hammered"))
        if end
    ]
    if rust := coupon.rust:
        text.append(
            f"Rust test, {RUST_TESTS[rust.test]}, {format_plain(rust.minutes, 1)} min: "
            f"{'rust spots' if rust.shows else 'no rust'}."
        )
        text += [note] if (note := explain_rust_test(rust)) else []
    return text


def _list_before(run: RunRow, units: str) -> dict[str, tuple[tuple[str, str], ...]]:
    """Return the values before each correction by key, with person and date."""
    values: dict[str, tuple[tuple[str, str], ...]] = {}
    for correction in run.corrections:
        for key, value in correction["was"].items():
            values[key] = (
                *values.get(key, ()),
                (
                    _format_value(value, _get_quantity(key), units),
                    f"{correction['who']} {correction['when'][:10]}",
                ),
            )
    return values


def _find_figure(key: str) -> RunFigure | None:
    part, _, name = key.partition(".")
    return run_figures().get(part, {}).get(name)


def _get_quantity(key: str) -> str:
    figure = _find_figure(key)
    return figure.quantity if figure else "word"


def _label(key: str) -> str:
    figure = _find_figure(key)
    return figure.label if figure else _LABELS.get(key, key)


def _format_now(record: Run, key: str, units: str) -> str:
    figure = _find_figure(key)
    value = figure.of(record) if figure else getattr(record, key)
    colour = value.colour if isinstance(value, FrontFace | BackFace) else value
    return _format_value(colour, _get_quantity(key), units)


def _format_value(value: Any, quantity: str, units: str) -> str:
    if isinstance(value, bool):
        return "good" if value else "not good"
    if value is None or value in ("", [], ()):
        return "nothing"
    if isinstance(value, list | tuple):
        return ", ".join(catalogue.load_flaws().get(str(item), str(item)) for item in value)
    if isinstance(value, str):
        return value.replace("-", " ") if quantity == "word" and value.islower() else value
    return format_plain(value, 3) if quantity == "plain" else format_value(value, quantity, units)


class MeasuredRow(Struct, frozen=True):
    """A measurement of a run: label, value, planned value or "", and whether they differ."""

    label: str
    text: str
    planned: str = ""
    differs: bool = False


def list_measured(run: Run, plan: Plan, units: str) -> list[MeasuredRow]:
    """Return what was measured in a run, as the first evidence of an inspection.

    Purge before the arc, gas held, travel speed, restarts. Only what was measured has a row.

    Args:
        run: The run.
        plan: Its plan.
        units: Unit system.
    """
    show = partial(format_value, units=units)
    rows: list[MeasuredRow] = []
    if run.purge is not None:
        planned_s = plan.back.purge.before_s if plan.back.purge is not None else None
        rows.append(
            MeasuredRow(
                "Purge before the arc",
                show(run.purge.before_s, "duration"),
                "" if planned_s is None else show(planned_s, "duration"),
                not run.purge.held,
            )
        )
    arc = run.arc
    held_s = None if arc is None else arc.held_s or arc.postflow_s
    if held_s is not None:
        wanted_s = plan.gas.postflow_s
        rows.append(
            MeasuredRow(
                "Gas held", show(held_s, "seconds"), show(wanted_s, "seconds"), held_s < wanted_s
            )
        )
    speed = run.travel_mm_s
    if speed is not None:
        planned_speed = show(plan.travel.speed_mm_s, "speed")
        is_outside = "travel_mm_s" in {deviation.key for deviation in find_outside(run, {}, plan)}
        rows.append(MeasuredRow("Travel speed", show(speed, "speed"), planned_speed, is_outside))
    if arc is not None and arc.restarts is not None:
        rows.append(MeasuredRow("Restarts", f"{arc.restarts:.0f}", "", arc.restarts > 0))
    return rows
