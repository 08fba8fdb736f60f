"""Drills on metal: attempts on scrap, which verify nothing and belong to their learner."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from msgspec import Struct

from ...core import catalogue
from ...core.catalogue.teaching import Drill
from ...core.errors import InputError
from ...core.schema import checks
from ...core.schema.figures import format_value
from ...core.schema.json_types import Json
from ...store import practice as store
from ...store.database import open_transaction
from ...store.errors import Missing
from ...store.models import Drilled
from ..clock import get_now
from ..diagnosis.history import normalise_initials
from ..form_tokens import build_token
from .learners import Learner

# This number of consecutive attempts within the target completes a drill: estimate.
DONE_AFTER = 3
MAX_ATTEMPTS = 30
MAX_VALUE = 10_000.0


class DrillView(Struct, frozen=True):
    """A drill.

    Its row, the last attempts of a learner with the newest first, consecutive successes, and
    whether it is complete.
    """

    drill: Drill
    tries: Sequence[Drilled]
    in_a_row: int

    @property
    def done(self) -> bool:
        """Return whether it is complete: three consecutive attempts within the target."""
        return self.in_a_row >= DONE_AFTER


def build_drill_view(key: str, learner: Learner, hand: str = "") -> DrillView:
    """Return a drill and its attempts.

    Args:
        key: The drill.
        learner: The owner of the attempts.
        hand: Initials of the user of the device, for attempts from before owners.

    Raises:
        Missing: The drill does not exist.
    """
    drill = catalogue.load_drills().get(key)
    if drill is None:
        raise Missing("There is no such drill.")
    tries = store.list_attempts(key, learner.key, normalise_initials(hand), MAX_ATTEMPTS)
    in_a_row = 0
    for attempt in tries:
        if not attempt.met:
            break
        in_a_row += 1
    return DrillView(drill, tries, in_a_row)


def list_done_drills(learner: Learner, hand: str = "") -> set[str]:
    """Return the drills that a learner has completed.

    Args:
        learner: The owner of the attempts.
        hand: Initials of the user of the device, for attempts from before owners.
    """
    return {key for key in catalogue.load_drills() if build_drill_view(key, learner, hand).done}


def format_target(drill: Drill, units: str) -> str:
    """Return the target of a drill as text.

    Args:
        drill: The drill.
        units: Unit system.
    """
    if drill.most is not None:
        return (
            f"at most {format_value(drill.most, drill.quantity, units)}" if drill.most else "none"
        )
    return f"at least {format_value(drill.least, drill.quantity, units)}"


def record_attempt(
    key: str,
    learner: Learner,
    value: float,
    note: str,
    once: str,
    at: Callable[[], str] = get_now,
) -> Drilled:
    """Record an attempt of a drill.

    It verifies nothing and belongs to no procedure.

    Args:
        key: The drill.
        learner: Its owner.
        value: The measured value.
        note: A note.
        once: Token of the request.
        at: Current time, UTC.

    Raises:
        InputError: A value is wrong.
        Missing: The drill does not exist.
    """
    drill = catalogue.load_drills().get(key)
    if drill is None:
        raise Missing("There is no such drill.")
    checks.check_number("value", value, 0, MAX_VALUE)
    if drill.quantity == "count" and value != int(value):
        raise InputError("value", f"{value:g}", "must be a whole number")
    checks.check_line("note", note, 300)
    token = build_token(once, [key, learner.key, value, note])
    with open_transaction():
        done: Drilled | None = Drilled.get_or_none(Drilled.once == token) if token else None
        return done or Drilled.create(
            drill=key,
            hand=normalise_initials(learner.initials),
            learner=learner.key,
            value=value,
            met=int(drill.met(value)),
            note=note,
            once=token or None,
            at=at(),
        )


def remove_attempt(
    learner: Learner, hand: str, number: int, back: bool = False, at: Callable[[], str] = get_now
) -> None:
    """Remove an attempt of a learner, or restore it.

    Args:
        learner: The owner.
        hand: Initials of the user of the device, for attempts from before owners.
        number: Number of the attempt.
        back: Whether to restore it.
        at: Current time, UTC.
    """
    with open_transaction():
        store.set_attempt_removed(
            learner.key, normalise_initials(hand), number, None if back else at()
        )


def list_all_attempts(learner: Learner) -> list[dict[str, Json]]:
    """Return every attempt of a learner as data, the oldest first.

    Args:
        learner: The owner.
    """
    rows: list[dict[str, Json]] = []
    for key in catalogue.load_drills():
        for row in reversed(store.list_attempts(key, learner.key, "", MAX_ATTEMPTS * 100)):
            attempt: dict[str, Json] = {"at": row.at, "drill": key, "value": row.value}
            rows.append(attempt | {"met": bool(row.met), "note": row.note})
    return sorted(rows, key=lambda row: str(row["at"]))
