"""The moves of fit-up, tacks, rod and technique."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable

from ..catalogue.rows import Metal
from ..plan.filler_metal.service import get_preheat_c
from ..plan.preparation.technique import describe_rust_removal, describe_tint_removal
from ..quantities import Quantity
from ..reasons import Sentence
from ..weld_session.steps import pool_limit_s, taper_s
from .actual import Actual
from .moves import Move, MoveFinder, Strengths, change_technique, evaluate_change

# Half of the maximum gap, 0.7 of the tack spacing, tacks 1.5 times as long: estimates.
FIT_SHARE = 0.5
TACK_SHARE, TACK_LONGER = 0.7, 1.5
# The maximum length without a change of stance, and the length before a cooling pause: estimates.
STANCE_MM, RUN_MM = 80.0, 50.0
# The ratio for a sufficient down-slope, and the factor after a crack: estimates, about the reading
# error of a clock.
TAPER_ENOUGH, TAPER_LONGER = 0.9, 1.5
# The caution of a weld metal that hardens, and of a rod outside the chart.
HARD, OFF_CHART = "martensite", "rod-off-chart"


def _refit_gap(actual: Actual, strengths: Strengths) -> Move | None:
    gap = actual.run.used.gap_mm
    gap = actual.plan.section.gap_mm if gap is None else gap
    to = round(FIT_SHARE * actual.plan.fit_up.max_gap_mm, 2)
    return Move(gap if gap else "as it is", to, "length")


def _open_gap(actual: Actual, strengths: Strengths) -> Move | None:
    """Open a closed gap to half of the maximum, for an unfused root with a rod."""
    if not strengths["root-unfused"].strength or not actual.plan.filler.rod:
        return None
    gap = actual.run.used.gap_mm
    gap = actual.plan.section.gap_mm if gap is None else gap
    to = round(FIT_SHARE * actual.plan.fit_up.max_gap_mm, 2)
    return None if gap >= to else Move(gap, to, "length")


def _plan_tacks(actual: Actual, strengths: Strengths) -> Move | None:
    set_, planned = actual.arc.tacks, actual.plan.tacks.count
    if not set_ or set_ >= planned:
        return None
    return Move(set_, planned, "count", {}, {"seen": f"{set_:g}", "planned": f"{planned}"})


def _add_tacks(actual: Actual, strengths: Strengths) -> Move | None:
    if actual.plan.section.all_round:
        return None
    now = actual.plan.tacks.pitch_mm
    to = round(TACK_SHARE * now, 1)
    return Move(now, to, "size", {"pins.tack_pitch_mm": to})


def _add_tacks_round(actual: Actual, strengths: Strengths) -> Move | None:
    """Set more and longer tacks round a tube, where clamps do not hold."""
    tacks = actual.plan.tacks
    if not actual.plan.section.all_round:
        return None
    more = math.ceil(tacks.count / TACK_SHARE)
    # Opposite pairs.
    more += more % 2
    return Move(
        tacks.count,
        more,
        "count",
        {},
        {
            "from": f"{tacks.count}",
            "to": f"{more}",
            "long": Quantity(TACK_LONGER * tacks.length_mm, "size"),
        },
    )


def _clamp(actual: Actual, strengths: Strengths) -> Move | None:
    return None if actual.plan.section.all_round else Move("", "", "word")


def _lengthen_taper(actual: Actual, strengths: Strengths) -> Move | None:
    wanted, did = taper_s(actual.plan), actual.arc.taper_s
    if did is None:
        return Move("", wanted, "seconds", {}, {"instead": ""})
    before = round(did, 1)
    after = wanted if did < TAPER_ENOUGH * wanted else round(TAPER_LONGER * did, 1)
    instead = Sentence(" instead of {s}", s=Quantity(before, "seconds"))
    return Move(before, after, "seconds", {}, {"instead": instead})


def _use_right_rod(actual: Actual, strengths: Strengths) -> Move | None:
    used = actual.run.used.rod or actual.plan.filler.rod
    return _use_chart_rod(actual, used) if actual.carbon_rod else None


def _use_planned_rod(actual: Actual, strengths: Strengths) -> Move | None:
    if not strengths["rod-other"].strength:
        return None
    used, planned = actual.run.used.rod or "none", actual.plan.filler.rod or "none"
    return Move(used, planned, "word", {}, {"seen": used, "planned": planned})


def _leave_rod_off_chart(actual: Actual, strengths: Strengths) -> Move | None:
    codes = {caution.code for caution in actual.plan.cautions}
    return _use_chart_rod(actual, actual.plan.filler.rod) if OFF_CHART in codes else None


def _use_chart_rod(actual: Actual, used: str | None) -> Move | None:
    plan, _ = evaluate_change(actual, {"filler": "auto"})
    if plan is None:
        return None
    return Move(used, plan.filler.rod or "none", "word", {"filler": "auto"})


def _use_tougher_rod(actual: Actual, strengths: Strengths) -> Move | None:
    """Choose the first rod whose weld metal does not harden, if the present one does."""
    if HARD not in actual.current_cautions:
        return None
    for other in actual.plan.filler.others:
        rod = other.sets.get("filler")
        plan = None if rod in (None, "none") else evaluate_change(actual, {"filler": rod})[0]
        if plan is not None and HARD not in {caution.code for caution in plan.cautions}:
            return Move(actual.plan.filler.rod or "none", rod, "word", {"filler": rod})
    return None


def _preheat(actual: Actual, strengths: Strengths) -> Move | None:
    if not any(metal is not None and metal.has("hardens") for metal in actual.plan.metals):
        return None
    low, high = get_preheat_c(actual.plan.section.thick_mm)
    return Move(low, high, "temperature")


def _clean_by(how: Callable[[Iterable[Metal]], str]) -> MoveFinder:
    """Return the finder of a cleaning, in the words for the metals of the joint."""

    def move(actual: Actual, strengths: Strengths) -> Move | None:
        metals = [metal for metal in actual.plan.metals[:2] if metal is not None]
        return Move("", "", "word", {}, {"clean": how(metals)})

    return move


def _keep_time(actual: Actual, strengths: Strengths) -> Move | None:
    travel = actual.plan.travel
    if not travel.dab_pitch_mm:
        return None
    return Move("", round(travel.dab_pitch_mm / travel.speed_mm_s, 1), "seconds")


METAL_MOVES: dict[str, MoveFinder] = {
    "wait-for-the-pool": change_technique(),
    "refit": _refit_gap,
    "open-the-gap": _open_gap,
    "refit-edges": change_technique(),
    "smaller-steps": change_technique(),
    "clamp": _clamp,
    "tacks-as-planned": _plan_tacks,
    "tacks-closer": _add_tacks,
    "tacks-more-round": _add_tacks_round,
    "taper-longer": _lengthen_taper,
    "restart-warm": change_technique(lambda a: (pool_limit_s(a.plan), "seconds")),
    "rod-to-the-front": change_technique(),
    "dab-to-the-beat": _keep_time,
    "on-the-seam": change_technique(),
    "reposition": change_technique(lambda a: (STANCE_MM, "length")),
    "shorter-runs": change_technique(lambda a: (RUN_MM, "length")),
    "clean-brush": _clean_by(describe_rust_removal),
    "remove-tint": _clean_by(describe_tint_removal),
    "coat-or-change-grade": change_technique(),
    "right-rod": _use_right_rod,
    "rod-as-planned": _use_planned_rod,
    "chart-rod": _leave_rod_off_chart,
    "tougher-rod": _use_tougher_rod,
    "wider-pool": change_technique(),
    "less-restraint": change_technique(),
    "preheat": _preheat,
    "more-rod-at-the-toe": change_technique(),
    "dry-rod": change_technique(),
    "clean": change_technique(),
}
