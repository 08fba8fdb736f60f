"""Readings of an arc in time: current, voltage and gas, checked and in order; their steps, gaps and
scatter.

Arrays of n rows: time s, current A, voltage V, gas 0 or 1. Nothing is made up between rows that lie
further apart than a gap.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..errors import BadInput

Rows = NDArray[Any]
# as long as nothing was read for so many usual steps, and so many seconds, is a gap: estimate, a
# logger that hangs for less is not seen
GAP_STEPS, GAP_LEAST_S = 10.0, 0.25
# what no TIG machine gives: a reading beyond it is none
MOST_A, MOST_V, MOST_S = 2000.0, 500.0, 1e7
# of so many pairs of rows the scatter and the usual step are told
_SAMPLE = 200_000
# over so few rows a mean is made by adding them
FEW = 9


@dataclass(frozen=True, eq=False)
class Readings:
    """Readings in order: time s, current A, voltage V or None, gas or None, each of n rows; how
    many rows were no reading, and the first of them in words.
    """

    time_s: Rows
    current_a: Rows
    voltage_v: Rows | None = None
    gas: Rows | None = None
    bad_rows: int = 0
    first_bad: str = ""
    # the usual step of all, where these are a part of them
    whole_step_s: float | None = None

    @property
    def rows(self) -> int:
        """How many rows."""
        return len(self.time_s)

    @cached_property
    def step_s(self) -> float:
        """The usual step between rows, s: the median."""
        if self.whole_step_s is not None:
            return self.whole_step_s
        steps = np.diff(self.time_s[: _SAMPLE + 1]) if self.rows > 1 else np.array([1.0])
        return float(np.median(steps))

    @property
    def gap_s(self) -> float:
        """From how long a step is a gap, s. Estimate."""
        return max(GAP_STEPS * self.step_s, GAP_LEAST_S)

    @cached_property
    def gaps(self) -> Rows:
        """The rows after which there is a gap."""
        return np.flatnonzero(np.diff(self.time_s) > self.gap_s)

    @cached_property
    def scatter_a(self) -> float:
        """How the current scatters from row to row, A: the spread of what does not go on, by the
        median of differences, which steps do not move.
        """
        if self.rows < 3:
            return 0.0
        spread = max(1, self.rows // _SAMPLE)
        first = self.current_a[: self.rows - 1 : spread]
        moved = np.abs(self.current_a[1 : self.rows : spread][: len(first)] - first)
        live = moved[(first > 1.0)]
        return float(np.median(live if len(live) > 100 else moved)) / (0.6745 * 2**0.5)

    def part(self, first: int, last: int) -> Readings:
        """Rows from first up to last."""
        cut = slice(first, last)
        volts, gas = (None if of is None else of[cut] for of in (self.voltage_v, self.gas))
        return Readings(self.time_s[cut], self.current_a[cut], volts, gas, whole_step_s=self.step_s)


def make_readings(
    time_s: Rows,
    current_a: Rows,
    voltage_v: Rows | None = None,
    gas: Rows | None = None,
    bad_rows: int = 0,
    first_bad: str = "",
) -> Readings:
    """Readings of arrays of the same length, rows left out that are none: not a number, beyond what
    is, or at a time that does not go on.

    Raises BadInput where no reading is left, or where more is left out than kept. By definition.

    >>> make_readings(np.array([0.0, 0.1, 0.1, 0.2]), np.array([50.0, 50.0, 50.0,
    ...     float("nan")])).bad_rows
    2
    """
    columns = (time_s, current_a, voltage_v, gas)
    if _all_sound(time_s, current_a, voltage_v):
        return _left(columns, len(time_s), bad_rows, first_bad)
    sound = np.isfinite(time_s) & (np.abs(current_a) <= MOST_A) & (np.abs(time_s) <= MOST_S)
    if voltage_v is not None:
        # a voltage that was not read is none of the row's fault
        sound &= ~(np.abs(voltage_v) > MOST_V)
    words = first_bad
    if not sound.all():
        words = words or f"row {int(np.argmin(sound)) + 1} is no reading"
    in_order = _in_order(time_s, sound)
    if in_order is not None:
        back = sound & ~in_order
        if not words and back.any():
            words = f"the time does not go on at row {int(np.argmax(back)) + 1}"
        sound &= in_order
    kept = int(np.count_nonzero(sound))
    if kept < len(time_s):
        columns = tuple(None if of is None else of[sound] for of in columns)  # type: ignore[assignment]
    return _left(columns, kept, bad_rows + len(time_s) - kept, words)


def _all_sound(time_s: Rows, current_a: Rows, voltage_v: Rows | None) -> bool:
    """Whether every row is a reading, told in as few passes as can be: what is not a number is
    neither more nor less.
    """
    if len(time_s) < 2 or not bool((np.diff(time_s) > 0).all()):
        return False
    within = float(time_s[0]) >= -MOST_S and float(time_s[-1]) <= MOST_S
    within = within and float(current_a.min()) >= -MOST_A and float(current_a.max()) <= MOST_A
    # a voltage that was not read is none of the row's fault
    return within and (
        voltage_v is None
        or not (
            float(np.fmax.reduce(voltage_v)) > MOST_V or float(np.fmin.reduce(voltage_v)) < -MOST_V
        )
    )


def _left(
    columns: tuple[Rows, Rows, Rows | None, Rows | None], kept: int, bad: int, words: str
) -> Readings:
    """The readings that are left. Raises BadInput where that is no log any more."""
    if kept < 2:
        why = f": {words}" if words else ""
        raise BadInput(
            "log",
            f"{kept} readings",
            f"holds no readings to work with{why}; give the log as the machine wrote it",
        )
    if bad > kept:
        raise BadInput(
            "log",
            f"{bad} of {bad + kept} rows",
            f"are no readings ({words}); see that it is the log of an arc, in time_s and current_a",
        )
    return Readings(*columns, bad, words)


def _in_order(time_s: Rows, sound: Rows) -> Rows | None:
    """Which rows come later than all before them; None where all do."""
    if sound.all() and bool((np.diff(time_s) > 0).all()):
        return None
    told = np.where(sound, time_s, -np.inf)
    before = np.concatenate(([-np.inf], np.maximum.accumulate(told)[:-1]))
    found: Rows = told > before
    return found


def smoothed(values: Rows, rows: int) -> Rows:
    """The mean over so many rows about each, an odd number; fewer at the ends. By definition."""
    if rows <= 1:
        return values
    half = rows // 2
    if rows <= FEW and len(values) > rows:
        return _over_few(values, half)
    total = np.empty(len(values) + 1)
    total[0] = 0.0
    np.cumsum(values, dtype=np.float64, out=total[1:])
    n = len(values)
    found = np.empty(n)
    wide = 2 * half + 1
    if n > wide:
        np.subtract(total[wide:], total[:-wide], out=found[half : n - half])
        found[half : n - half] /= wide
    at = np.r_[0 : min(half, n), max(half, n - half) : n] if n > wide else np.arange(n)
    low, high = np.maximum(0, at - half), np.minimum(n, at + half + 1)
    found[at] = (total[high] - total[low]) / (high - low)
    return found


def _over_few(values: Rows, half: int) -> Rows:
    """The same by adding few rows, as they are kept: no sum of all is wanted."""
    wide = 2 * half + 1
    found = values.copy()
    inner = found[half : len(values) - half]
    inner[:] = values[: len(inner)]
    for i in range(1, wide):
        inner += values[i : i + len(inner)]
    inner /= wide
    for i in range(half):
        found[i], found[-1 - i] = (
            values[: i + half + 1].mean(),
            values[len(values) - i - half - 1 :].mean(),
        )
    return found


def integral(time_s: Rows, values: Rows, gap_s: float) -> float:
    """The integral of values over time, by trapezoids; nothing over a gap. By definition."""
    steps = np.diff(time_s)
    if len(steps) and float(steps.max()) > gap_s:
        steps[steps > gap_s] = 0.0
    total = np.dot(steps, values[1:].astype(np.float64, copy=False)) + np.dot(
        steps, values[:-1].astype(np.float64, copy=False)
    )
    return float(total) / 2
