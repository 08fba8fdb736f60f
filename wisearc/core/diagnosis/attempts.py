"""Runs of a joint in a row: what was changed before each, what came of it, which is the best so
far, whether the change did it.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from itertools import pairwise
from typing import Any

from msgspec import Struct

from .. import catalogue
from ..plan.plan import Plan
from ..quantities import Quantity
from ..reasons import Sentence, Words
from ..run.closest_look import find_colour, find_flaws, is_oxidised
from ..run.inspection import FACE_NAMES, TINTED
from ..run.quality import ACCEPTABLE, GOOD, NOT_GOOD, find_observed
from ..run.run import Run, get_planned_values, list_run_figures, run_figures
from ..run.saved_reading import SavedChange
from ..run.verification import judge_run
from .actual import change_joint_data
from .diagnosis import Before

# a figure that is this much off the one before was changed: estimate, over what is read off a dial
CHANGED_SHARE = 0.03
# travel is timed by hand and sways: common practice
PACE_SHARE = 0.12
_VERDICTS = {GOOD: 2, ACCEPTABLE: 1}


class Made(Struct, frozen=True):
    """A run that was made: its number, the revision it is of, its record, its plan."""

    number: int
    letter: str
    record: Run
    plan: Plan


class Attempt(Struct, frozen=True):
    """A run among those of its joint: itself; the change that was taken before it in words, or
    None; figures that differ from the run before; what is wrong with it; what of the run before
    came again; whether it is the best so far; whether the change did it, in words.
    """

    made: Made
    verdict: str
    change: str
    differs: tuple[Words, ...]
    wrong: tuple[str, ...]
    again: tuple[str, ...]
    best: bool
    said: str


def list_complaints(record: Run) -> tuple[str, ...]:
    """What is wrong with a run, in words."""
    found = [catalogue.load_flaws()[key] for key in find_flaws(record) or ()]
    if is_oxidised(record):
        found.append("oxidised root")
    for face in ("front", "back"):
        colour = find_colour(record, face)
        if colour in TINTED or (colour == "grey" and catalogue.load_flaws()["grey"] not in found):
            found.append(f"{FACE_NAMES[face]} {colour}")
    return tuple(found)


def _list_figures(record: Run) -> dict[str, tuple[Any, str]]:
    """The figures of a run that a hand sets, {part.key: (value, kind of quantity)}, and its
    pace.
    """
    found = {
        f"{figure.part}.{figure.key}": (figure.of(record), figure.quantity)
        for figure in list_run_figures()
        if figure.part in ("set", "used") and figure.of(record) is not None
    }
    pace = record.travel_mm_s
    return found | ({"travel": (pace, "speed")} if pace else {})


def find_differences(before: Run, after: Run) -> Iterator[tuple[str, Words]]:
    """The figures of two runs that differ by more than reading them does, by key. Shares:
    estimate.
    """
    one, other = _list_figures(before), _list_figures(after)
    for key in (key for key in one if key in other):
        (a, quantity), (b, _) = one[key], other[key]
        most = PACE_SHARE if key == "travel" else CHANGED_SHARE
        if a == b or (
            isinstance(a, int | float)
            and isinstance(b, int | float)
            and abs(b - a) <= most * abs(a)
        ):
            continue
        part, _, name = key.partition(".")
        label = "Travel" if key == "travel" else run_figures()[part][name].label
        ends = (v if isinstance(v, str) else Quantity(v, quantity) for v in (a, b))
        yield key, Sentence("{what} {a} → {b}", what=label, **dict(zip("ab", ends, strict=True)))


def build_attempts(made: Sequence[Made]) -> tuple[Attempt, ...]:
    """Runs of a joint, oldest first, as attempts."""
    ranks = [_rank(one) for one in made]
    best = max(range(len(made)), key=lambda i: (ranks[i], i), default=-1)
    return tuple(_build_attempt(made, i, i == best) for i in range(len(made)))


def _rank(one: Made) -> tuple[int, int]:
    return _VERDICTS.get(_get_verdict(one), 0), -len(list_complaints(one.record))


def _get_verdict(one: Made) -> str:
    return judge_run(find_observed(one.record), one.plan).verdict


def _build_attempt(made: Sequence[Made], i: int, best: bool) -> Attempt:
    one = made[i]
    verdict, wrong = _get_verdict(one), list_complaints(one.record)
    if not i:
        return Attempt(one, verdict, "", (), wrong, (), best, "")
    before = made[i - 1]
    change = before.record.reading.change if before.record.reading else None
    differs = dict(find_differences(before.record, one.record))
    again = tuple(words for words in wrong if words in list_complaints(before.record))
    said = (
        _judge_change(before, one, verdict, change, differs, again)
        if list_complaints(before.record)
        else ""
    )
    return Attempt(
        one, verdict, _format_change(change), tuple(differs.values()), wrong, again, best, said
    )


def _format_change(change: SavedChange | None) -> str:
    return change.text if change else ""


def _find_dependent_figures(before: Made, after: Made, change: SavedChange) -> set[str]:
    """The figures that follow from a change in the plan itself: those planned otherwise, where the
    two plans' joints differ in nothing but what it set.
    """
    if change_joint_data(before.plan.joint, change.sets or {}) != change_joint_data(
        after.plan.joint, {}
    ):
        return set()
    one, other = get_planned_values(before.plan), get_planned_values(after.plan)
    found = {key for key in one.keys() | other.keys() if one.get(key) != other.get(key)}
    return found | (
        {"travel"} if before.plan.travel.speed_mm_s != after.plan.travel.speed_mm_s else set()
    )


def _judge_change(
    before: Made,
    after: Made,
    verdict: str,
    change: SavedChange | None,
    differs: Mapping[str, Words],
    again: Sequence[str],
) -> str:
    """Whether what was changed did it, as far as two runs can tell."""
    if change is None:
        return (
            ""
            if again or not differs
            else (
                "Better, but several changes may be the cause."
                if len(differs) > 1
                else "Better through this change."
            )
        )
    row = catalogue.read_changes().get(change.code)
    own = {*(row.told if row else ()), *_find_dependent_figures(before, after, change)}
    besides = [words for key, words in differs.items() if key not in own]
    if again:
        return "The change did not fix it."
    if verdict == NOT_GOOD:
        return "That is fixed. Something else appeared."
    if besides:
        return "Fixed, but more than this was changed. Run it once more to be sure."
    return "The change fixed it."


def list_earlier_changes(runs: Sequence[Made]) -> tuple[Before, ...]:
    """What was changed before the last of runs, oldest first, by the readings that were kept."""
    found = []
    for i, (one, after) in enumerate(pairwise(runs)):
        change = one.record.reading.change if one.record.reading else None
        if change is None or change.code not in catalogue.read_changes():
            continue
        again = bool(set(list_complaints(one.record)) & set(list_complaints(after.record)))
        found.append(
            Before(
                change.cause,
                change.code,
                change.key,
                change.before,
                change.after,
                again,
                just=i == len(runs) - 2,
            )
        )
    return tuple(found)
