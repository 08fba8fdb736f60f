"""The least and the most of a log at every zoom, so that no spike is ever lost between two columns
of a plot; the rows themselves are asked for where they are drawn, a few at a time.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from .readings import CHUNK, Rows

# how many rows, then how many bins below, stand in a bin
FIRST, NEXT = 32, 8
# a column is made of so many bins at least: where it begins is then out by less than a part of it
BINS = 8
# rows from first up to last: their times s, their values
Read = Callable[[int, int], tuple[Rows, Rows]]


@dataclass(frozen=True, eq=False)
class Columns:
    """The columns of a plot: where each begins s, the least and the most of it."""

    start_s: Rows
    low: Rows
    high: Rows


@dataclass(frozen=True, eq=False)
class Bins:
    """The first level of a pyramid: of each FIRST rows the time of the first s, the least and the
    most; of how many rows in all, and the time of the last s.
    """

    rows: int
    last_s: float
    time_s: Rows
    low: Rows
    high: Rows


class Pyramid:
    """The least and the most of values at every zoom. Parameters: bins, the first level; read, what
    gives the rows themselves.
    """

    def __init__(self, bins: Bins, read: Read) -> None:
        self.bins, self.read = bins, read
        self.levels = [(bins.low, bins.high)]
        low, high = bins.low, bins.high
        while len(low) > 4 * NEXT:
            at = np.arange(0, len(low), NEXT)
            low, high = np.minimum.reduceat(low, at), np.maximum.reduceat(high, at)
            self.levels.append((low, high))

    @property
    def first_s(self) -> float:
        """The time of the first row, s."""
        return float(self.bins.time_s[0])

    @property
    def last_s(self) -> float:
        """The time of the last row, s."""
        return self.bins.last_s

    def row_at(self, time_s: float, side: str) -> int:
        """How many rows come before a time; with side "right" those at it count too."""
        right = side == "right"
        bins = int(np.searchsorted(self.bins.time_s, time_s, "right" if right else "left"))
        if not bins:
            return 0
        first = (bins - 1) * FIRST
        times, _ = self.read(first, min(first + FIRST, self.bins.rows))
        return first + int(np.searchsorted(times, time_s, "right" if right else "left"))


def bins_of(rows: int, read: Read) -> Bins:
    """The first level of a pyramid, read chunk by chunk. Parameters: rows, how many there are, at
    least one.
    """
    times, lows, highs, last_s = [], [], [], 0.0
    # whole bins in each chunk
    chunk = CHUNK // FIRST * FIRST
    for first in range(0, rows, chunk):
        time_s, values = read(first, min(first + chunk, rows))
        at = np.arange(0, len(values), FIRST)
        times.append(time_s[at])
        lows.append(np.minimum.reduceat(values, at))
        highs.append(np.maximum.reduceat(values, at))
        last_s = float(time_s[-1])
    return Bins(rows, last_s, *(np.concatenate(parts) for parts in (times, lows, highs)))


def pyramid_of(time_s: Rows, values: Rows) -> Pyramid:
    """The pyramid of rows that are at hand. Parameters: arrays of the same n rows, at least one."""

    def read(first: int, last: int) -> tuple[Rows, Rows]:
        return time_s[first:last], values[first:last]

    return Pyramid(bins_of(len(values), read), read)


def columns(of: Pyramid, from_s: float, to_s: float, count: int) -> Columns:
    """The columns of a plot from a time to another: the least and most of every row that lies in
    each, those at both ends with their neighbours.

    Parameters: count, how many columns at most. By definition: no row is in none.
    """
    first = max(0, of.row_at(from_s, "right") - 1)
    last = min(of.bins.rows, of.row_at(to_s, "left") + 1)
    rows, starts_s = last - first, np.linspace(from_s, to_s, count + 1)[:-1]
    if rows <= 2 * count:
        time_s, values = of.read(first, last)
        return Columns(time_s, values, values)
    if rows / count < BINS * FIRST:
        time_s, values = of.read(first, last)
        at = np.unique(np.clip(np.searchsorted(time_s, starts_s), 0, rows - 1))
        at[0] = 0
        return Columns(time_s[at], np.minimum.reduceat(values, at), np.maximum.reduceat(values, at))
    level = 0
    while level + 1 < len(of.levels) and rows / count >= BINS * FIRST * NEXT ** (level + 1):
        level += 1
    low, high = of.levels[level]
    wide = NEXT**level
    size = FIRST * wide
    first_bin, last_bin = first // size, (last - 1) // size
    found = np.searchsorted(of.bins.time_s, starts_s, "right") - 1
    bins = np.unique(np.clip(found // wide, first_bin, last_bin))
    bins[0] = first_bin
    begins_s = of.bins.time_s[bins * wide]
    begins_s[0] = max(float(begins_s[0]), float(of.read(first, first + 1)[0][0]))
    parts = bins - first_bin
    return Columns(
        begins_s,
        np.minimum.reduceat(low[first_bin : last_bin + 1], parts),
        np.maximum.reduceat(high[first_bin : last_bin + 1], parts),
    )
