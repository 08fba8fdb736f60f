"""Runs in words: what was set, used, measured and seen, what was corrected of it, how fast it
went.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ..core.plan.plan import Plan
from ..core.quantities import plain
from ..core.run.arc_record import ARC_FIGURES, ENDS, LOOKS, RUST_TESTS, rust_note
from ..core.run.quality import observed
from ..core.run.range_check import Judged, judged
from ..core.run.record import FAULTS, PARTS, travel_mm_s
from ..core.run.verification import Bands, quality_of
from ..core.schema.figures import in_words
from ..services.purge.purge_run import in_words as purge_words
from ..services.records import Run

_WORDS = {
    "when": "Date",
    "machine": "Machine",
    "notes": "Notes",
    "front": "Front",
    "back": "Back",
    "faults": "Faults",
    "good": "Recorded as",
}


@dataclass(frozen=True)
class Told:
    """A figure of a run: its label, how it reads, and what it read before it was corrected, with
    who and when.
    """

    label: str
    text: str
    struck: tuple[tuple[str, str], ...] = ()


@dataclass(frozen=True)
class RunRow:
    """A run as a page shows it: its figures; what was corrected besides; each band that it was held
    within; what it showed as a coupon.
    """

    run: Run
    figures: tuple[Told, ...]
    corrected: tuple[Told, ...]
    judged: tuple[Judged, ...] = ()
    coupon: tuple[str, ...] = ()
    closer: str = ""

    @property
    def record(self) -> dict[str, Any]:
        """What was written down."""
        found: dict[str, Any] = self.run.record
        return found


def run_row(run: Run, habit: str, plan: Plan | None = None, bands: Bands | None = None) -> RunRow:
    """A run in words, in a unit habit. Parameters: plan and bands, to judge it by."""
    before = _before(run, habit)
    figures = []
    for part, known in PARTS.items():
        written = run.record.get(part) or {}
        for key in (*known, *(k for k in written if k not in known)):
            value, name = written.get(key), f"{part}.{key}"
            if value is None and name not in before:
                continue
            label, quantity = (
                (known[key].says.label, known[key].quantity) if key in known else (key, "plain")
            )
            figures.append(Told(label, _text(value, quantity, habit), before.pop(name, ())))
    if pace := travel_mm_s(run.record):
        figures.append(Told("Travel", in_words(round(pace, 2), "speed", habit)))
    if run.record.get("purge"):
        figures.append(Told("Purge", purge_words(run.record["purge"])))
    arc = run.record.get("arc") or {}
    shown = [
        (ARC_FIGURES[k], v)
        for k, v in arc.items()
        if k in ARC_FIGURES and k != "arc_s" and v not in (None, 0)
    ]
    figures += [
        Told(figure.label, in_words(value, figure.quantity, habit)) for figure, value in shown
    ]
    if run.record.get("look"):
        figures.append(Told("Bead", LOOKS.get(run.record["look"], run.record["look"])))
    corrected = [
        Told(_label(key), _now(run.record, key, habit), struck) for key, struck in before.items()
    ]
    found = judged(run.record, bands or {}, plan) if plan is not None else []
    return RunRow(
        run,
        tuple(figures),
        tuple(corrected),
        tuple(found),
        tuple(coupon_words(run.record.get("coupon"))),
        _closer(run, plan, habit),
    )


def _closer(run: Run, plan: Plan | None, habit: str) -> str:
    """What a closer look found of a run that was recorded as good, where it is not good."""
    if plan is None or not run.good or not run.record.get("seen"):
        return ""
    quality = quality_of(observed(run.record), plan)
    return quality.reason.text(habit) if quality.refuses else ""


def coupon_words(coupon: Mapping[str, Any] | None) -> list[str]:
    """What a coupon showed, in words."""
    if not coupon:
        return []
    words = [f"Coupon{', ' + coupon['label'] if coupon.get('label') else ''}."]
    words += [
        (
            f"{did}: gave way {ENDS[coupon[key]]}."
            if coupon[key] != "held"
            else f"{did}: did not give way."
        )
        for key, did in (("bend", "Bent"), ("hammer", "Hammered"))
        if coupon.get(key)
    ]
    if rust := coupon.get("rust"):
        words.append(
            f"Rust test, {RUST_TESTS[rust['test']]}, {plain(rust['minutes'], 1)} min:"
            f" {'rust shows' if rust['shows'] else 'nothing shows'}."
        )
        words += [note] if (note := rust_note(rust)) else []
    return words


def _before(run: Run, habit: str) -> dict[str, tuple[tuple[str, str], ...]]:
    """What a run read before each correction, by key: the words, and who struck them out when."""
    found: dict[str, tuple[tuple[str, str], ...]] = {}
    for made in run.corrections:
        for key, value in made["was"].items():
            found[key] = (
                *found.get(key, ()),
                (_text(value, _quantity(key), habit), f"{made['who']} {made['when'][:10]}"),
            )
    return found


def _quantity(key: str) -> str:
    part, _, name = key.partition(".")
    return PARTS[part][name].quantity if part in PARTS and name in PARTS[part] else "word"


def _label(key: str) -> str:
    part, _, name = key.partition(".")
    return (
        PARTS[part][name].says.label
        if part in PARTS and name in PARTS[part]
        else _WORDS.get(key, key)
    )


def _now(record: Mapping[str, Any], key: str, habit: str) -> str:
    part, _, name = key.partition(".")
    value = (record.get(part) or {}).get(name) if name else record.get(key)
    return _text(value["colour"] if isinstance(value, dict) else value, _quantity(key), habit)


def _text(value: Any, quantity: str, habit: str) -> str:
    if isinstance(value, bool):
        return "good" if value else "not good"
    if value is None or value in ("", []):
        return "nothing"
    if isinstance(value, list):
        return ", ".join(FAULTS.get(str(one), str(one)) for one in value)
    if isinstance(value, str):
        return value.replace("-", " ") if quantity == "word" and value.islower() else value
    return plain(value, 3) if quantity == "plain" else in_words(value, quantity, habit)
