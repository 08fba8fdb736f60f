"""The demo: the book of an invented shop, Saltmarsh Instrument Works, building a weather-buoy mast.

People, machines, runs and figures are invented; the plans are worked out by the core as for anyone.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ..core.joint_data import make_joint
from ..core.shop import ASSUMED
from ..formats.plan_json import read_plan
from ..store import queries
from ..store.database import Store, transaction
from ..store.models import Revision
from . import keeping

BENCH, FIELD = "bench 200 (demo)", "field 160 (demo)"
_BOX = {"metal": "316L", "form": "sheet", "thickness": "1.2 mm"}

_JOINTS: dict[str, dict[str, Any]] = {
    "box": {"title": "Instrument box, long corner", "joint": "outside-corner", "members": [_BOX, _BOX], "length": "380 mm", "service": "wet"},
    "rim": {"title": "Lid rim", "joint": "edge", "members": [_BOX, _BOX], "length": "340 mm", "service": "wet"},
    "stay": {
        "title": "Stay to mast, coped", "joint": "tube-cope", "angle_deg": 45, "length": "all-round", "service": "wet", "position": "fixed-tube",
        "members": [
            {"metal": "316L", "form": "tube", "thickness": "1.2 mm", "diameter": "25 mm"},
            {"metal": "316L", "form": "tube", "thickness": "1.5 mm", "diameter": "51 mm"},
        ],
    },
    "flange": {
        "title": "Mast foot to flange", "joint": "tube-plate", "length": "all-round", "service": "wet",
        "members": [
            {"metal": "316L", "form": "tube", "thickness": "1.5 mm", "diameter": "51 mm"},
            {"metal": "316L", "form": "flange", "thickness": "4 mm"},
        ],
    },
    "duct": {"title": "Heater duct patch", "joint": "lap", "members": [{"metal": "321", "form": "sheet", "thickness": "0.9 mm"}] * 2, "length": "140 mm", "service": "hot", "finish": "sound"},
    "foot": {
        "title": "Bracket to foot", "joint": "tee", "length": "90 mm", "finish": "sound",
        "members": [{"metal": "304L", "form": "sheet", "thickness": "1.5 mm"}, {"metal": "mild-steel", "form": "sheet", "thickness": "1.5 mm"}],
    },
    "mast": {"title": "Mast, tube in line", "joint": "tube-butt", "length": "all-round", "service": "wet", "members": [{"metal": "316L", "form": "tube", "thickness": "1.5 mm", "diameter": "51 mm"}] * 2},
    "panel": {"title": "Sensor panel", "joint": "butt", "members": [{"metal": "316L", "form": "sheet", "thickness": "0.8 mm"}] * 2, "length": "220 mm"},
}  # fmt: skip

# (day of 2026, who, machine, front, back, faults, good, share of the planned arc time, notes)
_RUNS: dict[str, list[tuple[str, str, str, str, str, list[str], bool, float, str]]] = {
    "box": [
        ("03-02", "R.T.", BENCH, "blue", "sugar", [], False, 1.3, "Forgot the inside bar on the first half."),
        ("03-02", "R.T.", BENCH, "purple", "straw", ["restart"], False, 1.2, "Restart after moving bars was cold."),
        ("03-03", "R.T.", BENCH, "brown", "straw", [], False, 1.15, "Sound, but darker than wanted."),
        ("03-03", "R.T.", BENCH, "straw", "silver", [], True, 1.05, "Stepped to the leading edge before each peak."),
        ("03-09", "M.O.", BENCH, "straw", "straw", [], True, 1.1, ""),
        ("03-10", "M.O.", FIELD, "brown", "straw", ["uneven"], False, 1.2, "Pedal stuck for the last 40 mm."),
    ],
    "rim": [
        ("03-16", "R.T.", BENCH, "grey", "brown", ["wobble"], False, 1.0, "Number 8, gas split on the edge."),
        (
            "03-16",
            "R.T.",
            BENCH,
            "straw",
            "straw",
            ["edge-lost"],
            False,
            1.0,
            "One size up cured the gas; wandered off the edge.",
        ),
        ("03-17", "R.T.", BENCH, "straw", "silver", [], True, 1.0, ""),
        ("03-18", "K.S.", BENCH, "silver", "silver", [], True, 0.95, ""),
        ("03-24", "K.S.", FIELD, "straw", "straw", [], True, 1.05, ""),
    ],
    "stay": [
        ("04-07", "K.S.", FIELD, "blue", "blue", ["hole"], False, 1.3, "Gap of half a millimetre at the toe."),
        ("04-07", "K.S.", FIELD, "purple", "straw", ["restart"], False, 1.2, "Refitted; restart at the bottom lumpy."),
        ("04-08", "R.T.", BENCH, "brown", "straw", ["too-hot"], False, 1.1, "No wait between halves."),
    ],
    "flange": [
        ("04-13", "R.T.", BENCH, "brown", "straw", ["cold"], False, 0.9, "Arc sat on the tube; flange did not wet."),
        ("04-13", "R.T.", BENCH, "straw", "silver", [], True, 1.1, "Two thirds of the arc on the flange."),
        ("04-14", "M.O.", BENCH, "straw", "silver", [], True, 1.0, ""),
        ("04-20", "M.O.", FIELD, "straw", "straw", [], True, 1.1, ""),
        ("04-21", "K.S.", FIELD, "brown", "straw", [], True, 1.1, "Purge 60 ppm at the vent."),
    ],
    "duct": [
        ("05-04", "M.O.", FIELD, "purple", "blue", ["too-hot", "bowed"], False, 0.9, "Old sheet, brushed only."),
        ("05-05", "M.O.", FIELD, "brown", "straw", ["pores"], False, 1.0, "Degreased; still scale under the lap."),
    ],
    "foot": [("05-11", "K.S.", FIELD, "brown", "brown", ["cold"], False, 0.9, "Steel side did not wet.")],
    "mast": [
        ("05-18", "R.T.", BENCH, "straw", "sugar", [], False, 1.0, "Cap blew off, purge lost."),
        ("05-18", "R.T.", BENCH, "straw", "straw", [], True, 1.05, ""),
        ("05-19", "R.T.", BENCH, "straw", "silver", [], True, 1.0, ""),
        (
            "05-20",
            "M.O.",
            BENCH,
            "brown",
            "straw",
            ["touched"],
            False,
            1.1,
            "Touched at the overlap; ground and rerun.",
        ),
        ("05-21", "M.O.", BENCH, "straw", "silver", [], True, 1.0, ""),
    ],
    "panel": [],
}
_BOX_B = {"overlap_pct": 40}
_RUNS_B = [
    ("06-01", "R.T.", BENCH, "straw", "silver", [], True, 1.05, "Closer ripple hides the starts at the bar moves."),
    ("06-02", "M.O.", BENCH, "straw", "silver", [], True, 1.1, ""),
    ("06-03", "M.O.", FIELD, "silver", "silver", [], True, 1.0, ""),
    ("06-08", "K.S.", FIELD, "straw", "straw", ["uneven"], False, 1.2, "First time on this one."),
    ("06-09", "K.S.", FIELD, "straw", "silver", [], True, 1.1, ""),
    ("06-15", "K.S.", BENCH, "straw", "silver", [], True, 1.05, ""),
]
_MORE = [
    ("flange", "05-25", True),
    ("flange", "05-26", True),
    ("mast", "06-05", True),
    ("rim", "06-10", True),
    ("rim", "06-11", False),
    ("mast", "06-16", True),
    ("flange", "06-17", False),
]


def fill_if_empty(store: Store) -> bool:
    """Fill an empty book with the demo. Returns whether it was filled."""
    try:
        if not queries.is_empty():
            return False
        with transaction():
            kept = {key: _keep(data, "2026-03-01") for key, data in _JOINTS.items()}
            for key, rows in _RUNS.items():
                for row in rows:
                    _run(kept[key], row)
            changed = keeping.revise(
                kept["box"].procedure.label, make_joint({**_JOINTS["box"], **_BOX_B}), ASSUMED, at=_at("2026-05-30")
            )
            for row in _RUNS_B:
                _run(changed, row)
            for key, day, good in _MORE:
                _run(
                    kept[key],
                    (
                        day,
                        "M.O.",
                        BENCH,
                        "straw" if good else "blue",
                        "straw",
                        [] if good else ["too-hot"],
                        good,
                        1.0,
                        "",
                    ),
                )
        return True
    finally:
        store.close()


def _at(day: str) -> Callable[[], str]:
    return lambda: f"{day}T16:00:00Z"


def _keep(data: dict[str, Any], day: str) -> Revision:
    return keeping.keep_draft(make_joint(data), ASSUMED, at=_at(day))


def _run(kept: Revision, row: tuple[str, str, str, str, str, list[str], bool, float, str]) -> None:
    day, who, machine, front, back, faults, good, share, notes = row
    plan = read_plan(kept.plan)
    pulsed = {"rate_pps": plan.pulse.rate_pps, "on_pct": plan.pulse.on_pct} if plan.pulse.pulsed else {}
    run = {
        "when": f"2026-{day}", "who": who, "machine": machine, "faults": faults, "good": good, "notes": notes,
        "front": {"colour": front}, "back": {"colour": back}, "photographs": [],
        "set": {"current_a": round(plan.slopes.machine_a), "flow_l_min": round(plan.gas.flow_l_min, 1), "postflow_s": plan.gas.postflow_s} | pulsed,
        "measured": {"peak_a": round(plan.pulse.peak_a * 0.98), "arc_time_s": round(plan.travel.arc_time_s * share), "bead_mm": round(plan.travel.pool_width_mm * (1.0 if good else 1.2), 1)},
    }  # fmt: skip
    keeping.record_run(kept.procedure.label, kept.letter, run, at=_at(f"2026-{day}"))
