"""Pulses in a stretch of arc: two levels told apart, and from one to the other and back the rate
and the share on.

Estimate, of our own: two levels by the split of their spread (Otsu's criterion, published: N. Otsu
1979), edges by two thresholds, so that scatter makes none.
"""

from __future__ import annotations

from msgspec import Struct

from .readings import CHUNK, Readings, Rows, smooth_rows

# two levels are so far apart at least, A and in scatters of the current, and so much of all spread
# lies between them: of one level with scatter 0.64, of a
# slope 0.75 does
APART_A, APART_SCATTERS, SPLIT = 3.0, 3.5, 0.78
# the width of a bin of currents, A
BIN_A = 0.1
# smoothed until the scatter is so small a share of what lies between the levels, over so much of
# the shorter phase at most
SCATTER_SHARE, PHASE_SHARE = 1 / 14, 0.2
# from one rise to the next, against what is usual: shorter or longer is a reading lost or a slip,
# and no beat
BEAT_LOW, BEAT_HIGH = 0.55, 1.5
MIN_BEATS = 3
# an edge is passed so far from either level, of what lies between them: scatter passes it not
# twice, and a peak that is a quarter lower still does
EDGE_SHARE = 0.38


class Pulses(Struct, frozen=True, eq=False):
    """Pulses of a stretch: rate 1/s, share on, peak and background A; the rows where each rises and
    falls (one fall after each rise).
    """

    rate_pps: float
    on: float
    peak_a: float
    background_a: float
    rises: Rows
    falls: Rows


def find_pulses(part: Readings, scatter_a: float) -> Pulses | None:
    """The pulses in readings between slope and taper; None where the arc is steady, or was read too
    seldom to tell.

    Parameters: scatter_a, how the current scatters from row to row.
    """
    levels = find_two_levels(part.current_a, scatter_a)
    if levels is None:
        return None
    low, high = levels
    found = None
    rows = 1
    for _ in range(2):
        found = _find_pulse_cycles(part, low, high, rows)
        if found is None:
            return None
        wanted = _choose_smoothing_rows(scatter_a, high - low, found, part.step_s)
        if wanted <= rows:
            break
        rows = wanted
    return found


def find_two_levels(current_a: Rows, scatter_a: float) -> tuple[float, float] | None:
    """The two levels that currents lie at, A, lower first; None where they lie at one, or along a
    slope.

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
    # where in its bin it lies; a bin is told by its middle
    return (
        float((i - 0.5 + (half - before) / max(1, bins[i])) * BIN_A)
        if bins[i] < total[-1]
        else float(i * BIN_A)
    )


def _choose_smoothing_rows(scatter_a: float, apart_a: float, found: Pulses, step_s: float) -> int:
    """Over how many rows to smooth, an odd number."""
    wanted = (scatter_a / (SCATTER_SHARE * apart_a)) ** 2
    most = PHASE_SHARE * min(found.on, 1 - found.on) / found.rate_pps / step_s
    return 2 * int(min(wanted, most) // 2) + 1


def _find_pulse_cycles(part: Readings, low: float, high: float, rows: int) -> Pulses | None:
    import numpy as np

    current, far = smooth_rows(part.current_a, rows), EDGE_SHARE * (high - low)
    up, down = _find_starts(current > high - far), _find_starts(current < low + far)
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
    """The rows at which something begins to be true."""
    import numpy as np

    found: Rows = np.flatnonzero(true[1:] & ~true[:-1]) + 1
    return np.concatenate(([0], found)) if len(true) and true[0] else found
