"""The moves of the root: its cover and its purge."""

from __future__ import annotations

from .. import catalogue
from ..errors import InputError
from ..plan.shielding.back import TARGET_KEY
from ..quantities import Quantity
from .actual import Actual
from .moves import Move, MoveFinder, Strengths, change_technique, evaluate_change

# The oxygen target is halved until the purge takes this much longer, but not below the last value,
# about the resolution of a meter: estimates.
PURGE_SHARE, MIN_PURGE_PPM = 0.5, 20.0
LONGER = 1.5
# The flow during the weld falls by a third, not below the flow at closing: estimate.
LESS_FLOW_SHARE, MIN_FLOW_L_MIN = 2 / 3, 1.5
# A recorded flow that differs by more is corrected first: estimate, the reading error of a gauge.
FLOW_OFF_SHARE = 0.25


def cover_root_with(*traits: str) -> MoveFinder:
    """Return the finder of another root cover: the first allowed one with a trait.

    The cover that the plan would choose is tried first. The finder finds none if the present cover
    has a trait of them.

    Args:
        *traits: The traits.
    """

    def move(actual: Actual, strengths: Strengths) -> Move | None:
        covers = catalogue.back_covers()
        now = covers.get(actual.plan.back.cover)
        if now is None or any(now.has(trait) for trait in traits):
            return None
        automatic = actual.planned_with({"back": "auto"})
        usual = "" if isinstance(automatic, InputError) else automatic.back.cover
        for cover in sorted(covers.values(), key=lambda cover: cover.key != usual):
            if any(cover.has(trait) for trait in traits):
                sets = {"back": cover.key}
                _, caution = evaluate_change(actual, sets)
                if caution is None:
                    return Move(now.name, cover.name, "word", sets)
        return None

    return move


def _clamp_both_bars(actual: Actual, strengths: Strengths) -> Move | None:
    return Move("", "", "word") if actual.plan.back.barred else None


def _purge_both_sides(actual: Actual, strengths: Strengths) -> Move | None:
    return Move("", "", "word") if actual.plan.back.purged else None


def _purge_longer(actual: Actual, strengths: Strengths) -> Move | None:
    """Lengthen the purge by half at least: by a lower target if its time depends on it.

    A purge whose time does not depend on the target is lengthened by the clock alone.
    """
    purge = actual.plan.back.purge
    if purge is None or not actual.plan.back.purged:
        return None
    now, target = purge.before_s, purge.target_ppm
    while target > MIN_PURGE_PPM:
        target = max(MIN_PURGE_PPM, round(PURGE_SHARE * target))
        plan, _ = evaluate_change(actual, {TARGET_KEY: target})
        longer = plan.back.purge if plan else None
        if longer is not None and longer.before_s >= LONGER * now:
            return Move(now, longer.before_s, "duration", {TARGET_KEY: target})
    return Move(now, LONGER * now, "duration")


def _wait_for_the_meter(actual: Actual, strengths: Strengths) -> Move | None:
    read = actual.run.purge.at_arc_ppm if actual.run.purge else None
    target = actual.plan.back.purge.target_ppm if actual.plan.back.purge else None
    return None if target is None or read is None or read <= target else Move(read, target, "ppm")


def _wait_for_the_volumes(actual: Actual, strengths: Strengths) -> Move | None:
    """Wait for the planned time, if no meter was read."""
    purge, meter = actual.plan.back.purge, actual.run.purge
    if purge is None or (meter and meter.at_arc_ppm is not None):
        return None
    return Move("", purge.before_s, "duration")


def _open_the_vent(actual: Actual, strengths: Strengths) -> Move | None:
    purge = actual.plan.back.purge
    return None if purge is None or not purge.vent_mm else Move("", purge.vent_mm, "length")


def _plan_purge_flow(actual: Actual, strengths: Strengths) -> Move | None:
    """Return to the planned purge flow, if the recorded one differs: too little or too much."""
    purge, done = actual.plan.back.purge, actual.run.purge
    if purge is None or done is None or not purge.weld_flow_l_min:
        return None
    seen, planned = done.weld_l_min, purge.weld_flow_l_min
    if abs(seen / planned - 1) <= FLOW_OFF_SHARE:
        return None
    more = {"seen": Quantity(seen, "flow"), "planned": Quantity(planned, "flow")}
    return Move(seen, planned, "flow", {}, more)


def _keep_closing_flow(actual: Actual, strengths: Strengths) -> Move | None:
    purge = actual.plan.back.purge
    flow = purge.closing_flow_l_min if purge else None
    return None if flow is None else Move("", flow, "flow")


def _reduce_purge_flow(actual: Actual, strengths: Strengths) -> Move | None:
    purge = actual.plan.back.purge
    if purge is None:
        return None
    now = purge.weld_flow_l_min
    to = round(max(MIN_FLOW_L_MIN, LESS_FLOW_SHARE * now), 1)
    return None if to >= now else Move(now, to, "flow", {"pins.purge_l_min": to})


ROOT_MOVES: dict[str, MoveFinder] = {
    "cover-the-back": cover_root_with("bar", "gas"),
    "bars": cover_root_with("bar"),
    "bars-both-sides": _clamp_both_bars,
    "both-sides-of-purge": _purge_both_sides,
    "purge-longer": _purge_longer,
    "wait-for-the-meter": _wait_for_the_meter,
    "wait-for-the-volumes": _wait_for_the_volumes,
    "seal-the-gap": change_technique(),
    "purge-flow-as-planned": _plan_purge_flow,
    "open-the-vent": _open_the_vent,
    "keep-closing-flow": _keep_closing_flow,
    "less-purge-flow": _reduce_purge_flow,
}
