"""Joints that tests share."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from wisearc.core.joint.data import make_joint
from wisearc.core.joint.joint import Joint
from wisearc.core.plan.plan import Plan, make_plan
from wisearc.core.run.inspection import Inspection
from wisearc.core.run.run import Purge, Run, get_planned_values, read_run
from wisearc.core.run.verification import build_ranges
from wisearc.core.schema.documents import read_document
from wisearc.core.schema.entries import read_entries
from wisearc.core.shop.shop import ASSUMED, Shop
from wisearc.formats.joint_json import write_joint_file
from wisearc.formats.plan_json import plan_data


def member(metal: str = "304L", thickness: str = "1.5 mm", **more: Any) -> dict[str, Any]:
    """Return the data of a member."""
    return {"metal": metal, "thickness": thickness, **more}


def joint(
    kind: str = "butt",
    a: dict[str, Any] | None = None,
    b: dict[str, Any] | None = None,
    **more: Any,
) -> Joint:
    """Return a joint of two members; the second equals the first by default."""
    first = a or member()
    return make_joint({"joint": kind, "members": [first, b or first], **more})


def plan(
    kind: str = "butt",
    a: dict[str, Any] | None = None,
    b: dict[str, Any] | None = None,
    shop: Shop = ASSUMED,
    **more: Any,
) -> Plan:
    """Return the plan of such a joint."""
    return make_plan(joint(kind, a, b, **more), shop)


def tube(metal: str = "316L", wall: str = "1.2 mm", diameter: str = "25 mm") -> dict[str, Any]:
    """Return the data of a tube."""
    return member(metal, wall, form="tube", diameter=diameter)


def codes(of: Plan, *levels: str) -> set[str]:
    """Return the caution codes of a plan, of some levels or all."""
    return {c.code for c in of.cautions if not levels or c.level in levels}


def procedure_data(of: Plan, runs: Sequence[Mapping[str, Any]]) -> dict[str, Any]:
    """Create the data of a procedure file: a draft of a plan.

    Args:
        of: The plan.
        runs: Data of its runs.
    """
    return {
        "format": "wisearc/procedure",
        "version": 1,
        "number": "P-0400",
        "revision": "A",
        "status": "draft",
        "title": "x",
        "joint": write_joint_file(of.joint),
        "plan": plan_data(of),
        "bands": build_ranges(of),
        "runs": list(runs),
    }


def run(of: dict[str, Any] | None = None, **more: Any) -> dict[str, Any]:
    """Return a good run of a joint, by default the corner, welded as planned."""
    made = make_plan(make_joint(of or CORNER), ASSUMED)
    told: dict[str, Any] = {
        "set": {},
        "used": {},
        "measured": {"length_mm": 100, "arc_time_s": round(100 / made.travel.speed_mm_s, 2)},
    }
    for key, (value, _) in get_planned_values(made).items():
        part, _, name = key.partition(".")
        told[part][name] = value
    return {
        "when": "2026-03-04",
        "who": "R.T.",
        "front": {"colour": "straw"},
        "back": {"colour": "silver"},
        "faults": [],
        "good": True,
        **told,
        **more,
    }


MINIMAL: dict[str, Any] = {
    "when": "2026-03-04",
    "who": "R.T.",
    "front": {"colour": "silver"},
    "back": {"colour": "not-seen"},
    "good": False,
}


def typed(data: dict[str, Any] | Run) -> Run:
    """Return a run from its data, without its head.

    Missing required values are neutral: a bright front, a back without inspection, an empty purge.
    """
    if isinstance(data, Run):
        return data
    head = ("format", "version", "minor")
    told = MINIMAL | {key: value for key, value in data.items() if key not in head}
    if told.get("purge"):
        needed = [key for key, e in read_entries(Purge).items() if e.required and key != "held"]
        told["purge"] = {**dict.fromkeys(needed, 0), "held": True, **told["purge"]}
    return read_run(told)


def make_inspection(data: dict[str, Any] | Inspection | None) -> Inspection | None:
    """Return an inspection from its data."""
    if data is None or isinstance(data, Inspection):
        return data
    return read_document(Inspection, data, "seen")


CORNER = {"joint": "outside-corner", "members": [member(thickness="16 ga")] * 2, "length": "380 mm"}
TEE = {
    "joint": "tee",
    "members": [member(), member("mild-steel")],
    "length": "120 mm",
    "finish": "sound",
}
COPE = {
    "joint": "tube-cope",
    "members": [tube(), tube(wall="1.5 mm", diameter="51 mm")],
    "length": "all-round",
    "angle_deg": 45,
}
FLANGE = {
    "joint": "tube-plate",
    "members": [tube(), member("316L", "4 mm", form="flange")],
    "length": "all-round",
}
EVERY = {
    "butt": {"joint": "butt", "members": [member(), member()]},
    "lap": {"joint": "lap", "members": [member("321", "0.9 mm")] * 2},
    "tee": TEE,
    "outside-corner": CORNER,
    "edge": {"joint": "edge", "members": [member("316L", "1.2 mm")] * 2},
    "tube-butt": {"joint": "tube-butt", "members": [tube(), tube()], "length": "all-round"},
    "tube-plate": FLANGE,
    "tube-cope": COPE,
}
# The example shop of the format, with one item of every kind.
SHOP = {
    "format": "wisearc/shop",
    "version": 1,
    "name": "Demo bench",
    "machines": [
        {
            "name": "bench 200",
            "least_a": 5,
            "most_a": 200,
            "pulse": {"least_pps": 0.5, "most_pps": 250},
            "slopes": True,
            "preflow_most_s": 10,
            "postflow_most_s": 30,
            "starts": ["hf", "lift"],
            "controls": ["pedal", "slide"],
        }
    ],
    "torches": [{"name": "air torch", "size": "17", "machine": "bench 200"}],
    "parts": [{"kind": "gas-lens", "family": "large", "tungsten_mm": 1.6, "cup": None, "count": 2}],
    "tungstens": [{"type": "lanthanated-2", "diameter_mm": 1.6, "count": 8}],
    "rods": [{"rod": "ER308L", "diameter_mm": 1.0, "length_mm": 1000, "count": 40}],
    "bars": [
        {
            "metal": "copper",
            "length_mm": 150,
            "width_mm": 25,
            "thickness_mm": 6,
            "grooved": True,
            "count": 6,
        }
    ],
    "cylinders": [{"gas": "argon", "water_l": 50, "bar": 140, "purity_pct": 99.998}],
    "has": ["oxygen-meter", "flux", "foil"],
}
