"""Readings of an arc over time, checked and in order, with their step, gaps and noise.

All are arrays of n rows: time s, current A, voltage V, gas 0 or 1. No values are interpolated
across a gap.
"""

from __future__ import annotations

from collections.abc import Iterator
from functools import cached_property
from typing import TYPE_CHECKING, Any, TypeAlias

from msgspec import Struct

from ..errors import InputError

if TYPE_CHECKING:
    from numpy.typing import NDArray

Rows: TypeAlias = "NDArray[Any]"
# Time, s; current, A; voltage, V, or None; gas, or None. Arrays of n rows.
Block: TypeAlias = "tuple[Rows, Rows, Rows | None, Rows | None]"
# A gap is at least this number of usual steps and of seconds without readings. Estimate: a shorter
# pause of the logger is not detected.
GAP_STEPS, MIN_GAP_S = 10.0, 0.25
# No TIG machine delivers more: a larger value is not a reading.
MAX_CURRENT_A, MAX_VOLTAGE_V, MAX_TIME_S = 2000.0, 500.0, 1e7
# The number of row pairs for the noise and the usual step.
_SAMPLE = 200_000
# For this number of rows, a direct sum is faster.
SHORT_WINDOW = 9
# Number of rows in one step, which limits the memory for a long log.
CHUNK = 1_000_000


class Readings(Struct, frozen=True, eq=False, dict=True):
    """Readings in order of time.

    The arrays have n rows: time s, current A, voltage V or None, gas or None. The number of
    rejected rows and the description of the first of them are included.
    """

    time_s: Rows
    current_a: Rows
    voltage_v: Rows | None = None
    gas: Rows | None = None
    bad_rows: int = 0
    first_bad: str = ""
    # The usual step of the complete log, for a part of it.
    constant_step_s: float | None = None

    @property
    def rows(self) -> int:
        """Return the number of rows."""
        return len(self.time_s)

    @cached_property
    def step_s(self) -> float:
        """Return the usual step between rows, s: the median."""
        import numpy as np

        if self.constant_step_s is not None:
            return self.constant_step_s
        steps = np.diff(self.time_s[: _SAMPLE + 1]) if self.rows > 1 else np.array([1.0])
        return float(np.median(steps))

    @property
    def gap_s(self) -> float:
        """Return the minimum length of a gap, s.

        Estimate.
        """
        return max(GAP_STEPS * self.step_s, MIN_GAP_S)

    @cached_property
    def gaps(self) -> Rows:
        """Return the rows before each gap."""
        import numpy as np

        gap_rows = [
            at + np.flatnonzero(np.diff(self.time_s[at : at + CHUNK + 1]) > self.gap_s)
            for at in range(0, self.rows, CHUNK)
        ]
        return np.concatenate(gap_rows) if gap_rows else np.arange(0)

    @cached_property
    def scatter_a(self) -> float:
        """Return the noise of the current between rows, A.

        The median of the second differences ignores level changes.
        """
        import numpy as np

        if self.rows < 3:
            return 0.0
        spread = max(1, self.rows // _SAMPLE)
        first = self.current_a[: self.rows - 1 : spread]
        moved = np.abs(self.current_a[1 : self.rows : spread][: len(first)] - first)
        live = moved[(first > 1.0)]
        return float(np.median(live if len(live) > 100 else moved)) / (0.6745 * 2**0.5)

    def part(self, first: int, last: int) -> Readings:
        """Return the rows from the first up to the last, without the last.

        Args:
            first: First row.
            last: Row after the last.
        """
        cut = slice(first, last)
        volts, gas = (None if of is None else of[cut] for of in (self.voltage_v, self.gas))
        return Readings(
            self.time_s[cut], self.current_a[cut], volts, gas, constant_step_s=self.step_s
        )


class RowFilter:
    """Removes rows that are not readings, one block after another.

    A reading has finite values within the limits and a later time than the reading before.

    Attributes:
        valid_rows: Number of readings.
        bad_rows: Number of other rows.
        first_bad: Description of the first of them.
    """

    def __init__(self, bad_rows: int = 0, first_bad: str = "") -> None:
        """Create a filter.

        Args:
            bad_rows: Number of rows that were removed before.
            first_bad: Description of the first of them.
        """
        import numpy as np

        self.bad_rows, self.first_bad = bad_rows, first_bad
        self.valid_rows = 0
        self._latest_s = -np.inf

    @property
    def total_rows(self) -> int:
        """Number of all rows so far."""
        return self.valid_rows + self.bad_rows

    def add_bad_rows(self, rows: int, first: str) -> None:
        """Count rows that could not be parsed.

        Args:
            rows: Number of rows.
            first: Description of the first of them.
        """
        self.first_bad = self.first_bad or first
        self.bad_rows += rows

    def select_valid(self, block: Block) -> Block:
        """Return the readings of a block.

        Args:
            block: The next rows of the log.
        """
        import numpy as np

        time_s, current_a, voltage_v, _ = block
        if _has_only_readings(time_s, current_a, voltage_v) and float(time_s[0]) > self._latest_s:
            self.valid_rows += len(time_s)
            self._latest_s = float(time_s[-1])
            return block
        is_valid = (
            np.isfinite(time_s)
            & (np.abs(current_a) <= MAX_CURRENT_A)
            & (np.abs(time_s) <= MAX_TIME_S)
        )
        if voltage_v is not None:
            # A missing voltage does not make the row invalid.
            is_valid &= ~(np.abs(voltage_v) > MAX_VOLTAGE_V)
        if not is_valid.all():
            row = self.total_rows + int(np.argmin(is_valid)) + 1
            self.first_bad = self.first_bad or f"row {row} is not a reading"
        in_order = _find_increasing_rows(time_s, is_valid, self._latest_s)
        back = is_valid & ~in_order
        if back.any():
            row = self.total_rows + int(np.argmax(back)) + 1
            self.first_bad = self.first_bad or f"the time stops increasing at row {row}"
        is_valid &= in_order
        valid_rows = int(np.count_nonzero(is_valid))
        self.valid_rows += valid_rows
        self.bad_rows += len(time_s) - valid_rows
        if valid_rows:
            self._latest_s = float(time_s[is_valid][-1])
        volts, gas = (None if of is None else of[is_valid] for of in block[2:])
        return time_s[is_valid], current_a[is_valid], volts, gas

    def build_readings(self, columns: Block) -> Readings:
        """Build the readings of the whole log.

        Args:
            columns: All valid rows.

        Raises:
            BadInput: There are too few readings.
        """
        why = f": {self.first_bad}" if self.first_bad else ""
        if self.valid_rows < 2:
            raise InputError(
                "log",
                f"{self.valid_rows} readings",
                f"has too few readings{why}. Give the log as the machine wrote it",
            )
        if self.bad_rows > self.valid_rows:
            raise InputError(
                "log",
                f"{self.bad_rows} of {self.total_rows} rows",
                (
                    f"are not readings ({self.first_bad}). Check that it is an arc log with "
                    "time_s and current_a"
                ),
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
    """Build readings from arrays of the same length, without invalid rows.

    A row is invalid if a value is not a number or beyond the limits, or if its time is not later.

    Args:
        time_s: Times, s.
        current_a: Current, A.
        voltage_v: Voltage, V, or None.
        gas: Gas, 0 or 1, or None.
        bad_rows: Number of rows rejected before.
        first_bad: Description of the first of them.

    Raises:
        InputError: No reading remains, or more rows are rejected than accepted.

    >>> import numpy as np
    >>> make_readings(np.array([0.0, 0.1, 0.1, 0.2]), np.array([50.0, 50.0, 50.0,
    ...     float("nan")])).bad_rows
    2
    """
    row_filter = RowFilter(bad_rows, first_bad)
    block = row_filter.select_valid((time_s, current_a, voltage_v, gas))
    return row_filter.build_readings(block)


def _has_only_readings(time_s: Rows, current_a: Rows, voltage_v: Rows | None) -> bool:
    """Return whether every row is valid.

    NaN fails both comparisons, so that few passes are needed.
    """
    import numpy as np

    if len(time_s) < 2 or not bool((np.diff(time_s) > 0).all()):
        return False
    within = float(time_s[0]) >= -MAX_TIME_S and float(time_s[-1]) <= MAX_TIME_S
    within = (
        within
        and float(current_a.min()) >= -MAX_CURRENT_A
        and float(current_a.max()) <= MAX_CURRENT_A
    )
    # A missing voltage does not make the row invalid.
    return within and (
        voltage_v is None
        or not (
            float(np.fmax.reduce(voltage_v)) > MAX_VOLTAGE_V
            or float(np.fmin.reduce(voltage_v)) < -MAX_VOLTAGE_V
        )
    )


def _find_increasing_rows(time_s: Rows, is_valid: Rows, latest_s: float) -> Rows:
    """Return which rows are later than all valid rows before them.

    Args:
        time_s: Times, s.
        is_valid: Which rows have valid values.
        latest_s: Time of the last row before these, s.
    """
    import numpy as np

    times_s = np.where(is_valid, time_s, -np.inf)
    before = np.maximum.accumulate(np.concatenate(([latest_s], times_s)))[:-1]
    is_increasing: Rows = times_s > before
    return is_increasing


def smooth_rows(values: Rows, rows: int) -> Rows:
    """Return the mean over a window around each row, by definition.

    The window is shorter at the ends.

    Args:
        values: Values.
        rows: Number of rows of the window, odd.
    """
    import numpy as np

    if rows <= 1:
        return values
    half = rows // 2
    if rows <= SHORT_WINDOW and len(values) > rows:
        return _smooth_with_short_window(values, half)
    total = np.empty(len(values) + 1)
    total[0] = 0.0
    np.cumsum(values, dtype=np.float64, out=total[1:])
    n = len(values)
    smoothed = np.empty(n)
    wide = 2 * half + 1
    if n > wide:
        np.subtract(total[wide:], total[:-wide], out=smoothed[half : n - half])
        smoothed[half : n - half] /= wide
    at = np.r_[0 : min(half, n), max(half, n - half) : n] if n > wide else np.arange(n)
    low, high = np.maximum(0, at - half), np.minimum(n, at + half + 1)
    smoothed[at] = (total[high] - total[low]) / (high - low)
    return smoothed


def _smooth_with_short_window(values: Rows, half: int) -> Rows:
    """Return the same mean by adding a few shifted rows, without a sum of all rows."""
    wide = 2 * half + 1
    smoothed = values.copy()
    inner = smoothed[half : len(values) - half]
    inner[:] = values[: len(inner)]
    for i in range(1, wide):
        inner += values[i : i + len(inner)]
    inner /= wide
    for i in range(half):
        smoothed[i], smoothed[-1 - i] = (
            values[: i + half + 1].mean(),
            values[len(values) - i - half - 1 :].mean(),
        )
    return smoothed


def smooth_in_chunks(values: Rows, rows: int) -> Iterator[tuple[int, Rows]]:
    """Smooth a long array in steps. The result equals `smooth_rows`.

    Args:
        values: Values.
        rows: Number of rows of the mean, odd.

    Returns:
        Index of the first value, and smoothed values.
    """
    margin = rows // 2
    for at in range(0, len(values), CHUNK):
        first = max(0, at - margin)
        smoothed = smooth_rows(values[first : at + CHUNK + margin], rows)
        yield at, smoothed[at - first : at - first + CHUNK]


def integrate_rows(time_s: Rows, values: Rows, gap_s: float, factor: Rows | float = 1.0) -> float:
    """Integrate values over time by trapezoids. A gap adds nothing.

    Args:
        time_s: Times, s.
        values: Values.
        gap_s: Minimum length of a gap, s.
        factor: Factor of all values or of each value.

    References:
        By definition.
    """
    import numpy as np

    total = 0.0
    for at in range(0, len(time_s) - 1, CHUNK):
        cut = slice(at, at + CHUNK + 1)
        steps = np.diff(time_s[cut])
        if float(steps.max()) > gap_s:
            steps[steps > gap_s] = 0.0
        scale = factor if isinstance(factor, float) else factor[cut]
        part = values[cut].astype(np.float64) * scale
        total += float(np.dot(steps, part[1:]) + np.dot(steps, part[:-1])) / 2
    return total
