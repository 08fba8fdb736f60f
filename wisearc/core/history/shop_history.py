"""Own record: what good runs of like joints took, of what the bench rule says, as far as it can be
told from so many.

The logarithm of each run's ratio is taken as the shop's own, its machine's, its hand's and the
run's scatter, one on top of the other; each is drawn towards nothing as far as there is little of
it (normal priors, solved at once). The spread is one standard deviation of what is told.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any, Protocol

from msgspec import Struct

# standard deviations of the logarithm before anything is known: of the shop against the bench rule,
# of a machine in it, of a hand, of one run: estimates, 10 % as the
# plan's own band is, 5 % as dials are apart, 4 % as two hands are, 5 % as a run is from the next
SHOP_SD, MACHINE_SD, HAND_SD, RUN_SD = 0.10, 0.05, 0.04, 0.05
# so many runs' worth is the scatter believed before it is measured
RUN_SD_WORTH = 6.0
# a run that came out bright counts whole, one that was tinted less: estimate
BRIGHT_WEIGHT, TINTED_WEIGHT = 1.0, 0.7
MAX_RUNS = 200


class OwnRun(Struct, frozen=True):
    """A good run of a like joint: its number, what it is of, when, on which machine, by whom; the
    logarithm of its current to the bench rule's at its pace, of its pace and of its post-flow to
    what was planned (None: not told); how much it counts; whether it is left out.
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


class OwnRecord(Struct, frozen=True):
    """What like joints took: the ratio to the bench rule; its spread, a standard deviation as a
    share; how far one run is from the next, the same; pace and post-flow to what was planned, or
    None; the runs behind it, those left out too.
    """

    ratio: float
    spread: float
    scatter: float
    pace: float | None
    held: float | None
    runs: tuple[OwnRun, ...]

    @property
    def counted(self) -> int:
        """How many runs it rests on."""
        return sum(not one.left_out for one in self.runs)

    @property
    def words(self) -> str:
        """It in few words."""
        return format_summary(self.counted, self.ratio, self.spread_pct)

    @property
    def spread_pct(self) -> float:
        """Its spread, %."""
        return 100 * self.spread


def format_summary(runs: int, ratio: float, spread_pct: float) -> str:
    """An own record in few words.

    >>> format_summary(5, 1.06, 4.2)
    '5 runs, 1.06 × rule of thumb, ± 4 %'
    """
    return (
        f"{runs} run{'s' if runs != 1 else ''}, {ratio:.2f} × rule of thumb, ± {spread_pct:.0f} %"
    )


class HistoryLookup(Protocol):
    """What a shop knows of like joints."""

    def like(self, family: str, metals: str, machine: str) -> OwnRecord | None:
        """What joints of a family in metals took on a machine, by the hand that stands here; None
        where no run tells.
        """


def estimate_ratio(runs: Sequence[OwnRun], machine: str, hand: str) -> OwnRecord | None:
    """What is told of a machine and a hand by runs of like joints, the newest 200 counted; None
    where none counts.

    Partial pooling: y = shop + machine + hand + scatter, all normal; least squares with the priors'
    weights. Source: Gelman and others, Bayesian Data Analysis, of hierarchical normal models, from
    memory; the priors: estimates.
    """
    import numpy as np

    counted = [one for one in runs if not one.left_out][:MAX_RUNS]
    if not counted:
        return None
    machines = sorted({one.machine for one in counted} | {machine})
    hands = sorted({one.hand for one in counted} | {hand})
    x = np.zeros((len(counted), 1 + len(machines) + len(hands)))
    x[:, 0] = 1.0
    for i, one in enumerate(counted):
        x[i, 1 + machines.index(one.machine)] = 1.0
        x[i, 1 + len(machines) + hands.index(one.hand)] = 1.0
    y = np.array([one.ratio for one in counted])
    weight = np.array([one.weight for one in counted])
    prior = np.array([SHOP_SD, *[MACHINE_SD] * len(machines), *[HAND_SD] * len(hands)]) ** -2.0
    scatter = RUN_SD**2
    for _ in range(2):
        precision = x.T @ (x * weight[:, None]) / scatter + np.diag(prior)
        found = np.linalg.solve(precision, x.T @ (weight * y) / scatter)
        left = float(np.sum(weight * (y - x @ found) ** 2))
        scatter = (RUN_SD_WORTH * RUN_SD**2 + left) / (
            RUN_SD_WORTH + len(counted) - _calculate_fit_weight(x, weight, prior, scatter)
        )
    precision = x.T @ (x * weight[:, None]) / scatter + np.diag(prior)
    found = np.linalg.solve(precision, x.T @ (weight * y) / scatter)
    here = np.zeros(x.shape[1])
    here[[0, 1 + machines.index(machine), 1 + len(machines) + hands.index(hand)]] = 1.0
    spread = math.sqrt(float(here @ np.linalg.solve(precision, here)))
    return OwnRecord(
        math.exp(float(here @ found)),
        spread,
        math.sqrt(scatter),
        _calculate_median_ratio([one.pace for one in counted]),
        _calculate_median_ratio([one.held for one in counted]),
        tuple(runs),
    )


def _calculate_fit_weight(x: Any, weight: Any, prior: Any, scatter: float) -> float:
    """How many runs the fit itself takes up: the trace of its hat matrix."""
    import numpy as np

    inside = x.T @ (x * weight[:, None]) / scatter
    return float(np.trace(np.linalg.solve(inside + np.diag(prior), inside)))


def _calculate_median_ratio(values: Sequence[float | None]) -> float | None:
    told = [one for one in values if one is not None]
    if not told:
        return None
    # Loading this library takes longer than a plan, and most commands do not need it.
    from statistics import median

    return math.exp(median(told))
