"""Pins that contradict each other or do nothing: each told, with the nearest thing that mends it."""

from __future__ import annotations

from dataclasses import dataclass

from ..pins import PINS
from ..reasons import Caution, Choice, Reason, caution, mended, note, practice
from .back import Back
from .current import Current
from .filler import Filler
from .pulse import Pulse
from .so_far import SoFar

_PULSE_PINS = ("rate_pps", "on_pct", "background_pct", "peak_a")
TOLERANCE = 0.15


@dataclass(frozen=True, kw_only=True)
class PinConflicts(Choice):
    """Nothing of its own: the cautions of the pins taken together."""


def choose(so_far: SoFar) -> PinConflicts:
    """Look at the pins together. Common practice."""
    return PinConflicts(
        cautions=(*_idle(so_far), *_mean_against_current(so_far), *_peak_against_background(so_far)), why=_why()
    )


def _why() -> tuple[Reason, ...]:
    return (practice("Answers set by hand stay; the rest follows them."),)


def _idle(so_far: SoFar) -> list[Caution]:
    """Pins that no longer touch anything."""
    idle: list[tuple[str, str]] = []
    if not so_far.get(Pulse).pulsed:
        idle += [(p, "the arc is not pulsed") for p in _PULSE_PINS if p in so_far.joint.pins]
    if so_far.get(Filler).rod is None and "rod_diameter_mm" in so_far.joint.pins:
        idle.append(("rod_diameter_mm", "no rod is used"))
    if so_far.get(Back).purge is None and "purge_l_min" in so_far.joint.pins:
        idle.append(("purge_l_min", "no argon is fed behind"))
    if so_far.joint.all_round and "tack_pitch_mm" in so_far.joint.pins:
        idle.append(("tack_pitch_mm", "tacks round a tube go by its diameter"))
    return [
        mended(
            note(
                "pin-idle",
                PINS[name].answer,
                "{label} is set by hand but {why}: it does nothing.",
                label=PINS[name].label,
                why=why,
            ),
            f"Release {PINS[name].label.lower()}",
            **{f"pins__{name}": None},
        )
        for name, why in idle
    ]


def _mean_against_current(so_far: SoFar) -> list[Caution]:
    pins, pulse, current = so_far.joint.pins, so_far.get(Pulse), so_far.get(Current)
    if not (pulse.pulsed and "peak_a" in pins and "current_a" in pins):
        return []
    free = so_far.joint.pin("current_a")
    share = pulse.average_a / free
    low, high = (0.65, 1 + TOLERANCE) if so_far.joint.pulse in ("slow-cold", "auto") else (1 - TOLERANCE, 1 + TOLERANCE)
    if low <= share <= high:
        return []
    item = caution(
        "pins-contradict",
        "pulse",
        "A peak of {p} A gives a mean of {m} A, which is not the {c} A set by hand: one of them must go.",
        p=f"{pulse.peak_a:.0f}",
        m=f"{pulse.average_a:.0f}",
        c=f"{current.steady_a:.0f}",
    )
    return [mended(item, "Release the peak", pins__peak_a=None)]


def _peak_against_background(so_far: SoFar) -> list[Caution]:
    pins, pulse = so_far.joint.pins, so_far.get(Pulse)
    if "peak_a" not in pins or pulse.background_a is None or pulse.background_a < pulse.peak_a - 0.5:
        return []
    item = caution(
        "pins-contradict",
        "pulse",
        "A peak of {p} A is no higher than the least background of {b} A: there is no pulse left.",
        p=f"{pulse.peak_a:.0f}",
        b=f"{pulse.background_a:.0f}",
    )
    return [mended(item, "Release the peak", pins__peak_a=None)]
