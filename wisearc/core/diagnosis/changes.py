"""The possible changes for a cause, in figures, within the plan and its cautions."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from typing import Any

from msgspec import Struct, field

from .. import catalogue
from ..catalogue.rows import ReadChange
from ..errors import InputError
from ..physics.gas import flow_l_min
from ..plan.arc.need import ARC_LENGTH_MM
from ..plan.plan import Plan
from ..plan.shielding.back import TARGET_KEY
from ..plan.shielding.gas import REYNOLDS
from ..plan.torch.front_end import bore_mm
from ..quantities import Quantity
from ..reasons import Caution, Filled, Sentence, Words
from ..schema.json_types import JsonObject
from ..weld_session.steps import pool_limit_s, taper_s
from .actual import Actual
from .signs import CURRENT_GROWS, SignStrength

# The current changes by 5 to 10 % per step, up with the lack of pool width, and down by ten:
# handbook, common practice.
UP_SHARE, DOWN_SHARE = (0.05, 0.10), 0.10
# 10 % of travel speed and 2 s of gas: handbook, common practice. Half of the maximum gap, 0.7 of
# the tack spacing, half of the oxygen, a leg 0.3 mm less: estimates.
TRAVEL_SPEED_SHARE = 0.10
POSTFLOW_S = 2.0
FIT_SHARE = 0.5
TACK_SHARE = 0.7
PURGE_SHARE, MIN_PURGE_PPM = 0.5, 20.0
LEG_MM, MIN_LEG_MM = 0.3, 0.5
# The maximum length without a change of stance, and the length before a cooling pause: estimates.
STANCE_MM, RUN_MM = 80.0, 50.0
STICKOUT_MM = 2.0
# The minimum useful change of a flow or a stick-out; the tolerance of set and hold times; the ratio
# for a sufficient down-slope, and the factor after a crack: estimates, about the reading error of a
# gauge, a rule and a clock.
FLOW_SHARE, MIN_STICKOUT_MM, SET_SHORT_S, HELD_SHORT_S = 0.15, 0.4, 0.25, 0.5
FLOW_OFF_SHARE, TAPER_ENOUGH, TAPER_LONGER = 0.10, 0.9, 1.5
# A larger deviation from the plan is corrected first: estimate, 8 % of current, 13 % of travel
# speed.
OFF = 0.3
# The caution of a weld metal that hardens.
HARD = "martensite"
PAST = "This goes beyond the plan's calculation. The result on the metal counts for more."


class Move(Struct, frozen=True):
    """One move: start and end as figures of a kind of quantity, or as names.

    `sets` has the keys of the joint as plain data ("pins.key" is a manual answer; None removes a
    key). A return to the plan has no keys. `more` has further figures of the text.
    """

    before: Any
    after: Any
    quantity: str
    sets: JsonObject = field(default_factory=dict)
    more: Mapping[str, Filled] = field(default_factory=dict)


class Change(Struct, frozen=True):
    """A possible change: code, key, cause, move, text, observation to make, and the resulting plan.

    `said` is an additional text or "". `sets` has the keys of the joint, with those that keep all
    other values.
    """

    code: str
    key: str
    cause: str
    move: Move
    words: Words
    watch: str
    plan: Plan | None = None
    said: str = ""
    sets: JsonObject = field(default_factory=dict)


class Refused(Struct, frozen=True):
    """A change that a caution forbids: its text, and the caution."""

    code: str
    words: Words
    caution: Caution


def list_changes(
    cause: str, actual: Actual, strengths: Mapping[str, SignStrength]
) -> Iterator[Change | Refused]:
    """Return the changes for a cause in the order to try.

    A forbidden change has its caution.

    Args:
        cause: Key of the cause.
        actual: The run.
        strengths: Its signs.
    """
    for code in catalogue.load_causes()[cause].changes:
        move = _MOVES[code](actual, strengths)
        if move is not None:
            yield _build_change(code, cause, move, actual)


def _build_change(code: str, cause: str, move: Move, actual: Actual) -> Change | Refused:
    row = catalogue.read_changes()[code]
    wording = Sentence(row.words, **_format_places(move))
    if not move.sets:
        return Change(code, row.key, cause, move, wording, row.watch)
    plan, caution = evaluate_change(actual, move.sets, row)
    if caution is not None:
        return Refused(code, wording, caution)
    past = plan is not None and any(c.code in row.despite for c in plan.cautions)
    text = " ".join(part for part in (PAST if past else "", actual.held.description) if part)
    return Change(
        code, row.key, cause, move, wording, row.watch, plan, text, actual.held.with_held(move.sets)
    )


def evaluate_change(
    actual: Actual, sets: JsonObject, row: ReadChange | None = None
) -> tuple[Plan | None, Caution | None]:
    """Return the plan with a change, and the first caution that forbids it or None.

    A caution forbids the change if it is new and not tolerated, or if it always forbids it.

    Args:
        actual: The run.
        sets: The keys of the change.
        row: The change, or None.
    """
    plan = actual.planned_with(actual.held.with_held(sets))
    if isinstance(plan, InputError):
        return None, Caution("stop", "cannot-be", "joint", Sentence("{why}", why=str(plan)))
    despite, against = (row.despite, row.against) if row else ((), ())

    def forbids(caution: Caution) -> bool:
        if caution.level == "note" or (caution.code in despite and caution.level != "stop"):
            return False
        return caution.code in against or caution.code not in actual.current_cautions

    return plan, next((caution for caution in plan.cautions if forbids(caution)), None)


def _format_places(move: Move) -> dict[str, Filled]:
    def of(value: Any) -> Any:
        return value if isinstance(value, str) or value is None else Quantity(value, move.quantity)

    return {"from": of(move.before), "to": of(move.after), **move.more}


def _get_strength(strengths: Mapping[str, SignStrength], *keys: str) -> float:
    return max((strengths[key].strength or 0.0 for key in keys), default=0.0)


def _move_to_plan(
    actual: Actual, key: str, planned: float, quantity: str, off: Callable[[float], bool]
) -> Move | None:
    """Return a move back to the plan if the set value is outside the tolerance."""
    done = getattr(actual.run.set, key)
    if done is None or not off(done):
        return None
    more = {"seen": Quantity(done, quantity), "planned": Quantity(planned, quantity)}
    return Move(done, planned, quantity, {}, more)


def _set_as_planned(actual: Actual, strengths: Mapping[str, SignStrength]) -> Move | None:
    if _get_strength(strengths, "amps-over", "amps-under") < OFF:
        return None
    wanted, got = actual.plan.slopes.mean_a, actual.mean_a or 0.0
    if actual.logged:
        more = {
            "seen": Sentence("{a} from the log", a=Quantity(got, "current")),
            "planned": Sentence("mean of {a}", a=Quantity(wanted, "current")),
        }
        return Move(got, wanted, "current", {}, more)
    dial = actual.plan.slopes.machine_a
    return _move_to_plan(
        actual, "current_a", dial, "current", lambda a: abs(a / dial - 1) > CURRENT_GROWS[0]
    )


def _plan_travel_speed(actual: Actual, strengths: Mapping[str, SignStrength]) -> Move | None:
    if _get_strength(strengths, "pace-fast", "pace-slow") < OFF:
        return None
    return Move(actual.travel_mm_s, actual.plan.travel.speed_mm_s, "speed")


def _change_current(share: float) -> Callable[[Actual, Mapping[str, SignStrength]], Move | None]:
    def move(actual: Actual, strengths: Mapping[str, SignStrength]) -> Move | None:
        plan = actual.plan
        by = (
            UP_SHARE[0]
            + (UP_SHARE[1] - UP_SHARE[0]) * _get_strength(strengths, "pool-small", "cold")
            if share > 0
            else share
        )
        now = plan.pulse.peak_a if plan.pulse.pulsed else plan.current.steady_a
        to = round(now * (1 + by))
        if to == round(now):
            to += 1 if by > 0 else -1
        return Move(
            now,
            float(to),
            "current",
            {"pins.peak_a" if plan.pulse.pulsed else "pins.current_a": float(to)},
        )

    return move


def _change_travel_speed(
    share: float,
) -> Callable[[Actual, Mapping[str, SignStrength]], Move | None]:
    def move(actual: Actual, strengths: Mapping[str, SignStrength]) -> Move | None:
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


def _plan_postflow(actual: Actual, strengths: Mapping[str, SignStrength]) -> Move | None:
    planned = actual.plan.gas.postflow_s
    return _move_to_plan(
        actual, "postflow_s", planned, "seconds", lambda s: s < planned - SET_SHORT_S
    )


def _hold_still(actual: Actual, strengths: Mapping[str, SignStrength]) -> Move | None:
    held, planned = actual.arc.held_s, actual.plan.gas.postflow_s
    if held is None:
        held = actual.arc.postflow_s
    return (
        None if held is None or held >= planned - HELD_SHORT_S else Move(held, planned, "seconds")
    )


def _lengthen_postflow(actual: Actual, strengths: Mapping[str, SignStrength]) -> Move | None:
    """Lengthen the post-flow, to the current minimum at least if an older plan was shorter."""
    now = actual.plan.gas.postflow_s
    to = max(now + POSTFLOW_S, actual.today.gas.postflow_s if actual.today else 0.0)
    return Move(now, to, "seconds", {"pins.postflow_s": to})


def _plan_cup(actual: Actual, strengths: Mapping[str, SignStrength]) -> Move | None:
    used, planned = actual.run.used.cup, actual.plan.torch.cup
    if used is None or used >= planned:
        return None
    return Move(
        used, planned, "count", {}, {"seen": f"no. {used:g}", "planned": f"no. {planned} cup"}
    )


def _shorten_stickout(actual: Actual, strengths: Mapping[str, SignStrength]) -> Move | None:
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


def _fit_lens(actual: Actual, strengths: Mapping[str, SignStrength]) -> Move | None:
    if actual.plan.torch.front_end == "gas-lens":
        return None
    return Move(actual.plan.torch.front_end, "gas-lens", "word", {"pins.front_end": "gas-lens"})


def _fit_larger_cup(actual: Actual, strengths: Mapping[str, SignStrength]) -> Move | None:
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


def _plan_flow(actual: Actual, strengths: Mapping[str, SignStrength]) -> Move | None:
    planned = actual.plan.gas.flow_l_min
    return _move_to_plan(
        actual, "flow_l_min", planned, "flow", lambda q: abs(q / planned - 1) > FLOW_OFF_SHARE
    )


def _change_flow(sign: int) -> Callable[[Actual, Mapping[str, SignStrength]], Move | None]:
    def move(actual: Actual, strengths: Mapping[str, SignStrength]) -> Move | None:
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


def _refit_gap(actual: Actual, strengths: Mapping[str, SignStrength]) -> Move | None:
    gap = actual.run.used.gap_mm
    gap = actual.plan.section.gap_mm if gap is None else gap
    to = round(FIT_SHARE * actual.plan.fit_up.max_gap_mm, 2)
    return Move(gap if gap else "as it is", to, "length")


def _change_pulse(pattern: str) -> Callable[[Actual, Mapping[str, SignStrength]], Move | None]:
    def move(actual: Actual, strengths: Mapping[str, SignStrength]) -> Move | None:
        rows = catalogue.load_pulse_patterns()
        if actual.plan.pulse.school == pattern:
            return None
        plan, _ = evaluate_change(actual, {"pulse": pattern})
        if plan is None or plan.pulse.school != pattern:
            return None
        return Move(actual.plan.pulse.pattern_name, rows[pattern].name, "word", {"pulse": pattern})

    return move


def _plan_tacks(actual: Actual, strengths: Mapping[str, SignStrength]) -> Move | None:
    set_, planned = actual.arc.tacks, actual.plan.tacks.count
    if not set_ or set_ >= planned:
        return None
    return Move(set_, planned, "count", {}, {"seen": f"{set_:g}", "planned": f"{planned}"})


def _add_tacks(actual: Actual, strengths: Mapping[str, SignStrength]) -> Move | None:
    if actual.plan.section.all_round:
        return None
    now = actual.plan.tacks.pitch_mm
    to = round(TACK_SHARE * now, 1)
    return Move(now, to, "size", {"pins.tack_pitch_mm": to})


def _back(*wanted: str) -> Callable[[Actual, Mapping[str, SignStrength]], Move | None]:
    """Choose another root cover.

    The first with one of the target traits, unless the present one has any.
    """

    def move(actual: Actual, strengths: Mapping[str, SignStrength]) -> Move | None:
        now = catalogue.back_covers().get(actual.plan.back.cover)
        if now is None or any(now.has(trait) for trait in wanted):
            return None
        for cover in catalogue.back_covers().values():
            if any(cover.has(trait) for trait in wanted):
                sets = {"back": cover.key}
                _, caution = evaluate_change(actual, sets)
                if caution is None:
                    return Move(now.name, cover.name, "word", sets)
        return None

    return move


def _cover_both_sides(actual: Actual, strengths: Mapping[str, SignStrength]) -> Move | None:
    return Move("", "", "word") if actual.plan.back.barred else None


def _purge_longer(actual: Actual, strengths: Mapping[str, SignStrength]) -> Move | None:
    purge = actual.plan.back.purge
    if purge is None or not actual.plan.back.purged or purge.target_ppm <= MIN_PURGE_PPM:
        return None
    to = max(MIN_PURGE_PPM, round(PURGE_SHARE * purge.target_ppm))
    return Move(purge.target_ppm, to, "ppm", {TARGET_KEY: to})


def _wait_for_the_meter(actual: Actual, strengths: Mapping[str, SignStrength]) -> Move | None:
    read = actual.run.purge.at_arc_ppm if actual.run.purge else None
    target = actual.plan.back.purge.target_ppm if actual.plan.back.purge else None
    return None if target is None or read is None or read <= target else Move(read, target, "ppm")


def _lengthen_taper(actual: Actual, strengths: Mapping[str, SignStrength]) -> Move | None:
    wanted, did = taper_s(actual.plan), actual.arc.taper_s
    if did is None or did < TAPER_ENOUGH * wanted:
        return Move(round(did, 1) if did is not None else "at once", wanted, "seconds")
    return Move(round(did, 1), round(TAPER_LONGER * did, 1), "seconds")


def _reduce_leg(actual: Actual, strengths: Mapping[str, SignStrength]) -> Move | None:
    now = actual.plan.filler.leg_mm
    to = None if now is None else round(max(MIN_LEG_MM, now - LEG_MM), 2)
    return (
        None if now is None or to is None or to >= now else Move(now, to, "length", {"leg_mm": to})
    )


def _use_right_rod(actual: Actual, strengths: Mapping[str, SignStrength]) -> Move | None:
    used = actual.run.used.rod or actual.plan.filler.rod
    if not actual.carbon_rod:
        return None
    plan, _ = evaluate_change(actual, {"filler": "auto"})
    return (
        None if plan is None else Move(used, plan.filler.rod or "none", "word", {"filler": "auto"})
    )


def _change_technique(
    to: Callable[[Actual], tuple[Any, str]] = lambda actual: ("", "word"),
) -> Callable[[Actual, Mapping[str, SignStrength]], Move | None]:
    def move(actual: Actual, strengths: Mapping[str, SignStrength]) -> Move | None:
        after, quantity = to(actual)
        return Move("", after, quantity)

    return move


def _change_aim(unlike: bool) -> Callable[[Actual, Mapping[str, SignStrength]], Move | None]:
    """Move the aim: to the thick side, or away from the edge."""

    def move(actual: Actual, strengths: Mapping[str, SignStrength]) -> Move | None:
        return Move("", "", "word") if bool(strengths["unlike"].strength) == unlike else None

    return move


def _use_tougher_rod(actual: Actual, strengths: Mapping[str, SignStrength]) -> Move | None:
    """Choose the first rod whose weld metal does not harden, if the present one does."""
    if HARD not in actual.current_cautions:
        return None
    for other in actual.plan.filler.others:
        rod = other.sets.get("filler")
        plan = None if rod in (None, "none") else evaluate_change(actual, {"filler": rod})[0]
        if plan is not None and HARD not in {caution.code for caution in plan.cautions}:
            return Move(actual.plan.filler.rod or "none", rod, "word", {"filler": rod})
    return None


_MOVES: Mapping[str, Callable[[Actual, Mapping[str, SignStrength]], Move | None]] = {
    "set-as-planned": _set_as_planned,
    "pace-as-planned": _plan_travel_speed,
    "amps-up": _change_current(1),
    "amps-down": _change_current(-DOWN_SHARE),
    "slower": _change_travel_speed(-TRAVEL_SPEED_SHARE),
    "faster": _change_travel_speed(TRAVEL_SPEED_SHARE),
    "pulse-cold": _change_pulse("slow-cold"),
    "postflow-as-planned": _plan_postflow,
    "hold-still": _hold_still,
    "postflow-longer": _lengthen_postflow,
    "cup-as-planned": _plan_cup,
    "stickout-shorter": _shorten_stickout,
    "lens": _fit_lens,
    "cup-bigger": _fit_larger_cup,
    "flow-as-planned": _plan_flow,
    "flow-down": _change_flow(-1),
    "flow-up": _change_flow(1),
    "shut-the-door": _change_technique(),
    "side-dam": _change_technique(),
    "wait-for-the-pool": _change_technique(),
    "refit": _refit_gap,
    "smaller-steps": _change_technique(),
    "clamp": _change_technique(),
    "aim-at-the-thick": _change_aim(True),
    "aim-off-the-edge": _change_aim(False),
    "focused": _change_pulse("focused"),
    "tacks-as-planned": _plan_tacks,
    "tacks-closer": _add_tacks,
    "cover-the-back": _back("bar", "gas"),
    "bars-both-sides": _cover_both_sides,
    "purge-longer": _purge_longer,
    "wait-for-the-meter": _wait_for_the_meter,
    "seal-the-gap": _change_technique(),
    "taper-longer": _lengthen_taper,
    "restart-warm": _change_technique(lambda a: (pool_limit_s(a.plan), "seconds")),
    "rod-to-the-front": _change_technique(),
    "reposition": _change_technique(lambda a: (STANCE_MM, "length")),
    "bars": _back("bar"),
    "shorter-runs": _change_technique(lambda a: (RUN_MM, "length")),
    "clean-brush": _change_technique(),
    "right-rod": _use_right_rod,
    "smaller-bead": _reduce_leg,
    "tougher-rod": _use_tougher_rod,
    "regrind": _change_technique(),
    "clean": _change_technique(),
    "shorter-arc": _change_technique(lambda a: (ARC_LENGTH_MM, "length")),
}
