"""A run as it was made: what was set, used, measured, and seen on each face."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from .. import catalogue
from ..errors import BadInput
from ..plan.plan import Declared, Plan, declared_figures
from ..quantities import unit_of
from ..schema import checks
from ..schema.figures import SetOn
from .arc_record import LOOKS, check_arc, check_arc_log, check_coupon, check_left, check_sha
from .inspection import check_seen
from .saved_reading import check_reading

FRONT_COLOURS = ("silver", "straw", "brown", "purple", "blue", "grey")
BACK_COLOURS = (*FRONT_COLOURS, "sugar", "not-seen")
FACES = {"front": FRONT_COLOURS, "back": BACK_COLOURS}
FAULTS = {
    "hole": "hole",
    "cold": "edges stand up, no blend",
    "too-hot": "wide dark band, sunk pool",
    "grey": "grey, dull face",
    "wobble": "pool wobbled",
    "pores": "pores",
    "edge-lost": "edge melted away",
    "tacks-cracked": "tacks cracked, gap opened",
    "crater-crack": "crater crack",
    "restart": "lump or gap at a restart",
    "uneven": "tails, uneven ripple",
    "undercut": "undercut",
    "bowed": "bowed",
    "touched": "tungsten touched",
    "keyhole": "open keyhole ahead of the rod",
    "frosty": "frosty pool near an edge",
    "rod-grey": "grey rod tip",
    "rust": "rust spots",
}


@dataclass(frozen=True)
class RunFigure:
    """A figure that is written down of a run: what it says, its kind of quantity, and where the
    plan has it.
    """

    says: SetOn
    quantity: str
    declared: Declared | None = None


def _declared(part: str) -> dict[str, RunFigure]:
    """The figures of the choices that a run tells in a part of it."""
    found = (
        (d.figure.run, d) for d in declared_figures() if d.figure.run and d.figure.run.part == part
    )
    return {says.key: RunFigure(says, d.figure.quantity, d) for says, d in found}


# what is set, from the choices' own figures
SET_FIGURES: Mapping[str, RunFigure] = _declared("set")
# what was used; the gap as it was found belongs to the run alone
USED_FIGURES: Mapping[str, RunFigure] = {
    **_declared("used"),
    "gap_mm": RunFigure(SetOn("gap_mm", "Gap as found", 0, 10), "length"),
}
# what is measured belongs to the run alone
MEASURED_FIGURES: Mapping[str, RunFigure] = {
    says.key: RunFigure(says, quantity)
    for says, quantity in (
        (SetOn("peak_a", "Peak seen", 1, 500), "current"),
        (SetOn("arc_time_s", "Arc time", 1, 36000), "seconds"),
        (SetOn("length_mm", "Length welded", 1, 20000), "length"),
        (SetOn("rods", "Rods used", 0, 1000), "number"),
        (SetOn("bead_mm", "Bead width", 0.2, 30), "length"),
        (SetOn("bow_mm", "Bow", 0, 200), "length"),
    )
}
PARTS = {"set": SET_FIGURES, "used": USED_FIGURES, "measured": MEASURED_FIGURES}
NO_ROD = "none"


@dataclass(frozen=True)
class PurgeFigure:
    """A figure of how a run was purged behind: what it says, the most it can be, whether it may be
    null (not measured).
    """

    label: str
    most: float
    null: bool = False


PURGE_FIGURES: Mapping[str, PurgeFigure] = {
    "volume_l": PurgeFigure("Volume behind", 2000),
    "flow_l_min": PurgeFigure("Flow before", 60),
    "weld_l_min": PurgeFigure("Flow while welding", 60),
    "target_ppm": PurgeFigure("Oxygen wanted", 1e6),
    "before_s": PurgeFigure("Time before the arc", 1e6),
    "after_s": PurgeFigure("Time after the arc", 1e6),
    "at_arc_ppm": PurgeFigure("Oxygen as the arc was struck", 1e6, True),
    "most_ppm": PurgeFigure("Most oxygen while welding", 1e6, True),
    "mixing": PurgeFigure("Share that mixed", 1e4, True),
    "settles_ppm": PurgeFigure("Where it settled", 1e6, True),
    "argon_l": PurgeFigure("Argon behind", 1e6),
}


KEYS = (
    "when",
    "who",
    "machine",
    "set",
    "used",
    "measured",
    "front",
    "back",
    "faults",
    "photographs",
    "notes",
    "good",
    "as_done",
    "purge",
    "arc",
    "arc_log",
    "left_band",
    "look",
    "coupon",
    "seen",
    "reading",
    "joint",
)
NEEDED = ("when", "who", "front", "back", "good")
LONGEST_NAME = 40
LENGTHS = {"who": 60, "machine": 60, "notes": 4000, "procedure": 20, "revision": 4}
NO_INITIALS = "is missing: write your initials, so that another hand can ask"
# what a form asks for where it was left out
WANTED = {
    "who": "Write your initials, so that another hand can ask.",
    **{face: f"Say what the {face} looks like." for face in FACES},
}
# notes are as many lines as are wanted
LINES = ("notes",)
# the most that one revision holds, an estimate: years of daily runs, and no more than one file
# carries out and in again
MOST_RUNS, MOST_TEXT = 2000, 2_000_000
# ends and figures are rounded each by itself
BAND_SLACK = 0.01


def check_run(run: Mapping[str, Any]) -> None:
    """Refuse a run whose values cannot be. Parameters: run, data of the run format without its
    head. Raises BadInput.
    """
    for key in run:
        if key not in (*KEYS, "procedure", "revision"):
            raise BadInput(key, run[key], "is not a key of a run; allowed are " + ", ".join(KEYS))
    for key in NEEDED:
        if key not in run:
            raise BadInput(key, None, "is missing")
    for key, most in LENGTHS.items():
        (checks.text if key in LINES else checks.line)(key, run.get(key, ""), most)
    if not run["who"].strip():
        raise BadInput("who", "", NO_INITIALS)
    checks.date("when", run["when"])
    if not isinstance(run["good"], bool):
        raise BadInput("good", run["good"], "must be true or false")
    if not isinstance(run.get("as_done", False), bool):
        raise BadInput("as_done", run["as_done"], "must be true or false")
    if run["good"] and run.get("as_done"):
        raise BadInput("as_done", True, "is of a run that was not made as planned, so not good")
    for part, known in PARTS.items():
        written = checks.mapping(part, run.get(part, {}))
        checks.keys(part, written, known)
        for key, value in written.items():
            found = known[key]
            if value is not None:
                check_figure(f"{part}.{key}", found, value)
    for face, colours in FACES.items():
        found_face = checks.mapping(face, run[face])
        checks.keys(face, found_face, ("colour",))
        checks.name(f"{face}.colour", found_face.get("colour"), colours)
    if run.get("purge") is not None:
        _check_purge(checks.mapping("purge", run["purge"]))
    _check_arc(run)
    _check_faults(checks.rows("faults", run.get("faults", []), len(FAULTS)))
    for i, photograph in enumerate(checks.rows("photographs", run.get("photographs", []), 100)):
        where = f"photographs[{i}]"
        checks.keys(where, checks.mapping(where, photograph), ("file", "sha256"))
        checks.line(f"{where}.file", photograph.get("file"), 200)
        check_sha(f"{where}.sha256", photograph.get("sha256"))


def _check_arc(run: Mapping[str, Any]) -> None:
    for key, check in (("arc", check_arc), ("arc_log", check_arc_log), ("coupon", check_coupon)):
        if run.get(key) is not None:
            check(checks.mapping(key, run[key]))
    if run.get("left_band") is not None:
        check_left(run["left_band"])
    if run.get("look") is not None:
        checks.name("look", run["look"], LOOKS)
    if run.get("seen") is not None:
        check_seen(checks.mapping("seen", run["seen"]), FAULTS)
    if run.get("reading") is not None:
        check_reading(checks.mapping("reading", run["reading"]))
    if run.get("joint") is not None:
        checks.mapping("joint", run["joint"])


def _check_purge(purge: Mapping[str, Any]) -> None:
    checks.keys("purge", purge, (*PURGE_FIGURES, "held"))
    if not isinstance(purge.get("held"), bool):
        raise BadInput(
            "purge.held",
            purge.get("held"),
            "must be true or false: whether it was ready when the arc was struck",
        )
    for key, figure in PURGE_FIGURES.items():
        if purge.get(key) is not None or not figure.null:
            checks.number(f"purge.{key}", purge.get(key), 0, figure.most)


def rods_used() -> list[str]:
    """The rods that a run can name, none among them."""
    return [NO_ROD, *catalogue.rods()]


def check_figure(field: str, found: RunFigure, value: Any) -> Any:
    """A figure of a run, or the name of a rod, within its limits. Raises BadInput."""
    if found.quantity == "word":
        return checks.line(field, value, LONGEST_NAME)
    return checks.number(field, value, found.says.low, found.says.high, unit_of(found.quantity))


def travel_mm_s(run: Mapping[str, Any]) -> float | None:
    """How fast a run went, of the length welded and the arc time, mm/s; None where one was not
    written down.
    """
    measured = run.get("measured") or {}
    length, time = measured.get("length_mm"), measured.get("arc_time_s")
    return length / time if length and time else None


def as_planned(plan: Plan) -> dict[str, tuple[Any, str]]:
    """What a plan says to set and to use, {part.key: (value, kind of quantity)}: no rate where
    nothing but a foot keeps it.
    """
    found = {}
    for part, known in PARTS.items():
        for key, figure in known.items():
            value = figure.declared.of(plan) if figure.declared else None
            if key == "rod":
                value = value or NO_ROD
            if value is not None and (key != "rate_pps" or plan.pulse.pulsed):
                found[f"{part}.{key}"] = (value, figure.quantity)
    return found


def _check_faults(faults: list[Any]) -> None:
    for i, fault in enumerate(faults):
        checks.name(f"faults[{i}]", fault, FAULTS)
    if len(set(faults)) != len(faults):
        raise BadInput("faults", ", ".join(faults), "must name each fault once")


def check_not_to_come(run: Mapping[str, Any], latest: str) -> None:
    """Refuse a run of a day that is still to come. Parameters: latest, the day it is where the day
    begins first. Raises BadInput.
    """
    if run["when"] > latest:
        raise BadInput("when", run["when"], "is still to come; give the day on which it was welded")
