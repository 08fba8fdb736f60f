"""The rhythm of a pulse: its frequency, the travel speed for its ripples, its peak and its heat."""

from __future__ import annotations

from msgspec import Struct

from ...catalogue.rows import PulsePattern
from ...joint.joint import Joint
from ...physics.heat import ARC_VOLTAGE_V, heat_input_kj_mm
from ...physics.pulse_train import (
    travel_for_overlap_mm_s,
)
from ...reasons import (
    Alternative,
    Caution,
    Reason,
    Substitution,
)
from ...shop.bench import Bench
from .need import CurrentModel

OVERLAP_PCT, CLOSE_OVERLAP_PCT, MIN_OVERLAP_PCT = 35.0, 50.0, 25.0
MIN_RATE_PPS, MAX_RATE_PPS = 1.0, 2.0
# The dabs of a foot or a hand in a second: common practice.
FOOT_RATES_PPS = (0.7, 1.2)
MIN_BACKGROUND_A = 5.0


class Pattern(Struct, frozen=True):
    """The pattern.

    Frequency 1/s, travel speed mm/s, pool mm and target overlap %, whether the travel speed was
    reduced, and the reasons and cautions for travel and pulse.
    """

    row: PulsePattern
    rate_pps: float | None
    speed_mm_s: float
    ripple_mm: float | None = None
    lap_pct: float = OVERLAP_PCT
    slowed: bool = False
    swaps: tuple[Substitution, ...] = ()
    why: tuple[Reason, ...] = ()
    others: tuple[Alternative, ...] = ()
    cautions: tuple[Caution, ...] = ()

    @property
    def rippled(self) -> bool:
        """Return whether the travel speed follows the ripple."""
        return self.row.has("rippled")


def match_travel_speed(
    joint: Joint, bench: Bench, need: CurrentModel, row: PulsePattern
) -> Pattern:
    """Return a pattern with frequency and travel speed.

    A ripple keeps the base travel speed, which gives its frequency, 1 to 2 a second.

    Args:
        joint: The joint.
        bench: The bench.
        need: The current model.
        row: The pattern of the catalogue.
    """
    travel_speed = need.speed_mm_s if joint.travel_mm_s is None else joint.travel_mm_s
    rate: float | None = joint.pins.get("rate_pps", row.rate_pps) if row.rate_pps else None
    lap = OVERLAP_PCT if joint.overlap_pct is None else joint.overlap_pct
    if not (row.has("rippled") or row.has("by_foot")) or rate is None:
        return Pattern(row, rate, travel_speed, lap_pct=lap)
    pool = _pool_length_mm(joint, need, row, travel_speed)
    matched_pps = travel_speed / (pool * (1 - lap / 100))
    low, high = (
        FOOT_RATES_PPS
        if row.has("by_foot")
        else (max(MIN_RATE_PPS, find_min_pps(bench)), min(MAX_RATE_PPS, find_max_pps(bench)))
    )
    rate = joint.pins.get("rate_pps", min(high, max(low, matched_pps)))
    slowed = rate < matched_pps - 1e-9 and joint.travel_mm_s is None
    if slowed:
        travel_speed = _find_ripple_speed_mm_s(joint, need, row, rate, lap)
        pool = _pool_length_mm(joint, need, row, travel_speed)
    return Pattern(row, rate, travel_speed, pool, lap, slowed)


def _pool_length_mm(
    joint: Joint, need: CurrentModel, row: PulsePattern, travel_mm_s: float
) -> float:
    """Return the pool length at the end of the peak, mm, with a manual peak if there is one."""
    peak = joint.pins.get("peak_a", None)
    if peak is None:
        return need.pool_after_peak_mm()
    on = joint.pins.get("on_pct", row.on_pct or 100.0) / 100
    background = joint.pins.get("background_pct", row.background_pct or 0.0) / 100
    needed = calculate_mean_share(row, background) * need.steady_a(travel_mm_s)
    return need.pool_after_peak_mm(peak * (on + background * (1 - on)) / needed)


def _find_ripple_speed_mm_s(
    joint: Joint, need: CurrentModel, row: PulsePattern, rate: float, lap: float
) -> float:
    """Return the travel speed at which a frequency in 1/s gives an overlap in %, by bisection.

    The pool belongs to the current at that speed.
    """
    low, high = 0.05, 20.0
    for _ in range(40):
        v = (low + high) / 2
        if v > travel_for_overlap_mm_s(rate, _pool_length_mm(joint, need, row, v), lap):
            high = v
        else:
            low = v
    return low


def find_min_pps(bench: Bench) -> float:
    """Return the lowest pulse frequency of the machine, 1/s, or 0 without a pulse.

    Args:
        bench: The bench.
    """
    return bench.machine.pulse.least_pps if bench.machine.pulse else 0.0


def find_max_pps(bench: Bench) -> float:
    """Return the highest pulse frequency of the machine, 1/s, or that of ripples without a pulse.

    Args:
        bench: The bench.
    """
    return bench.machine.pulse.most_pps if bench.machine.pulse else MAX_RATE_PPS


def find_peak_a(joint: Joint, need: CurrentModel, pattern: Pattern) -> float:
    """Return the peak of a pattern at its travel speed, A, including a manual current.

    Args:
        joint: The joint.
        need: The current model.
        pattern: The pattern.
    """
    row = pattern.row
    steady: float = joint.pins.get("current_a", need.steady_a(pattern.speed_mm_s))
    if row.on_pct is None or row.background_pct is None:
        return 0.0
    on, background = row.on_pct / 100, row.background_pct / 100
    return (
        steady / (on + background * (1 - on))
        if row.peak_rule == "mean"
        else steady * (row.peak_factor or 1.0)
    )


def calculate_heat_share(joint: Joint, bench: Bench, need: CurrentModel, pattern: Pattern) -> float:
    """Return the heat input of a pattern relative to a steady arc.

    Both use the base or the manual travel speed. A manual peak is compared with the unpulsed
    current that fuses the same.

    Args:
        joint: The joint.
        bench: The bench.
        need: The current model.
        pattern: The pattern.

    References:
        Common practice for the mean of each pattern; heat by definition.
    """
    row, v = pattern.row, pattern.speed_mm_s
    if "peak_a" in joint.pins:
        background = joint.pins.get("background_pct", row.background_pct or 0.0) / 100
        return calculate_mean_share(row, background)
    # A background raised to the minimum stable current adds to the mean.
    peak = (row.peak_factor or 1.0) * need.steady_a(v)
    background = max(
        (row.background_pct or 0.0) / 100, max(MIN_BACKGROUND_A, bench.machine.least_a) / peak
    )
    mean = calculate_mean_share(row, background) * need.steady_a(v)
    travel_mm_s = need.speed_mm_s if joint.travel_mm_s is None else joint.travel_mm_s
    return heat_input_kj_mm(ARC_VOLTAGE_V, mean, v) / heat_input_kj_mm(
        ARC_VOLTAGE_V, need.steady_a(travel_mm_s), travel_mm_s
    )


def calculate_mean_share(row: PulsePattern, background: float) -> float:
    """Return the mean of a pattern that melts as much as a steady arc, relative to its current.

    Peak factor × (on + background (1 − on)). Slow and cold has 0.74, 0.81, 0.89 at 5, 10, 15 %.

    Args:
        row: The pattern.
        background: Background as a fraction of the peak.

    References:
        Common practice.
    """
    if row.peak_rule == "mean" or row.on_pct is None:
        return 1.0
    on = row.on_pct / 100
    return (row.peak_factor or 1.0) * (on + background * (1 - on))
