"""People's rows. A PIN stands here as its hash alone."""

from __future__ import annotations

from .database import translated
from .models import Person


def standing() -> list[Person]:
    """Everyone who was not put away, by initials."""
    with translated():
        return list(Person.select().where(Person.removed_at.is_null()).order_by(Person.initials))


def add(initials: str, name: str, role: str, pin: str) -> None:
    """Enter someone."""
    Person.create(initials=initials, name=name, role=role, pin=pin)


def set_pin(number: int, pin: str) -> None:
    """Give someone another hash."""
    Person.update(pin=pin).where(Person.id == number).execute()


def put_away(number: int, at: str) -> None:
    """Put someone away, with their PIN gone."""
    Person.update(removed_at=at, pin="").where(Person.id == number).execute()
