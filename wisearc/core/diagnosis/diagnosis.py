"""A reading: the verdict on what came out, the causes behind it, the one change, what would be
tried after it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from .. import catalogue
from ..plan.plan import Plan
from ..quantities import Quantity
from ..reasons import Care, Caution, Filled, Note, Sentence, Words
from ..run.inspection import NOTHING_SEEN
from ..run.quality import find_observed
from ..run.run import Run
from ..run.verification import judge_run
from ..schema.json_types import Json
from ..shop.shop import Shop
from .actual import Actual, change_joint_data
from .causes import Asked, Ranked, choose_question, rank
from .changes import Change, Refused, evaluate_change, list_changes
from .signs import SignStrength, list_signs

# so many more changes are listed
MAX_OTHER_CAUSES = 3
# a log's arc time and what was written down differ by so much at most; its currents and rates from
# the plan's: estimates
LOG_TIME, LOG_FACTOR = 1.4, 2.0
# a run back from a change goes half of the way
BACK_SHARE, HALF_DIGITS = 0.5, 2
BACK_SAID = "This reverses the last change."


class Before(Struct, frozen=True):
    """What was changed before a run, by reading the one before it: the cause it was for, its code,
    key, from, to; whether what it was for came again; whether no run lies between.
    """

    cause: str
    code: str
    key: str
    before: Any
    after: Any
    again: bool
    just: bool = True


class Reading(Struct, frozen=True):
    """What a run says: the verdict and why; the causes, likeliest first; the one change or None;
    what would be tried after it; the question that would tell more; what is to be said besides:
    what does not go together, what is not believed, what a caution forbids; every sign.
    """

    verdict: str
    why: Words
    causes: tuple[Ranked, ...]
    change: Change | None
    also: tuple[Change, ...]
    question: Asked | None
    cautions: tuple[Caution, ...]
    told: Mapping[str, SignStrength]


def diagnose_run(run: Run, plan: Plan, shop: Shop, before: Sequence[Before] = ()) -> Reading:
    """Read a run against its plan.

    Parameters: run, with what was seen where it was looked at closer;
    before, what was changed before it, oldest first. Handbook's table of what is seen: common
    practice; weights: estimate.
    """
    doubt = log_doubt(run, plan)
    actual = Actual(plan, replace(run, arc=None) if doubt else run, shop)
    told = list_signs(actual)
    quality = judge_run(find_observed(run), plan)
    tried: dict[str, int] = {}
    for one in before:
        if one.again:
            tried[one.cause] = tried.get(one.cause, 0) + 1
    causes = () if not quality.has_fault else rank(told, tried)
    change, also, refused = _choose_changes(causes, actual, told, before)
    cautions = tuple(
        c
        for c in (
            doubt,
            *_check_contrary_signs(told),
            _check_tint_table(run, plan),
            *map(_build_refusal, refused),
        )
        if c
    )
    return Reading(
        quality.verdict,
        quality.reason,
        causes,
        change,
        also,
        choose_question(causes, told),
        cautions,
        told,
    )


def log_doubt(run: Run, plan: Plan) -> Caution | None:
    """Why the log that goes with a run may be another joint's, so that none of its figures is used:
    estimates.
    """
    arc, time = run.arc, run.measured.arc_time_s
    if arc is None or not arc.logged:
        return None
    pairs = (
        (arc.arc_s, time, "seconds", LOG_TIME),
        (arc.mean_a, plan.slopes.mean_a, "current", LOG_FACTOR),
        (
            arc.rate_pps or None,
            plan.pulse.rate_pps if plan.pulse.pulsed else None,
            "rate",
            LOG_FACTOR,
        ),
    )
    for logged, known, quantity, most in pairs:
        if logged and known and not 1 / most <= logged / known <= most:
            words = (
                "The log shows {l}, but {k} is recorded or planned. It may belong to another "
                "joint, so none of its figures is used."
            )
            return Care(
                "log-of-another",
                "log",
                words,
                l=Quantity(logged, quantity),
                k=Quantity(known, quantity),
            )
    return None


def _check_contrary_signs(told: Mapping[str, SignStrength]) -> list[Caution]:
    return [
        Care("observations-contradict", "seen", "{w}", w=c.words)
        for c in catalogue.load_contraries()
        if _has_both(told, c.first, c.second)
    ]


def has_tint_table(plan: Plan) -> bool:
    """Whether the tints of heat are tabled for what a plan joins: published for 304-type stainless
    alone.
    """
    return all(metal is not None and metal.has("tints_tabled") for metal in plan.metals)


def _check_tint_table(run: Run, plan: Plan) -> Caution | None:
    seen = run.seen or NOTHING_SEEN
    if has_tint_table(plan) or not (seen.front_tint or seen.back_tint):
        return None
    words = "This metal has no table of tints by temperature. Only their sequence is used."
    return Note("tints-not-tabled", "seen", words)


def _build_refusal(one: Refused) -> Caution:
    words = "Not proposed: {c}. {w}"
    return Note("change-forbidden", "change", words, c=one.words, w=one.caution.sentence)


def _has_both(told: Mapping[str, SignStrength], first: str, second: str) -> bool:
    return all((told[key].strength or 0.0) >= 0.5 for key in (first, second))


def _choose_changes(
    causes: Sequence[Ranked],
    actual: Actual,
    told: Mapping[str, SignStrength],
    before: Sequence[Before],
) -> tuple[Change | None, tuple[Change, ...], tuple[Refused, ...]]:
    """The one change, of the likeliest cause that has one; the next of each; what was forbidden on
    the way.
    """
    first: Change | None = None
    after: list[Change] = []
    refused: list[Refused] = []
    done = {one.code for one in before if one.again and one.key == "hand"}
    for found in (one for ranked in causes for one in list_changes(ranked.cause.key, actual, told)):
        if isinstance(found, Refused):
            refused.append(found)
        elif found.code in {one.code for one in (first, *after) if one}:
            continue
        elif first is None and found.code not in done:
            first = _halve_reversal(found, actual, before)
        else:
            after.append(found)
        if first is not None and len(after) >= MAX_OTHER_CAUSES:
            break
    return first, tuple(after), tuple(refused)


def _halve_reversal(change: Change, actual: Actual, before: Sequence[Before]) -> Change:
    """A change that goes back on what was just tried says so, and goes half of the way."""
    last, move = before[-1] if before else None, change.move
    if last is None or not last.just:
        return change
    if last.key != change.key or not all(
        isinstance(v, int | float) for v in (last.before, last.after, move.before, move.after)
    ):
        ways = [
            catalogue.read_changes()[code].way if code in catalogue.read_changes() else ""
            for code in (last.code, change.code)
        ]
        return (
            replace(change, said=BACK_SAID)
            if ways[1] and ways[0] == _get_opposite(ways[1])
            else change
        )
    if (last.after - last.before) * (move.after - move.before) >= 0:
        return change
    half = round((last.before + last.after) * BACK_SHARE, HALF_DIGITS)
    keys = [key for key, value in move.sets.items() if value == move.after]
    said = f"{BACK_SAID[:-1]}. Go half of the way: the best value lies between."
    if not keys:
        return replace(change, said=said)
    sets = {**move.sets, **dict.fromkeys(keys, half)}
    row = catalogue.read_changes()[change.code]
    plan, forbidden = evaluate_change(actual, sets, row)
    if forbidden is not None:
        return replace(change, said=BACK_SAID)
    words, held = Sentence(row.words, **_list_places(change, half)), actual.held
    said = f"{said} {held.said}".strip()
    return replace(
        change,
        move=replace(move, after=half, sets=sets),
        words=words,
        said=said,
        plan=plan,
        sets=held.beside(sets),
    )


def _get_opposite(way: str) -> str:
    """The opposite of what a change comes to: "less heat" of "more heat"."""
    much, _, of = way.partition(" ")
    return f"{'less' if much == 'more' else 'more'} {of}"


def _list_places(change: Change, half: float) -> dict[str, Filled]:
    move = change.move
    return {
        "from": Quantity(move.before, move.quantity),
        "to": Quantity(half, move.quantity),
        **move.more,
    }


def apply_change(change: Change, plan: Plan) -> dict[str, Json]:
    """The joint's data of a plan with a change made in it."""
    return change_joint_data(plan.joint, change.sets)
