"""A run as it was made: what was set, measured, and seen on each face; what may prove a procedure, and its bands."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from . import checks
from .errors import BadInput
from .figures import SetOn
from .plan import Declared, Plan, declared_figures
from .quantities import unit_of

FRONT_COLOURS = ("silver", "straw", "brown", "purple", "blue", "grey")
BACK_COLOURS = (*FRONT_COLOURS, "sugar", "not-seen")
FACES = {"front": FRONT_COLOURS, "back": BACK_COLOURS}
FAULTS = {
    "hole": "hole", "cold": "edges stand up, no blend", "too-hot": "wide dark band, sunk pool", "grey": "grey, dull face", "wobble": "pool wobbled",
    "pores": "pores", "edge-lost": "edge melted away", "tacks-cracked": "tacks cracked, gap opened", "crater-crack": "crater crack",
    "restart": "lump or gap at a restart", "uneven": "tails, uneven ripple", "undercut": "undercut", "bowed": "bowed", "touched": "tungsten touched",
}  # fmt: skip


@dataclass(frozen=True)
class RunFigure:
    """A figure that is written down of a run: what it says, its kind of quantity, and where the plan has it."""

    says: SetOn
    quantity: str
    declared: Declared | None = None


# what is set, from the choices' own figures
SET_FIGURES: Mapping[str, RunFigure] = {
    d.figure.run.key: RunFigure(d.figure.run, d.figure.quantity, d) for d in declared_figures() if d.figure.run
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
PARTS = {"set": SET_FIGURES, "measured": MEASURED_FIGURES}


KEYS = ("when", "who", "machine", "set", "measured", "front", "back", "faults", "photographs", "notes", "good")
NEEDED = ("when", "who", "front", "back", "good")
LENGTHS = {"who": 60, "machine": 60, "notes": 4000, "procedure": 20, "revision": 4}
NO_INITIALS = "is missing: write your initials, so that another hand can ask"
# notes are as many lines as are wanted
LINES = ("notes",)
# the most that one revision holds, an estimate: years of daily runs, and no more than one file carries out and in again
MOST_RUNS, MOST_TEXT = 2000, 2_000_000
SHA256 = r"[0-9a-f]{64}"
# ends and figures are rounded each by itself
BAND_SLACK = 0.01


def check_run(run: Mapping[str, Any]) -> None:
    """Refuse a run whose values cannot be. Parameters: run, data of the run format without its head. Raises BadInput."""
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
    for part, known in PARTS.items():
        written = checks.mapping(part, run.get(part, {}))
        checks.keys(part, written, known)
        for key, value in written.items():
            found = known[key]
            if value is not None:
                checks.number(f"{part}.{key}", value, found.says.low, found.says.high, unit_of(found.quantity))
    for face, colours in FACES.items():
        found_face = checks.mapping(face, run[face])
        checks.keys(face, found_face, ("colour",))
        checks.name(f"{face}.colour", found_face.get("colour"), colours)
    _check_faults(checks.rows("faults", run.get("faults", []), len(FAULTS)))
    for i, photograph in enumerate(checks.rows("photographs", run.get("photographs", []), 100)):
        where = f"photographs[{i}]"
        checks.keys(where, checks.mapping(where, photograph), ("file", "sha256"))
        checks.line(f"{where}.file", photograph.get("file"), 200)
        if not re.fullmatch(SHA256, checks.text(f"{where}.sha256", photograph.get("sha256"), 64)):
            raise BadInput(f"{where}.sha256", photograph["sha256"], "must be 64 hexadecimal digits")


def as_planned(plan: Plan) -> dict[str, tuple[float, str]]:
    """What a plan says to set, {key: (value, kind of quantity)}: no rate where nothing but a foot keeps it."""
    figures = {key: (f.declared.of(plan), f.quantity) for key, f in SET_FIGURES.items() if f.declared}
    if not plan.pulse.pulsed:
        del figures["rate_pps"]
    return {key: (value, quantity) for key, (value, quantity) in figures.items() if value is not None}


def _check_faults(faults: list[Any]) -> None:
    for i, fault in enumerate(faults):
        checks.name(f"faults[{i}]", fault, FAULTS)
    if len(set(faults)) != len(faults):
        raise BadInput("faults", ", ".join(faults), "must name each fault once")


def check_not_to_come(run: Mapping[str, Any], latest: str) -> None:
    """Refuse a run of a day that is still to come. Parameters: latest, the day it is where the day begins first. Raises BadInput."""
    if run["when"] > latest:
        raise BadInput("when", run["when"], "is still to come; give the day on which it was welded")


def check_good(run: Mapping[str, Any], stopped: bool) -> None:
    """Refuse a run as good that cannot prove. Parameters: stopped, whether the plan holds a stop. Raises BadInput."""
    if why := why_not_proof(run):
        raise BadInput("good", None, why)
    if stopped:
        raise BadInput("good", None, "the plan holds a stop and cannot be proved as it stands; change the joint first")


def check_proof(status: str, runs: Sequence[Mapping[str, Any]], stopped: bool) -> None:
    """Refuse a state that its runs do not bear out: proved by a good run, a draft without one. Raises BadInput.

    Parameters: status; runs that stand, those struck out left away; stopped, whether the plan holds a stop.
    """
    good = [run for run in runs if run["good"]]
    for run in good:
        check_good(run, stopped)
    if good and status == "draft":
        raise BadInput("status", status, "has a good run, which proves it; give the file as proved")
    if not good and status != "draft":
        raise BadInput("status", status, "needs a good run among the runs; give the file as draft, or with its run")


def check_bands(bands: Mapping[str, Any], plan: Plan) -> None:
    """Refuse bands that are not those of a plan: each there, from low to high, the plan's own figure within. Raises BadInput."""
    for key, ends in bands.items():
        low, high = ends
        if low is not None and high is not None and low > high:
            raise BadInput(f"bands.{key}", f"{low:g} to {high:g}", "must go from the low end to the high")
    for d in declared_figures():
        if d.figure.band is None:
            continue
        key = d.figure.band.key
        if key not in bands:
            raise BadInput(f"bands.{key}", None, "is missing")
        value, (low, high) = d.of(plan), bands[key]
        slack = BAND_SLACK * max(1.0, abs(value))
        if (low is not None and value < low - slack) or (high is not None and value > high + slack):
            raise BadInput(f"bands.{key}", f"{value:g}", "is what the plan says and must lie within the band")


def why_not_proof(run: Mapping[str, Any]) -> str | None:
    """Why a run cannot prove a procedure, in one sentence, or None where it can. Common practice."""
    if run.get("faults"):
        words = ", ".join(FAULTS[f] for f in run["faults"])
        return (
            f"a run with faults ({words}) cannot prove a procedure; keep it as not good, change one thing and run again"
        )
    if run["back"]["colour"] == "sugar":
        return "a back that sugared cannot prove a procedure; keep it as not good, cover the back and run again"
    if run["front"]["colour"] == "grey":
        return (
            "a grey face was not covered while hot and cannot prove a procedure; keep it as not good and mend the cover"
        )
    return None


def bands_of(plan: Plan) -> dict[str, list[float | None]]:
    """The bands within which a procedure holds, {key: [low, high]}, from the figures that declare one.

    Current as planned; travel and flow ± 10 %; gap up to the most; post-flow at least as planned. Estimate.
    """
    bands: dict[str, list[float | None]] = {}
    for d in declared_figures():
        if d.figure.band:
            ends = bands.setdefault(d.figure.band.key, [None, None])
            for i, share in enumerate((d.figure.band.low, d.figure.band.high)):
                if share is not None:
                    ends[i] = round(d.of(plan) * share, 3 if d.figure.digits is None else d.figure.digits)
    return bands


# each band's label and the kind of quantity its ends are
BANDS: Mapping[str, tuple[str, str]] = {
    d.figure.band.key: (d.figure.band.label, d.figure.quantity) for d in declared_figures() if d.figure.band
}
