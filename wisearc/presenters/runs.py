"""Runs in words: what was set, used, measured and seen, what was corrected of it, how fast it
went.
"""

from __future__ import annotations

from typing import Any

from msgspec import Struct

from ..core import catalogue
from ..core.plan.plan import Plan
from ..core.quantities import format_plain
from ..core.run.inspection import LOOKS
from ..core.run.quality import find_observed
from ..core.run.range_check import Judged, judge_ranges
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
from ..core.run.verification import Bands, judge_run
from ..core.schema.figures import format_value
from ..services.purge.purge_run import format_purge as purge_words
from ..services.records import RunRow

_WORDS = {
    "when": "Date",
    "machine": "Machine",
    "notes": "Notes",
    "front": "Face",
    "back": "Root",
    "faults": "Flaws",
    "good": "Recorded as",
}


class Told(Struct, frozen=True):
    """A figure of a run: its label, how it reads, and what it read before it was corrected, with
    who and when.
    """

    label: str
    text: str
    struck: tuple[tuple[str, str], ...] = ()


class RunView(Struct, frozen=True):
    """A run as a page shows it: its figures; what was corrected besides; each band that it was held
    within; what it showed as a coupon.
    """

    run: RunRow
    figures: tuple[Told, ...]
    corrected: tuple[Told, ...]
    judged: tuple[Judged, ...] = ()
    coupon: tuple[str, ...] = ()
    closer: str = ""

    @property
    def record(self) -> Run:
        """What was written down."""
        return self.run.document


def run_row(
    run: RunRow, habit: str, plan: Plan | None = None, bands: Bands | None = None
) -> RunView:
    """A run in words, in a unit habit. Parameters: plan and bands, to judge it by."""
    before, record, figures = _list_before(run, habit), run.document, []
    for figure in list_run_figures():
        value, name = figure.of(record), f"{figure.part}.{figure.key}"
        if value is not None or name in before:
            words = _format_value(value, figure.quantity, habit)
            figures.append(Told(figure.label, words, before.pop(name, ())))
    if pace := record.travel_mm_s:
        figures.append(Told("Travel speed", format_value(round(pace, 2), "speed", habit)))
    if record.purge:
        figures.append(Told("Purge", purge_words(record.purge)))
    if record.arc:
        told = ((declared, getattr(record.arc, key)) for key, declared in ARC_FIGURES.items())
        figures += [
            Told(declared.label, format_value(value, declared.quantity, habit))
            for declared, value in told
            if declared.key != "arc_s" and value not in (None, 0)
        ]
    if record.look:
        figures.append(Told("Bead", LOOKS[record.look]))
    corrected = [
        Told(_label(key), _format_now(record, key, habit), struck) for key, struck in before.items()
    ]
    found = judge_ranges(record, bands or {}, plan) if plan is not None else []
    return RunView(
        run,
        tuple(figures),
        tuple(corrected),
        tuple(found),
        tuple(describe_coupon(record.coupon)),
        _describe_closer_look(run, plan, habit),
    )


def _describe_closer_look(run: RunRow, plan: Plan | None, habit: str) -> str:
    """What a closer look found of a run that was recorded as good, where it is not good."""
    if plan is None or not run.good or not run.document.seen:
        return ""
    quality = judge_run(find_observed(run.document), plan)
    return quality.reason.text(habit) if quality.refuses else ""


def describe_coupon(coupon: Coupon | None) -> list[str]:
    """What a coupon showed, in words."""
    if coupon is None:
        return []
    words = [f"Coupon{', ' + coupon.label if coupon.label else ''}."]
    words += [
        f"{did}: did not break." if end == "held" else f"{did}: broke {ENDS[end]}."
        for end, did in ((coupon.bend, "Bent"), (coupon.hammer, "Hammered"))
        if end
    ]
    if rust := coupon.rust:
        words.append(
            f"Rust test, {RUST_TESTS[rust.test]}, {format_plain(rust.minutes, 1)} min: "
            f"{'rust spots' if rust.shows else 'no rust'}."
        )
        words += [note] if (note := explain_rust_test(rust)) else []
    return words


def _list_before(run: RunRow, habit: str) -> dict[str, tuple[tuple[str, str], ...]]:
    """What a run read before each correction, by key: the words, and who struck them out when."""
    found: dict[str, tuple[tuple[str, str], ...]] = {}
    for made in run.corrections:
        for key, value in made["was"].items():
            found[key] = (
                *found.get(key, ()),
                (
                    _format_value(value, _get_quantity(key), habit),
                    f"{made['who']} {made['when'][:10]}",
                ),
            )
    return found


def _find_figure(key: str) -> RunFigure | None:
    part, _, name = key.partition(".")
    return run_figures().get(part, {}).get(name)


def _get_quantity(key: str) -> str:
    figure = _find_figure(key)
    return figure.quantity if figure else "word"


def _label(key: str) -> str:
    figure = _find_figure(key)
    return figure.label if figure else _WORDS.get(key, key)


def _format_now(record: Run, key: str, habit: str) -> str:
    figure = _find_figure(key)
    value = figure.of(record) if figure else getattr(record, key)
    colour = value.colour if isinstance(value, FrontFace | BackFace) else value
    return _format_value(colour, _get_quantity(key), habit)


def _format_value(value: Any, quantity: str, habit: str) -> str:
    if isinstance(value, bool):
        return "good" if value else "not good"
    if value is None or value in ("", [], ()):
        return "nothing"
    if isinstance(value, list | tuple):
        return ", ".join(catalogue.load_flaws().get(str(one), str(one)) for one in value)
    if isinstance(value, str):
        return value.replace("-", " ") if quantity == "word" and value.islower() else value
    return format_plain(value, 3) if quantity == "plain" else format_value(value, quantity, habit)
