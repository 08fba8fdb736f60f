"""Shop history: the ratio of good runs to the rule of thumb, with its uncertainty.

The logarithm of each ratio is the sum of effects of the shop, the machine, the welder and the run.
Each effect is pulled towards zero if there are few data (normal priors, solved together). The
spread is one standard deviation of the estimate.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any, Protocol

from msgspec import Struct

# Prior standard deviations of the logarithm: shop against rule of thumb, machine, welder, run.
# Estimates: 10 % as the range of the plan, 5 % between machine dials, 4 % between two people, 5 %
# between runs.
SHOP_SD, MACHINE_SD, WELDER_SD, RUN_SD = 0.10, 0.05, 0.04, 0.05
# The prior of the residual counts as this number of runs.
RUN_SD_WORTH = 6.0
# A bright run has the full weight, a tinted run less: estimate.
BRIGHT_WEIGHT, TINTED_WEIGHT = 1.0, 0.7
MAX_RUNS = 200


class OwnRun(Struct, frozen=True):
    """A good run of a similar joint: number, label, date, machine and welder.

    It has the logarithms of three ratios (None: unknown): current to the rule of thumb, travel
    speed and post-flow to the plan. It also has its weight, whether it is excluded, and whether its
    current is unknown because nobody measured it. `confirmed`: the welder confirmed its set current
    later.
    """

    number: int
    label: str
    made_on: str
    machine: str
    hand: str
    ratio: float
    pace: float | None = None
    held: float | None = None
    weight: float = BRIGHT_WEIGHT
    left_out: bool = False
    unknown: bool = False
    confirmed: bool = False

    @property
    def counts(self) -> bool:
        """Return whether it counts in the estimate."""
        return not self.left_out and not self.unknown


class OwnRecord(Struct, frozen=True):
    """The estimate for similar joints.

    It has the ratio to the rule of thumb, its spread and the residual (both as fractions), the
    ratios of travel speed and post-flow or None, and all runs behind it.
    """

    ratio: float
    spread: float
    scatter: float
    pace: float | None
    held: float | None
    runs: tuple[OwnRun, ...]

    @property
    def counted(self) -> int:
        """Return the number of runs that count."""
        return sum(run.counts for run in self.runs)

    @property
    def words(self) -> str:
        """Return a short description."""
        return format_summary(self.counted, self.ratio, self.spread_pct)

    @property
    def spread_pct(self) -> float:
        """Return the spread, %."""
        return 100 * self.spread


def format_summary(runs: int, ratio: float, spread_pct: float) -> str:
    """Return a short description of a shop history.

    Args:
        runs: Number of runs.
        ratio: Ratio to the rule of thumb.
        spread_pct: Spread, %.

    >>> format_summary(5, 1.06, 4.2)
    '5 runs, 1.06 × rule of thumb, ± 4 %'
    """
    return (
        f"{runs} run{'s' if runs != 1 else ''}, {ratio:.2f} × rule of thumb, ± {spread_pct:.0f} %"
    )


class HistoryLookup(Protocol):
    """The interface to the history of a shop."""

    def like(self, family: str, metals: str, machine: str) -> OwnRecord | None:
        """Return the estimate for similar joints by the current welder, or None without runs.

        Args:
            family: Joint family.
            metals: Metal family.
            machine: Machine.
        """


def estimate_ratio(runs: Sequence[OwnRun], machine: str, welder: str) -> OwnRecord | None:
    """Estimate the ratio for a machine and a welder from the newest 200 runs.

    Partial pooling: y = shop + machine + welder + residual, all normal; least squares with the
    weights of the priors.

    Args:
        runs: Runs of similar joints.
        machine: Machine.
        welder: Initials of the welder.

    Returns:
        The estimate, or None if no run counts.

    References:
        Gelman and others, Bayesian Data Analysis, hierarchical normal models, from memory. The
        priors are estimates.
    """
    import numpy as np

    counted = [run for run in runs if run.counts][:MAX_RUNS]
    if not counted:
        return None
    machines = sorted({run.machine for run in counted} | {machine})
    welders = sorted({run.hand for run in counted} | {welder})
    x = np.zeros((len(counted), 1 + len(machines) + len(welders)))
    x[:, 0] = 1.0
    for i, row in enumerate(counted):
        x[i, 1 + machines.index(row.machine)] = 1.0
        x[i, 1 + len(machines) + welders.index(row.hand)] = 1.0
    y = np.array([run.ratio for run in counted])
    weight = np.array([run.weight for run in counted])
    prior = np.array([SHOP_SD, *[MACHINE_SD] * len(machines), *[WELDER_SD] * len(welders)]) ** -2.0
    scatter = RUN_SD**2
    for _ in range(2):
        precision = x.T @ (x * weight[:, None]) / scatter + np.diag(prior)
        estimate = np.linalg.solve(precision, x.T @ (weight * y) / scatter)
        left = float(np.sum(weight * (y - x @ estimate) ** 2))
        scatter = (RUN_SD_WORTH * RUN_SD**2 + left) / (
            RUN_SD_WORTH + len(counted) - _calculate_fit_weight(x, weight, prior, scatter)
        )
    precision = x.T @ (x * weight[:, None]) / scatter + np.diag(prior)
    estimate = np.linalg.solve(precision, x.T @ (weight * y) / scatter)
    target = np.zeros(x.shape[1])
    target[[0, 1 + machines.index(machine), 1 + len(machines) + welders.index(welder)]] = 1.0
    spread = math.sqrt(float(target @ np.linalg.solve(precision, target)))
    return OwnRecord(
        math.exp(float(target @ estimate)),
        spread,
        math.sqrt(scatter),
        _calculate_median_ratio([run.pace for run in counted]),
        _calculate_median_ratio([run.held for run in counted]),
        tuple(runs),
    )


def _calculate_fit_weight(x: Any, weight: Any, prior: Any, scatter: float) -> float:
    """Return the degrees of freedom of the fit: the trace of its hat matrix."""
    import numpy as np

    inside = x.T @ (x * weight[:, None]) / scatter
    return float(np.trace(np.linalg.solve(inside + np.diag(prior), inside)))


def _calculate_median_ratio(values: Sequence[float | None]) -> float | None:
    known = [value for value in values if value is not None]
    if not known:
        return None
    # Loading this library takes longer than a plan, and most commands do not need it.
    from statistics import median

    return math.exp(median(known))
