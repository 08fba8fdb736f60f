"""The temperature field along the seam in thin plate, with the arc and after its stop.

Behind the arc, Rosenthal's closed forms of 1941 apply: K0 for the open plate, modes for the strip
between cold walls at y = ±D (chill bars, estimate). After the stop the field is a sum of heat
increments by their age u: T − T0 = q/(4πkh)·∫ exp(−(v(u − t) − b)²/4au)·Y(u) d(ln u) from u = t. Y
is the reduction by the walls and, with a loss rate b, the factor exp(−b u) of the faces. All sums
have a few dozen terms, too few for arrays.

At a free end of the sheet the heat has an image behind that end, and the arc tapers there.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import cache, lru_cache
from itertools import count

from msgspec import Struct

from .heat import AMBIENT_C
from .heat_in_time import FIVE_POINTS, Contribution, find_ridge
from .roots import find_crossing

_NEAREST_MM = 0.5
_STEP = 0.25  # In ln u, maximum.
_SPENT = 100.0
# Heat loss of a hot face in still air; of the front face under the jet of argon and the back in
# still gas, W/mm²K. Estimates.
STILL_FACE_W_MM2K, JET_FACE_W_MM2K = 50e-6, 150e-6
STILL_FACES_W_MM2K = 2 * STILL_FACE_W_MM2K
COOLED_FACES_W_MM2K = JET_FACE_W_MM2K + 20e-6
# Heat loss of a face between 400 and 150 °C: 8 W/m²K to the air, about 12 by radiation of a bright
# to straw face. Estimate.
COOL_FACES_W_MM2K = 2 * 20e-6
MAX_WAIT_S = 7200.0
# The taper at the end of a seam, s: 1 to 2 s, common practice.
TAPER_S = 1.5
# The hottest place is searched for in steps of this part of the width of the heat, from this part
# of the tail.
_SEARCH_STEP, _SEARCH_FROM = 0.25, 0.2


class Field(Struct, frozen=True):
    """The moving arc.

    Net power W, travel speed mm/s, thickness mm, k W/mm·K, a mm²/s, cold wall at ±wall_mm or None,
    loss rate of the faces 1/s after the stop. `end_mm` is how far behind the stop the sheet ends,
    or None, and `taper_s` how long the current falls there to nothing.
    """

    power_w: float
    travel_mm_s: float
    h_mm: float
    k: float
    a: float
    wall_mm: float | None = None
    loss_1_s: float = 0.0
    end_mm: float | None = None
    taper_s: float = 0.0


def running_c(field: Field, back_mm: float) -> float:
    """Return the temperature of the seam behind the moving arc, °C.

    Args:
        field: The arc.
        back_mm: Distance behind the arc, mm, above 0.
    """
    half, rise = field.travel_mm_s / (2 * field.a), field.power_w / (2 * field.k * field.h_mm)
    if field.wall_mm is None:
        return AMBIENT_C + rise / math.pi * _calculate_bessel_k0(half * back_mm)
    modes = 0.0
    for n in count():
        wave = math.pi * (n + 0.5) / field.wall_mm
        root = math.hypot(half, wave)
        mode = math.exp(-wave * wave / (root + half) * back_mm) / root
        modes += mode
        if mode < 1e-6 * modes:
            break
    return AMBIENT_C + rise / field.wall_mm * modes


def _calculate_bessel_k0(z: float) -> float:
    """Return Bessel's K0(z)·exp(z).

    The integral ∫ exp(−z (cosh t − 1)) dt from 0 (DLMF 10.32.9, from memory) is cut off at e⁻¹⁶.
    """
    step = min(0.5, 1 / math.sqrt(z))
    terms = range(1, math.ceil(math.acosh(1 + 16 / z) / step))
    return step * (0.5 + sum([math.exp(z * (1 - math.cosh(i * step))) for i in terms]))


def _reduce_by_walls(field: Field, spread: float) -> float:
    """Return the fraction of heat left by cold walls.

    The spread is 4 a × age, mm². Early ages use the nearest mirrors, later ages the first modes.
    """
    if (wall := field.wall_mm) is None:
        return 1.0
    if spread < wall * wall:
        return 1 - 2 * math.exp(-4 * wall * wall / spread)
    first = math.exp(-((math.pi / 2 / wall) ** 2) * spread / 4)
    # The next modes decay 9 and 25 times as fast.
    return math.sqrt(math.pi * spread) / wall * (first + first**9 + first**25)


def stopped_c(field: Field, after_s: float, reach_mm: float) -> Callable[[float], float]:
    """Return the temperature of the seam, °C, as a function of the distance behind the stop.

    Args:
        field: The arc.
        after_s: Time after the arc, s, above 0.
        reach_mm: Maximum distance, mm.
    """
    bits, exp = _list_increments(field, after_s, reach_mm), math.exp
    return lambda back: (
        AMBIENT_C + sum([share * exp(-((laid - back) ** 2) * sharp) for laid, sharp, share in bits])
    )


def _list_increments(field: Field, after_s: float, reach_mm: float) -> list[Contribution]:
    """Return the heat of the stopped arc by its age, by Simpson's rule over the logarithm of it.

    The range ends at twice the reach and 100 a/v² more (older heat gives under e⁻⁶ of the total).
    The steps are no wider than the passage of one increment.
    """
    a, v = field.a, field.travel_mm_s
    youngest = after_s + field.taper_s
    span = math.log1p((2 * reach_mm / v + _SPENT * a / v**2) / youngest)
    pairs = math.ceil(span / (2 * min(_STEP, math.sqrt(a / (v * (v * youngest + reach_mm))))))
    step = span / (2 * pairs)
    age, ratio, ages = youngest, math.exp(step), []
    for weight in (1, *(4, 2) * (pairs - 1), 4, 1):
        ages.append((age, v * (age - youngest), weight * step / 3))
        age *= ratio
    if field.taper_s > 0:
        half = math.log1p(field.taper_s / after_s) / 2
        for at, share in FIVE_POINTS:
            age = after_s * math.exp(half * (1 + at))
            ages.append((age, 0.0, share * half * (age - after_s) / field.taper_s))
    rise = field.power_w / (4 * math.pi * field.k * field.h_mm)
    bits = []
    for age, laid, log_s in ages:
        value = rise * log_s * math.exp(-field.loss_1_s * age)
        if field.wall_mm is not None:
            value *= _reduce_by_walls(field, 4 * a * age)
        bits.append((laid, 0.25 / (a * age), value))
    if (end := field.end_mm) is not None:
        bits += [(-2 * end - laid, sharp, share) for laid, sharp, share in bits]
    return bits


def find_inset_mm(pool_mm: float, length_mm: float) -> float:
    """Return how far inside the end of a sheet the arc starts and stops, mm: half of the pool.

    Args:
        pool_mm: Pool width, mm.
        length_mm: Length of the seam, mm.
    """
    return min(pool_mm / 2, length_mm / 4)


def face_loss_1_s(
    rho_c: float, thickness_mm: float, faces_w_mm2k: float = STILL_FACES_W_MM2K
) -> float:
    """Return the rate at which its two faces cool a sheet, 1/s: the sum of both over ρ c t.

    Args:
        rho_c: Heat capacity, J/mm³·K.
        thickness_mm: Thickness, mm.
        faces_w_mm2k: Heat loss of both faces together, W/mm²K.

    References:
        Estimate.
    """
    return faces_w_mm2k / (rho_c * thickness_mm)


def wait_below_s(
    field: Field, limit_c: float, length_mm: float | None, part_rise_k: float = 0.0
) -> float:
    """Return the time after the arc until the hottest part of the seam is below a limit, s.

    It is at most 2 hours. This is the wait of a neighbouring seam. The seam is an instantaneous
    line on thin plate, T − T0 = (q/v)/(h √(4π k ρc t)), the far field of Rosenthal 1941. Its ends,
    erf(L/4√(at)), cold walls and face losses shorten the time. A small part keeps its mean rise,
    which only the faces reduce.

    Args:
        field: The arc.
        limit_c: Limit, °C.
        length_mm: Length of the seam, mm, or None for a closed seam.
        part_rise_k: Mean rise of a small part, K.

    References:
        Estimate.
    """
    rho_c, a = field.k / field.a, field.a
    laid = field.power_w / field.travel_mm_s / field.h_mm
    loss = face_loss_1_s(rho_c, field.h_mm, COOL_FACES_W_MM2K)

    def log_rise(log_s: float) -> float:
        t = math.exp(log_s)
        ends = 1.0 if length_mm is None else math.erf(length_mm / (4 * math.sqrt(a * t)))
        line = (
            laid
            / math.sqrt(4 * math.pi * field.k * rho_c * t)
            * ends
            * _reduce_by_walls(field, 4 * a * t)
        )
        return math.log(max(line, part_rise_k, 1e-300)) - loss * t

    ends = math.log(0.1), math.log(MAX_WAIT_S)
    return math.exp(find_crossing(math.log(limit_c - AMBIENT_C), log_rise, *ends, 1e-9))


def wall_distance_mm(bar_edge_mm: float, k: float, h_mm: float, contact_w_mm2k: float) -> float:
    """Return the distance of the cold wall from the seam, mm.

    The bar edge plus one decay length √(k h / contact).

    Args:
        bar_edge_mm: Distance of the bar edge, mm.
        k: Conductivity, W/mm·K.
        h_mm: Thickness, mm.
        contact_w_mm2k: Contact conductance, W/mm²K.

    References:
        Estimate.
    """
    return bar_edge_mm + math.sqrt(k * h_mm / contact_w_mm2k)


@lru_cache(maxsize=4096)
def tails_mm(
    field: Field, limits_c: tuple[float, ...], limit_mm: float = 2000.0
) -> tuple[float, ...]:
    """Return the length of the seam above each limit behind the moving arc, mm, or 0.

    Args:
        field: The arc.
        limits_c: Limits, °C.
        limit_mm: Maximum length, mm.
    """
    ends, log = (math.log(_NEAREST_MM), math.log(limit_mm)), math.log
    tails = (
        find_crossing(log(limit), lambda u: log(running_c(field, math.exp(u))), *ends)
        for limit in limits_c
    )
    return tuple(math.exp(u) if u > ends[0] else 0.0 for u in tails)


@lru_cache(maxsize=4096)
def glow_after_stop_s(field: Field, limit_c: float, tail_mm: float, limit_s: float = 60.0) -> float:
    """Return the time after the arc until the hottest point is below a limit, s, or limit_s.

    In the open sheet the glow ends before the arc would have passed the tail. It usually lasts a
    fifth to a half of that time, at very low speed only a fortieth. At a free end it lasts longer.

    Args:
        field: The arc.
        limit_c: Limit, °C.
        tail_mm: Length of the seam above the limit behind the moving arc, mm.
        limit_s: Maximum time, s.
    """
    if tail_mm <= 0:
        return 0.0
    latest = min(tail_mm / field.travel_mm_s, limit_s)
    reach = tail_mm / 2
    at = -min(_SEARCH_FROM * tail_mm, 3 * math.sqrt(4 * field.a * latest))

    @cache
    def hottest(after_s: float) -> float:
        nonlocal at
        step = _SEARCH_STEP * math.sqrt(4 * field.a * after_s)
        at, rise, _ = find_ridge(_list_increments(field, after_s, reach), 0.0, at, step)
        return -1 / (AMBIENT_C + rise)

    low, high = latest / 8, latest
    while field.end_mm is not None and high < limit_s and hottest(high) > -1 / limit_c:
        low, high = high, min(limit_s, 2 * high)
    while hottest(low) <= -1 / limit_c and low > latest / 200:
        low, high = low / 4, low
    return find_crossing(-1 / limit_c, hottest, low, high, 1e-3)
