"""A slow pulse: the travel speed, frequency and peak that fuse like an unpulsed arc.

The pool at the end of the peak decides. It is calculated in time, see `physics/heat_in_time.py`.
"""

from __future__ import annotations

import math
from functools import lru_cache

from msgspec import Struct

from ...joint.section import Section
from ...physics.heat import AMBIENT_C, ARC_VOLTAGE_V
from ...physics.heat_in_time import (
    STEADY_ARC,
    PulseTrain,
    Sheet,
    find_length_mm,
    find_peak_a,
    find_pool,
)
from ...physics.pulse_train import average_a, peak_for_average_a
from .need import CurrentModel

# The calculation does not stir the pool, and pools that welders measure are wider: 50 A at 8 in/min
# in 16 ga melts 2.85 mm by calculation, 3.5 mm by the target of section 3.4. Estimate.
CALCULATED_SHARE = 0.8
# The peak changes with about this power of the travel speed.
_POWER = 0.55
_CLOSE, _MAX_STEPS = 1e-3, 40
# Limits of the search, logarithms of mm/s.
_SLOWEST, _FASTEST = math.log(0.05), math.log(20.0)


class Request(Struct, frozen=True):
    """A slow pulse to be matched.

    Sheet, peak time 0–1, background as a fraction of the peak, minimum background A, peak A and
    whether it must stay, pool width mm at the end of the peak, travel speed mm/s or None, limits
    of the frequency 1/s, and overlap 0–1.
    """

    sheet: Sheet
    on: float
    background: float
    min_background_a: float
    peak_a: float
    is_peak_fixed: bool
    width_mm: float
    travel_mm_s: float | None
    rates_pps: tuple[float, float]
    overlap: float


class SlowPulse(Struct, frozen=True):
    """A slow pulse that fits.

    Frequency 1/s, travel speed mm/s, peak and background A, pool length mm at the end of the peak,
    and whether the travel speed was reduced for the overlap.
    """

    rate_pps: float
    travel_mm_s: float
    peak_a: float
    background_a: float
    length_mm: float
    slowed: bool


def build_sheet(section: Section, melt: float = 1.0) -> Sheet:
    """Return the sheet of a section.

    Args:
        section: The section.
        melt: Share of the rise to the liquidus that the weld needs, below 1 for a braze.
    """
    heat = section.heat
    liquidus = AMBIENT_C + melt * (heat.liquidus_c - AMBIENT_C)
    return Sheet(heat.k, heat.rho_c, section.h_mm, liquidus, ARC_VOLTAGE_V)


def find_fused_width_mm(need: CurrentModel) -> float:
    """Return the calculated pool width that fuses the seam, mm.

    It is the calculated pool of the unpulsed current at the base travel speed, at least 0.8 of the
    target pool.

    Args:
        need: The current model.

    References:
        Estimate.
    """
    sheet = build_sheet(need.section, need.melt)
    minimum = CALCULATED_SHARE * need.pool_mm
    return max(minimum, _find_steady_width_mm(sheet, need.base_a, need.speed_mm_s))


@lru_cache(maxsize=1024)
def _find_steady_width_mm(sheet: Sheet, steady_a: float, travel_mm_s: float) -> float:
    return find_pool(sheet, STEADY_ARC, steady_a, travel_mm_s).width_mm


@lru_cache(maxsize=1024)
def find_melt_size_mm(sheet: Sheet, width_mm: float, travel_mm_s: float) -> float:
    """Return the size of an unpulsed pool, mm: the root of width × length.

    Args:
        sheet: The sheet.
        width_mm: Pool width, mm.
        travel_mm_s: Travel speed, mm/s.
    """
    steady_a = find_peak_a(sheet, STEADY_ARC, width_mm, travel_mm_s)
    return math.sqrt(width_mm * find_length_mm(sheet, STEADY_ARC, steady_a, travel_mm_s))


@lru_cache(maxsize=1024)
def match_slow_pulse(request: Request) -> SlowPulse:
    """Return the travel speed, frequency and peak of a slow pulse.

    At this travel speed the pool at the end of the peak has the requested width. The frequency
    gives the overlap. Where it would exceed its limit, the travel speed is reduced and the peak is
    calculated for it, unless the peak must stay.

    Args:
        request: The slow pulse.

    References:
        Estimate. Overlap: common practice.
    """
    peak, share = _raise_background(request, request.peak_a)
    low, high = request.rates_pps
    rate = math.sqrt(low * high)
    if request.travel_mm_s is not None:
        return _match_manual_speed(request, request.travel_mm_s, peak, rate)
    travel = 3.0
    for _ in range(_MAX_STEPS):
        train = PulseTrain(rate, request.on, share)
        travel = _find_travel(request, train, peak, travel)
        length = find_length_mm(request.sheet, train, peak, travel)
        wanted = _find_rate(request, travel, length)
        before, rate = rate, min(high, max(low, wanted))
        if abs(rate / before - 1) < _CLOSE:
            break
    if wanted > high * (1 + 5 * _CLOSE):
        return _reduce_speed(request, travel, peak, share)
    return SlowPulse(rate, travel, peak, peak * share, length, False)


def _find_travel(request: Request, train: PulseTrain, peak: float, travel: float) -> float:
    """Return the travel speed at which a peak melts the width, mm/s, from a first guess.

    Secants in the logarithms of peak and travel speed.
    """
    power, before = _POWER, (0.0, 0.0)
    at = math.log(travel)
    for _ in range(_MAX_STEPS):
        needed = find_peak_a(request.sheet, train, request.width_mm, math.exp(at))
        off = math.log(peak / needed)
        if before[1] and abs(at - before[0]) > 1e-9:
            power = min(1.5, max(0.2, (before[1] - off) / (at - before[0])))
        before = at, off
        if abs(off) < _CLOSE:
            break
        at = min(_FASTEST, max(_SLOWEST, at + off / power))
        if at == before[0]:
            break
    return math.exp(at)


def _find_rate(request: Request, travel: float, length: float) -> float:
    """Return the frequency for the overlap, 1/s: v / (L (1 − overlap))."""
    return travel / max(0.2, length) / (1 - request.overlap)


def _raise_background(request: Request, peak: float) -> tuple[float, float]:
    """Return a peak A and its background 0–1, raised to the minimum at the same mean."""
    if request.background * peak >= request.min_background_a:
        return peak, request.background
    mean = average_a(peak, request.background * peak, request.on)
    minimum = request.min_background_a
    peak = max(minimum, peak_for_average_a(mean, minimum, request.on))
    return peak, minimum / peak


def _fit_peak(request: Request, peak: float, rate: float, travel: float) -> tuple[float, float]:
    """Return the peak A for the width at a travel speed, with its background 0–1."""
    if request.is_peak_fixed:
        return _raise_background(request, peak)
    share = request.background
    for _ in range(3):
        train = PulseTrain(rate, request.on, share)
        peak = find_peak_a(request.sheet, train, request.width_mm, travel)
        raised = max(request.background, min(1.0, request.min_background_a / peak))
        if abs(raised - share) < _CLOSE:
            break
        share = raised
    return peak, share


def _match_manual_speed(request: Request, travel: float, peak: float, rate: float) -> SlowPulse:
    """Return the frequency and the peak at a given travel speed, mm/s."""
    low, high = request.rates_pps
    for _ in range(_MAX_STEPS):
        peak, share = _fit_peak(request, peak, rate, travel)
        train = PulseTrain(rate, request.on, share)
        length = find_length_mm(request.sheet, train, peak, travel)
        before, rate = rate, min(high, max(low, _find_rate(request, travel, length)))
        if abs(rate / before - 1) < _CLOSE:
            break
    return SlowPulse(rate, travel, peak, peak * share, length, False)


def _reduce_speed(request: Request, travel: float, peak: float, share: float) -> SlowPulse:
    """Return the travel speed at which the highest frequency gives the overlap."""
    rate = request.rates_pps[1]
    for _ in range(_MAX_STEPS):
        if not request.is_peak_fixed:
            peak, share = _fit_peak(request, peak, rate, travel)
        train = PulseTrain(rate, request.on, share)
        length = find_length_mm(request.sheet, train, peak, travel)
        before, travel = travel, rate * max(0.2, length) * (1 - request.overlap)
        if request.is_peak_fixed:
            # A longer pool follows from a slower arc: half way, or the speeds alternate.
            travel = math.sqrt(before * travel)
        if abs(travel / before - 1) < _CLOSE:
            break
    return SlowPulse(rate, travel, peak, peak * share, length, True)
