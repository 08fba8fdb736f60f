"""People's rows. A PIN stands here as its hash alone."""

from __future__ import annotations

from typing import Any

from .database import db, translated


def _all(sql: str, *values: Any) -> list[tuple[Any, ...]]:
    with translated():
        return list(db.execute_sql(sql, values).fetchall())


def standing() -> list[tuple[Any, ...]]:
    """Number, initials, name, role and hash of everyone who was not put away, by initials."""
    return _all("SELECT id, initials, name, role, pin FROM person WHERE removed_at IS NULL ORDER BY initials")


def add(initials: str, name: str, role: str, pin: str) -> None:
    """Enter someone."""
    db.execute_sql("INSERT INTO person (initials, name, role, pin) VALUES (?, ?, ?, ?)", (initials, name, role, pin))


def set_pin(number: int, pin: str) -> None:
    """Give someone another hash."""
    db.execute_sql("UPDATE person SET pin = ? WHERE id = ?", (pin, number))


def put_away(number: int, at: str) -> None:
    """Put someone away, with their PIN gone."""
    db.execute_sql("UPDATE person SET removed_at = ?, pin = '' WHERE id = ?", (at, number))
