"""The shop's rows. A count changes by what is added to it, so that two who change it at once both
stand.
"""

from __future__ import annotations

from typing import Any

from ..core.schema.json_types import JsonObject
from .database import execute, wrap_errors
from .models import Owned, Shop


def load_head() -> Shop:
    """What stands once of the shop."""
    with wrap_errors():
        found: Shop = Shop.get()
    return found


def mark() -> tuple[str, int]:
    """Which book it is, and by how many changes its shop came to this."""
    with wrap_errors():
        book, changes = execute("SELECT book.id, shop.changes FROM book, shop").fetchone()
    return str(book), int(changes)


def set_head(**values: Any) -> None:
    """Change what stands once: name, machine, torch, entered, has."""
    Shop.update(changes=Shop.changes + 1, **values).execute()


def list_rows(key: str = "", removed: bool = False) -> list[Owned]:
    """The rows of a list, or of all, as they were entered. Parameters: removed, those that were put
    away.
    """
    query = Owned.select().where(Owned.removed_at.is_null(not removed)).order_by(Owned.id)
    with wrap_errors():
        return list(query.where(Owned.list == key) if key else query)


def find_row(number: int) -> Owned | None:
    """A row by its number, put away or not."""
    with wrap_errors():
        return Owned.get_or_none(Owned.id == number)


def find_same(key: str, identity: str) -> Owned | None:
    """The row of a list that is the same thing, put away or not."""
    with wrap_errors():
        return Owned.get_or_none((Owned.list == key) & (Owned.identity == identity))


def put(key: str, identity: str, item: JsonObject, count: int) -> None:
    """Enter an item; the same thing again takes the place of what stood."""
    new = Owned.insert(list=key, identity=identity, item=item, count=count)
    new.on_conflict(
        conflict_target=[Owned.list, Owned.identity],
        update={Owned.item: item, Owned.count: count, Owned.removed_at: None},
    ).execute()


def change(number: int, identity: str, item: JsonObject) -> None:
    """Change what an item is; its count stays."""
    Owned.update(item=item, identity=identity).where(Owned.id == number).execute()


def add(number: int, more: int) -> int | None:
    """Add to a count, or take from it. Returns what it then is, None where it would come under
    nought.
    """
    changed = (
        Owned.update(count=Owned.count + more)
        .where((Owned.id == number) & (Owned.count + more >= 0))
        .execute()
    )
    return int(Owned.get_by_id(number).count) if changed else None


def archive_line(number: int, at: str | None) -> None:
    """Put an item away, or bring it back (None)."""
    Owned.update(removed_at=at).where(Owned.id == number).execute()


def clear(key: str, at: str) -> None:
    """Put all of a list away."""
    Owned.update(removed_at=at).where((Owned.list == key) & Owned.removed_at.is_null()).execute()
