"""The least and the most of a log at every zoom, so that no spike is ever lost between two columns
of a plot.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from .readings import Rows

# how many rows, then how many bins below, stand in a bin
FIRST, NEXT = 32, 8
# a column is made of so many bins at least: where it begins is then out by less than a part of it
BINS = 8


@dataclass(frozen=True, eq=False)
class Columns:
    """The columns of a plot: where each begins s, the least and the most of it."""

    start_s: Rows
    low: Rows
    high: Rows


def pyramid_of(values: Rows) -> list[tuple[Rows, Rows]]:
    """The least and the most of each bin of values, level by level, coarser each time."""
    levels: list[tuple[Rows, Rows]] = []
    low = high = values
    size = FIRST
    while len(low) > 4 * size:
        at = np.arange(0, len(low), size)
        low, high = np.minimum.reduceat(low, at), np.maximum.reduceat(high, at)
        levels.append((low, high))
        size = NEXT
    return levels


def columns(
    time_s: Rows,
    values: Rows,
    levels: Sequence[tuple[Rows, Rows]],
    from_s: float,
    to_s: float,
    count: int,
) -> Columns:
    """The columns of a plot from a time to another: the least and most of every row that lies in
    each, those at both ends with their neighbours.

    Parameters: levels, of `pyramid_of`; count, how many columns at most. By definition: no row is
    in none.
    """
    first = max(0, int(np.searchsorted(time_s, from_s, "right")) - 1)
    last = min(len(time_s), int(np.searchsorted(time_s, to_s, "left")) + 1)
    rows = last - first
    if rows <= 2 * count:
        at = np.arange(first, last)
        return Columns(time_s[at], values[at], values[at])
    size, low, high = 1, values, values
    for i, (least, most) in enumerate(levels):
        if rows / count < BINS * FIRST * NEXT**i:
            break
        size, low, high = FIRST * NEXT**i, least, most
    edges = np.searchsorted(time_s[first:last], np.linspace(from_s, to_s, count + 1)[:-1]) + first
    bins = np.unique(np.clip(edges // size, first // size, (last - 1) // size))
    bins[0] = first // size
    end = (last - 1) // size + 1
    shift = int(bins[0])
    parts = bins - shift
    return Columns(
        time_s[np.minimum(np.maximum(bins * size, first), len(time_s) - 1)],
        np.minimum.reduceat(low[shift:end], parts),
        np.maximum.reduceat(high[shift:end], parts),
    )
