"""What can go wrong with the data, each with a sentence for people.

StoreError(WiseArcError)
├── Locked     another program holds the database
├── ReadOnly   the folder or file cannot be written
├── Newer      the database, or a record, was written by a newer version
├── Broken     the file is not a sound database
├── Unreadable a record that does not hold together
├── Missing    no such record
├── Stale      the record changed since it was read
└── NotAllowed the record's state does not allow it
"""

from __future__ import annotations

from ..core.errors import WiseArcError


class StoreError(WiseArcError):
    """The data cannot be used as asked."""


class Locked(StoreError):
    """Another program holds the database."""

    def __init__(self) -> None:
        super().__init__(
            "The data is held by another program and nothing was written. Close it, then send again; what you typed is still here."
        )


class ReadOnly(StoreError):
    """The data cannot be written."""

    def __init__(self) -> None:
        super().__init__(
            "The data folder cannot be written, so nothing was kept. Give it back its write permission, then send again; what you typed is still here."
        )


class Newer(StoreError):
    """The database, or a record in it, comes from a newer version."""


class Unreadable(StoreError):
    """A record that does not hold together."""


class Broken(StoreError):
    """The file is not a sound database."""

    def __init__(self, detail: str) -> None:
        super().__init__(
            f"The data file is not a sound database ({detail}). Put back a copy, or give another folder with --data; nothing was changed."
        )


class Missing(StoreError):
    """No such record."""


class Stale(StoreError):
    """The record changed since it was read."""


class NotAllowed(StoreError):
    """The record's state does not allow it."""
