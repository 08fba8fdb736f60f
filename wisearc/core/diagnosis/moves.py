"""A move: what one change does to plan or set-up, and the trial of it as a plan."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, TypeAlias

from msgspec import Struct, field

from ..catalogue.reading import ReadChange
from ..errors import InputError
from ..plan.plan import Plan
from ..quantities import Quantity
from ..reasons import Caution, Filled, Sentence
from ..schema.json_types import JsonObject
from .actual import Actual
from .signs import SignStrength

Strengths: TypeAlias = Mapping[str, SignStrength]


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


# A function that returns the move of a run with these signs, or None if it does not apply.
MoveFinder: TypeAlias = Callable[[Actual, Strengths], Move | None]


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


def get_strength(strengths: Strengths, *keys: str) -> float:
    """Return the maximum strength of some signs, 0 to 1. An unknown sign counts as 0."""
    return max((strengths[key].strength or 0.0 for key in keys), default=0.0)


def move_to_plan(
    actual: Actual, key: str, planned: float, quantity: str, off: Callable[[float], bool]
) -> Move | None:
    """Return a move back to the plan if the set value is outside the tolerance.

    Args:
        actual: The run.
        key: The setting.
        planned: Its planned value.
        quantity: Its kind of quantity.
        off: Whether a value is outside the tolerance.
    """
    done = getattr(actual.run.set, key)
    if done is None or not off(done):
        return None
    more = {"seen": Quantity(done, quantity), "planned": Quantity(planned, quantity)}
    return Move(done, planned, quantity, {}, more)


def change_technique(
    to: Callable[[Actual], tuple[Any, str]] = lambda actual: ("", "word"),
) -> MoveFinder:
    """Return the finder of a change of technique, with the figure of its text if it has one."""

    def move(actual: Actual, strengths: Strengths) -> Move | None:
        after, quantity = to(actual)
        return Move("", after, quantity)

    return move
