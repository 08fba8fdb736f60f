"""A run as it was made: what was set, measured, and seen on each face; and what may prove a procedure."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from . import checks
from .errors import BadInput

FRONT_COLOURS = ("silver", "straw", "brown", "purple", "blue", "grey")
BACK_COLOURS = ("silver", "straw", "brown", "purple", "blue", "grey", "sugar", "not-seen")
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
}
# {key: (label, low, high, unit, kind of quantity)}
SET_FIELDS = {
    "current_a": ("Current set", 1, 500, "A", "plain"),
    "rate_pps": ("Pulses a second", 0.1, 500, "/s", "plain"),
    "on_pct": ("On time", 1, 99, "%", "plain"),
    "background_pct": ("Background", 1, 99, "%", "plain"),
    "flow_l_min": ("Argon", 1, 60, "L/min", "flow"),
    "postflow_s": ("Post-flow", 0, 60, "s", "plain"),
}
MEASURED_FIELDS = {
    "peak_a": ("Peak seen", 1, 500, "A", "plain"),
    "arc_time_s": ("Arc time", 1, 36000, "s", "plain"),
    "length_mm": ("Length welded", 1, 20000, "mm", "length"),
    "rods": ("Rods used", 0, 1000, "", "plain"),
    "bead_mm": ("Bead width", 0.2, 30, "mm", "length"),
    "bow_mm": ("Bow", 0, 200, "mm", "length"),
}


def check_run(run: Mapping[str, Any]) -> None:
    """Refuse a run whose values cannot be. Parameters: run, data of the run format. Raises BadInput."""
    for part, fields in (("set", SET_FIELDS), ("measured", MEASURED_FIELDS)):
        for key, value in run.get(part, {}).items():
            _, low, high, unit, _ = fields[checks.name(f"{part}", key, fields)]
            if value is not None:
                checks.number(f"{part}.{key}", value, low, high, unit)
    checks.name("front.colour", run.get("front", {}).get("colour"), FRONT_COLOURS)
    checks.name("back.colour", run.get("back", {}).get("colour"), BACK_COLOURS)
    for fault in run.get("faults", []):
        checks.name("faults", fault, FAULTS)
    if not str(run.get("who", "")).strip():
        raise BadInput("who", "", "is missing: write your initials, so that another hand can ask")


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


def bands_of(plan: Mapping[str, Any]) -> dict[str, list[float | None]]:
    """The bands within which a procedure holds, {key: [low, high]}, from a plan's data.

    Current as planned; travel and flow ± 10 %; gap up to the most; post-flow at least as planned. Estimate.
    """
    speed, flow = plan["travel"]["speed_mm_s"], plan["gas"]["flow_l_min"]
    return {
        "current_a": [plan["current"]["low_a"], plan["current"]["high_a"]],
        "travel_mm_s": [round(speed * 0.9, 2), round(speed * 1.1, 2)],
        "flow_l_min": [round(flow * 0.9, 2), round(flow * 1.1, 2)],
        "gap_mm": [0.0, plan["fit_up"]["max_gap_mm"]],
        "postflow_s": [plan["gas"]["postflow_s"], None],
    }
