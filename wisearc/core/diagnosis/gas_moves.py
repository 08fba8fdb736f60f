"""The moves of gas and torch: post-flow, cup, stick-out, flow, gas path, tungsten, arc."""

from __future__ import annotations

from .. import catalogue
from ..errors import InputError
from ..physics.gas import flow_l_min
from ..plan.arc.need import ARC_LENGTH_MM
from ..plan.shielding.gas import REYNOLDS
from ..plan.torch.front_end import bore_mm
from ..quantities import Quantity
from .actual import Actual
from .moves import Move, MoveFinder, Strengths, change_technique, evaluate_change, move_to_plan

# 2 s of gas: handbook, common practice.
POSTFLOW_S = 2.0
STICKOUT_MM = 2.0
# The minimum useful change of a flow or a stick-out; the tolerance of set and hold times. They are
# estimates, about the reading error of a gauge, a rule and a clock.
FLOW_SHARE, MIN_STICKOUT_MM, SET_SHORT_S, HELD_SHORT_S = 0.15, 0.4, 0.25, 0.5
FLOW_OFF_SHARE = 0.10


def _plan_postflow(actual: Actual, strengths: Strengths) -> Move | None:
    planned = actual.plan.gas.postflow_s
    return move_to_plan(
        actual, "postflow_s", planned, "seconds", lambda s: s < planned - SET_SHORT_S
    )


def _hold_still(actual: Actual, strengths: Strengths) -> Move | None:
    held, planned = actual.arc.held_s, actual.plan.gas.postflow_s
    if held is None:
        held = actual.arc.postflow_s
    return (
        None if held is None or held >= planned - HELD_SHORT_S else Move(held, planned, "seconds")
    )


def _lengthen_postflow(actual: Actual, strengths: Strengths) -> Move | None:
    """Lengthen the post-flow, to the current minimum at least if an older plan was shorter."""
    now = actual.plan.gas.postflow_s
    to = max(now + POSTFLOW_S, actual.today.gas.postflow_s if actual.today else 0.0)
    return Move(now, to, "seconds", {"pins.postflow_s": to})


def _plan_cup(actual: Actual, strengths: Strengths) -> Move | None:
    used, planned = actual.run.used.cup, actual.plan.torch.cup
    if used is None or used >= planned:
        return None
    return Move(
        used, planned, "count", {}, {"seen": f"no. {used:g}", "planned": f"no. {planned} cup"}
    )


def _plan_stickout(actual: Actual, strengths: Strengths) -> Move | None:
    if (strengths["far-out"].strength or 0.0) < 0.5:
        return None
    return Move("", actual.plan.torch.stickout_mm, "size")


def _shorten_stickout(actual: Actual, strengths: Strengths) -> Move | None:
    """Shorten the stick-out, within the reach of the joint."""
    torch, free = actual.plan.torch, actual.planned_with({"pins.stickout_mm": None})
    if isinstance(free, InputError):
        return None
    to = round(max(free.torch.stickout_mm, torch.stickout_mm - STICKOUT_MM), 1)
    return (
        None
        if to >= torch.stickout_mm - MIN_STICKOUT_MM
        else Move(torch.stickout_mm, to, "size", {"pins.stickout_mm": to})
    )


def _fit_lens(actual: Actual, strengths: Strengths) -> Move | None:
    if actual.plan.torch.front_end == "gas-lens":
        return None
    return Move(actual.plan.torch.front_end, "gas-lens", "word", {"pins.front_end": "gas-lens"})


def _fit_larger_cup(actual: Actual, strengths: Strengths) -> Move | None:
    torch = actual.plan.torch
    bigger = next((cup for cup in sorted(catalogue.load_cups()) if cup > torch.cup), None)
    if bigger is None:
        return None
    sets = {"pins.cup": bigger, "pins.flow_l_min": None}
    plan, _ = evaluate_change(actual, sets)
    flow = plan.gas.flow_l_min if plan else 0.0
    more = {
        "flow_from": Quantity(actual.plan.gas.flow_l_min, "flow"),
        "flow_to": Quantity(flow, "flow"),
    }
    return Move(torch.cup, bigger, "count", sets, more)


def _plan_flow(actual: Actual, strengths: Strengths) -> Move | None:
    planned = actual.plan.gas.flow_l_min
    return move_to_plan(
        actual, "flow_l_min", planned, "flow", lambda q: abs(q / planned - 1) > FLOW_OFF_SHARE
    )


def _change_flow(sign: int) -> MoveFinder:
    def move(actual: Actual, strengths: Strengths) -> Move | None:
        torch, now = actual.plan.torch, actual.plan.gas.flow_l_min
        full_l_min = flow_l_min(REYNOLDS[torch.front_end, "full"], bore_mm(torch.cup))
        to = round(
            min(full_l_min, (1 - FLOW_SHARE) * now)
            if sign < 0
            else max(full_l_min, (1 + FLOW_SHARE) * now),
            1,
        )
        return Move(now, to, "flow", {"pins.flow_l_min": to})

    return move


def _fit_smaller_tungsten(actual: Actual, strengths: Strengths) -> Move | None:
    """Fit the next smaller tungsten, if the current is below the range of the present one."""
    now = actual.plan.tungsten.diameter_mm
    smaller = max((d for d in catalogue.rod_capacity_a() if d < now), default=None)
    if smaller is None or not strengths["tungsten-thick"].strength:
        return None
    return Move(now, smaller, "stock", {"pins.tungsten_mm": smaller})


GAS_MOVES: dict[str, MoveFinder] = {
    "postflow-as-planned": _plan_postflow,
    "hold-still": _hold_still,
    "postflow-longer": _lengthen_postflow,
    "cup-as-planned": _plan_cup,
    "stickout-as-planned": _plan_stickout,
    "stickout-shorter": _shorten_stickout,
    "lens": _fit_lens,
    "cup-bigger": _fit_larger_cup,
    "flow-as-planned": _plan_flow,
    "flow-down": _change_flow(-1),
    "flow-up": _change_flow(1),
    "shut-the-door": change_technique(),
    "side-dam": change_technique(),
    "check-gas-path": change_technique(),
    "back-cap": change_technique(),
    "work-clamp": change_technique(lambda actual: (ARC_LENGTH_MM, "length")),
    "smaller-tungsten": _fit_smaller_tungsten,
    "regrind": change_technique(),
}
