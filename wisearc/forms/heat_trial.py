"""The settings that a page tries on a field of heat, from the pairs of an address."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct

from ..core.conduction.trial import LIMITS, Trial, find_free_width_mm
from ..core.errors import InputError
from ..core.plan.plan import Plan


class TrialField(Struct, frozen=True):
    """A slider: key, label, unit, limits, step, value, and the word for 0."""

    key: str
    label: str
    unit: str
    low: float
    high: float
    step: float
    value: float
    none: str = ""


def read_trial(pairs: Mapping[str, str]) -> Trial:
    """Return the settings of an address; empty ones keep the plan.

    Args:
        pairs: Keys and texts.

    Raises:
        InputError: A text is not a number, or is outside its limits.
    """
    values: dict[str, float] = {}
    for key, (low, high) in LIMITS.items():
        text = pairs.get(key, "").strip().replace(",", ".")
        if not text:
            continue
        try:
            value = float(text)
        except ValueError:
            raise InputError(key, text, f"must be a number from {low:g} to {high:g}") from None
        if not low <= value <= high:
            raise InputError(key, text, f"must be from {low:g} to {high:g}")
        values[key] = value
    pulsed = pairs.get("pulsed", "")
    return Trial(**values, pulsed={"yes": True, "no": False}.get(pulsed))


def list_trial_fields(plan: Plan, trial: Trial) -> tuple[TrialField, ...]:
    """Return the sliders of a plan, at its settings or those of a trial.

    Args:
        plan: The plan.
        trial: The settings that are tried.
    """
    travel, amps = plan.travel.speed_mm_s, plan.pulse.peak_a
    bar = plan.back.bar_from_seam_mm if plan.back.barred else 0.0
    width = find_free_width_mm(plan)
    return (
        TrialField(
            "travel_mm_s",
            "Travel speed",
            "mm/s",
            round(max(0.3, 0.4 * travel), 1),
            round(2 * travel, 1),
            0.1,
            trial.travel_mm_s or round(travel, 1),
        ),
        TrialField(
            "current_a",
            "Peak" if plan.pulse.pulsed else "Current",
            "A",
            max(5, round(0.5 * amps)),
            round(1.6 * amps),
            1,
            trial.current_a or round(amps),
        ),
        TrialField(
            "bar_from_mm",
            "Bars from the seam",
            "mm",
            0,
            max(20.0, round(bar)),
            1,
            round(bar) if trial.bar_from_mm is None else trial.bar_from_mm,
            "none",
        ),
        TrialField(
            "width_mm",
            "Sheet beside the seam",
            "mm",
            round(max(6.0, plan.travel.pool_width_mm)),
            max(150, round(width)),
            1,
            trial.width_mm or round(width),
        ),
    )
