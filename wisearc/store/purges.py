"""Purges in progress and done, and ticked lists."""

from __future__ import annotations

from typing import Any

from ..core.schema.json_types import Json
from .database import wrap_errors
from .models import PurgeRun, Ticked


def begin_purge(
    subject: str, title: str, ask: dict[str, Json], port: int | None, began: float
) -> PurgeRun:
    """Create a purge.

    Args:
        subject: The plan or procedure.
        title: Its title.
        ask: The request.
        port: Port of the meter, or None.
        began: Start, s since 1970.
    """
    return PurgeRun.create(what=subject, title=title, ask=ask, port=port, began=began)


def purge(number: int) -> PurgeRun | None:
    """Return a purge by its number."""
    with wrap_errors():
        return PurgeRun.get_or_none(PurgeRun.id == number)


def find_newest_purge(subject: str) -> PurgeRun | None:
    """Return the newest purge of a subject."""
    with wrap_errors():
        newest = PurgeRun.select().where(PurgeRun.what == subject).order_by(PurgeRun.id.desc())
        purge: PurgeRun | None = newest.first()
        return purge


def open_purges() -> list[PurgeRun]:
    """Return the purges with open gas."""
    with wrap_errors():
        return list(PurgeRun.select().where(PurgeRun.ended.is_null()).order_by(PurgeRun.id))


def change_purge(number: int, **values: Any) -> None:
    """Set fields of a purge."""
    PurgeRun.update(**values).where(PurgeRun.id == number).execute()


def list_ticks(subject: str, of: str) -> list[str]:
    """Return the ticked lines of a list.

    Args:
        subject: The plan or procedure.
        of: The list.
    """
    with wrap_errors():
        row = Ticked.get_or_none((Ticked.what == subject) & (Ticked.list == of))
    return list(row.ticks) if row else []


def tick(subject: str, of: str, key: str, on: bool) -> list[str]:
    """Tick or untick a line, and return the ticked lines.

    Args:
        subject: The plan or procedure.
        of: The list.
        key: The line.
        on: Whether it is ticked.
    """
    now = [tick_key for tick_key in list_ticks(subject, of) if tick_key != key] + (
        [key] if on else []
    )
    Ticked.insert(what=subject, list=of, ticks=now).on_conflict(
        conflict_target=[Ticked.what, Ticked.list], update={Ticked.ticks: now}
    ).execute()
    return now


def clear_ticks(subject: str, of: str) -> None:
    """Remove all ticks of a list.

    Args:
        subject: The plan or procedure.
        of: The list.
    """
    Ticked.delete().where((Ticked.what == subject) & (Ticked.list == of)).execute()
