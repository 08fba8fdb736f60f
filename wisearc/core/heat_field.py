"""The temperature field of the moving arc in thin plate, and after the arc stops.

Axes: x along the seam, ahead of the arc positive; y across; origin under the arc. T above ambient is
q/(4πkh)·∫ exp(−((x+vs)² + y²)/4as)/s ds over the time s since each bit of heat was laid (Rosenthal 1941,
in the form of sources). Cold walls at y = ±D (chill bars) are mirror sources of changing sign (estimate).
Loss from the faces is left out.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from .heat import AMBIENT_C

Array = npt.NDArray[np.float64]
_NODES = 56
_MIRRORS = np.arange(1, 7)
_SHORTEST_S = 0.05
_NOTHING = -80.0
_TRIED = np.linspace(0.0, 1.0, 6)
_BEHIND = np.concatenate([[0.02, 0.04], np.linspace(0.07, 0.47, 9)])
_BACK = np.geomspace(0.5 / 2000.0, 1.0, 44)
_FINE = np.linspace(0.0, 1.0, 12)
_SIGNS = np.where(_MIRRORS % 2 == 0, 1.0, -1.0)


@dataclass(frozen=True)
class Field:
    """The moving arc: net power W, travel mm/s, h mm, k W/mm·K, a mm²/s, cold wall at ±wall_mm or None."""

    power_w: float
    travel_mm_s: float
    h_mm: float
    k: float
    a: float
    wall_mm: float | None = None


def temperature_c(field: Field, x_mm: Array, after_s: float | Array = 0.0, y_mm: float = 0.0) -> Array:
    """Temperature along x at one y, °C, `after_s` after the arc stopped (0: still running).

    Parameters: x_mm, shape (n,); after_s, a number, or times of shape (m, 1). Returns shape (n,), or (m, n).
    """
    s, weight = _times(field.a, field.travel_mm_s)
    age = s + after_s
    spread = 4 * field.a * age
    laid = _across(field, spread, y_mm) * weight * s / age
    reach = np.square(np.add.outer(x_mm, field.travel_mm_s * s)) / -spread[..., None, :]
    reach = np.exp(np.maximum(reach, _NOTHING, out=reach), out=reach)
    result: Array = AMBIENT_C + field.power_w / (4 * math.pi * field.k * field.h_mm) * (reach @ laid[..., None])[..., 0]
    return result


@lru_cache(maxsize=256)
def _times(a: float, v: float) -> tuple[Array, Array]:
    """Ages of heat, s, evenly spread in the logarithm, with the weight of d(ln s).

    From the time heat takes to cross a tenth of a millimetre to a hundred times the field's own a/v² and
    ten minutes at least, past which nothing of it is left to see.
    """
    last = max(600.0, 100 * a / v**2)
    u = np.linspace(math.log(0.01 / (4 * a)), math.log(last), _NODES)
    step = u[1] - u[0]
    weight = np.full(_NODES, step)
    weight[0] = weight[-1] = step / 2
    return np.exp(u), weight


def _across(field: Field, spread: Array, y_mm: float) -> Array:
    """How much of the heat is still at y, shape of spread (4 a × age): with cold walls its mirrors too."""
    own: Array = np.exp(-(y_mm**2) / spread)
    if field.wall_mm is None:
        return own
    far, steps = 2 * field.wall_mm * _MIRRORS, spread[..., None]
    left = np.exp(-((y_mm + far) ** 2) / steps) @ _SIGNS
    total = own + left + (left if y_mm == 0 else np.exp(-((y_mm - far) ** 2) / steps) @ _SIGNS)
    # past some decay times six mirrors a side no longer cancel; by then the first mode has died away
    total[spread > (4 * field.wall_mm) ** 2] = 0.0
    kept: Array = np.maximum(total, 0.0)
    return kept


def wall_distance_mm(bar_edge_mm: float, k: float, h_mm: float, contact_w_mm2k: float) -> float:
    """Where the cold wall stands, mm from the seam: the bar's edge and one decay length √(k h / contact). Estimate."""
    return bar_edge_mm + math.sqrt(k * h_mm / contact_w_mm2k)


@lru_cache(maxsize=4096)
def tails_mm(field: Field, limits_c: tuple[float, ...], limit_mm: float = 2000.0) -> tuple[float, ...]:
    """How far behind the moving arc the seam is still over each limit (°C), mm; 0 where it never is."""
    back = _BACK * limit_mm
    along = temperature_c(field, -back)
    lasts = [int(np.nonzero(along > limit)[0][-1]) if along.max() > limit else -1 for limit in limits_c]
    between = [i for i in lasts if 0 <= i < len(back) - 1]
    fine = np.concatenate([back[i] + _FINE * (back[i + 1] - back[i]) for i in between] or [back[:1]])
    falling = -temperature_c(field, -fine)
    tails: list[float] = []
    for i, limit in zip(lasts, limits_c, strict=True):
        if i in between:
            row = slice(between.index(i) * len(_FINE), (between.index(i) + 1) * len(_FINE))
            tails.append(float(np.interp(-limit, falling[row], fine[row])))
        else:
            tails.append(0.0 if i < 0 else float(back[-1]))
    return tuple(tails)


@lru_cache(maxsize=4096)
def glow_after_stop_s(field: Field, limit_c: float, tail_mm: float, limit_s: float = 60.0) -> float:
    """Time after the arc stops until the hottest point is under limit_c, s; limit_s if never within it.

    Parameters: tail_mm, how far behind the moving arc the seam is over limit_c: the hottest point lies in the
    nearer half of it (found over the plans' whole range), and the glow is gone before the arc would have passed it.
    Sought on a row of times, twice.
    """
    behind, latest = -tail_mm * _BEHIND, min(tail_mm / field.travel_mm_s, limit_s)
    first, last = 0.0, latest
    if latest <= _SHORTEST_S:
        return 0.0
    for _ in range(2):
        after = first + (last - first) * _TRIED
        hottest = temperature_c(field, behind, after[:, None]).max(axis=1)
        if hottest[-1] > limit_c:
            return limit_s
        i = int(np.nonzero(hottest > limit_c)[0][-1]) if hottest[0] > limit_c else 0
        first, last = float(after[i]), float(after[i + 1])
    return float(np.interp(-limit_c, -hottest, after))
