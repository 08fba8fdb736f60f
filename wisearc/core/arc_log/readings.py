"""Readings of an arc in time: current, voltage and gas, checked and in order; their steps, gaps and
scatter.

Arrays of n rows: time s, current A, voltage V, gas 0 or 1. Nothing is made up between rows that lie
further apart than a gap.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..errors import BadInput

Rows = NDArray[Any]
# time s, current A, voltage V or None, gas or None, each of n rows
Block = tuple[Rows, Rows, Rows | None, Rows | None]
# as long as nothing was read for so many usual steps, and so many seconds, is a gap: estimate, a
# logger that hangs for less is not seen
GAP_STEPS, GAP_LEAST_S = 10.0, 0.25
# what no TIG machine gives: a reading beyond it is none
MOST_A, MOST_V, MOST_S = 2000.0, 500.0, 1e7
# of so many pairs of rows the scatter and the usual step are told
_SAMPLE = 200_000
# over so few rows a mean is made by adding them
FEW = 9
# so many rows are worked on at once where a log may hold any number of them
CHUNK = 1_000_000


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
        found = [
            at + np.flatnonzero(np.diff(self.time_s[at : at + CHUNK + 1]) > self.gap_s)
            for at in range(0, self.rows, CHUNK)
        ]
        return np.concatenate(found) if found else np.arange(0)

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


class Sieve:
    """Tells readings from what is none, block by block: what is not a number, beyond what is, or at
    a time that does not go on is left out and counted.
    """

    def __init__(self, bad_rows: int = 0, first_bad: str = "") -> None:
        self.bad_rows, self.first_bad = bad_rows, first_bad
        self.kept = 0
        self._latest_s = -np.inf

    @property
    def seen(self) -> int:
        """How many rows came so far."""
        return self.kept + self.bad_rows

    def count_bad(self, rows: int, first: str) -> None:
        """Count rows that could not even be read, and say which was the first."""
        if rows:
            self.first_bad = self.first_bad or first
            self.bad_rows += rows

    def take(self, block: Block) -> Block:
        """The rows of a block that are readings. Parameters: block, time s, current A, voltage V or
        None, gas or None, each of n rows.
        """
        time_s, current_a, voltage_v, _ = block
        if _all_sound(time_s, current_a, voltage_v) and float(time_s[0]) > self._latest_s:
            self.kept += len(time_s)
            self._latest_s = float(time_s[-1])
            return block
        sound = np.isfinite(time_s) & (np.abs(current_a) <= MOST_A) & (np.abs(time_s) <= MOST_S)
        if voltage_v is not None:
            # a voltage that was not read is none of the row's fault
            sound &= ~(np.abs(voltage_v) > MOST_V)
        if not sound.all():
            row = self.seen + int(np.argmin(sound)) + 1
            self.first_bad = self.first_bad or f"row {row} is no reading"
        in_order = _in_order(time_s, sound, self._latest_s)
        back = sound & ~in_order
        if back.any():
            row = self.seen + int(np.argmax(back)) + 1
            self.first_bad = self.first_bad or f"the time does not go on at row {row}"
        sound &= in_order
        kept = int(np.count_nonzero(sound))
        self.kept += kept
        self.bad_rows += len(time_s) - kept
        if kept:
            self._latest_s = float(time_s[sound][-1])
        volts, gas = (None if of is None else of[sound] for of in block[2:])
        return time_s[sound], current_a[sound], volts, gas

    def readings(self, columns: Block) -> Readings:
        """The readings of all that was kept. Raises BadInput where that is no log any more."""
        why = f": {self.first_bad}" if self.first_bad else ""
        if self.kept < 2:
            raise BadInput(
                "log",
                f"{self.kept} readings",
                f"holds no readings to work with{why}; give the log as the machine wrote it",
            )
        if self.bad_rows > self.kept:
            raise BadInput(
                "log",
                f"{self.bad_rows} of {self.seen} rows",
                f"are no readings ({self.first_bad}); see that it is the log of an arc, in time_s"
                " and current_a",
            )
        return Readings(*columns, self.bad_rows, self.first_bad)


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
    sieve = Sieve(bad_rows, first_bad)
    return sieve.readings(sieve.take((time_s, current_a, voltage_v, gas)))


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


def _in_order(time_s: Rows, sound: Rows, latest_s: float) -> Rows:
    """Which rows come later than all sound ones before them. Parameters: latest_s, the time of the
    last row before these.
    """
    told = np.where(sound, time_s, -np.inf)
    before = np.maximum.accumulate(np.concatenate(([latest_s], told)))[:-1]
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


def smoothed_in_chunks(values: Rows, rows: int) -> Iterator[tuple[int, Rows]]:
    """The same as `smoothed`, so many values at a time, each with where it begins: for a log may
    hold any number of them.
    """
    beyond = rows // 2
    for at in range(0, len(values), CHUNK):
        first = max(0, at - beyond)
        seen = smoothed(values[first : at + CHUNK + beyond], rows)
        yield at, seen[at - first : at - first + CHUNK]


def integral(time_s: Rows, values: Rows, gap_s: float, times: Rows | float = 1.0) -> float:
    """The integral of values over time, by trapezoids; nothing over a gap. By definition.
    Parameters: times, what each value is multiplied by.
    """
    total = 0.0
    for at in range(0, len(time_s) - 1, CHUNK):
        cut = slice(at, at + CHUNK + 1)
        steps = np.diff(time_s[cut])
        if float(steps.max()) > gap_s:
            steps[steps > gap_s] = 0.0
        by = times if isinstance(times, float) else times[cut]
        part = values[cut].astype(np.float64) * by
        total += float(np.dot(steps, part[1:]) + np.dot(steps, part[:-1])) / 2
    return total
