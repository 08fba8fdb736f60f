"""Minimum and maximum of a log for each zoom, so that a plot shows each spike.

The rows are not in memory. A plot of a short time reads them.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal

from msgspec import Struct

from .readings import CHUNK, Rows

# The number of rows, then of lower bins, in a bin.
FIRST, NEXT = 32, 8
# A column consists of at least this number of bins. The error of its start is then a small fraction
# of it.
BINS = 8
# Returns the times, s, and values from the first row up to the last row.
ReadRows = Callable[[int, int], tuple[Rows, Rows]]


class Columns(Struct, frozen=True, eq=False):
    """The columns of a plot: start s, minimum and maximum of each."""

    start_s: Rows
    low: Rows
    high: Rows


class Bins(Struct, frozen=True, eq=False):
    """The first level of a pyramid. A bin has FIRST rows.

    Attributes:
        rows: Number of rows of the log.
        last_s: Time of the last row, s.
        time_s: Time of the first row of each bin, s.
        low: Minimum of each bin.
        high: Maximum of each bin.
    """

    rows: int
    last_s: float
    time_s: Rows
    low: Rows
    high: Rows


class Pyramid:
    """Minimum and maximum of values for each zoom."""

    def __init__(self, bins: Bins, read: ReadRows) -> None:
        """Build the levels.

        Args:
            bins: The first level.
            read: Returns the rows.
        """
        import numpy as np

        self.bins, self.read = bins, read
        self.levels = [(bins.low, bins.high)]
        low, high = bins.low, bins.high
        while len(low) > 4 * NEXT:
            at = np.arange(0, len(low), NEXT)
            low, high = np.minimum.reduceat(low, at), np.maximum.reduceat(high, at)
            self.levels.append((low, high))

    @property
    def first_s(self) -> float:
        """Time of the first row, s."""
        return float(self.bins.time_s[0])

    @property
    def last_s(self) -> float:
        """Time of the last row, s."""
        return self.bins.last_s

    def count_rows_before(self, time_s: float, side: Literal["left", "right"]) -> int:
        """Count the rows before a time.

        Args:
            time_s: Time, s.
            side: "right" also counts rows at this time.
        """
        import numpy as np

        bins = int(np.searchsorted(self.bins.time_s, time_s, side))
        if not bins:
            return 0
        first = (bins - 1) * FIRST
        times, _ = self.read(first, min(first + FIRST, self.bins.rows))
        return first + int(np.searchsorted(times, time_s, side))


def build_bins(rows: int, read: ReadRows) -> Bins:
    """Build the first level of a pyramid.

    Args:
        rows: Number of rows, at least one.
        read: Returns the rows.
    """
    import numpy as np

    times, lows, highs, last_s = [], [], [], 0.0
    # A chunk has only complete bins.
    chunk = CHUNK // FIRST * FIRST
    for first in range(0, rows, chunk):
        time_s, values = read(first, min(first + chunk, rows))
        at = np.arange(0, len(values), FIRST)
        times.append(time_s[at])
        lows.append(np.minimum.reduceat(values, at))
        highs.append(np.maximum.reduceat(values, at))
        last_s = float(time_s[-1])
    return Bins(rows, last_s, *(np.concatenate(parts) for parts in (times, lows, highs)))


def build_pyramid(time_s: Rows, values: Rows) -> Pyramid:
    """Build a pyramid of arrays.

    Args:
        time_s: Times, s, of n rows.
        values: Values of n rows. There is at least one row.
    """

    def read(first: int, last: int) -> tuple[Rows, Rows]:
        return time_s[first:last], values[first:last]

    return Pyramid(build_bins(len(values), read), read)


def read_columns(pyramid: Pyramid, from_s: float, to_s: float, count: int) -> Columns:
    """Return the columns of a plot: minimum and maximum of the rows in each.

    Args:
        pyramid: The pyramid of the log.
        from_s: Start of the plot, s.
        to_s: End of the plot, s.
        count: Maximum number of columns.

    References:
        By definition. Each row is in a column. The first and the last column also have the next row
        outside the plot.
    """
    import numpy as np

    first = max(0, pyramid.count_rows_before(from_s, "right") - 1)
    last = min(pyramid.bins.rows, pyramid.count_rows_before(to_s, "left") + 1)
    rows, starts_s = last - first, np.linspace(from_s, to_s, count + 1)[:-1]
    if rows <= 2 * count:
        time_s, values = pyramid.read(first, last)
        return Columns(time_s, values, values)
    if rows / count < BINS * FIRST:
        time_s, values = pyramid.read(first, last)
        at = np.unique(np.clip(np.searchsorted(time_s, starts_s), 0, rows - 1))
        at[0] = 0
        return Columns(time_s[at], np.minimum.reduceat(values, at), np.maximum.reduceat(values, at))
    level = 0
    while level + 1 < len(pyramid.levels) and rows / count >= BINS * FIRST * NEXT ** (level + 1):
        level += 1
    low, high = pyramid.levels[level]
    wide = NEXT**level
    size = FIRST * wide
    first_bin, last_bin = first // size, (last - 1) // size
    first_bins = np.searchsorted(pyramid.bins.time_s, starts_s, "right") - 1
    bins = np.unique(np.clip(first_bins // wide, first_bin, last_bin))
    bins[0] = first_bin
    begins_s = pyramid.bins.time_s[bins * wide]
    begins_s[0] = max(float(begins_s[0]), float(pyramid.read(first, first + 1)[0][0]))
    parts = bins - first_bin
    return Columns(
        begins_s,
        np.minimum.reduceat(low[first_bin : last_bin + 1], parts),
        np.maximum.reduceat(high[first_bin : last_bin + 1], parts),
    )
