"""What a simulated welder records of a run, and how the welder follows a change."""

from __future__ import annotations

from collections.abc import Mapping
from random import Random
from typing import Any

from msgspec.structs import replace

from tests.slips import World, get_cup, mean_a
from wisearc.core import catalogue
from wisearc.core.diagnosis.changes import Change
from wisearc.core.plan.plan import Plan
from wisearc.core.run.run import get_planned_values
from wisearc.core.weld_session.steps import taper_s


def written(plan: Plan, world: World, summary: Mapping[str, Any], rng: Random) -> dict[str, Any]:
    """Return the record of the welder.

    Most flaws, a few false ones; the real settings; a log in six of ten.
    """

    def happens(chance: float) -> bool:
        return rng.random() < chance

    faults = {key for key in sorted(summary["faults"]) if happens(0.94)}
    if happens(0.03):
        faults.add(rng.choice(list(catalogue.load_flaws())))
    run: dict[str, Any] = {
        "when": "2026-03-04",
        "who": "R.T.",
        "good": False,
        "set": {},
        "used": {},
        "measured": {},
    }
    for key, (value, _) in get_planned_values(plan).items():
        part, _, name = key.partition(".")
        run[part][name] = value
    run["set"]["current_a"] = round(run["set"]["current_a"] * world.turned)
    run["set"]["flow_l_min"] = round(run["set"]["flow_l_min"] * world.flow, 1)
    run["set"]["postflow_s"] = round(plan.gas.postflow_s * world.post, 1)
    if world.smaller_cups and happens(0.7):
        run["used"]["cup"] = get_cup(plan, world)
    if world.steel_rod and happens(0.7):
        run["used"]["rod"] = "ER70S-2"
    if happens(0.6):
        run["used"]["gap_mm"] = round(world.gap * plan.fit_up.max_gap_mm * rng.uniform(0.9, 1.1), 2)
    if happens(0.8):
        speed = plan.travel.speed_mm_s * world.travel_speed * rng.uniform(0.96, 1.04)
        run["measured"] |= {"length_mm": 100.0, "arc_time_s": round(100 / speed, 1)}
    if world.heavy > 1.3 and happens(0.6):
        run["measured"]["bead_mm"] = round(plan.travel.pool_width_mm * world.heavy, 1)
    if plan.back.purged and happens(0.7):
        target = plan.back.purge.target_ppm if plan.back.purge else 100
        closing = 12 if world.closed else 1
        run["purge"] = {
            "at_arc_ppm": round(world.ppm * target),
            "most_ppm": round(world.ppm * target * closing),
            "target_ppm": target,
            "held": world.ppm <= 1,
            "weld_l_min": plan.back.purge.weld_flow_l_min if plan.back.purge else 3.0,
        }
    if happens(0.6):
        _log(run, plan, world, summary, rng)
    run["front"] = {
        "colour": summary["front"] if happens(0.9) else rng.choice(("silver", "straw", "brown"))
    }
    run["back"] = {
        "colour": summary["back"] if happens(0.9) or summary["back"] == "sugar" else "not-seen"
    }
    if "grey" in summary["faults"]:
        run["front"]["colour"] = "grey" if summary["where"].get("grey") == [0.0, 1.0] else "straw"
    run["faults"] = sorted(faults)
    if happens(0.6):
        run["look"] = summary["look"]
    observed: dict[str, Any] = {
        "where": {
            key: place for key, place in summary["where"].items() if key in faults and happens(0.6)
        }
    }
    told = {key: answer for key, answer in summary["told"].items() if happens(0.3)}
    run["seen"] = {**observed, "told": told}
    if summary["coupon"]:
        run["coupon"] = dict(summary["coupon"])
    return run


def _log(
    run: dict[str, Any], plan: Plan, world: World, summary: Mapping[str, Any], rng: Random
) -> None:
    mean = mean_a(plan) * world.turned * world.dial
    arc_s = run["measured"].get("arc_time_s") or 60.0
    volts = plan.heat.arc_voltage_v * (1 + 0.5 * (world.arc - 1)) * rng.uniform(0.98, 1.02)
    run["arc"] = {
        "by": "log",
        "mean_a": round(mean, 1),
        "arc_s": arc_s,
        "energy_kj": round(mean * volts * arc_s / 1000, 2),
        "taper_s": round(world.taper * taper_s(plan), 2),
        "postflow_s": round(summary["held"], 1),
        "pool_s": round(1.2 + world.late_s, 1),
        "restarts": 1 if world.late_s else rng.choice((0, 0, 1)),
        "tacks": max(1, round(world.tacks * plan.tacks.count)),
    }
    if world.touched:
        run["arc"]["touched"] = 1


# The causes that a correct technique fixes.
TECHNIQUE: Mapping[str, Mapping[str, Any]] = {
    "set-as-planned": {"turned": 1.0},
    "pace-as-planned": {"travel_speed": 1.0},
    "postflow-as-planned": {"post": 1.0},
    "hold-still": {"held": 1.0},
    "cup-as-planned": {"smaller_cups": 0},
    "flow-as-planned": {"flow": 1.0},
    "shut-the-door": {"draught": 0.0},
    "side-dam": {"dammed": True},
    "wait-for-the-pool": {"before_pool": False},
    "refit": {"gap": 0.5},
    "aim-at-the-thick": {"on_thin": False},
    "aim-off-the-edge": {"on_thin": False},
    "tacks-as-planned": {"tacks": 1.0},
    "tacks-closer": {"tacks": 1.0},
    "bars-both-sides": {"half": False, "bare": False},
    "wait-for-the-meter": {"ppm": 0.9, "early": False},
    "wait-for-the-volumes": {"ppm": 0.9, "early": False},
    "purge-longer": {"ppm": 0.9, "early": False},
    "seal-the-gap": {"ppm": 0.9},
    "purge-flow-as-planned": {"ppm": 0.9, "pressure": False},
    "open-the-vent": {"pressure": False},
    "less-purge-flow": {"pressure": False},
    "keep-closing-flow": {"closed": False},
    "taper-longer": {"taper": 1.0},
    "restart-warm": {"late_s": 0.0},
    "rod-to-the-front": {"swings": False},
    "reposition": {"swings": False},
    "bars": {"pulls": False},
    "shorter-runs": {"pulls": False},
    "pulse-cold": {"pulls": False},
    "clean-brush": {"iron": False},
    "right-rod": {"steel_rod": False},
    "smaller-bead": {"heavy": 1.0},
    "less-rod": {"heavy": 1.0},
    "tougher-rod": {"heavy": 1.0},
    "regrind": {"touched": False},
    "clean": {"dirt": False},
    "shorter-arc": {"arc": 1.0},
    "cover-the-back": {"bare": False, "half": False},
    "stickout-shorter": {"reach_mm": 2.0},
    "lens": {"dammed": True},
    "focused": {"on_thin": False},
}


# The slips of `SHOWS` that a change ends.
ENDS: Mapping[str, tuple[str, ...]] = {
    "check-gas-path": ("gas-path", "tungsten-in-air"),
    "back-cap": ("tungsten-in-air",),
    "regrind": ("tungsten-worn",),
    "work-clamp": ("magnetised",),
    "refit-edges": ("fit-poor",),
    "less-restraint": ("hot-short",),
    "wider-pool": ("hot-short",),
    "preheat": ("hard-zone",),
    "remove-tint": ("tint-left",),
    "coat-or-change-grade": ("rusts-by-nature",),
    "more-rod-at-the-toe": ("toe-starved",),
    "dry-rod": ("damp-rod",),
}


def follow(plan: Plan, world: World, change: Change, rng: Random) -> tuple[Plan, World]:
    """Return the next attempt.

    The plan with the change, or a welder who follows the advice, nine times of ten.
    """
    if change.code in TECHNIQUE and rng.random() < 0.93:
        world = replace(world, **TECHNIQUE[change.code])
    if change.code in ENDS and rng.random() < 0.93:
        world = replace(world, usual=world.usual - set(ENDS[change.code]))
    if change.code == "set-as-planned" and world.dial != 1.0:
        # After a log shows a wrong mean, the dial is corrected.
        world = replace(world, turned=1.0 / world.dial)
    if change.code == "cup-bigger" and rng.random() < 0.7:
        # A wider jet covers the edge, mostly.
        world = replace(world, dammed=True)
    if change.code == "bars" and change.plan:
        world = replace(world, pulls=False)
    return change.plan or plan, world
