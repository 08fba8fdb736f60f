"""The inbox: arc logs and photographs that wait for their run."""

from __future__ import annotations

from .database import wrap_errors
from .errors import Missing
from .models import InboxItem, Procedure, Revision, RunRow

MAX_WAITING = 500


def list_waiting() -> list[InboxItem]:
    """Return the waiting files, the first taken first."""
    with wrap_errors():
        waiting = InboxItem.run.is_null() & InboxItem.dropped_at.is_null()
        items = InboxItem.select().where(waiting).order_by(InboxItem.taken_at, InboxItem.id)
        return list(items.limit(MAX_WAITING))


def count_waiting() -> int:
    """Return the number of waiting files."""
    with wrap_errors():
        waiting = InboxItem.run.is_null() & InboxItem.dropped_at.is_null()
        return int(InboxItem.select().where(waiting).count())


def get_item(number: int) -> InboxItem:
    """Return a file by its number.

    Raises:
        Missing: It does not exist.
    """
    with wrap_errors():
        item = InboxItem.get_or_none(InboxItem.id == number)
    if item is None:
        raise Missing("That file is not in the inbox.")
    return item


def has_file(sha256: str) -> bool:
    """Return whether a file with this content waits or belongs to a run."""
    with wrap_errors():
        same = (InboxItem.sha256 == sha256) & InboxItem.dropped_at.is_null()
        return bool(InboxItem.select().where(same).exists())


def list_runs_between(start: str, end: str, maximum: int) -> list[RunRow]:
    """Return the valid runs that were recorded between two times, with revision and procedure.

    Args:
        start: Start, UTC.
        end: End, UTC.
        maximum: Maximum number.
    """
    with wrap_errors():
        joined = RunRow.select(RunRow, Revision, Procedure).join(Revision).join(Procedure)
        between = RunRow.kept_at.between(start, end) & RunRow.voided_at.is_null()
        return list(joined.where(between).order_by(RunRow.kept_at).limit(maximum))
