"""What an arc is held within: the ends of each figure that a log shows, of a plan and the bands it
was kept with; and where the arc left them.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from ..plan.plan import Plan
from ..run.run import Excursion
from ..run.verification import Bands, build_ranges, format_range
from ..schema.figures import format_value
from .pulses import Pulses
from .readings import Readings, Rows, smooth_in_chunks

Ends = tuple[float | None, float | None]
# the figures that a log shows: their words and kinds of quantity
SHOWN: Mapping[str, tuple[str, str]] = {
    "current_a": ("Current", "current"),
    "peak_a": ("Peak", "current"),
    "background_a": ("Background", "current"),
    "rate_pps": ("Pulse frequency", "rate"),
    "on_pct": ("Peak time", "percent"),
    "postflow_s": ("Post-flow", "seconds"),
}
# left for less is a twitch of hand or machine, and not told: so many beats, or so long
LEFT_BEATS, LEFT_S = 2, 0.5
# over so long a steady current is told
TOLD_OVER_S = 0.25
# ends and figures are rounded each by itself
SLACK_A = 0.5


def format_excursion(spell: Excursion) -> str:
    """A spell outside in words while it lasts: "Peak 128 A, held 99 A to 121 A"."""
    words, quantity = SHOWN[spell.what]
    none = spell.what == "rate_pps" and not spell.worst
    value = "none" if none else format_value(spell.worst, quantity, "mm")
    return f"{words} {value}, allowed {format_range((spell.low, spell.high), quantity, 'mm')}"


def excursion_text(spell: Excursion) -> str:
    """A spell outside in words: "Peak 128 A, held 99 A to 121 A, from 12.3 s to 14.0 s"."""
    if spell.what not in SHOWN:
        return spell.what
    return f"{format_excursion(spell)}, from {spell.start_s:.1f} s to {spell.end_s:.1f} s"


def get_limits(plan: Plan, bands: Bands | None = None) -> dict[str, Ends]:
    """The ends that an arc is held within, {figure: (low, high)}: peak, background, rate and on
    time of a pulse, else the current; post-flow.

    Parameters: bands, those that a procedure was kept with; else the plan's own. The background's
    are its share of the peak's. Estimate, as the bands are.
    """
    known = {**build_ranges(plan), **(bands or {})}

    def ends(key: str) -> Ends:
        low, high = known[key]
        return (low, high)

    found: dict[str, Ends] = {"postflow_s": ends("postflow_s")}
    # by the pedal there is no rate that a machine keeps
    if not plan.pulse.pulsed:
        return found | {"current_a": ends("current_a")}
    (low_pct, high_pct), peak = ends("background_pct"), plan.pulse.peak_a
    background = tuple(
        None if of is None else round(of / 100 * peak, 1) for of in (low_pct, high_pct)
    )
    return found | {
        "peak_a": ends("machine_a"),
        "background_a": (background[0], background[1]),
        "rate_pps": ends("rate_pps"),
        "on_pct": ends("on_pct"),
    }


def is_out(value: float, ends: Sequence[float | None], slack: float = 0.0) -> bool:
    """Whether a value is outside ends, with a slack."""
    low, high = ends
    return (low is not None and value < low - slack) or (high is not None and value > high + slack)


def find_pulse_excursions(
    part: Readings, pulses: Pulses, held: Mapping[str, Ends]
) -> list[Excursion]:
    """Where the beats of a stretch left what they are held within. By definition."""
    import numpy as np

    rises, falls = pulses.rises, pulses.falls
    seams = np.empty(2 * len(rises), dtype=np.intp)
    seams[::2], seams[1::2] = rises, falls
    sums = np.add.reduceat(part.current_a, seams, dtype=np.float64)
    counts = np.diff(np.append(seams, part.rows))
    mean = sums / np.maximum(1, counts)
    start, end = part.time_s[rises[:-1]], part.time_s[rises[1:]]
    beat = end - start
    # a beat that was not read whole tells nothing
    whole = beat < 1.5 * float(np.median(beat))
    told = {
        "peak_a": (mean[::2][:-1], SLACK_A),
        "background_a": (mean[1::2][:-1], SLACK_A),
        "rate_pps": (1 / beat, 0.0),
        "on_pct": (100 * (part.time_s[falls[:-1]] - start) / beat, 0.5),
    }
    found = []
    for what, (values, slack) in told.items():
        if what in held:
            found += _find_intervals(what, values, start, end, held[what], slack, LEFT_BEATS, whole)
    return found


def find_steady_excursions(part: Readings, held: Mapping[str, Ends]) -> list[Excursion]:
    """Where a steady current left what it is held within. By definition."""
    import numpy as np

    if "current_a" not in held:
        return []
    rows = 2 * int(TOLD_OVER_S / part.step_s / 2) + 1
    values = np.empty(part.rows, dtype=part.current_a.dtype)
    for at, seen in smooth_in_chunks(part.current_a, rows):
        values[at : at + len(seen)] = seen
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
    what: str,
    values: Rows,
    start_s: Rows,
    end_s: Rows,
    ends: Ends,
    slack: float,
    least: int,
    whole: Rows | None,
) -> list[Excursion]:
    """Spells of so many values at least outside.

    Args:
        start_s: Start of each value, s.
        end_s: End of each value, s. The last value can have none.
    """
    import numpy as np

    low, high = ends
    out = np.zeros(len(values), dtype=bool)
    if low is not None:
        out |= values < low - slack
    if high is not None:
        out |= values > high + slack
    if whole is not None:
        out &= whole
    if not out.any():
        return []
    turned = np.flatnonzero(np.diff(out, prepend=False, append=False))
    found = []
    for first, after in zip(turned[::2], turned[1::2], strict=True):
        if after - first >= least:
            spell = values[first:after]
            over = high is not None and float(spell.max()) - high > (low or 0.0) - float(
                spell.min()
            )
            worst = float(spell.max() if over or low is None else spell.min())
            found.append(
                Excursion(
                    what,
                    float(start_s[first]),
                    float(end_s[min(after, len(end_s)) - 1]),
                    worst,
                    low,
                    high,
                )
            )
    return found
