"""Contradictory or ineffective manual answers: each is reported with the nearest correction."""

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
    """Check the manual answers together.

    Common practice.

    Args:
        joint: The joint.
        filler: The filler metal.
        back: The root cover.
        pulse: The pulse.
    """
    return (
        *_check_idle_pins(joint, filler, back, pulse),
        *_check_peak(joint, pulse),
    )


def _check_idle_pins(joint: Joint, filler: Filler, back: Back, pulse: Pulse) -> list[Caution]:
    """Return cautions for manual answers without effect."""
    idle = dict.fromkeys(
        ("rate_pps", "on_pct", "background_pct", "peak_a"),
        "" if pulse.pulsed else "the arc has no pulse",
    )
    idle["rod_diameter_mm"] = "this joint uses no rod" if filler.rod is None else ""
    idle["purge_l_min"] = "the root has no argon feed" if back.purge is None else ""
    idle["tack_pitch_mm"] = "the diameter sets the tacks of a tube" if joint.all_round else ""
    cautions: list[Caution] = []
    for key, why in idle.items():
        if why and key in joint.pins:
            pin, text = PINS[key], "{label} is set manually, but {why}. It has no effect."
            item = Note("pin-idle", pin.answer, text, label=pin.label, why=why)
            cautions.append(WithFix(item, f"Reset {pin.label.lower()}", **{f"pins.{key}": None}))
    return cautions


def _check_peak(joint: Joint, pulse: Pulse) -> list[Caution]:
    background = pulse.background_a
    if "peak_a" not in joint.pins or background is None or background < pulse.peak_a - 0.5:
        return []
    text = (
        "A peak of {p} A is no higher than the minimum background of {b} A. The arc "
        "has no pulse. Raise the peak or reset it."
    )
    item = Care(
        "pins-contradict",
        "pulse",
        text,
        p=amps_without_unit(pulse.peak_a),
        b=amps_without_unit(background),
    )
    return [WithFix(item, "Reset the peak", **_RELEASE_PEAK)]
