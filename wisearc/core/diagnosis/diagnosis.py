"""The diagnosis: the verdict, the causes, the one change and the next candidates."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from .. import catalogue
from ..plan.plan import Plan
from ..quantities import Quantity
from ..reasons import Care, Caution, Note, Words
from ..run.inspection import EMPTY_INSPECTION
from ..run.quality import find_observed
from ..run.run import Run
from ..run.verification import judge_run
from ..schema.json_types import Json
from ..shop.shop import Shop
from .actual import Actual, change_joint_data
from .causes import Asked, Ranked, choose_question, rank
from .changes import Change, Refused, list_changes, word_move
from .moves import evaluate_change
from .signs import SignStrength, list_signs

# The maximum number of further changes.
MAX_OTHER_CAUSES = 3
# The tolerances between log and record: arc time, then currents and frequencies: estimates.
LOG_TIME, LOG_FACTOR = 1.4, 2.0
# A reversal of the last change goes half of the way.
BACK_SHARE, HALF_DIGITS = 0.5, 2
REVERSAL_TEXT = "This reverses the last change."


class Before(Struct, frozen=True):
    """A change before a run, from the diagnosis of the run before.

    Cause, code, key, start, end, whether the problem recurred, and whether no run is between.
    """

    cause: str
    code: str
    key: str
    before: Any
    after: Any
    again: bool
    just: bool = True


class Reading(Struct, frozen=True):
    """A diagnosis.

    Verdict and reason, causes by probability, the one change or None, the next candidates, the
    question, further remarks (contradictions, doubts, forbidden changes) and all signs.
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
    """Diagnose a run against its plan.

    Args:
        run: The run, with its inspection if there is one.
        plan: The plan.
        shop: The shop.
        before: The changes before the run, oldest first.

    References:
        Handbook, table of observations: common practice. The weights are estimates.
    """
    doubt = log_doubt(run, plan)
    actual = Actual(plan, replace(run, arc=None) if doubt else run, shop)
    strengths = list_signs(actual)
    quality = judge_run(find_observed(run), plan)
    tried: dict[str, int] = {}
    for attempt in before:
        if attempt.again:
            tried[attempt.cause] = tried.get(attempt.cause, 0) + 1
    causes = () if not quality.has_fault else rank(strengths, tried)
    change, also, refused = _choose_changes(causes, actual, strengths, before)
    cautions = tuple(
        c
        for c in (
            doubt,
            *_check_contrary_signs(strengths),
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
        choose_question(causes, strengths),
        cautions,
        strengths,
    )


def log_doubt(run: Run, plan: Plan) -> Caution | None:
    """Return a caution if the log may belong to another joint, so that its figures are not used.

    Estimates.

    Args:
        run: The run.
        plan: The plan.
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
    for logged, known, quantity, maximum in pairs:
        if logged and known and not 1 / maximum <= logged / known <= maximum:
            text = (
                "The log shows {l}, but {k} is recorded or planned. It may belong to another "
                "joint, so none of its figures is used."
            )
            return Care(
                "log-of-another",
                "log",
                text,
                l=Quantity(logged, quantity),
                k=Quantity(known, quantity),
            )
    return None


def _check_contrary_signs(strengths: Mapping[str, SignStrength]) -> list[Caution]:
    return [
        Care("observations-contradict", "seen", "{w}", w=c.words)
        for c in catalogue.load_contraries()
        if _has_both(strengths, c.first, c.second)
    ]


def has_tint_table(plan: Plan) -> bool:
    """Return whether the heat-tint table applies to the metals.

    Published for 304-type stainless only.
    """
    return all(metal is not None and metal.has("tints_tabled") for metal in plan.metals)


def _check_tint_table(run: Run, plan: Plan) -> Caution | None:
    inspection = run.seen or EMPTY_INSPECTION
    if has_tint_table(plan) or not (inspection.front_tint or inspection.back_tint):
        return None
    text = "This metal has no table of tints by temperature. Only their sequence is used."
    return Note("tints-not-tabled", "seen", text)


def _build_refusal(refused: Refused) -> Caution:
    text = "Not proposed: {c}. {w}"
    return Note("change-forbidden", "change", text, c=refused.words, w=refused.caution.sentence)


def _has_both(strengths: Mapping[str, SignStrength], first: str, second: str) -> bool:
    return all((strengths[key].strength or 0.0) >= 0.5 for key in (first, second))


def _choose_changes(
    causes: Sequence[Ranked],
    actual: Actual,
    strengths: Mapping[str, SignStrength],
    before: Sequence[Before],
) -> tuple[Change | None, tuple[Change, ...], tuple[Refused, ...]]:
    """Return the one change of the likeliest cause, the next candidates, and forbidden changes."""
    first: Change | None = None
    after: list[Change] = []
    refused: list[Refused] = []
    done = {attempt.code for attempt in before if attempt.again and attempt.key == "hand"}
    done |= {
        attempt.code
        for attempt in before
        if attempt.again and attempt.code in _list_single_changes(attempt.cause)
    }
    for change in (
        change for ranked in causes for change in list_changes(ranked.cause.key, actual, strengths)
    ):
        if isinstance(change, Refused):
            refused.append(change)
        elif change.code in {item.code for item in (first, *after) if item}:
            continue
        elif first is None and change.code not in done:
            first = _halve_reversal(change, actual, before)
        else:
            after.append(change)
        if first is not None and len(after) >= MAX_OTHER_CAUSES:
            break
    return first, tuple(after), tuple(refused)


def _list_single_changes(cause: str) -> tuple[str, ...]:
    """Return the changes of a cause that are tried once only."""
    row = catalogue.load_causes().get(cause)
    return row.once if row else ()


def _halve_reversal(change: Change, actual: Actual, before: Sequence[Before]) -> Change:
    """Return a change that reverses the last one at half of its size, with a text."""
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
            replace(change, said=REVERSAL_TEXT)
            if ways[1] and ways[0] == _get_opposite(ways[1])
            else change
        )
    if (last.after - last.before) * (move.after - move.before) >= 0:
        return change
    half = round((last.before + last.after) * BACK_SHARE, HALF_DIGITS)
    keys = [key for key, value in move.sets.items() if value == move.after]
    text = f"{REVERSAL_TEXT[:-1]}. Go half of the way: the best value lies between."
    if not keys:
        return replace(change, said=text)
    sets = {**move.sets, **dict.fromkeys(keys, half)}
    row = catalogue.read_changes()[change.code]
    plan, forbidden = evaluate_change(actual, sets, row)
    if forbidden is not None:
        return replace(change, said=REVERSAL_TEXT)
    held, halved = actual.held, replace(move, after=half, sets=sets)
    text = f"{text} {held.description}".strip()
    return replace(
        change,
        move=halved,
        words=word_move(change.code, halved, actual, plan),
        said=text,
        plan=plan,
        sets=held.with_held(sets),
    )


def _get_opposite(direction: str) -> str:
    """Return the opposite of an effect, for example "less heat" of "more heat"."""
    amount, _, of = direction.partition(" ")
    return f"{'less' if amount == 'more' else 'more'} {of}"


def apply_change(change: Change, plan: Plan) -> dict[str, Json]:
    """Return the joint data of a plan with a change.

    Args:
        change: The change.
        plan: The plan.
    """
    return change_joint_data(plan.joint, change.sets)
