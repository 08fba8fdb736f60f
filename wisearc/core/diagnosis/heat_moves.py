"""The moves of heat: current, travel speed, pulse, bead."""

from __future__ import annotations

from .. import catalogue
from ..plan.arc.need import ARC_LENGTH_MM
from ..quantities import Quantity
from ..reasons import Sentence
from .actual import Actual
from .moves import (
    Move,
    MoveFinder,
    Strengths,
    change_technique,
    evaluate_change,
    get_strength,
    move_to_plan,
)
from .signs import CURRENT_GROWS

# The current changes by 5 to 10 % per step, up with the lack of pool width, and down by ten:
# handbook, common practice.
UP_SHARE, DOWN_SHARE = (0.05, 0.10), 0.10
# 10 % of travel speed: handbook, common practice. A leg 0.3 mm less: estimate.
TRAVEL_SPEED_SHARE = 0.10
LEG_MM, MIN_LEG_MM = 0.3, 0.5
# A larger deviation from the plan is corrected first: estimate, 8 % of current, 13 % of travel
# speed.
OFF = 0.3
# A current that differs less from the plan is the planned one: the reading error of a dial.
SAME_CURRENT = 0.03


def _return_to_planned_current(actual: Actual, strengths: Strengths) -> Move | None:
    if get_strength(strengths, "amps-over", "amps-under") < OFF:
        return None
    wanted, got = actual.plan.slopes.mean_a, actual.measured_mean_a
    if got is not None:
        source = "from the log" if actual.logged else "read off while welding"
        more = {
            "seen": Sentence("{a} {source}", a=Quantity(got, "current"), source=source),
            "planned": Sentence("mean of {a}", a=Quantity(wanted, "current")),
        }
        return Move(got, wanted, "current", {}, more)
    dial = actual.plan.slopes.machine_a
    return move_to_plan(
        actual, "current_a", dial, "current", lambda a: abs(a / dial - 1) > CURRENT_GROWS[0]
    )


def _return_to_planned_speed(actual: Actual, strengths: Strengths) -> Move | None:
    if get_strength(strengths, "pace-fast", "pace-slow") < OFF:
        return None
    return Move(actual.travel_mm_s, actual.plan.travel.speed_mm_s, "speed")


def _change_current(share: float) -> MoveFinder:
    """Return the finder of a change of the current at the arc, of the peak with a pulse.

    A run with more current than planned starts from what it had for a step up, and a run with less
    for a step down. The text has what the dial reads.
    """

    def move(actual: Actual, strengths: Strengths) -> Move | None:
        plan = actual.plan
        by = (
            UP_SHARE[0]
            + (UP_SHARE[1] - UP_SHARE[0]) * get_strength(strengths, "pool-small", "cold")
            if share > 0
            else share
        )
        planned = plan.pulse.peak_a if plan.pulse.pulsed else plan.current.steady_a
        had = 1.0 if actual.share is None else actual.share
        is_beyond = had > 1 + SAME_CURRENT if by > 0 else had < 1 - SAME_CURRENT
        now = planned * (had if is_beyond else 1.0)
        to = round(now * (1 + by))
        if to == round(now):
            to += 1 if by > 0 else -1
        key = "pins.peak_a" if plan.pulse.pulsed else "pins.current_a"
        return Move(now, float(to), "current", {key: float(to)})

    return move


def _change_travel_speed(share: float) -> MoveFinder:
    def move(actual: Actual, strengths: Strengths) -> Move | None:
        now = actual.plan.travel.speed_mm_s
        to = round(now * (1 + share), 2)
        # Keep the current: the plan would change it with the travel speed.
        key, planned = (
            ("pins.peak_a", actual.plan.pulse.peak_a)
            if actual.plan.pulse.pulsed
            else ("pins.current_a", actual.plan.current.steady_a)
        )
        return Move(now, to, "speed", {"travel_mm_s": to, key: planned})

    return move


def _change_pulse(pattern: str) -> MoveFinder:
    def move(actual: Actual, strengths: Strengths) -> Move | None:
        rows = catalogue.load_pulse_patterns()
        if actual.plan.pulse.school == pattern:
            return None
        plan, _ = evaluate_change(actual, {"pulse": pattern})
        if plan is None or plan.pulse.school != pattern:
            return None
        return Move(actual.plan.pulse.pattern_name, rows[pattern].name, "word", {"pulse": pattern})

    return move


def _reduce_leg(actual: Actual, strengths: Strengths) -> Move | None:
    now = actual.plan.filler.leg_mm
    to = None if now is None else round(max(MIN_LEG_MM, now - LEG_MM), 2)
    return (
        None if now is None or to is None or to >= now else Move(now, to, "length", {"leg_mm": to})
    )


def _feed_less(actual: Actual, strengths: Strengths) -> Move | None:
    return Move("", "", "word") if actual.plan.filler.rod else None


def _change_aim(unlike: bool) -> MoveFinder:
    """Return the finder that moves the aim: to the thick side, or away from the edge."""

    def move(actual: Actual, strengths: Strengths) -> Move | None:
        return Move("", "", "word") if bool(strengths["unlike"].strength) == unlike else None

    return move


HEAT_MOVES: dict[str, MoveFinder] = {
    "set-as-planned": _return_to_planned_current,
    "pace-as-planned": _return_to_planned_speed,
    "amps-up": _change_current(1),
    "amps-down": _change_current(-DOWN_SHARE),
    "slower": _change_travel_speed(-TRAVEL_SPEED_SHARE),
    "faster": _change_travel_speed(TRAVEL_SPEED_SHARE),
    "pulse-cold": _change_pulse("slow-cold"),
    "focused": _change_pulse("focused"),
    "smaller-bead": _reduce_leg,
    "less-rod": _feed_less,
    "aim-at-the-thick": _change_aim(True),
    "aim-off-the-edge": _change_aim(False),
    "shorter-arc": change_technique(lambda actual: (ARC_LENGTH_MM, "length")),
}
