"""The people of a shop.

Their PINs are in another file (`pins.py`).
"""

from __future__ import annotations

from .database import db, wrap_errors
from .errors import DataFileReplaced
from .models import Person
from .pins import PinFile


def list_people() -> list[Person]:
    """Return all active people, by initials."""
    with wrap_errors():
        return list(Person.select().where(Person.removed_at.is_null()).order_by(Person.initials))


def open_pin_file() -> PinFile:
    """Return the PIN file of the open library.

    Raises:
        DataFileReplaced: No library is open.
    """
    if db.folder is None:
        raise DataFileReplaced("is no longer in the data folder")
    return PinFile(db.folder)


def add(initials: str, name: str, role: str) -> None:
    """Add a person.

    Args:
        initials: Initials.
        name: Name.
        role: Role.
    """
    Person.create(initials=initials, name=name, role=role)


def archive_person(number: int, at: str) -> None:
    """Archive a person.

    Args:
        number: Number of the person.
        at: Current time, UTC.
    """
    Person.update(removed_at=at).where(Person.id == number).execute()
