"""The rhythm of a pulse: its frequency, the travel speed for its ripples, its peak and its heat."""

from __future__ import annotations

from msgspec import Struct

from ...catalogue.rows import PulsePattern
from ...joint.joint import Joint
from ...physics.heat import ARC_VOLTAGE_V, heat_input_kj_mm
from ...physics.heat_in_time import STEADY_ARC, PulseTrain, find_peak_a, find_pool
from ...physics.pulse_train import average_a, travel_for_overlap_mm_s
from ...reasons import (
    Alternative,
    Caution,
    Reason,
    Substitution,
)
from ...shop.bench import Bench
from .need import CurrentModel
from .slow_pulse import (
    Request,
    SlowPulse,
    build_sheet,
    find_fused_width_mm,
    match_slow_pulse,
)

OVERLAP_PCT, CLOSE_OVERLAP_PCT, MIN_OVERLAP_PCT = 35.0, 50.0, 25.0
MIN_RATE_PPS, MAX_RATE_PPS = 1.0, 2.0
# The dabs of a foot or a hand in a second: common practice.
FOOT_RATES_PPS = (0.7, 1.2)
MIN_BACKGROUND_A = 5.0


class Pattern(Struct, frozen=True):
    """The pattern.

    Frequency 1/s, travel speed mm/s, pool length mm and target overlap %, whether the travel speed
    was reduced, and the reasons and cautions for travel and pulse. A slow pulse has its peak and
    background A.
    """

    row: PulsePattern
    rate_pps: float | None
    speed_mm_s: float
    ripple_mm: float | None = None
    slow: SlowPulse | None = None
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
    if row.has("by_foot"):
        return _match_dabs(joint, need, row, rate, travel_speed, lap)
    low, high = (
        max(MIN_RATE_PPS, find_min_pps(bench)),
        min(MAX_RATE_PPS, find_max_pps(bench)),
    )
    if "rate_pps" in joint.pins:
        low = high = rate
    slow = match_slow_pulse(
        _request_slow_pulse(joint, bench, need, row, (low, max(low, high)), lap)
    )
    return Pattern(
        row, slow.rate_pps, slow.travel_mm_s, slow.length_mm, slow, lap_pct=lap, slowed=slow.slowed
    )


def _match_dabs(
    joint: Joint, need: CurrentModel, row: PulsePattern, rate: float, travel: float, lap: float
) -> Pattern:
    """Return the dabs of a foot: their frequency, 1/s, for a travel speed, mm/s, and overlap, %.

    Where the foot is too slow, the travel speed is reduced.
    """
    pool = need.pool_after_peak_mm()
    matched_pps = travel / (pool * (1 - lap / 100))
    low, high = FOOT_RATES_PPS
    rate = joint.pins.get("rate_pps", min(high, max(low, matched_pps)))
    slowed = rate < matched_pps - 1e-9 and joint.travel_mm_s is None
    if slowed:
        travel = travel_for_overlap_mm_s(rate, pool, lap)
    return Pattern(row, rate, travel, pool, lap_pct=lap, slowed=slowed)


def _request_slow_pulse(
    joint: Joint,
    bench: Bench,
    need: CurrentModel,
    row: PulsePattern,
    rates_pps: tuple[float, float],
    lap: float,
) -> Request:
    """Return the slow pulse to be matched, for limits of the frequency 1/s and an overlap in %.

    A manual peak or current stays.
    """
    pins = joint.pins
    base_a: float = pins.get("current_a", need.base_a)
    return Request(
        sheet=build_sheet(need.section, need.melt),
        on=pins.get("on_pct", row.on_pct or 100.0) / 100,
        background=pins.get("background_pct", row.background_pct or 0.0) / 100,
        min_background_a=max(MIN_BACKGROUND_A, bench.machine.least_a),
        peak_a=pins.get("peak_a", base_a * (row.peak_factor or 1.0)),
        is_peak_fixed="peak_a" in pins or "current_a" in pins,
        width_mm=find_fused_width_mm(need),
        travel_mm_s=joint.travel_mm_s,
        rates_pps=rates_pps,
        overlap=lap / 100,
    )


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


def find_pattern_peak_a(joint: Joint, need: CurrentModel, pattern: Pattern) -> float:
    """Return the peak of a pattern at its travel speed, A, including a manual current.

    Args:
        joint: The joint.
        need: The current model.
        pattern: The pattern.
    """
    row = pattern.row
    if pattern.slow is not None:
        return pattern.slow.peak_a
    steady: float = joint.pins.get("current_a", need.steady_a(pattern.speed_mm_s))
    if row.on_pct is None or row.background_pct is None:
        return 0.0
    on, background = row.on_pct / 100, row.background_pct / 100
    return steady / (on + background * (1 - on))


def calculate_heat_share(joint: Joint, need: CurrentModel, pattern: Pattern) -> float:
    """Return the heat input of a slow pulse relative to a steady arc that fuses the same.

    The steady arc has the base or the manual travel speed. A manual peak is compared with the
    unpulsed current of the same pool.

    Args:
        joint: The joint.
        need: The current model.
        pattern: The pattern.

    References:
        Estimate; heat by definition.
    """
    slow = pattern.slow
    if slow is None:
        return 1.0
    on = joint.pins.get("on_pct", pattern.row.on_pct or 100.0) / 100
    mean, v = average_a(slow.peak_a, slow.background_a, on), slow.travel_mm_s
    travel_mm_s = need.speed_mm_s if joint.travel_mm_s is None else joint.travel_mm_s
    steady_a = need.steady_a(travel_mm_s)
    if "peak_a" in joint.pins:
        sheet = build_sheet(need.section, need.melt)
        train = PulseTrain(slow.rate_pps, on, slow.background_a / slow.peak_a)
        width = find_pool(sheet, train, slow.peak_a, v).width_mm
        if not width:
            return 1.0
        steady_a = find_peak_a(sheet, STEADY_ARC, width, travel_mm_s)
    return heat_input_kj_mm(ARC_VOLTAGE_V, mean, v) / heat_input_kj_mm(
        ARC_VOLTAGE_V, steady_a, travel_mm_s
    )
