"""Heat in time: the pool of a moving arc whose current changes with the pulse, in thin plate.

T − T0 = ∫ q(t′)·exp(−r²/(4aτ + 2σ²)) / (ρ·c·h·π·(4aτ + 2σ²)) dτ with τ = t − t′ and q = η V I.
The arc has heat of Gaussian spread σ. The temperature is linear in the current, so one sum of two
dozen terms gives the peak for a pool, and its roots give the pool of a peak.

Lengths mm, times s, speeds mm/s, currents A, temperatures °C, k W/mm·K, ρc J/mm³·K, a mm²/s.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache

from msgspec import Struct

from .heat import AMBIENT_C, ARC_EFFICIENCY

# The spread of the arc, mm: estimate.
SPREAD_MM = 0.8
# From this frequency the pool follows the mean current, 1/s: the check value of 33 a second, and a
# pool that changes by less than a tenth from 10 a second.
STEADY_FROM_PPS = 10.0
# Points and weights of Gauss and Legendre on −1 to 1 (Abramowitz and Stegun, table 25.4).
_THREE_POINTS = (
    (-0.774596669241483, 0.555555555555556),
    (0.0, 0.888888888888889),
    (0.774596669241483, 0.555555555555556),
)
FIVE_POINTS = (
    (-0.906179845938664, 0.236926885056189),
    (-0.538469310105683, 0.478628670499366),
    (0.0, 0.568888888888889),
    (0.538469310105683, 0.478628670499366),
    (0.906179845938664, 0.236926885056189),
)
_EIGHT_POINTS = (
    (-0.960289856497536, 0.101228536290376),
    (-0.796666477413627, 0.222381034453374),
    (-0.525532409916329, 0.313706645877887),
    (-0.183434642495650, 0.362683783378362),
    (0.183434642495650, 0.362683783378362),
    (0.525532409916329, 0.313706645877887),
    (0.796666477413627, 0.222381034453374),
    (0.960289856497536, 0.101228536290376),
)
# Heat older than this many 4a/v² gives less than e⁻¹⁵ of the total.
_SPENT = 15.0
_LOG_ERROR = 1e-3
_MAX_STEPS = 40
_MAX_EXTENT_MM = 250.0
# Where the search for the hottest place of the seam starts, mm ahead of the arc.
_START_MM = -0.25


class Sheet(Struct, frozen=True):
    """The sheet in which heat spreads: k, ρc, effective thickness h, liquidus, and arc voltage."""

    k: float
    rho_c: float
    h_mm: float
    liquidus_c: float
    voltage_v: float

    @property
    def a(self) -> float:
        """Return the thermal diffusivity, mm²/s."""
        return self.k / self.rho_c


class PulseTrain(Struct, frozen=True):
    """A square pulse: frequency 1/s, peak time and background as fractions.

    A frequency of `STEADY_FROM_PPS` or more, and a background of 1, act as a steady arc of the
    mean.
    """

    rate_pps: float
    on: float
    background: float

    @property
    def mean(self) -> float:
        """Return the mean relative to the peak."""
        return self.on + self.background * (1 - self.on)

    @property
    def is_steady(self) -> bool:
        """Return whether the pool follows the mean."""
        return self.rate_pps >= STEADY_FROM_PPS or self.background >= 1


STEADY_ARC = PulseTrain(STEADY_FROM_PPS, 1.0, 1.0)


class Pool(Struct, frozen=True):
    """The pool: width and length at the end of the peak, width before the next peak, mm.

    0 without melting. The width between peaks is 0 where the pool freezes.
    """

    width_mm: float
    length_mm: float
    between_mm: float

    @property
    def freezes(self) -> bool:
        """Return whether the pool freezes between peaks."""
        return self.between_mm <= 0


# A contribution: how far its heat lies behind the arc, mm, the sharpness 1/(4aτ + 2σ²), and its
# rise at its own place for one ampere of peak, K/A.
Contribution = tuple[float, float, float]


def find_pool(sheet: Sheet, train: PulseTrain, peak_a: float, travel_mm_s: float) -> Pool:
    """Return the pool of a pulse in its steady rhythm.

    Args:
        sheet: The sheet.
        train: The pulse.
        peak_a: Peak current, A.
        travel_mm_s: Travel speed, mm/s, above 0.

    References:
        Estimate: superposition of instantaneous sources in thin plate (Rosenthal 1941) with a
        Gaussian arc.

    >>> steel = Sheet(0.035, 7600 * 650e-9, 1.2, 1530.0, 10.5)
    >>> pool = find_pool(steel, PulseTrain(1.5, 0.30, 0.05), 110.0, 3.6)
    >>> round(pool.width_mm, 1), round(pool.length_mm, 1), pool.freezes
    (3.1, 3.3, True)
    """
    needed = (sheet.liquidus_c - AMBIENT_C) / peak_a
    heat = _list_contributions(sheet, train, travel_mm_s)
    before = heat if train.is_steady else _list_contributions(sheet, train, travel_mm_s, True)
    width = _find_width_mm(heat, needed)
    return Pool(
        width,
        _find_length_mm(heat, needed) if width else 0.0,
        width if before is heat else _find_width_mm(before, needed),
    )


def find_peak_a(sheet: Sheet, train: PulseTrain, width_mm: float, travel_mm_s: float) -> float:
    """Return the peak that melts a width at the end of the peak, A.

    For `STEADY_ARC` it is the steady current.

    Args:
        sheet: The sheet.
        train: The pulse.
        width_mm: Pool width, mm.
        travel_mm_s: Travel speed, mm/s, above 0.

    References:
        Estimate, as for `find_pool`.
    """
    heat = _list_contributions(sheet, train, travel_mm_s)
    _, rise, _ = find_ridge(heat, width_mm * width_mm / 4, _START_MM - width_mm / 6)
    return (sheet.liquidus_c - AMBIENT_C) / rise


def find_length_mm(sheet: Sheet, train: PulseTrain, peak_a: float, travel_mm_s: float) -> float:
    """Return the length of the pool along the seam at the end of the peak, mm, or 0.

    Args:
        sheet: The sheet.
        train: The pulse.
        peak_a: Peak current, A.
        travel_mm_s: Travel speed, mm/s, above 0.
    """
    needed = (sheet.liquidus_c - AMBIENT_C) / peak_a
    return _find_length_mm(_list_contributions(sheet, train, travel_mm_s), needed)


@lru_cache(maxsize=64)
def find_spot_pool_mm(sheet: Sheet, current_a: float, seconds: float) -> float:
    """Return the width that an arc melts in one place of a cold sheet, mm: a tack, a start.

    Args:
        sheet: The sheet.
        current_a: Current, A.
        seconds: Time of the arc, s.

    References:
        Estimate, as for `find_pool`.
    """
    parts: list[tuple[float, float]] = []
    _add_points(parts, 0.0, seconds, 1.0, _EIGHT_POINTS, SPREAD_MM**2 / (2 * sheet.a))
    needed = (sheet.liquidus_c - AMBIENT_C) / current_a
    return _find_width_mm(_convert_to_heat(sheet, parts, 0.0), needed)


@lru_cache(maxsize=64)
def _list_contributions(
    sheet: Sheet, train: PulseTrain, travel_mm_s: float, before_peak: bool = False
) -> tuple[Contribution, ...]:
    """Return the heat by its age, for one ampere of peak.

    The first cycle follows the pulse. Older heat counts by the mean, with the first term of Euler
    and Maclaurin for the phase. All points lie on a logarithm of the age, where the integrand is
    nearly constant.
    """
    spread_s = SPREAD_MM**2 / (2 * sheet.a)
    period, mean = 1 / train.rate_pps, train.mean
    oldest = _SPENT * 4 * sheet.a / travel_mm_s**2
    parts: list[tuple[float, float]] = []
    if train.is_steady:
        _add_points(parts, 0.0, max(oldest, period), mean, _EIGHT_POINTS, spread_s)
    else:
        peak, rest = train.on * period, (1 - train.on) * period
        if before_peak:
            _add_points(parts, 0.0, rest, train.background, FIVE_POINTS, spread_s)
            _add_points(parts, rest, period, 1.0, _THREE_POINTS, spread_s)
        else:
            _add_points(parts, 0.0, peak, 1.0, FIVE_POINTS, spread_s)
            _add_points(parts, peak, period, train.background, _THREE_POINTS, spread_s)
        _add_points(parts, period, max(oldest, 3 * period), mean, _EIGHT_POINTS, spread_s)
        excess = (1 - train.background) * train.on * (1 - train.on) * period / 2
        parts.append((period, -excess if before_peak else excess))
    return _convert_to_heat(sheet, parts, travel_mm_s)


def _convert_to_heat(
    sheet: Sheet, parts: Sequence[tuple[float, float]], travel_mm_s: float
) -> tuple[Contribution, ...]:
    """Return the contributions of ages in s, with their seconds at full peak."""
    watts = ARC_EFFICIENCY * sheet.voltage_v / (math.pi * sheet.rho_c * sheet.h_mm)
    four_a, floor = 4 * sheet.a, 2 * SPREAD_MM**2
    heat = []
    for age, seconds in parts:
        sharp = 1 / (four_a * age + floor)
        heat.append((travel_mm_s * age, sharp, watts * seconds * sharp))
    return tuple(heat)


def _add_points(
    parts: list[tuple[float, float]],
    from_s: float,
    to_s: float,
    share: float,
    points: Sequence[tuple[float, float]],
    spread_s: float,
) -> None:
    """Add the points of a stretch of constant current: age s, and seconds at full peak."""
    low, high = math.log(from_s + spread_s), math.log(to_s + spread_s)
    middle, half = (low + high) / 2, (high - low) / 2
    for at, weight in points:
        shifted = math.exp(middle + half * at)
        parts.append((shifted - spread_s, share * weight * half * shifted))


def find_ridge(
    heat: Sequence[Contribution], square_mm2: float, start_mm: float, step_mm: float = 1.0
) -> tuple[float, float, float]:
    """Return the hottest place of a line beside the seam, by Newton's method.

    Args:
        heat: The heat by its age.
        square_mm2: Square of the distance of the line, mm².
        start_mm: Start of the search, mm ahead of the arc.
        step_mm: Scale of its steps, mm: 1 for a pool.

    Returns:
        Its place, mm ahead of the arc, its rise, K/A, and how fast the logarithm of the rise falls
        with the square of the distance, 1/mm².
    """
    at, rise, fall, exp = start_mm, 0.0, 0.0, math.exp
    for _ in range(_MAX_STEPS):
        rise = slope = bend = fall = 0.0
        for laid, sharp, share in heat:
            d = at + laid
            value = share * exp(-(d * d + square_mm2) * sharp)
            steep = value * sharp
            rise += value
            fall += steep
            slope -= steep * d
            bend += steep * (2 * d * d * sharp - 1)
        step = -slope / bend if bend < 0 else math.copysign(0.5 * step_mm, slope)
        if abs(step) < 0.1 * step_mm and bend < 0:
            # The rise is flat here: half a Newton step of its square is left.
            return at + step, rise - slope * slope / bend, fall / rise
        at += max(-1.5 * step_mm, min(1.5 * step_mm, step))
    return at, rise, fall / rise


def _find_width_mm(heat: Sequence[Contribution], needed: float) -> float:
    """Return the width over which the rise reaches a value, K/A; 0 if nothing does.

    The logarithm of the rise is convex in the square of the distance, so Newton's method approaches
    the edge from inside.
    """
    at, rise, fall = find_ridge(heat, 0.0, _START_MM)
    if rise <= needed:
        return 0.0
    square = 0.0
    for _ in range(_MAX_STEPS):
        more = math.log(rise / needed)
        square += more / fall
        if more < _LOG_ERROR:
            break
        at, rise, fall = find_ridge(heat, square, at)
    return 2 * math.sqrt(square)


def _find_length_mm(heat: Sequence[Contribution], needed: float) -> float:
    """Return the length along the seam over which the rise reaches a value, K/A."""
    hottest, rise, fall = find_ridge(heat, 0.0, _START_MM)
    if rise <= needed:
        return 0.0
    first = math.log(rise / needed) / fall
    return sum(_find_end_mm(heat, needed, hottest, first, side) for side in (1.0, -1.0))


def _find_end_mm(
    heat: Sequence[Contribution], needed: float, peak_at_mm: float, first: float, side: float
) -> float:
    """Return how far the pool reaches ahead of its hottest place (side 1) or behind it (−1), mm.

    Newton's method in the square of the distance, where a Gaussian is a straight line.
    """
    square = first
    for _ in range(_MAX_STEPS):
        distance = math.sqrt(square)
        rise, slope = _calculate_rise(heat, peak_at_mm + side * distance)
        more = math.log(rise / needed)
        fall = -side * slope / (2 * distance)
        step = more / fall if fall > 0 else square
        if abs(step) < 3 * _LOG_ERROR * square:
            return math.sqrt(square + step)
        square = min(_MAX_EXTENT_MM**2, max(square / 4, min(4 * square, square + step)))
    return math.sqrt(square)


def _calculate_rise(heat: Sequence[Contribution], along_mm: float) -> tuple[float, float]:
    """Return the rise on the seam, K/A, and the slope of its logarithm, 1/mm.

    Args:
        heat: The heat by its age.
        along_mm: Distance ahead of the arc, mm.
    """
    rise, slope, exp = 0.0, 0.0, math.exp
    for laid, sharp, share in heat:
        d = along_mm + laid
        value = share * exp(-d * d * sharp)
        rise += value
        slope -= value * sharp * d
    return rise, 2 * slope / rise
