"""What a meter's readings say of a purge: how much of it mixes, where it settles, when the target
will be met, each with its error.

A layer that does not mix delays, what mixes thins exponentially, the meter follows with a lag;
fitted by least squares (scipy) with what was told as weak priors. Estimate.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

from msgspec import Struct

from .purge import AIR_PPM, LAG_S, Course

Reading = tuple[float, float]
# what a meter scatters, relative and ppm; the errors are scaled by what is really found
SCATTER, SCATTER_PPM = 0.02, 1.0
MIN_READINGS, MAX_FITTED_READINGS = 12, 300
# how loosely what was told is held to: a factor of e^1 in the rate, e^2 in where it settles, e^0.5
# in the meter's lag
PRIOR_RATE, PRIOR_SETTLES, PRIOR_LAG = 1.0, 2.0, 0.5
FALLEN = 0.85
LEFT_OUT = 0.01
MIN_LAG_S = 0.2
# another fit does as well where its cost is within this of the best: about two standard deviations
AS_WELL = 4.0


class PurgeFit(Struct, frozen=True):
    """What was fitted: ln of the rate 1/s, the delay s, ln of where it settles ppm, ln of the
    meter's lag s; their covariance; and another such that does as well, or None.
    """

    at: tuple[float, ...]
    covariance: tuple[tuple[float, ...], ...]
    also: tuple[float, ...] | None = None

    @property
    def rate_1_s(self) -> float:
        """How fast what mixes is thinned, 1/s."""
        return math.exp(self.at[0])

    @property
    def delay_s(self) -> float:
        """Until the layer reaches the vent, s."""
        return self.at[1]

    @property
    def settles_ppm(self) -> float:
        """Where it settles, ppm."""
        return math.exp(self.at[2])

    @property
    def lag_s(self) -> float:
        """The lag of the meter, s."""
        return math.exp(self.at[3])

    def error(self, which: int) -> float:
        """One standard deviation of rate (0, relative), delay (1, s), settling (2, relative) or lag
        (3, relative).
        """
        apart = 0.0 if self.also is None else self.also[which] - self.at[which]
        return math.hypot(math.sqrt(max(0.0, self.covariance[which][which])), apart)

    def reading_ppm(self, at_s: float) -> float:
        """What the meter shows after so long, ppm."""
        return _shown_ppm(at_s, self.at)

    def reaches_s(self, target_ppm: float) -> float | None:
        """When the meter shows a target, s; None where it settles above it."""
        return _reaches_s(self.at, target_ppm)

    def reaches_error_s(self, target_ppm: float) -> float | None:
        """The error of that, s: one standard deviation, from the errors of all four."""
        middle = _reaches_s(self.at, target_ppm)
        if middle is None:
            return None
        slopes = []
        for i in range(4):
            moved = _reaches_s(
                tuple(v + 1e-3 * (i == k) for k, v in enumerate(self.at)), target_ppm
            )
            if moved is None:
                return None
            slopes.append((moved - middle) / 1e-3)
        total = sum(
            a * b * self.covariance[i][k]
            for i, a in enumerate(slopes)
            for k, b in enumerate(slopes)
        )
        otherwise = _reaches_s(self.also, target_ppm) if self.also else middle
        return math.hypot(math.sqrt(max(0.0, total)), (otherwise or middle) - middle)

    def mixing(self, volume_l: float, flow_l_min: float) -> float:
        """The share of a volume that mixes; over 1 where it is larger than told, or the feed blows
        past part of it to the vent.
        """
        return (flow_l_min + self.air_l_min(flow_l_min)) / (60 * self.rate_1_s * volume_l)

    def air_l_min(self, flow_l_min: float, argon_ppm: float = 0.0) -> float:
        """The air that where it settles stands for, L/min. Balance of oxygen."""
        return flow_l_min * max(0.0, self.settles_ppm - argon_ppm) / (AIR_PPM - self.settles_ppm)


def _shown_ppm(at_s: float, at: Sequence[float]) -> float:
    """The meter behind what mixes: first order behind first order."""
    ln_rate, delay, ln_settles, ln_lag = at
    since = at_s - delay
    if since <= 0:
        return AIR_PPM
    rate, end, lag = math.exp(ln_rate), math.exp(ln_settles), math.exp(ln_lag)
    slow = rate * lag
    if abs(slow - 1) < 1e-4:
        slow = 1 - 1e-4
    gone = (math.exp(-min(700.0, rate * since)) - slow * math.exp(-min(700.0, since / lag))) / (
        1 - slow
    )
    return end + (AIR_PPM - end) * gone


def _reaches_s(at: Sequence[float], target_ppm: float) -> float | None:
    end = math.exp(at[2])
    if target_ppm <= end:
        return None
    slowest = max(math.exp(-at[0]), math.exp(at[3]))
    low, high = at[1], at[1] + 3 * slowest * (math.log((AIR_PPM - end) / (target_ppm - end)) + 3)
    for _ in range(60):
        middle = (low + high) / 2
        low, high = (middle, high) if _shown_ppm(middle, at) > target_ppm else (low, middle)
    return high


def fit_purge(
    readings: Sequence[Reading], forecast: Course, lag_s: float = LAG_S
) -> PurgeFit | None:
    """Fit readings of a purge. Parameters: readings, (s since the gas was opened, ppm); forecast;
    lag_s of the meter, as it is told.

    Returns None while too few have been taken, or the oxygen has not fallen yet.
    """
    taken = [(t, c) for t, c in readings if t >= 0 and c > 0]
    taken = taken[:: max(1, math.ceil(len(taken) / MAX_FITTED_READINGS))]
    if len(taken) < MIN_READINGS or min(c for _, c in taken) > FALLEN * AIR_PPM:
        return None
    told = (
        math.log(forecast.rate_1_s),
        math.log(forecast.settles_ppm),
        math.log(max(lag_s, MIN_LAG_S)),
    )
    fallen = next((t for t, c in taken if c < FALLEN * AIR_PPM), taken[-1][0])
    best = min(
        (_fit_readings(taken, told, fallen, start) for start in _list_start_points(told, fallen)),
        key=lambda found: float(found.cost),
    )
    # rate and lag can stand for each other: where the other way round does as well, it is not known
    # which is which
    rate, delay, settles, lag = (float(v) for v in best.x)
    other = _fit_readings(taken, told, fallen, (-lag, delay, settles, -rate))
    return _with_errors(
        best, other if float(other.cost - best.cost) < AS_WELL else None, len(taken)
    )


def _list_start_points(told: Sequence[float], fallen: float) -> list[tuple[float, ...]]:
    """Where the search begins: the delay bends the curve, so from both ends of what it can be."""
    return [(told[0], 0.0, *told[1:]), (told[0] + 0.5, fallen / 2, *told[1:])]


def _fit_readings(
    taken: Sequence[Reading], told: Sequence[float], fallen: float, start: Sequence[float]
) -> Any:
    import numpy as np
    from scipy.optimize import least_squares

    times, read = np.array(taken).T
    weights = 1 / np.hypot(SCATTER * read, SCATTER_PPM)

    def off(at: Any) -> Any:
        rate, end, lag = np.exp(at[0]), np.exp(at[2]), np.exp(at[3])
        since = np.maximum(0.0, times - at[1])
        slow = rate * lag if abs(rate * lag - 1) > 1e-4 else 1 - 1e-4
        gone = (np.exp(-rate * since) - slow * np.exp(-since / lag)) / (1 - slow)
        priors = (
            (at[0] - told[0]) / PRIOR_RATE,
            (at[2] - told[1]) / PRIOR_SETTLES,
            (at[3] - told[2]) / PRIOR_LAG,
        )
        return np.concatenate(((end + (AIR_PPM - end) * gone - read) * weights, priors))

    low, high = (
        [told[0] - 3, 0.0, -3.0, told[2] - 2],
        [told[0] + 3, fallen + 1e-3, math.log(AIR_PPM * 0.99), told[2] + 2],
    )
    within = [min(max(v, a + 1e-9), b - 1e-9) for v, a, b in zip(start, low, high, strict=True)]
    return least_squares(
        off, within, x_scale=(0.1, 1.0, 0.3, 0.2), loss="soft_l1", f_scale=3.0, bounds=(low, high)
    )


def _with_errors(found: Any, other: Any, count: int) -> PurgeFit:
    """The fit with its errors: of the curvature at its best, scaled by the scatter that was really
    found, and of another that does as well.
    """
    import numpy as np

    scatter = float(np.sum(found.fun[:count] ** 2)) / max(1, count - 4)
    covariance = np.linalg.pinv(found.jac.T @ found.jac) * max(scatter, 0.05)
    # what the model leaves out of a real space: a hundredth of the rate
    covariance[0, 0] += LEFT_OUT**2
    also = None if other is None else tuple(float(v) for v in other.x)
    return PurgeFit(
        tuple(float(v) for v in found.x),
        tuple(tuple(float(v) for v in row) for row in covariance),
        also,
    )


class Signs(Struct, frozen=True):
    """What readings warn of: it settles above the target, or it rises again; with the lowest that
    was read, ppm.
    """

    leak: bool
    rising: bool
    lowest_ppm: float


# how far over the target where it settles must be beyond its error, and how much over its lowest a
# reading that rises: estimates
BEYOND_ERRORS, RISEN, RISEN_PPM, LATEST = 2.0, 1.5, 15.0, 8
# it has nearly settled where it reads less than so many times where it will; and how well that must
# be known: estimates
NEARLY, SURE = 1.5, 0.5


def find_warnings(readings: Sequence[Reading], fit: PurgeFit | None, target_ppm: float) -> Signs:
    """What readings warn of. Parameters: fit, or None."""
    if not readings:
        return Signs(False, False, AIR_PPM)
    lowest = min(
        _find_median([c for _, c in readings[i : i + LATEST]])
        for i in range(0, len(readings), LATEST)
    )
    now = _find_median([c for _, c in readings[-LATEST:]])
    rising = now > RISEN * lowest + RISEN_PPM and lowest < FALLEN * AIR_PPM
    leak = fit is not None and now < NEARLY * fit.settles_ppm and fit.error(2) < SURE
    leak = (
        leak
        and fit is not None
        and fit.settles_ppm * math.exp(-BEYOND_ERRORS * fit.error(2)) > target_ppm
    )
    return Signs(leak, rising, lowest)


def _find_median(values: Sequence[float]) -> float:
    ordered = sorted(values)
    return ordered[len(ordered) // 2]
