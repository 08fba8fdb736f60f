"""Set-ups: ticked lines, and the settings when they were finished."""

from __future__ import annotations

from typing import Any

from ..core.schema.json_types import Json
from .database import wrap_errors
from .models import SetUp


def find_newest(subject: str) -> SetUp | None:
    """Return the newest set-up of a subject."""
    return _find_newest(SetUp.what == subject)


def set_last(subject: str) -> str | None:
    """Return the time of the last finished set-up of a subject, or None."""
    setup = _find_newest((SetUp.what == subject) & SetUp.set_at.is_null(False))
    return setup.set_at if setup else None


def find_last_set(machine: str, but: int = 0) -> SetUp | None:
    """Return the last finished set-up of a machine.

    Args:
        machine: The machine.
        but: A set-up to ignore.
    """
    return _find_newest(
        (SetUp.machine == machine) & SetUp.set_at.is_null(False) & (SetUp.id != but)
    )


def _find_newest(where: Any) -> SetUp | None:
    with wrap_errors():
        setup: SetUp | None = SetUp.select().where(where).order_by(SetUp.id.desc()).first()
        return setup


def begin(subject: str, title: str, machine: str, dial: dict[str, Json], at: str) -> SetUp:
    """Create a set-up.

    Args:
        subject: The plan or procedure.
        title: Its title.
        machine: The machine.
        dial: The values of the lines.
        at: Current time, UTC.
    """
    return SetUp.create(what=subject, title=title, machine=machine, dial=dial, begun_at=at)


def tick(number: int, key: str, on: bool) -> None:
    """Tick or untick a line.

    Args:
        number: The set-up.
        key: The line.
        on: Whether it is ticked.
    """
    begun = SetUp.get_by_id(number)
    begun.ticks = [tick_key for tick_key in begun.ticks if tick_key != key] + ([key] if on else [])
    begun.save(only=[SetUp.ticks])


def mark_done(number: int, dial: dict[str, Json], who: str, at: str, left_open: list[str]) -> None:
    """Finish a set-up with its values and its open lines.

    Args:
        number: The set-up.
        dial: The values of the lines.
        who: Initials of the person.
        at: Current time, UTC.
        left_open: Open lines.
    """
    SetUp.update(set_at=at, who=who, dial=dial, left_open=left_open).where(
        SetUp.id == number
    ).execute()
