"""Where the arc was on: stretches between strikes and breaks, with how each came up and tapered.
Estimate: the thresholds.
"""

from __future__ import annotations

from .readings import Readings, Rows, smooth_in_chunks, smooth_rows

# no machine holds an arc at less: 5 A is what the least background is, half of it tells on from off
ON_A = 2.5
# scatter is smoothed until it is so much less than that, over so long at most
ON_SCATTERS, MAX_SMOOTH_S = 4.0, 0.06
# off for less is no break but a reading lost; on for less is no arc but a spark that did not hold
MIN_OFF_S, MIN_ON_S = 0.25, 0.15
# what is short is an arc only where it carries so much, and so much of what the strongest stretch
# does: scatter about nought carries less, a tack more
SHORT_S, CARRIES_A, CARRIES_SHARE, LONG_CARRIES_A = 2.0, 4.0, 0.15, 3.0
# at its ends an arc stands out of the scatter by so much
CLEAR_SCATTERS = 3.0
# a slope is told of a line through these shares of the level; what is shorter is none, however fast
# it is logged
FULL, HALF, QUARTER, MIN_SLOPE_S, MAX_SLOPE_S = 0.9, 0.5, 0.25, 0.03, 30.0
MAX_MIDDLE_SHARE, _LEVELS = 0.76, 4
# a background of so much of the peak tells of slopes that are shorter than a beat: estimate
SHALLOW = 0.5


def find_intervals(all_rows: Readings) -> list[tuple[int, int]]:
    """The stretches of arc, (first row, row after the last).

    >>> import numpy as np
    >>> current = np.repeat([0.0, 50.0, 0.0, 50.0, 0.0], 100)
    >>> find_intervals(Readings(np.arange(500) * 0.01, current))
    [(100, 200), (300, 400)]
    """
    import numpy as np

    time, step = all_rows.time_s, all_rows.step_s
    wanted = (ON_SCATTERS * all_rows.scatter_a / ON_A) ** 2
    rows = 2 * int(min(wanted, MAX_SMOOTH_S / step) // 2) + 1
    on = _is_on(all_rows.current_a, rows)
    edges = np.flatnonzero(on[1:] != on[:-1]) + 1
    if on[0]:
        edges = np.concatenate(([0], edges))
    if on[-1]:
        edges = np.concatenate((edges, [len(on)]))
    first, last = edges[::2], edges[1::2]
    if not len(first):
        return []
    # time off between one and the next
    off = time[first[1:]] - time[last[:-1]]
    # rows that were lost are no time off: only what was read as off is
    off = np.minimum(off, 2 * step * (first[1:] - last[:-1]))
    apart = off >= MIN_OFF_S
    first, last = first[np.concatenate(([True], apart))], last[np.concatenate((apart, [True]))]
    lasted = time[np.minimum(last, len(time) - 1)] - time[first]
    long = lasted >= MIN_ON_S
    first, last, lasted = first[long], last[long], lasted[long]
    if not len(first):
        return []
    inside = np.array(
        [all_rows.current_a[a:b].mean(dtype=np.float64) for a, b in zip(first, last, strict=True)]
    )
    real = (lasted >= SHORT_S) & (inside >= LONG_CARRIES_A) | (
        inside >= max(CARRIES_A, CARRIES_SHARE * float(inside.max()))
    )
    return [
        _trim_interval(all_rows, int(a), int(b))
        for a, b in zip(first[real], last[real], strict=True)
    ]


def _is_on(current_a: Rows, rows: int) -> Rows:
    """Return for each row whether the arc is on.

    Args:
        current_a: Current, A.
        rows: Number of rows of the mean.
    """
    import numpy as np

    on = np.empty(len(current_a), dtype=bool)
    for at, seen in smooth_in_chunks(current_a, rows):
        on[at : at + len(seen)] = seen >= ON_A
    return on


def _trim_interval(all_rows: Readings, first: int, last: int) -> tuple[int, int]:
    """A stretch without the scatter before and after it that was taken for arc."""
    import numpy as np

    current = all_rows.current_a[first:last]
    level = float(np.quantile(current[:: max(1, len(current) // 20_000)], 0.9))
    clear = max(ON_A, min(CLEAR_SCATTERS * all_rows.scatter_a, level / 2))
    return first + _count_rows_below(current, clear), last - _count_rows_below(current[::-1], clear)


def _count_rows_below(current: Rows, clear: float) -> int:
    """How many rows there are before the first at so much; none where there is none."""
    import numpy as np

    looked = 1000
    while True:
        reached = current[:looked] >= clear
        if reached.any() or looked >= len(current):
            return int(np.argmax(reached))
        looked *= 10


def measure_slopes(
    part: Readings, level_a: float, beat_s: float, phase_s: float, floor_a: float = 0.0
) -> tuple[float, float]:
    """How long a stretch took to come up to its level and to taper from it, s: (up, taper).

    Parameters: level_a, its peak or steady current; beat_s, between two peaks, or 0; phase_s, how
    long the shorter of peak and background lasts. Of a line through half and nine tenths of the
    level; with pulses, by their peaks, so that what is shorter than a beat is not seen so. Then
    floor_a, their background, tells: a slope leaves it behind, where the pulse is shallow.
    """
    rows = _count_rows_in(part, phase_s / 3)
    # what takes longer than this is run so
    looked = min(part.rows, max(1000, int(MAX_SLOPE_S / part.step_s)))
    head, tail = (
        smooth_rows(part.current_a[:looked], rows),
        smooth_rows(part.current_a[-looked:], rows),
    )
    # between two peaks it is at its background, which is no slope
    shortest = max(beat_s, 2 * part.step_s, MIN_SLOPE_S)
    up, down = (
        _ramp_s(times, values, level_a)
        for times, values in (
            (part.time_s[:looked], head),
            (-part.time_s[-looked:][::-1], tail[::-1]),
        )
    )
    up, down = (s if s > shortest else 0.0 for s in (up, down))
    if floor_a >= SHALLOW * level_a and not (up and down):
        below_up, below_down = _measure_below_floor(part, floor_a, looked)
        up, down = up or below_up, down or below_down
    total = float(part.time_s[-1] - part.time_s[0])
    return min(up, total / 2), min(down, total / 2)


def _measure_below_floor(part: Readings, floor_a: float, looked: int) -> tuple[float, float]:
    """How long a stretch took to come up to its background and to leave it, s, where that is longer
    than smoothing makes it.
    """
    rows = _count_rows_in(part, MAX_SMOOTH_S)
    current = smooth_rows(part.current_a, rows)
    least = max(MIN_SLOPE_S, 3 * rows * part.step_s)
    ends = (
        _left_s(part.time_s[:looked], current[:looked], floor_a),
        _left_s(-part.time_s[-looked:][::-1], current[-looked:][::-1], floor_a),
    )
    up, down = (s if s > least else 0.0 for s in ends)
    return up, down


def _left_s(time_s: Rows, seen_a: Rows, floor_a: float) -> float:
    """How long a current takes to come up to its background, s, by the line through a quarter and
    half of it, which no pulse reaches.
    """
    import numpy as np

    passed = seen_a >= HALF * floor_a
    if not passed.any():
        return 0.0
    half, quarter = int(np.argmax(passed)), int(np.argmax(seen_a >= QUARTER * floor_a))
    share = (1 - HALF) / (HALF - QUARTER)
    first = float(time_s[half])
    return first - float(time_s[0]) + share * (first - float(time_s[quarter]))


def _ramp_s(time_s: Rows, seen_a: Rows, level_a: float) -> float:
    """How long a current takes to come up to a level, s, by the line through half and nine tenths
    of it; what stands at less for a while first is the level then.
    """
    import numpy as np

    for _ in range(_LEVELS):
        reached = seen_a >= FULL * level_a
        if not reached.any():
            return 0.0
        full, half = int(np.argmax(reached)), int(np.argmax(seen_a >= HALF * level_a))
        # on a slope the middle third is at two thirds at most
        middle = seen_a[full // 3 : 2 * full // 3 + 1]
        at_most = float(middle.max())
        if full < 6 or at_most <= MAX_MIDDLE_SHARE * level_a:
            break
        level_a = at_most
    first, share = float(time_s[full]), (1 - FULL) / (FULL - HALF)
    return first - float(time_s[0]) + share * (first - float(time_s[half]))


def _count_rows_in(part: Readings, seconds: float) -> int:
    return 2 * int(seconds / part.step_s / 2) + 1


def find_gas_times(
    all_rows: Readings, found: list[tuple[int, int]]
) -> list[tuple[float | None, float | None]]:
    """How long the gas flowed before and after each stretch, s; None where it was not logged, or
    goes on at the log's end.
    """
    import numpy as np

    if all_rows.gas is None:
        return [(None, None)] * len(found)
    on: Rows = all_rows.gas > 0
    turned = np.flatnonzero(on[1:] != on[:-1]) + 1
    time, told = all_rows.time_s, []
    for first, last in found:
        last = min(last, len(on) - 1)
        i, j = (
            int(np.searchsorted(turned, first, "right")),
            int(np.searchsorted(turned, last, "right")),
        )
        before = (float(time[first] - time[turned[i - 1]]) if i else None) if on[first] else 0.0
        after = (
            (float(time[turned[j]] - time[last]) if j < len(turned) else None) if on[last] else 0.0
        )
        told.append((before, after))
    return told
