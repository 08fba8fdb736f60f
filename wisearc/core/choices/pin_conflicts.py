"""Pins that contradict each other or do nothing: each told, with the nearest thing that mends it."""

from __future__ import annotations

from .. import catalogue
from ..joint import Joint
from ..pins import PINS
from ..reasons import Caution, caution, mended, note
from .back import Back
from .current import Current
from .filler import Filler
from .pulse import Pulse

TOLERANCE = 0.15
COLD_SHARE = 0.65
_RELEASE_PEAK = {"pins.peak_a": None}


def pin_cautions(joint: Joint, filler: Filler, back: Back, current: Current, pulse: Pulse) -> tuple[Caution, ...]:
    """The pins looked at together. Common practice."""
    return (
        *_idle(joint, filler, back, pulse),
        *_mean_against_current(joint, current, pulse),
        *_peak_against_background(joint, pulse),
    )


def _idle(joint: Joint, filler: Filler, back: Back, pulse: Pulse) -> list[Caution]:
    """Pins that no longer touch anything."""
    idle = dict.fromkeys(
        ("rate_pps", "on_pct", "background_pct", "peak_a"), "" if pulse.pulsed else "the arc is not pulsed"
    )
    idle["rod_diameter_mm"] = "no rod is used" if filler.rod is None else ""
    idle["purge_l_min"] = "no argon is fed behind" if back.purge is None else ""
    idle["tack_pitch_mm"] = "tacks round a tube go by its diameter" if joint.all_round else ""
    found = []
    for key, why in idle.items():
        if why and key in joint.pins:
            pin, words = PINS[key], "{label} is set by hand but {why}: it does nothing."
            item = note("pin-idle", pin.answer, words, label=pin.label, why=why)
            found.append(mended(item, f"Release {pin.label.lower()}", **{f"pins.{key}": None}))
    return found


def _mean_against_current(joint: Joint, current: Current, pulse: Pulse) -> list[Caution]:
    if not (pulse.pulsed and "peak_a" in joint.pins and "current_a" in joint.pins):
        return []
    share = pulse.average_a / current.steady_a
    cold = catalogue.pulse_patterns()[pulse.school].has("chills")
    low = COLD_SHARE if cold else 1 - TOLERANCE
    if low <= share <= 1 + TOLERANCE:
        return []
    words = "A peak of {p} A gives a mean of {m} A, which is not the {c} A set by hand: one of them must go."
    figures = {"p": f"{pulse.peak_a:.0f}", "m": f"{pulse.average_a:.0f}", "c": f"{current.steady_a:.0f}"}
    return [mended(caution("pins-contradict", "pulse", words, **figures), "Release the peak", **_RELEASE_PEAK)]


def _peak_against_background(joint: Joint, pulse: Pulse) -> list[Caution]:
    background = pulse.background_a
    if "peak_a" not in joint.pins or background is None or background < pulse.peak_a - 0.5:
        return []
    words = "A peak of {p} A is no higher than the least background of {b} A: there is no pulse left."
    item = caution("pins-contradict", "pulse", words, p=f"{pulse.peak_a:.0f}", b=f"{background:.0f}")
    return [mended(item, "Release the peak", **_RELEASE_PEAK)]
