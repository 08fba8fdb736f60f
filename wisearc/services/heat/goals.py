"""Goals of a weld, and the changes of settings that may reach them, the smallest change first."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec import Struct

from ...core.errors import WiseArcError
from ...core.joint.data import joint_data, make_joint
from ...core.joint.joint import Joint
from ...core.plan.plan import Plan
from ...core.plan.torch.front_end import SHOW_CUPS
from ...core.quantities import format_amps
from ...core.schema.json_types import Json
from ...core.shop.shop import Shop
from ..planning.planner import cached_plan

GOALS = {
    "silver": "Make it silver",
    "flat": "Keep it flat",
    "through": "Do not blow through",
}


class Change(Struct, frozen=True):
    """A change of a joint: the keys of its link, and what it means in words."""

    sets: dict[str, str]
    words: str
    cost: str


def list_changes(plan: Plan, joint: Joint) -> Iterator[Change]:
    """Return the changes of a plan to be tried, the smallest first.

    Args:
        plan: The present plan.
        joint: Its joint.
    """
    travel = plan.travel.speed_mm_s
    pulsed = plan.pulse.pulsed
    amps = plan.pulse.peak_a if pulsed else plan.current.steady_a
    key, name = ("pins.peak_a", "peak") if pulsed else ("pins.current_a", "current")
    less = {share: {key: format_amps(amps * (1 - share / 100))} for share in (5, 10, 15)}
    bars = {} if plan.back.barred else {"back": "copper-bar"}
    slow = {} if pulsed or not joint.kind.has("along_edge") else {"pulse": "slow-cold"}
    faster = {share: {"travel_mm_s": f"{travel * (1 + share / 100):.2f}"} for share in (10, 20)}
    cup = next((c for c in SHOW_CUPS if c > plan.torch.cup), None)
    bigger = {"pins.cup": str(cup)} if cup else {}
    saves = "The pool is narrower. Watch that both edges melt."
    wide = "It needs more argon."
    clamps = "Bars must be clamped and moved along."
    yield Change(less[5], f"Use 5 % less {name}.", saves)
    if bigger:
        yield Change(bigger, f"Use a no. {cup} cup.", "It needs more argon and more room.")
    yield Change(less[10], f"Use 10 % less {name}.", saves)
    yield Change(faster[10], "Travel 10 % faster.", "The hand must be steadier. " + saves)
    if slow:
        yield Change(slow, "Use a slow, cold pulse.", "The seam takes longer, and needs bars.")
    if bars:
        yield Change(bars, "Clamp copper bars.", clamps)
    if bars and slow:
        yield Change({**bars, **slow}, "Clamp copper bars and use a slow, cold pulse.", clamps)
    if bigger:
        yield Change(
            {**less[5], **bigger},
            f"Use 5 % less {name} and a no. {cup} cup.",
            wide,
        )
    if bars:
        yield Change({**bars, **less[5]}, f"Clamp copper bars and use 5 % less {name}.", clamps)
    yield Change(less[15], f"Use 15 % less {name}.", saves)
    if bigger and bars:
        yield Change({**bars, **bigger}, f"Clamp copper bars and use a no. {cup} cup.", clamps)
    if bigger and bars and slow:
        words = f"Clamp copper bars, use a slow, cold pulse and a no. {cup} cup."
        yield Change({**bars, **slow, **bigger}, words, clamps)


def list_changed_plans(plan: Plan, joint: Joint, shop: Shop) -> list[tuple[Change, Plan]]:
    """Return the changes that keep the plan free of a stop, with their plans.

    Args:
        plan: The present plan.
        joint: Its joint.
        shop: The equipment.
    """
    changed = []
    for change in list_changes(plan, joint):
        try:
            tried = cached_plan(_apply(joint, change), shop)
        except WiseArcError:
            continue
        if not tried.stopped or plan.stopped:
            changed.append((change, tried))
    return changed


def _apply(joint: Joint, change: Change) -> Joint:
    """Return a joint with a change."""
    data: dict[str, Json] = dict(joint_data(joint))
    pins = dict(joint.pins)
    for key, value in change.sets.items():
        if key.startswith("pins."):
            pins[key.removeprefix("pins.")] = float(value) if "." in value else int(value)
        elif key == "travel_mm_s":
            data[key] = float(value)
        else:
            data[key] = value
    return make_joint({**data, "pins": pins} if pins else data)
