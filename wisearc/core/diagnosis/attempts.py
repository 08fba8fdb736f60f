"""Consecutive runs of a joint: the change before each, its effect, and the best run so far."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from itertools import pairwise
from typing import Any

from msgspec import Struct

from .. import catalogue
from ..plan.plan import Plan
from ..quantities import Quantity
from ..reasons import Sentence, Words
from ..run.inspection import FACE_NAMES, TINTED
from ..run.latest_inspection import find_colour, find_flaws, is_oxidised
from ..run.quality import ACCEPTABLE, GOOD, NOT_GOOD, find_observed
from ..run.run import Run, get_planned_values, list_run_figures, run_figures
from ..run.saved_reading import SavedChange
from ..run.verification import judge_run
from .actual import change_joint_data
from .diagnosis import Before

# A difference above this fraction is a change: estimate, above the reading error of a dial.
CHANGED_SHARE = 0.03
# Travel is timed manually and varies: common practice.
TRAVEL_SPEED_SHARE = 0.12
_VERDICTS = {GOOD: 2, ACCEPTABLE: 1}


class RecordedRun(Struct, frozen=True):
    """A run with its number, its revision, its record and its plan."""

    number: int
    letter: str
    record: Run
    plan: Plan


class Attempt(Struct, frozen=True):
    """A run in its sequence.

    The change before it or None, the figures that differ from the run before, its flaws, the flaws
    that recurred, whether it is the best so far, and the judgement of the change.
    """

    made: RecordedRun
    verdict: str
    change: str
    differs: tuple[Words, ...]
    wrong: tuple[str, ...]
    again: tuple[str, ...]
    best: bool
    said: str


def list_complaints(record: Run) -> tuple[str, ...]:
    """Return the flaws of a run."""
    flaws = [catalogue.load_flaws()[key] for key in find_flaws(record) or ()]
    if is_oxidised(record):
        flaws.append("oxidised root")
    for face in ("front", "back"):
        colour = find_colour(record, face)
        if colour in TINTED or (colour == "grey" and catalogue.load_flaws()["grey"] not in flaws):
            flaws.append(f"{FACE_NAMES[face]} {colour}")
    return tuple(flaws)


def _list_figures(record: Run) -> dict[str, tuple[Any, str]]:
    """Return the figures that a welder sets, {part.key.

    (value, kind of quantity)}, and the travel speed.
    """
    figures = {
        f"{figure.part}.{figure.key}": (figure.of(record), figure.quantity)
        for figure in list_run_figures()
        if figure.part in ("set", "used") and figure.of(record) is not None
    }
    travel_speed = record.travel_mm_s
    return figures | ({"travel": (travel_speed, "speed")} if travel_speed else {})


def find_differences(before: Run, after: Run) -> Iterator[tuple[str, Words]]:
    """Return the figures of two runs that differ by more than the reading error, by key.

    Args:
        before: The earlier run.
        after: The later run.

    References:
        Estimate: the fractions.
    """
    left, other = _list_figures(before), _list_figures(after)
    for key in (key for key in left if key in other):
        (a, quantity), (b, _) = left[key], other[key]
        maximum = TRAVEL_SPEED_SHARE if key == "travel" else CHANGED_SHARE
        if a == b or (
            isinstance(a, int | float)
            and isinstance(b, int | float)
            and abs(b - a) <= maximum * abs(a)
        ):
            continue
        part, _, name = key.partition(".")
        label = "Travel" if key == "travel" else run_figures()[part][name].label
        ends = (v if isinstance(v, str) else Quantity(v, quantity) for v in (a, b))
        yield key, Sentence("{what} {a} → {b}", what=label, **dict(zip("ab", ends, strict=True)))


def build_attempts(attempts: Sequence[RecordedRun]) -> tuple[Attempt, ...]:
    """Return runs of a joint, oldest first, as attempts."""
    ranks = [_rank(attempt) for attempt in attempts]
    best = max(range(len(attempts)), key=lambda i: (ranks[i], i), default=-1)
    return tuple(_build_attempt(attempts, i, i == best) for i in range(len(attempts)))


def _rank(attempt: RecordedRun) -> tuple[int, int]:
    return _VERDICTS.get(_get_verdict(attempt), 0), -len(list_complaints(attempt.record))


def _get_verdict(attempt: RecordedRun) -> str:
    return judge_run(find_observed(attempt.record), attempt.plan).verdict


def _build_attempt(attempts: Sequence[RecordedRun], i: int, best: bool) -> Attempt:
    attempt = attempts[i]
    verdict, wrong = _get_verdict(attempt), list_complaints(attempt.record)
    if not i:
        return Attempt(attempt, verdict, "", (), wrong, (), best, "")
    before = attempts[i - 1]
    change = before.record.reading.change if before.record.reading else None
    differs = dict(find_differences(before.record, attempt.record))
    repeated = tuple(text for text in wrong if text in list_complaints(before.record))
    judgement = (
        _judge_change(before, attempt, verdict, change, differs, repeated)
        if list_complaints(before.record)
        else ""
    )
    return Attempt(
        attempt,
        verdict,
        _format_change(change),
        tuple(differs.values()),
        wrong,
        repeated,
        best,
        judgement,
    )


def _format_change(change: SavedChange | None) -> str:
    return change.text if change else ""


def _find_dependent_figures(
    before: RecordedRun, after: RecordedRun, change: SavedChange
) -> set[str]:
    """Return the figures that the change itself moves in the plan.

    The joints of the two plans must differ only in the change.
    """
    if change_joint_data(before.plan.joint, change.sets or {}) != change_joint_data(
        after.plan.joint, {}
    ):
        return set()
    left, other = get_planned_values(before.plan), get_planned_values(after.plan)
    changed_keys = {key for key in left.keys() | other.keys() if left.get(key) != other.get(key)}
    return changed_keys | (
        {"travel"} if before.plan.travel.speed_mm_s != after.plan.travel.speed_mm_s else set()
    )


def _judge_change(
    before: RecordedRun,
    after: RecordedRun,
    verdict: str,
    change: SavedChange | None,
    differs: Mapping[str, Words],
    repeated: Sequence[str],
) -> str:
    """Return the judgement of a change, as far as two runs allow one."""
    if change is None:
        return (
            ""
            if repeated or not differs
            else (
                "Better, but several changes may be the cause."
                if len(differs) > 1
                else "Better through this change."
            )
        )
    row = catalogue.read_changes().get(change.code)
    expected_keys = {*(row.told if row else ()), *_find_dependent_figures(before, after, change)}
    extra_labels = [text for key, text in differs.items() if key not in expected_keys]
    if repeated:
        return "The change did not fix it."
    if verdict == NOT_GOOD:
        return "That is fixed. Something else appeared."
    if extra_labels:
        return "Fixed, but more than this was changed. Run it once more to be sure."
    return "The change fixed it."


def list_earlier_changes(runs: Sequence[RecordedRun]) -> tuple[Before, ...]:
    """Return the saved changes before the last run, oldest first."""
    changes = []
    for i, (earlier, after) in enumerate(pairwise(runs)):
        change = earlier.record.reading.change if earlier.record.reading else None
        if change is None or change.code not in catalogue.read_changes():
            continue
        is_repeated = bool(
            set(list_complaints(earlier.record)) & set(list_complaints(after.record))
        )
        changes.append(
            Before(
                change.cause,
                change.code,
                change.key,
                change.before,
                change.after,
                is_repeated,
                just=i == len(runs) - 2,
            )
        )
    return tuple(changes)
