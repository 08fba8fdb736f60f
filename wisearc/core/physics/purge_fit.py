"""Evaluation of oxygen readings.

The mixed fraction, the final level and the time to the target, each with its error. An unmixed
layer causes a delay, the mixed part is diluted exponentially, and the meter follows with a lag.
Least squares (scipy) with the entered values as weak priors. Estimate.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

from msgspec import Struct

from .purge import AIR_PPM, LAG_S, Course

Reading = tuple[float, float]
# The noise of a meter, relative and ppm. The errors are scaled by the actual residuals.
SCATTER, SCATTER_PPM = 0.02, 1.0
MIN_READINGS, MAX_FITTED_READINGS = 12, 300
# The strength of the priors: a factor of e^1 in the rate, e^2 in the final level, e^0.5 in the
# meter lag.
PRIOR_RATE, PRIOR_SETTLES, PRIOR_LAG = 1.0, 2.0, 0.5
FALLEN = 0.85
LEFT_OUT = 0.01
MIN_LAG_S = 0.2
# Another fit is as good within this cost difference: about two standard deviations.
AS_WELL = 4.0


class PurgeFit(Struct, frozen=True):
    """The fit.

    Ln of the rate 1/s, delay s, ln of the final level ppm, ln of the meter lag s, their covariance,
    and an alternative equally good fit or None.
    """

    at: tuple[float, ...]
    covariance: tuple[tuple[float, ...], ...]
    also: tuple[float, ...] | None = None

    @property
    def rate_1_s(self) -> float:
        """Return the dilution rate of the mixed volume, 1/s."""
        return math.exp(self.at[0])

    @property
    def delay_s(self) -> float:
        """Return the time until the layer reaches the vent, s."""
        return self.at[1]

    @property
    def settles_ppm(self) -> float:
        """Return the final level, ppm."""
        return math.exp(self.at[2])

    @property
    def lag_s(self) -> float:
        """Return the meter lag, s."""
        return math.exp(self.at[3])

    def error(self, which: int) -> float:
        """Return one standard deviation of a value.

        0 rate (relative), 1 delay (s), 2 final level (relative), 3 lag (relative).
        """
        apart = 0.0 if self.also is None else self.also[which] - self.at[which]
        return math.hypot(math.sqrt(max(0.0, self.covariance[which][which])), apart)

    def reading_ppm(self, at_s: float) -> float:
        """Return the reading of the meter after a time, ppm."""
        return _shown_ppm(at_s, self.at)

    def reaches_s(self, target_ppm: float) -> float | None:
        """Return the time until the meter shows a target, s, or None."""
        return _reaches_s(self.at, target_ppm)

    def reaches_error_s(self, target_ppm: float) -> float | None:
        """Return the error of that time, s.

        One standard deviation, from the errors of all four values.
        """
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
        """Return the mixed fraction of a volume.

        Above 1 the real volume is larger, or argon bypasses it to the vent.

        Args:
            volume_l: Volume, L.
            flow_l_min: Flow, L/min.
        """
        return (flow_l_min + self.air_l_min(flow_l_min)) / (60 * self.rate_1_s * volume_l)

    def air_l_min(self, flow_l_min: float, argon_ppm: float = 0.0) -> float:
        """Return the air leak that explains the final level, L/min. Oxygen balance.

        Args:
            flow_l_min: Flow, L/min.
            argon_ppm: Oxygen in the argon, ppm.
        """
        return flow_l_min * max(0.0, self.settles_ppm - argon_ppm) / (AIR_PPM - self.settles_ppm)


def _shown_ppm(at_s: float, at: Sequence[float]) -> float:
    """Return the meter reading behind the mixed volume: two first-order lags in series."""
    ln_rate, delay, ln_settles, ln_lag = at
    since = at_s - delay
    if since <= 0:
        return AIR_PPM
    rate, end, lag = math.exp(ln_rate), math.exp(ln_settles), math.exp(ln_lag)
    slow = rate * lag
    if abs(slow - 1) < 1e-4:
        slow = 1 - 1e-4
    decay = (math.exp(-min(700.0, rate * since)) - slow * math.exp(-min(700.0, since / lag))) / (
        1 - slow
    )
    return end + (AIR_PPM - end) * decay


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
    """Fit readings of a purge.

    Return None with too few readings, or before the oxygen decreases.

    Args:
        readings: Readings as (s since the gas was opened, ppm).
        forecast: The forecast.
        lag_s: Lag of the meter as entered, s.
    """
    taken = [(t, c) for t, c in readings if t >= 0 and c > 0]
    taken = taken[:: max(1, math.ceil(len(taken) / MAX_FITTED_READINGS))]
    if len(taken) < MIN_READINGS or min(c for _, c in taken) > FALLEN * AIR_PPM:
        return None
    expected = (
        math.log(forecast.rate_1_s),
        math.log(forecast.settles_ppm),
        math.log(max(lag_s, MIN_LAG_S)),
    )
    fallen = next((t for t, c in taken if c < FALLEN * AIR_PPM), taken[-1][0])
    best = min(
        (
            _fit_readings(taken, expected, fallen, start)
            for start in _list_start_points(expected, fallen)
        ),
        key=lambda fit: float(fit.cost),
    )
    # Rate and lag can be exchanged. If the exchanged fit is as good, their roles are unknown.
    rate, delay, settles, lag = (float(v) for v in best.x)
    other = _fit_readings(taken, expected, fallen, (-lag, delay, settles, -rate))
    return _with_errors(
        best, other if float(other.cost - best.cost) < AS_WELL else None, len(taken)
    )


def _list_start_points(expected: Sequence[float], fallen: float) -> list[tuple[float, ...]]:
    """Return start points for the search.

    They are at both ends of the possible delay, because the delay makes the curve non-linear.
    """
    return [(expected[0], 0.0, *expected[1:]), (expected[0] + 0.5, fallen / 2, *expected[1:])]


def _fit_readings(
    taken: Sequence[Reading], expected: Sequence[float], fallen: float, start: Sequence[float]
) -> Any:
    import numpy as np
    from scipy.optimize import least_squares

    times, read = np.array(taken).T
    weights = 1 / np.hypot(SCATTER * read, SCATTER_PPM)

    def off(at: Any) -> Any:
        rate, end, lag = np.exp(at[0]), np.exp(at[2]), np.exp(at[3])
        since = np.maximum(0.0, times - at[1])
        slow = rate * lag if abs(rate * lag - 1) > 1e-4 else 1 - 1e-4
        decay = (np.exp(-rate * since) - slow * np.exp(-since / lag)) / (1 - slow)
        priors = (
            (at[0] - expected[0]) / PRIOR_RATE,
            (at[2] - expected[1]) / PRIOR_SETTLES,
            (at[3] - expected[2]) / PRIOR_LAG,
        )
        return np.concatenate(((end + (AIR_PPM - end) * decay - read) * weights, priors))

    low, high = (
        [expected[0] - 3, 0.0, -3.0, expected[2] - 2],
        [expected[0] + 3, fallen + 1e-3, math.log(AIR_PPM * 0.99), expected[2] + 2],
    )
    within = [min(max(v, a + 1e-9), b - 1e-9) for v, a, b in zip(start, low, high, strict=True)]
    return least_squares(
        off, within, x_scale=(0.1, 1.0, 0.3, 0.2), loss="soft_l1", f_scale=3.0, bounds=(low, high)
    )


def _with_errors(fit: Any, other: Any, count: int) -> PurgeFit:
    """Return the fit with its errors.

    They follow from the curvature at its best point, scaled by the actual residuals, and from an
    equally good other fit.
    """
    import numpy as np

    scatter = float(np.sum(fit.fun[:count] ** 2)) / max(1, count - 4)
    covariance = np.linalg.pinv(fit.jac.T @ fit.jac) * max(scatter, 0.05)
    # The relative error of the model for a real space.
    covariance[0, 0] += LEFT_OUT**2
    also = None if other is None else tuple(float(v) for v in other.x)
    return PurgeFit(
        tuple(float(v) for v in fit.x),
        tuple(tuple(float(v) for v in row) for row in covariance),
        also,
    )


class Signs(Struct, frozen=True):
    """The warnings of the readings: final level above the target, or rising oxygen.

    The minimum reading is included, ppm.
    """

    leak: bool
    rising: bool
    min_ppm: float


# The final level must exceed the target by this number of errors, and a rising reading its minimum
# by this ratio: estimates.
BEYOND_ERRORS, RISEN, RISEN_PPM, LATEST = 2.0, 1.5, 15.0, 8
# The level is almost final below this ratio to its end, if the end is known to this error:
# estimates.
NEARLY, SURE = 1.5, 0.5


def find_warnings(readings: Sequence[Reading], fit: PurgeFit | None, target_ppm: float) -> Signs:
    """Return the warnings of the readings.

    Args:
        readings: The readings.
        fit: The fit, or None.
        target_ppm: Target, ppm.
    """
    if not readings:
        return Signs(False, False, AIR_PPM)
    min_level_ppm = min(
        _find_median([c for _, c in readings[i : i + LATEST]])
        for i in range(0, len(readings), LATEST)
    )
    now = _find_median([c for _, c in readings[-LATEST:]])
    rising = now > RISEN * min_level_ppm + RISEN_PPM and min_level_ppm < FALLEN * AIR_PPM
    leak = fit is not None and now < NEARLY * fit.settles_ppm and fit.error(2) < SURE
    leak = (
        leak
        and fit is not None
        and fit.settles_ppm * math.exp(-BEYOND_ERRORS * fit.error(2)) > target_ppm
    )
    return Signs(leak, rising, min_level_ppm)


def _find_median(values: Sequence[float]) -> float:
    ordered = sorted(values)
    return ordered[len(ordered) // 2]
