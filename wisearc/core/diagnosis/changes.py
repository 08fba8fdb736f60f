"""The possible changes for a cause, in figures, within the plan and its cautions."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

from msgspec import Struct, field

from .. import catalogue
from ..catalogue.reading import Cause
from ..plan.plan import Plan
from ..quantities import Quantity
from ..reasons import Caution, Filled, Sentence, Words
from ..schema.json_types import JsonObject
from .actual import Actual
from .gas_moves import GAS_MOVES
from .heat_moves import HEAT_MOVES
from .metal_moves import METAL_MOVES
from .moves import Move, MoveFinder, Strengths, evaluate_change
from .root_moves import ROOT_MOVES

PAST = "This goes beyond the plan's calculation. The result on the metal counts for more."
MOVES: Mapping[str, MoveFinder] = {**HEAT_MOVES, **GAS_MOVES, **ROOT_MOVES, **METAL_MOVES}
# The keys of the joint that set a current at the arc.
_CURRENT_KEYS = ("pins.current_a", "pins.peak_a")


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


def list_changes(cause: str, actual: Actual, strengths: Strengths) -> Iterator[Change | Refused]:
    """Return the changes for a cause in the order to try.

    A forbidden change has its caution.

    Args:
        cause: Key of the cause.
        actual: The run.
        strengths: Its signs.
    """
    row = catalogue.load_causes()[cause]
    for code in row.changes:
        move = MOVES[code](actual, strengths)
        if move is not None and _helps(row, code, move):
            yield _build_change(code, cause, move, actual)


def _helps(cause: Cause, code: str, move: Move) -> bool:
    """Return whether a move goes the way that its cause needs, if both have one."""
    more_is = catalogue.read_changes()[code].more_is
    if not cause.way or not more_is or isinstance(move.before, str) or move.before is None:
        return True
    return bool((move.after > move.before) == (more_is == cause.way))


def _build_change(code: str, cause: str, move: Move, actual: Actual) -> Change | Refused:
    row = catalogue.read_changes()[code]
    if not move.sets:
        return Change(code, row.key, cause, move, word_move(code, move, actual), row.watch)
    plan, caution = evaluate_change(actual, move.sets, row)
    wording = word_move(code, move, actual, plan)
    if caution is not None:
        return Refused(code, wording, caution)
    past = plan is not None and any(c.code in row.despite for c in plan.cautions)
    text = " ".join(part for part in (PAST if past else "", actual.held.description) if part)
    return Change(
        code, row.key, cause, move, wording, row.watch, plan, text, actual.held.with_held(move.sets)
    )


def word_move(code: str, move: Move, actual: Actual, plan: Plan | None = None) -> Words:
    """Return the text of a change.

    A change of current has what the dial of the machine reads, and the current at the arc if it is
    another one.

    Args:
        code: Its code.
        move: Its move.
        actual: The run.
        plan: The plan with the change, or None.
    """
    places = _format_places(move)
    if (
        plan is not None
        and any(key in _CURRENT_KEYS for key in move.sets)
        and "travel_mm_s" not in (move.sets)
    ):
        places = _format_dial(move, actual, plan)
    return Sentence(catalogue.read_changes()[code].words, **places)


def _format_dial(move: Move, actual: Actual, plan: Plan) -> dict[str, Filled]:
    """Return the figures of a change of current, as the dial reads.

    A run that had another current than planned starts from its own dial.
    """
    key = next(key for key in _CURRENT_KEYS if key in move.sets)
    planned = actual.plan.pulse.peak_a if actual.plan.pulse.pulsed else actual.plan.current.steady_a
    dial = actual.plan.slopes.machine_a * move.before / planned
    to = plan.slopes.machine_a
    label = "Peak on the dial" if key == "pins.peak_a" else "Current on the dial"
    at_arc: Words | str = ""
    if abs(to - move.after) >= 1:
        at_arc = Sentence(
            " ({a} → {b} at the arc)",
            a=Quantity(move.before, "current"),
            b=Quantity(move.after, "current"),
        )
    return {
        "label": label,
        "from": Quantity(dial, "current"),
        "to": Quantity(to, "current"),
        "arc": at_arc,
        **move.more,
    }


def _format_places(move: Move) -> dict[str, Filled]:
    def of(value: Any) -> Any:
        return value if isinstance(value, str) or value is None else Quantity(value, move.quantity)

    places: dict[str, Filled] = {"from": of(move.before), "to": of(move.after)}
    return {"label": "Current", "arc": "", **places, **move.more}
