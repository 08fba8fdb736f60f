"""Pins that contradict each other or do nothing: each told, with the nearest thing that mends
it.
"""

from __future__ import annotations

from ...joint.joint import Joint
from ...quantities import amps_without_unit
from ...reasons import Care, Caution, Note, WithFix
from ..filler_metal.filler import Filler
from ..pins import PINS
from ..shielding.back import Back
from .pulse import Pulse

_RELEASE_PEAK = {"pins.peak_a": None}


def pin_cautions(joint: Joint, filler: Filler, back: Back, pulse: Pulse) -> tuple[Caution, ...]:
    """The pins looked at together. Common practice."""
    return (
        *_idle(joint, filler, back, pulse),
        *_peak_against_background(joint, pulse),
    )


def _idle(joint: Joint, filler: Filler, back: Back, pulse: Pulse) -> list[Caution]:
    """Pins that no longer touch anything."""
    idle = dict.fromkeys(
        ("rate_pps", "on_pct", "background_pct", "peak_a"),
        "" if pulse.pulsed else "the arc is not pulsed",
    )
    idle["rod_diameter_mm"] = "no rod is used" if filler.rod is None else ""
    idle["purge_l_min"] = "no argon is fed behind" if back.purge is None else ""
    idle["tack_pitch_mm"] = "tacks round a tube go by its diameter" if joint.all_round else ""
    found: list[Caution] = []
    for key, why in idle.items():
        if why and key in joint.pins:
            pin, words = PINS[key], "{label} is set by hand but {why}: it does nothing."
            item = Note("pin-idle", pin.answer, words, label=pin.label, why=why)
            found.append(WithFix(item, f"Release {pin.label.lower()}", **{f"pins.{key}": None}))
    return found


def _peak_against_background(joint: Joint, pulse: Pulse) -> list[Caution]:
    background = pulse.background_a
    if "peak_a" not in joint.pins or background is None or background < pulse.peak_a - 0.5:
        return []
    words = (
        "A peak of {p} A is no higher than the least background of {b} A: there is no pulse left."
    )
    item = Care(
        "pins-contradict",
        "pulse",
        words,
        p=amps_without_unit(pulse.peak_a),
        b=amps_without_unit(background),
    )
    return [WithFix(item, "Release the peak", **_RELEASE_PEAK)]
