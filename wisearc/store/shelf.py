"""The shop's rows. A count changes by what is added to it, so that two who change it at once both stand."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any

from .database import db, translated


@dataclass(frozen=True)
class Owned:
    """A row of a list: its number, the item's data (its count with it), when it was put away."""

    id: int
    key: str
    identity: str
    item: dict[str, Any]
    count: int
    removed_at: str | None


@dataclass(frozen=True)
class Head:
    """What stands once: name, what is on the bench, which lists were entered, what else there is (None: not entered), and by how
    many changes it came to this, in which book."""

    name: str
    machine: str
    torch: str
    entered: tuple[str, ...]
    has: tuple[str, ...] | None
    mark: tuple[str, int]


def _all(sql: str, *values: Any) -> list[tuple[Any, ...]]:
    with translated():
        return list(db.execute_sql(sql, values).fetchall())


def head() -> Head:
    """What stands once of the shop."""
    sql = "SELECT s.name, s.machine, s.torch, s.entered, s.has, b.id, s.changes FROM shop AS s, book AS b"
    name, machine, torch, entered, has, book, changes = _all(sql)[0]
    return Head(
        name,
        machine,
        torch,
        tuple(json.loads(entered)),
        None if has is None else tuple(json.loads(has)),
        (book, changes),
    )


def set_head(**values: Any) -> None:
    """Change what stands once: name, machine, torch, entered, has."""
    for key, value in values.items():
        assert key in ("name", "machine", "torch", "entered", "has")
        given = json.dumps(list(value)) if isinstance(value, list | tuple) else value
        db.execute_sql(f"UPDATE shop SET {key} = ?, changes = changes + 1", (given,))


_COLUMNS = "id, list, identity, item, count, removed_at"


def rows(key: str = "", removed: bool = False) -> list[Owned]:
    """The rows of a list, or of all, as they were entered. Parameters: removed, those that were put away."""
    where = f"removed_at IS {'NOT ' if removed else ''}NULL" + (" AND list = ?" if key else "")
    found = _all(f"SELECT {_COLUMNS} FROM owned WHERE {where} ORDER BY id", *([key] if key else []))
    return [_owned(row) for row in found]


def row(number: int) -> Owned | None:
    """A row by its number, put away or not."""
    found = _all(f"SELECT {_COLUMNS} FROM owned WHERE id = ?", number)
    return _owned(found[0]) if found else None


def same(key: str, identity: str) -> Owned | None:
    """The row of a list that is the same thing, put away or not."""
    found = _all(f"SELECT {_COLUMNS} FROM owned WHERE list = ? AND identity = ?", key, identity)
    return _owned(found[0]) if found else None


def _owned(row: tuple[Any, ...]) -> Owned:
    number, key, identity, item, count, removed_at = row
    data = json.loads(item)
    return Owned(number, key, identity, data | ({"count": count} if "count" in data else {}), count, removed_at)


def put(key: str, identity: str, item: dict[str, Any], count: int) -> None:
    """Enter an item; the same thing again takes the place of what stood."""
    sql = """INSERT INTO owned (list, identity, item, count) VALUES (?, ?, ?, ?)
        ON CONFLICT (list, identity) DO UPDATE SET item = excluded.item, count = excluded.count, removed_at = NULL"""
    db.execute_sql(sql, (key, identity, json.dumps(item, ensure_ascii=False, sort_keys=True), count))


def change(number: int, identity: str, item: dict[str, Any]) -> None:
    """Change what an item is; its count stays."""
    db.execute_sql(
        "UPDATE owned SET item = ?, identity = ? WHERE id = ?",
        (json.dumps(item, ensure_ascii=False, sort_keys=True), identity, number),
    )


def add(number: int, more: int) -> int | None:
    """Add to a count, or take from it. Returns what it then is, None where it would come under nought."""
    sql = "UPDATE owned SET count = count + ? WHERE id = ? AND count + ? >= 0 RETURNING count"
    found = db.execute_sql(sql, (more, number, more)).fetchone()
    return int(found[0]) if found else None


def put_away(number: int, at: str | None) -> None:
    """Put an item away, or bring it back (None)."""
    db.execute_sql("UPDATE owned SET removed_at = ? WHERE id = ?", (at, number))


def clear(key: str, at: str) -> None:
    """Put all of a list away."""
    db.execute_sql("UPDATE owned SET removed_at = ? WHERE list = ? AND removed_at IS NULL", (at, key))
