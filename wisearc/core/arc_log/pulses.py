"""Find the pulses in an arc interval: the two levels, the frequency and the peak time.

Estimate. The levels are the split of the distribution by Otsu's criterion (N. Otsu 1979,
published). Edges need two thresholds, so that noise makes no edges.
"""

from __future__ import annotations

from msgspec import Struct

from .readings import CHUNK, Readings, Rows, smooth_rows

# Two levels are at least this far apart, A and in noise widths of the current, and this fraction of
# the total variance lies between them. One noisy level reaches 0.64 and a slope 0.75.
APART_A, APART_SCATTERS, SPLIT = 3.0, 3.5, 0.78
# The width of a current bin, A.
BIN_A = 0.1
# The current is smoothed until the noise is this fraction of the distance between the levels, over
# at most this fraction of the shorter phase.
SCATTER_SHARE, PHASE_SHARE = 1 / 14, 0.2
# The time from one rise to the next, as a fraction of the usual cycle. A shorter or longer cycle
# comes from a lost reading or a slip.
BEAT_LOW, BEAT_HIGH = 0.55, 1.5
MIN_BEATS = 3
# An edge passes this fraction of the distance from either level. Noise does not pass twice; a peak
# that is a quarter lower still does.
EDGE_SHARE = 0.38


class Pulses(Struct, frozen=True, eq=False):
    """The pulses of an interval: frequency 1/s, peak time as a fraction, peak and background A.

    The rows of each rise and fall are included, with one fall after each rise.
    """

    rate_pps: float
    on: float
    peak_a: float
    background_a: float
    rises: Rows
    falls: Rows


def find_pulses(part: Readings, scatter_a: float) -> Pulses | None:
    """Find the pulses between the slopes.

    Return None for a steady arc or for a log rate that is too low.

    Args:
        part: The readings between up-slope and down-slope.
        scatter_a: The noise of the current between rows, A.
    """
    levels = find_two_levels(part.current_a, scatter_a)
    if levels is None:
        return None
    low, high = levels
    pulses = None
    rows = 1
    for _ in range(2):
        pulses = _find_pulse_cycles(part, low, high, rows)
        if pulses is None:
            return None
        wanted = _choose_smoothing_rows(scatter_a, high - low, pulses, part.step_s)
        if wanted <= rows:
            break
        rows = wanted
    return pulses


def find_two_levels(current_a: Rows, scatter_a: float) -> tuple[float, float] | None:
    """Return the two levels of a current, A, the lower one first.

    Return None for one level or for a slope.

    Args:
        current_a: The current, A, an array of n rows.
        scatter_a: The noise of the current between rows, A.

    >>> import numpy as np
    >>> find_two_levels(np.array([10.0] * 70 + [100.0] * 30), 0.0)
    (10.0, 100.0)
    """
    import numpy as np

    bins = _count_bins(current_a)
    at = np.arange(len(bins)) * BIN_A
    count, total = np.cumsum(bins), np.cumsum(bins * at)
    n, mean = count[-1], total[-1] / count[-1]
    below = count / n
    inside = (below > 0.01) & (below < 0.99)
    if not inside.any():
        return None
    between = np.zeros(len(bins))
    between[inside] = (mean * below[inside] - total[inside] / n) ** 2 / (
        below[inside] * (1 - below[inside])
    )
    split = int(np.flatnonzero(between > between.max() * (1 - 1e-9)).mean())
    spread = float((bins * (at - mean) ** 2).sum()) / n
    low, high = (
        _find_median(bins[: split + 1]),
        split * BIN_A + BIN_A + _find_median(bins[split + 1 :]),
    )
    if high - low < max(APART_A, APART_SCATTERS * scatter_a) or between.max() < SPLIT * spread:
        return None
    return round(low, 3), round(high, 3)


def _count_bins(current_a: Rows) -> Rows:
    """Return the number of rows in each current bin of width BIN_A."""
    import numpy as np

    last_bin = int(max(0.0, float(current_a.max())) / BIN_A + 0.5) + 1
    bins = np.zeros(last_bin + 1, dtype=np.int64)
    for at in range(0, len(current_a), CHUNK):
        part = np.maximum(current_a[at : at + CHUNK], 0) * (1 / BIN_A) + 0.5
        bins += np.bincount(part.astype(np.int32), minlength=len(bins))
    return bins


def _find_median(bins: Rows) -> float:
    import numpy as np

    total = np.cumsum(bins)
    half = total[-1] / 2
    i = int(np.searchsorted(total, half))
    before = total[i - 1] if i else 0
    # Position inside its bin. The centre of a bin represents it.
    return (
        float((i - 0.5 + (half - before) / max(1, bins[i])) * BIN_A)
        if bins[i] < total[-1]
        else float(i * BIN_A)
    )


def _choose_smoothing_rows(scatter_a: float, apart_a: float, pulses: Pulses, step_s: float) -> int:
    """Return the number of rows for the smoothing, an odd number."""
    wanted = (scatter_a / (SCATTER_SHARE * apart_a)) ** 2
    maximum = PHASE_SHARE * min(pulses.on, 1 - pulses.on) / pulses.rate_pps / step_s
    return 2 * int(min(wanted, maximum) // 2) + 1


def _find_pulse_cycles(part: Readings, low: float, high: float, rows: int) -> Pulses | None:
    import numpy as np

    current, edge_a = smooth_rows(part.current_a, rows), EDGE_SHARE * (high - low)
    up, down = _find_starts(current > high - edge_a), _find_starts(current < low + edge_a)
    at = np.concatenate((up, down))
    order = np.argsort(at, kind="stable")
    at, rising = at[order], order < len(up)
    turns = np.flatnonzero(np.diff(rising, prepend=not rising[0])) if len(at) else at
    at, rising = at[turns], rising[turns]
    if len(at) and not rising[0]:
        at, rising = at[1:], rising[1:]
    pairs = len(at) // 2 * 2
    rises, falls = at[:pairs:2], at[1:pairs:2]
    if len(rises) < MIN_BEATS:
        return None
    rise_s, fall_s = part.time_s[rises], part.time_s[falls]
    beats = np.diff(rise_s)
    usual = float(np.median(beats))
    kept = (beats > BEAT_LOW * usual) & (beats < BEAT_HIGH * usual)
    if np.count_nonzero(kept) < MIN_BEATS - 1:
        return None
    beat = float(beats[kept].mean())
    on = float((fall_s[:-1] - rise_s[:-1])[kept].sum() / beats[kept].sum())
    if not 0 < on < 1:
        return None
    return Pulses(1 / beat, on, high, low, rises, falls)


def _find_starts(true: Rows) -> Rows:
    """Return the rows at which a condition becomes true."""
    import numpy as np

    starts: Rows = np.flatnonzero(true[1:] & ~true[:-1]) + 1
    return np.concatenate(([0], starts)) if len(true) and true[0] else starts
