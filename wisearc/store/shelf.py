"""The rows of the shop.

A count changes by a difference, so that simultaneous changes are both counted.
"""

from __future__ import annotations

from typing import Any

from ..core.schema.json_types import JsonObject
from .database import execute, wrap_errors
from .models import Owned, Shop


def load_head() -> Shop:
    """Return the single row of the shop."""
    with wrap_errors():
        head: Shop = Shop.get()
    return head


def mark() -> tuple[str, int]:
    """Return the identity of the library, and the number of changes of its shop."""
    with wrap_errors():
        library_id, changes = execute("SELECT book.id, shop.changes FROM book, shop").fetchone()
    return str(library_id), int(changes)


def set_head(**values: Any) -> None:
    """Change the single row: name, machine, torch, entered, has."""
    Shop.update(changes=Shop.changes + 1, **values).execute()


def list_rows(key: str = "", removed: bool = False) -> list[Owned]:
    """Return the rows of a list, or of all lists, in the order of entry.

    Args:
        key: The list, or "".
        removed: Whether to return archived rows.
    """
    query = Owned.select().where(Owned.removed_at.is_null(not removed)).order_by(Owned.id)
    with wrap_errors():
        return list(query.where(Owned.list == key) if key else query)


def find_row(number: int) -> Owned | None:
    """Return a row by its number, also an archived one."""
    with wrap_errors():
        return Owned.get_or_none(Owned.id == number)


def find_same(key: str, identity: str) -> Owned | None:
    """Return the row of a list with an identity, also an archived one.

    Args:
        key: The list.
        identity: The identity.
    """
    with wrap_errors():
        return Owned.get_or_none((Owned.list == key) & (Owned.identity == identity))


def put(key: str, identity: str, item: JsonObject, count: int) -> None:
    """Enter an item.

    An equal item is replaced.

    Args:
        key: The list.
        identity: Its identity.
        item: Its data.
        count: Its count.
    """
    new = Owned.insert(list=key, identity=identity, item=item, count=count)
    new.on_conflict(
        conflict_target=[Owned.list, Owned.identity],
        update={Owned.item: item, Owned.count: count, Owned.removed_at: None},
    ).execute()


def change(number: int, identity: str, item: JsonObject) -> None:
    """Change an item.

    Its count stays.

    Args:
        number: Number of the row.
        identity: Its identity.
        item: Its data.
    """
    Owned.update(item=item, identity=identity).where(Owned.id == number).execute()


def add(number: int, more: int) -> int | None:
    """Add to a count or reduce it, and return it, or None if it would be negative.

    Args:
        number: Number of the row.
        more: The change.
    """
    changed = (
        Owned.update(count=Owned.count + more)
        .where((Owned.id == number) & (Owned.count + more >= 0))
        .execute()
    )
    return int(Owned.get_by_id(number).count) if changed else None


def archive_line(number: int, at: str | None) -> None:
    """Archive an item, or restore it (None).

    Args:
        number: Number of the row.
        at: Current time, UTC, or None.
    """
    Owned.update(removed_at=at).where(Owned.id == number).execute()


def clear(key: str, at: str) -> None:
    """Archive all items of a list.

    Args:
        key: The list.
        at: Current time, UTC.
    """
    Owned.update(removed_at=at).where((Owned.list == key) & Owned.removed_at.is_null()).execute()
