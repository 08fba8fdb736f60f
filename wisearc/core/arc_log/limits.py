"""Limits of the arc, from a plan and its saved ranges, and the excursions of a log from them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from ..plan.plan import Plan
from ..run.run import Excursion
from ..run.verification import Bands, build_ranges, format_range
from ..schema.figures import format_value
from .pulses import Pulses
from .readings import Readings, Rows, smooth_in_chunks

Ends = tuple[float | None, float | None]
# The figures of a log: label and kind of quantity.
LABELS: Mapping[str, tuple[str, str]] = {
    "current_a": ("Current", "current"),
    "peak_a": ("Peak", "current"),
    "background_a": ("Background", "current"),
    "rate_pps": ("Pulse frequency", "rate"),
    "on_pct": ("Peak time", "percent"),
    "postflow_s": ("Post-flow", "seconds"),
}
# A shorter excursion is noise of the machine or the torch and is not reported: pulse cycles, or
# time.
LEFT_BEATS, LEFT_S = 2, 0.5
# A steady current is averaged over this time before the comparison, s.
MIN_EXCURSION_S = 0.25
# Limits and figures are rounded separately, so they can differ by this amount.
SLACK_A = 0.5


def format_excursion(spell: Excursion) -> str:
    """Return the text of a current excursion, for example "Peak 128 A, held 99 A to 121 A"."""
    text, quantity = LABELS[spell.what]
    none = spell.what == "rate_pps" and not spell.worst
    value = "none" if none else format_value(spell.worst, quantity, "mm")
    return f"{text} {value}, allowed {format_range((spell.low, spell.high), quantity, 'mm')}"


def excursion_text(spell: Excursion) -> str:
    """Return the text of an excursion with its times.

    Example: "Peak 128 A, held 99 A to 121 A, from 12.3 s to 14.0 s".
    """
    if spell.what not in LABELS:
        return spell.what
    return f"{format_excursion(spell)}, from {spell.start_s:.1f} s to {spell.end_s:.1f} s"


def get_limits(plan: Plan, bands: Bands | None = None) -> dict[str, Ends]:
    """Return the limits of the arc, as {figure: (low, high)}.

    The figures are peak, background, frequency and peak time of a pulse, or else the current; and
    the post-flow.

    Args:
        plan: The plan.
        bands: The ranges saved with the procedure, or None for the ranges of the plan.

    References:
        Estimate, as the ranges are. The range of the background is its fraction of the peak range.
    """
    known = {**build_ranges(plan), **(bands or {})}

    def ends(key: str) -> Ends:
        low, high = known[key]
        return (low, high)

    limits: dict[str, Ends] = {"postflow_s": ends("postflow_s")}
    # A pedal has no fixed frequency.
    if not plan.pulse.pulsed:
        return limits | {"current_a": ends("current_a")}
    (low_pct, high_pct), peak = ends("background_pct"), plan.pulse.peak_a
    background = tuple(
        None if of is None else round(of / 100 * peak, 1) for of in (low_pct, high_pct)
    )
    return limits | {
        "peak_a": ends("machine_a"),
        "background_a": (background[0], background[1]),
        "rate_pps": ends("rate_pps"),
        "on_pct": ends("on_pct"),
    }


def is_out(value: float, ends: Sequence[float | None], slack: float = 0.0) -> bool:
    """Return whether a value is outside its limits.

    Args:
        value: The value.
        ends: The low and the high limit. None is no limit.
        slack: The tolerance, in the unit of the value.
    """
    low, high = ends
    return (low is not None and value < low - slack) or (high is not None and value > high + slack)


def find_pulse_excursions(
    part: Readings, pulses: Pulses, held: Mapping[str, Ends]
) -> list[Excursion]:
    """Return the excursions of the pulse cycles of an interval, by definition.

    Args:
        part: The readings of the interval.
        pulses: Its pulses.
        held: The limits by figure.
    """
    import numpy as np

    rises, falls = pulses.rises, pulses.falls
    seams = np.empty(2 * len(rises), dtype=np.intp)
    seams[::2], seams[1::2] = rises, falls
    sums = np.add.reduceat(part.current_a, seams, dtype=np.float64)
    counts = np.diff(np.append(seams, part.rows))
    mean = sums / np.maximum(1, counts)
    start, end = part.time_s[rises[:-1]], part.time_s[rises[1:]]
    beat = end - start
    # An incomplete cycle gives no figure.
    is_complete = beat < 1.5 * float(np.median(beat))
    measured = {
        "peak_a": (mean[::2][:-1], SLACK_A),
        "background_a": (mean[1::2][:-1], SLACK_A),
        "rate_pps": (1 / beat, 0.0),
        "on_pct": (100 * (part.time_s[falls[:-1]] - start) / beat, 0.5),
    }
    excursions = []
    for key, (values, slack) in measured.items():
        if key in held:
            excursions += _find_intervals(
                key, values, start, end, held[key], slack, LEFT_BEATS, is_complete
            )
    return excursions


def find_steady_excursions(part: Readings, held: Mapping[str, Ends]) -> list[Excursion]:
    """Return the excursions of a steady current, by definition.

    Args:
        part: The readings of the interval.
        held: The limits by figure.
    """
    import numpy as np

    if "current_a" not in held:
        return []
    rows = 2 * int(MIN_EXCURSION_S / part.step_s / 2) + 1
    values = np.empty(part.rows, dtype=part.current_a.dtype)
    for at, smoothed in smooth_in_chunks(part.current_a, rows):
        values[at : at + len(smoothed)] = smoothed
    return _find_intervals(
        "current_a",
        values,
        part.time_s,
        part.time_s[1:],
        held["current_a"],
        SLACK_A,
        max(2, int(LEFT_S / part.step_s)),
        None,
    )


def _find_intervals(
    key: str,
    values: Rows,
    start_s: Rows,
    end_s: Rows,
    ends: Ends,
    slack: float,
    minimum: int,
    is_complete: Rows | None,
) -> list[Excursion]:
    """Return the intervals in which a minimum number of consecutive values is outside.

    Args:
        key: The figure.
        values: Its values.
        start_s: Start of each value, s.
        end_s: End of each value, s. The last value can have none.
        ends: The limits.
        slack: The tolerance.
        minimum: The minimum number of values.
        is_complete: Which values count, or None for all.
    """
    import numpy as np

    low, high = ends
    out = np.zeros(len(values), dtype=bool)
    if low is not None:
        out |= values < low - slack
    if high is not None:
        out |= values > high + slack
    if is_complete is not None:
        out &= is_complete
    if not out.any():
        return []
    turned = np.flatnonzero(np.diff(out, prepend=False, append=False))
    excursions = []
    for first, after in zip(turned[::2], turned[1::2], strict=True):
        if after - first >= minimum:
            spell = values[first:after]
            over = high is not None and float(spell.max()) - high > (low or 0.0) - float(
                spell.min()
            )
            worst = float(spell.max() if over or low is None else spell.min())
            excursions.append(
                Excursion(
                    key,
                    float(start_s[first]),
                    float(end_s[min(after, len(end_s)) - 1]),
                    worst,
                    low,
                    high,
                )
            )
    return excursions
