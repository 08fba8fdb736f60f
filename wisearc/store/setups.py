"""Set-ups: what was ticked on the way, and what stood on the machine when it was set."""

from __future__ import annotations

from typing import Any

from ..core.schema.json_types import Json
from .database import wrap_errors
from .models import SetUp


def find_newest(what: str) -> SetUp | None:
    """The newest set-up of something."""
    return _find_newest(SetUp.what == what)


def set_last(what: str) -> str | None:
    """When something was set last, or None."""
    found = _find_newest((SetUp.what == what) & SetUp.set_at.is_null(False))
    return found.set_at if found else None


def find_last_set(machine: str, but: int = 0) -> SetUp | None:
    """What was set last on a machine. Parameters: but, one that does not count."""
    return _find_newest(
        (SetUp.machine == machine) & SetUp.set_at.is_null(False) & (SetUp.id != but)
    )


def _find_newest(where: Any) -> SetUp | None:
    with wrap_errors():
        found: SetUp | None = SetUp.select().where(where).order_by(SetUp.id.desc()).first()
        return found


def begin(what: str, title: str, machine: str, dial: dict[str, Json], at: str) -> SetUp:
    """Begin a set-up."""
    return SetUp.create(what=what, title=title, machine=machine, dial=dial, begun_at=at)


def tick(number: int, key: str, on: bool) -> None:
    """Tick a line, or not; the others stay as they are."""
    begun = SetUp.get_by_id(number)
    begun.ticks = [one for one in begun.ticks if one != key] + ([key] if on else [])
    begun.save(only=[SetUp.ticks])


def mark_done(number: int, dial: dict[str, Json], who: str, at: str, left_open: list[str]) -> None:
    """Say that it is set, what each line tells as it was set, and which lines were left open."""
    SetUp.update(set_at=at, who=who, dial=dial, left_open=left_open).where(
        SetUp.id == number
    ).execute()
