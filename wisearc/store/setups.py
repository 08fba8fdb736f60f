"""Set-ups: what was ticked on the way, and what stood on the machine when it was set."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any

from .database import db, translated


@dataclass(frozen=True)
class SetUp:
    """A set-up: of what, under which title, on which machine, by whom; what each line told in either habit; which are ticked."""

    id: int
    what: str
    title: str
    machine: str
    who: str
    dial: dict[str, dict[str, str]]
    ticks: tuple[str, ...]
    begun_at: str
    set_at: str | None


_COLUMNS = "id, what, title, machine, who, dial, ticks, begun_at, set_at"


def _first(where: str, *values: Any) -> SetUp | None:
    with translated():
        row = db.execute_sql(f"SELECT {_COLUMNS} FROM setup WHERE {where} ORDER BY id DESC LIMIT 1", values).fetchone()
    if row is None:
        return None
    number, what, title, machine, who, dial, ticks, begun_at, set_at = row
    return SetUp(number, what, title, machine, who, json.loads(dial), tuple(json.loads(ticks)), begun_at, set_at)


def newest(what: str) -> SetUp | None:
    """The newest set-up of something."""
    return _first("what = ?", what)


def set_last(what: str) -> str | None:
    """When something was set last, or None."""
    found = _first("what = ? AND set_at IS NOT NULL", what)
    return found.set_at if found else None


def last_set(machine: str, but: int = 0) -> SetUp | None:
    """What was set last on a machine. Parameters: but, one that does not count."""
    return _first("machine = ? AND set_at IS NOT NULL AND id <> ?", machine, but)


def begin(what: str, title: str, machine: str, dial: dict[str, Any], at: str) -> int:
    """Begin a set-up. Returns its number."""
    sql = "INSERT INTO setup (what, title, machine, dial, begun_at) VALUES (?, ?, ?, ?, ?)"
    return int(db.execute_sql(sql, (what, title, machine, json.dumps(dial, ensure_ascii=False), at)).lastrowid)


def tick(number: int, key: str, on: bool) -> None:
    """Tick a line, or not; the others stay as they are."""
    row = db.execute_sql("SELECT ticks FROM setup WHERE id = ?", (number,)).fetchone()
    ticks = [one for one in json.loads(row[0]) if one != key] + ([key] if on else [])
    db.execute_sql("UPDATE setup SET ticks = ? WHERE id = ?", (json.dumps(ticks), number))


def done(number: int, who: str, at: str) -> None:
    """Say that it is set."""
    db.execute_sql("UPDATE setup SET set_at = ?, who = ? WHERE id = ?", (at, who, number))
