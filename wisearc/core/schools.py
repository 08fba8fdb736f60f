"""Where practitioners disagree: the schools, the default and why, and the joint's key that switches."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from .errors import BadInput, UnknownName


@dataclass(frozen=True)
class School:
    """One school: the value that chooses it, its name, what it says, what it costs."""

    value: str
    name: str
    says: str
    costs: str


@dataclass(frozen=True)
class Disagreement:
    """A question on which schools differ; the first school is the default."""

    key: str
    answer: str
    question: str
    schools: tuple[School, ...]
    why_default: str

    @property
    def default(self) -> str:
        return self.schools[0].value


DISAGREEMENTS: tuple[Disagreement, ...] = (
    Disagreement("rod_school", "filler", "How thick a rod?", (
        School("under-sheet", "rod under sheet", "1.0 mm for 0.8 to 2 mm sheet, 1.6 to 3.5: easier to place, kind to a small pool.", "More feeding."),
        School("equals-sheet", "rod equals sheet", "1.6 mm already on 1.5 mm sheet.", "A bigger heat sink that chills a small pool."),
    ), "On thin sheet the pool is small, and a thick rod freezes it."),
    Disagreement("pulse", "pulse", "Does pulse matter?", (
        School("auto", "first that fits", "Long corners in thin sheet slow and cold, gaps and thin tube fast, the rest steady.", "More to set."),
        School("none", "never", "Pulse is for looks and slows you down: good fit-up needs none.", "Long corners colour and bow more."),
    ), "On long corners it is the only thing that keeps the sheet flat; elsewhere the default leaves it off too."),
    Disagreement("overlap_pct", "travel", "How much should ripples lap?", (
        School("35", "35 %", "Looks the same and hides starts better; faster.", "A missed step shows."),
        School("50", "50 %", "What people say.", "Slower, so hotter."),
    ), "At 35 % the same look takes less heat."),
    Disagreement("setting_school", "current", "How far over what is needed is the machine set?", (
        School("headroom", "a little over", "The smaller of 15 A and 30 %, and the pedal holds it back.", "A cold start takes a moment longer."),
        School("ride", "double, and ride it", "Set twice what is needed and ride the pedal.", "A slip of the foot blows through."),
    ), "On thin sheet a slip must not be able to blow through."),
    Disagreement("tip_school", "tungsten", "How sharp?", (
        School("table", "by the table", "Sharper is wider, softer, shallower; blunter tighter, deeper, lasts (AWS C5.5).", "Regrind to the angle."),
        School("needle", "needle-sharp", "A pinpoint arc, say many at the bench.", "Wears sooner; below 1 mm it drills."),
    ), "The table was measured; the bench's view is kept beside it."),
    Disagreement("gas_school", "gas", "How much gas?", (
        School("full", "full", "A Reynolds number of 1200: holds in the usual draught of a shop.", "More argon."),
        School("frugal", "frugal", "A Reynolds number of 800, in still air; big cups run well on it.", "A draught spoils it."),
    ), "Most shops have a door."),
)  # fmt: skip
BY_KEY: Mapping[str, Disagreement] = {d.key: d for d in DISAGREEMENTS}


def check_school(key: str, value: str) -> None:
    """Refuse an unknown question or school. Raises UnknownName.

    >>> check_school("tip_school", "needle")
    """
    if key not in BY_KEY:
        raise UnknownName("school", key, list(BY_KEY))
    if value not in {s.value for s in BY_KEY[key].schools}:
        raise UnknownName(key, value, [s.value for s in BY_KEY[key].schools])


def joint_keys(chosen: Mapping[str, str]) -> dict[str, Any]:
    """What a shop's chosen schools set in a new joint's data. Raises BadInput for an unknown one."""
    data: dict[str, Any] = {}
    for key, value in chosen.items():
        check_school(key, value)
        if value == BY_KEY[key].default:
            continue
        try:
            data[key] = float(value) if key == "overlap_pct" else value
        except ValueError as error:
            raise BadInput(key, value, "must be a number") from error
    return data
