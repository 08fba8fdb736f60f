"""At the bench: purges under way and done, and lists that are ticked."""

from __future__ import annotations

from typing import Any

from ..core.schema.json_types import Json
from .database import wrap_errors
from .models import PurgeRun, Ticked


def begin_purge(
    what: str, title: str, ask: dict[str, Json], port: int | None, began: float
) -> PurgeRun:
    """Begin a purge."""
    return PurgeRun.create(what=what, title=title, ask=ask, port=port, began=began)


def purge(number: int) -> PurgeRun | None:
    """A purge by its number."""
    with wrap_errors():
        return PurgeRun.get_or_none(PurgeRun.id == number)


def find_newest_purge(what: str) -> PurgeRun | None:
    """The newest purge of something."""
    with wrap_errors():
        newest = PurgeRun.select().where(PurgeRun.what == what).order_by(PurgeRun.id.desc())
        found: PurgeRun | None = newest.first()
        return found


def open_purges() -> list[PurgeRun]:
    """The purges whose gas was not shut."""
    with wrap_errors():
        return list(PurgeRun.select().where(PurgeRun.ended.is_null()).order_by(PurgeRun.id))


def change_purge(number: int, **values: Any) -> None:
    """Set what became of a purge."""
    PurgeRun.update(**values).where(PurgeRun.id == number).execute()


def list_ticks(what: str, of: str) -> list[str]:
    """Which lines of a list are ticked."""
    with wrap_errors():
        found = Ticked.get_or_none((Ticked.what == what) & (Ticked.list == of))
    return list(found.ticks) if found else []


def tick(what: str, of: str, key: str, on: bool) -> list[str]:
    """Tick a line, or not; the others stay. Returns what is ticked now."""
    now = [one for one in list_ticks(what, of) if one != key] + ([key] if on else [])
    Ticked.insert(what=what, list=of, ticks=now).on_conflict(
        conflict_target=[Ticked.what, Ticked.list], update={Ticked.ticks: now}
    ).execute()
    return now


def clear_ticks(what: str, of: str) -> None:
    """Begin a list anew."""
    Ticked.delete().where((Ticked.what == what) & (Ticked.list == of)).execute()
