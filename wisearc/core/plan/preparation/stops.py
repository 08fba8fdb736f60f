"""The places on a seam to pause and prop the hand again.

A welder works within the arc of the wrist. Tacks and hidden places are the best stops. Common
practice.
"""

import math
from typing import Annotated

from msgspec import Struct

from ...joint.joint import Joint
from ...joint.section import Section
from ...quantities import Quantity, length
from ...reasons import Sentence, Words
from ...schema.figures import Figure
from .tacks import Tacks

# What the wrist reaches in one position.
MIN_REACH_MM, MAX_REACH_MM = 40.0, 60.0
CLOCK_HOURS = 12
# The lower half of a tube is the hidden one, between these hours.
HIDDEN_CLOCKS = (4.0, 8.0)
MAX_STOPS, MAX_DISPLAYED = 200, 8


class PausePoint(Struct, frozen=True):
    """A place to pause.

    Its distance from the start mm, or on a seam round a tube its hour on the clock, and whether a
    restart is hidden there.
    """

    at_mm: Annotated[float | None, Figure("Stop at", "length", 1)]
    at_clock: Annotated[float | None, Figure("Stop at the hour", "plain", 1)]
    hidden: Annotated[bool, Figure("Hidden")]


def list_stops(joint: Joint, section: Section, tacks: Tacks) -> tuple[PausePoint, ...]:
    """Return the places to pause in welding order, hidden ones preferred.

    Args:
        joint: The joint.
        section: Its section.
        tacks: The tacks.

    References:
        Common practice.
    """
    seam = section.length_mm
    if seam <= MAX_REACH_MM:
        return ()
    if joint.position.has("fixed_tube"):
        return tuple(_list_fixed_stops(seam))
    if joint.all_round:
        return tuple(_list_round_stops(seam))
    return tuple(
        PausePoint(at, None, False) for at in _list_straight_stops(seam, tacks.positions_mm)
    )


def _list_straight_stops(seam: float, tacks: tuple[float, ...]) -> list[float]:
    """Return the stops of a straight seam, mm: the last tack within the reach, or equal parts."""
    stops: list[float] = []
    at = 0.0
    while seam - at > MAX_REACH_MM + 1e-9 and len(stops) < MAX_STOPS:
        within = [t for t in tacks if MIN_REACH_MM <= t - at <= MAX_REACH_MM + 1e-9]
        parts = math.ceil((seam - at) / MAX_REACH_MM - 1e-9)
        at = max(within, default=at + (seam - at) / parts)
        if seam - at < 1.0:
            break
        stops.append(at)
    return stops


def _list_round_stops(seam: float) -> list[PausePoint]:
    """Return the stops of a seam that turns: equal parts from the hidden bottom on."""
    parts = max(2, math.ceil(seam / MAX_REACH_MM - 1e-9))
    hours = [(6 + CLOCK_HOURS * i / parts) % CLOCK_HOURS for i in range(1, parts)]
    return [PausePoint(None, hour or 12.0, _is_hidden(hour)) for hour in hours[:MAX_STOPS]]


def _list_fixed_stops(seam: float) -> list[PausePoint]:
    """Return the stops of a fixed tube: both halves at 3 and 9 o'clock, and within the reach.

    Each half runs from just past the bottom to just past the top.
    """
    quarter_parts = max(1, math.ceil(seam / 4 / MAX_REACH_MM - 1e-9))
    stops: list[PausePoint] = []
    for sign in (-1, 1):
        hours = [
            (6 + sign * 3 * i / quarter_parts) % CLOCK_HOURS for i in range(1, 2 * quarter_parts)
        ]
        stops += [PausePoint(None, hour or 12.0, _is_hidden(hour)) for hour in hours]
    return stops[:MAX_STOPS]


def _is_hidden(hour: float) -> bool:
    low, high = HIDDEN_CLOCKS
    return low <= hour <= high


def describe_stops(stops: tuple[PausePoint, ...]) -> Words:
    """Return the places to pause in words, the first few of many."""
    displayed = stops[:MAX_DISPLAYED]
    more = len(stops) - len(displayed)
    figures: dict[str, Quantity | str] = {}
    places = []
    for i, stop in enumerate(displayed):
        figures[f"p{i}"] = (
            length(stop.at_mm) if stop.at_mm is not None else format_clock(stop.at_clock or 12.0)
        )
        places.append(f"{{p{i}}}" + (" (hidden)" if stop.hidden else ""))
    text = "at " + ", ".join(places) + (f" and {more} more" if more else "")
    return Sentence(text, **figures)


def format_clock(hour: float) -> str:
    """Return an hour in words.

    >>> format_clock(3.0), format_clock(4.5), format_clock(12.0)
    ("3 o'clock", 'half past 4', "12 o'clock")
    """
    full_hour, rest = int(hour), hour - int(hour)
    if abs(rest - 0.5) < 0.01:
        return f"half past {full_hour or 12}"
    minutes = round(60 * rest)
    return (
        f"{full_hour or 12} o'clock" if minutes in (0, 60) else f"{full_hour or 12}:{minutes:02d}"
    )
