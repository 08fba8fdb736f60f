"""The cues of a run: the texts of each step and their times, for a welder under the hood.

Common practice: a cue precedes its act, and exists only where the welder has to act.
"""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct

from .steps import FILLING, PURGE_CLOSE, PURGE_OFF, PURGE_WELD, Step

# A pause is announced this far ahead of it, mm. A shorter part of a seam has no half. Estimates:
# two to four seconds of travel.
PAUSE_AHEAD_MM, MIN_HALF_S = 10.0, 20.0
_BY_KEY = {PURGE_WELD: "purge-down", PURGE_CLOSE: "purge-down"}
_BY_START = {"true": "square", "look": "square", "bars": "bars", "again": "restart", "done": "done"}


class Cue(Struct, frozen=True):
    """A cue: its key in the catalogue, its time in the step s, and its figures.

    In a seam the time is arc time of that part of the seam, so that a restart repeats no cue.
    """

    key: str
    at_s: float
    values: Mapping[str, float] = {}


def list_cues(step: Step, speed_mm_s: float) -> tuple[Cue, ...]:
    """Return the cues of a step in order of time.

    Args:
        step: The step.
        speed_mm_s: The planned travel speed, mm/s.
    """
    if step.phase == "seam":
        return _list_seam_cues(step, speed_mm_s)
    if step.key == FILLING and step.about_s is not None:
        return (Cue("purge", step.about_s),)
    if step.key == PURGE_OFF and step.down_s is not None:
        return (Cue("purge-off", step.down_s),)
    if step.phase == "hold":
        held_s = step.down_s or 0.0
        return (Cue("hold", 0.0, {"s": round(held_s)}), Cue("gas-off", held_s))
    if step.phase == "pool" and step.limit_s is not None:
        return (Cue("no-pool", step.limit_s),)
    start, _, number = step.key.partition("-")
    if start == "tack" and number.isdigit():
        return (Cue("tack", 0.0, {"n": int(number)}),)
    key = _BY_KEY.get(step.key) or _BY_START.get(start)
    return (Cue(key, 0.0),) if key else ()


def _list_seam_cues(step: Step, speed_mm_s: float) -> tuple[Cue, ...]:
    part_s = step.part_s or 0.0
    cues = [Cue("taper", part_s)]
    if part_s >= MIN_HALF_S:
        cues.append(Cue("half", part_s / 2))
    for pause_mm in step.pauses_mm:
        ahead_mm = pause_mm - step.from_mm - PAUSE_AHEAD_MM
        if ahead_mm > 0:
            cues.append(Cue("pause", ahead_mm / speed_mm_s, {"mm": PAUSE_AHEAD_MM}))
    return tuple(sorted(cues, key=lambda cue: cue.at_s))
