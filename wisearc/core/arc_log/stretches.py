"""Find the arc intervals between strikes and breaks, with their up-slope and down-slope.

Estimate: the thresholds.
"""

from __future__ import annotations

from .readings import Readings, Rows, smooth_in_chunks, smooth_rows

# No machine has a stable arc below this current. The minimum background is 5 A, and half of it
# separates on from off.
ON_A = 2.5
# The noise is smoothed until it is this fraction of the threshold, over at most this time.
ON_SCATTERS, MAX_SMOOTH_S = 4.0, 0.06
# A shorter break is a lost reading. A shorter arc is a spark.
MIN_OFF_S, MIN_ON_S = 0.25, 0.15
# A short interval is an arc only with this charge, and with this fraction of the charge of the
# strongest interval. Noise around zero has less, a tack more.
SHORT_S, CARRIES_A, CARRIES_SHARE, LONG_CARRIES_A = 2.0, 4.0, 0.15, 3.0
# The ends of an arc exceed the noise by this factor.
CLEAR_SCATTERS = 3.0
# A slope is measured on a line through these fractions of the level. A shorter slope is none, at
# any log rate.
FULL, HALF, QUARTER, MIN_SLOPE_S, MAX_SLOPE_S = 0.9, 0.5, 0.25, 0.03, 30.0
MAX_MIDDLE_SHARE, _LEVELS = 0.76, 4
# A background above this fraction of the peak shows slopes that are shorter than a cycle: estimate.
SHALLOW = 0.5


def find_intervals(all_rows: Readings) -> list[tuple[int, int]]:
    """Return the arc intervals as (first row, row after the last).

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
    # The time without arc between one interval and the next.
    off = time[first[1:]] - time[last[:-1]]
    # Lost rows are no break. Only rows with the arc off count.
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
    for at, values in smooth_in_chunks(current_a, rows):
        on[at : at + len(values)] = values >= ON_A
    return on


def _trim_interval(all_rows: Readings, first: int, last: int) -> tuple[int, int]:
    """Return an interval without the noise before and after it."""
    import numpy as np

    current = all_rows.current_a[first:last]
    level = float(np.quantile(current[:: max(1, len(current) // 20_000)], 0.9))
    clear = max(ON_A, min(CLEAR_SCATTERS * all_rows.scatter_a, level / 2))
    return first + _count_rows_below(current, clear), last - _count_rows_below(current[::-1], clear)


def _count_rows_below(current: Rows, clear: float) -> int:
    """Return the number of rows before the current first reaches a level, or zero if never."""
    import numpy as np

    window = 1000
    while True:
        reached = current[:window] >= clear
        if reached.any() or window >= len(current):
            return int(np.argmax(reached))
        window *= 10


def measure_slopes(
    part: Readings, level_a: float, beat_s: float, phase_s: float, floor_a: float = 0.0
) -> tuple[float, float]:
    """Return the up-slope and the down-slope of an interval, s.

    The slope is a line through half and nine tenths of the level. With pulses the line goes through
    the peaks, so that a slope shorter than a cycle is invisible. With shallow pulses the background
    shows such slopes.

    Args:
        part: The readings.
        level_a: Peak or steady current, A.
        beat_s: Cycle time, s, or 0.
        phase_s: Length of the shorter phase, s.
        floor_a: Background current, A.

    Returns:
        Up-slope and down-slope, s.
    """
    rows = _count_rows_in(part, phase_s / 3)
    # A longer interval is the weld.
    window = min(part.rows, max(1000, int(MAX_SLOPE_S / part.step_s)))
    head, tail = (
        smooth_rows(part.current_a[:window], rows),
        smooth_rows(part.current_a[-window:], rows),
    )
    # Between two peaks the current is at its background. That is no slope.
    shortest = max(beat_s, 2 * part.step_s, MIN_SLOPE_S)
    up, down = (
        _ramp_s(times, values, level_a)
        for times, values in (
            (part.time_s[:window], head),
            (-part.time_s[-window:][::-1], tail[::-1]),
        )
    )
    up, down = (s if s > shortest else 0.0 for s in (up, down))
    if floor_a >= SHALLOW * level_a and not (up and down):
        below_up, below_down = _measure_below_floor(part, floor_a, window)
        up, down = up or below_up, down or below_down
    total = float(part.time_s[-1] - part.time_s[0])
    return min(up, total / 2), min(down, total / 2)


def _measure_below_floor(part: Readings, floor_a: float, window: int) -> tuple[float, float]:
    """Return the times to reach and to leave the background, s, if longer than the smoothing."""
    rows = _count_rows_in(part, MAX_SMOOTH_S)
    current = smooth_rows(part.current_a, rows)
    minimum = max(MIN_SLOPE_S, 3 * rows * part.step_s)
    ends = (
        _left_s(part.time_s[:window], current[:window], floor_a),
        _left_s(-part.time_s[-window:][::-1], current[-window:][::-1], floor_a),
    )
    up, down = (s if s > minimum else 0.0 for s in ends)
    return up, down


def _left_s(time_s: Rows, seen_a: Rows, floor_a: float) -> float:
    """Return the time to reach the background, s.

    The line goes through a quarter and half of it, below all pulses.
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
    """Return the time to reach a level, s, on the line through half and nine tenths of it.

    A lower plateau at the start then becomes the level.
    """
    import numpy as np

    for _ in range(_LEVELS):
        reached = seen_a >= FULL * level_a
        if not reached.any():
            return 0.0
        full, half = int(np.argmax(reached)), int(np.argmax(seen_a >= HALF * level_a))
        # On a slope the middle third reaches two thirds at most.
        middle = seen_a[full // 3 : 2 * full // 3 + 1]
        max_a = float(middle.max())
        if full < 6 or max_a <= MAX_MIDDLE_SHARE * level_a:
            break
        level_a = max_a
    first, share = float(time_s[full]), (1 - FULL) / (FULL - HALF)
    return first - float(time_s[0]) + share * (first - float(time_s[half]))


def _count_rows_in(part: Readings, seconds: float) -> int:
    return 2 * int(seconds / part.step_s / 2) + 1


def find_gas_times(
    all_rows: Readings, intervals: list[tuple[int, int]]
) -> list[tuple[float | None, float | None]]:
    """Return the pre-flow and the post-flow of each interval, s.

    A value is None if the log has no gas, or ends before the gas does.

    Args:
        all_rows: The readings of the log.
        intervals: The intervals, from `find_intervals`.
    """
    import numpy as np

    if all_rows.gas is None:
        return [(None, None)] * len(intervals)
    on: Rows = all_rows.gas > 0
    turned = np.flatnonzero(on[1:] != on[:-1]) + 1
    time, gas_times = all_rows.time_s, []
    for first, last in intervals:
        last = min(last, len(on) - 1)
        i, j = (
            int(np.searchsorted(turned, first, "right")),
            int(np.searchsorted(turned, last, "right")),
        )
        before = (float(time[first] - time[turned[i - 1]]) if i else None) if on[first] else 0.0
        after = (
            (float(time[turned[j]] - time[last]) if j < len(turned) else None) if on[last] else 0.0
        )
        gas_times.append((before, after))
    return gas_times
