"""Settings that are tried on a seam, and the checks that need no calculation."""

from __future__ import annotations

from msgspec import Struct

from ..errors import InputError
from ..physics.distortion import estimate_free_width_mm
from ..plan.arc.plan_field import get_part_mass_g
from ..plan.plan import Plan

FULL_GRID_MM, PREVIEW_GRID_MM = 0.5, 1.0
MIN_GRID_MM, MAX_GRID_MM = 0.25, 2.0
# A longer seam repeats itself: its start, its steady part and its end are calculated.
MAX_SEAM_MM = 500.0
PREVIEW_SEAM_MM, PREVIEW_AFTER_S, PREVIEW_FRAMES = 120.0, 60.0, 45


class Trial(Struct, frozen=True):
    """Settings to be tried instead of those of the plan; None keeps the plan.

    Peak or unpulsed current A, frequency 1/s, peak time and background %, travel speed mm/s, bars
    (from the seam mm, 0: none), sheet beside the seam mm, and temperature of the part at the start
    °C. `pulsed` False takes the pulse away.
    """

    current_a: float | None = None
    pulsed: bool | None = None
    rate_pps: float | None = None
    on_pct: float | None = None
    background_pct: float | None = None
    travel_mm_s: float | None = None
    bar_from_mm: float | None = None
    width_mm: float | None = None
    start_c: float | None = None


NO_TRIAL = Trial()
LIMITS = {
    "current_a": (3.0, 400.0),
    "rate_pps": (0.3, 500.0),
    "on_pct": (5.0, 95.0),
    "background_pct": (1.0, 95.0),
    "travel_mm_s": (0.2, 20.0),
    "bar_from_mm": (0.0, 60.0),
    "width_mm": (5.0, 500.0),
    "start_c": (0.0, 800.0),
}


def check_trial(trial: Trial) -> None:
    """Check the settings of a trial against their limits.

    Raises:
        InputError: A value is outside its limits.
    """
    for key, (low, high) in LIMITS.items():
        value = getattr(trial, key)
        if value is not None and not low <= value <= high:
            raise InputError(key, f"{value:g}", f"must be from {low:g} to {high:g}")


def find_free_width_mm(plan: Plan, trial: Trial = NO_TRIAL) -> float:
    """Return the width of the sheet on each side of the seam, mm.

    As tried, from the mass of the part, or by an estimate from the length of the seam.

    Args:
        plan: The plan.
        trial: Settings to be tried.

    References:
        Estimate "free-width".
    """
    if trial.width_mm is not None:
        return trial.width_mm
    mass, section = get_part_mass_g(plan.joint), plan.section
    if mass is not None:
        # A cold sheet of 7.9 g/cm³, spread over all arms.
        return max(1.0, mass / (7.9e-3 * section.length_mm * 2 * section.h_mm))
    return estimate_free_width_mm(section.length_mm)


def find_bar_mm(plan: Plan, trial: Trial = NO_TRIAL) -> float | None:
    """Return where the bars start, mm from the seam, or None without bars.

    Args:
        plan: The plan.
        trial: Settings to be tried.
    """
    if trial.bar_from_mm is not None:
        return trial.bar_from_mm or None
    return plan.back.bar_from_seam_mm if plan.back.barred else None


def check_seam(plan: Plan, trial: Trial, grid_mm: float) -> None:
    """Check that a seam can be calculated.

    Args:
        plan: The plan.
        trial: Settings to be tried.
        grid_mm: The finest grid, mm.

    Raises:
        InputError: A part smaller than the pool, bars wider than the sheet, or a value outside its
            limits.
    """
    check_trial(trial)
    if not MIN_GRID_MM <= grid_mm <= MAX_GRID_MM:
        raise InputError(
            "grid_mm", f"{grid_mm:g}", f"must be from {MIN_GRID_MM:g} to {MAX_GRID_MM:g}"
        )
    pool, width = plan.travel.pool_width_mm, find_free_width_mm(plan, trial)
    length = plan.section.length_mm
    if width < pool / 2 or length < pool:
        narrow = width < pool / 2
        raise InputError(
            "width_mm" if narrow else "length",
            f"{width if narrow else length:g} mm",
            f"is smaller than the pool of {pool:.1f} mm. The part would melt away. Enter a larger "
            "part",
        )
    bar = find_bar_mm(plan, trial)
    if bar is not None and bar >= width:
        raise InputError(
            "bar_from_mm",
            f"{bar:g} mm",
            f"is outside the sheet, which is {width:g} mm wide. Move the bars closer, or enter a "
            "wider sheet",
        )
