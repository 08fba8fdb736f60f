"""What can go wrong with the data, each with a sentence for people.

StoreError(WiseArcError)
├── Locked     another program, or other writing, holds the database for now
├── ReadOnly   the folder or file cannot be written
├── Full       there is no room left
├── Failing    the disk does not read or write
├── Moved      the data file was taken away or changed for another
├── Newer      the database, or a record, was written by a newer version
├── Broken     the file is not a sound database
├── Served     another start serves this folder already
├── Unreadable a record that does not hold together
├── Missing    no such record
├── Stale      the record changed since it was read
├── NotAllowed the record's state does not allow it
├── Preparing  what is asked for is made ready just now
└── Stopped    long work that was stopped before its end
"""

from __future__ import annotations

from ..core.errors import WiseArcError


class StoreError(WiseArcError):
    """The data cannot be used as asked."""


class Locked(StoreError):
    """Something else is writing."""

    def __init__(self) -> None:
        super().__init__(
            "The data is held by another program and nothing was written. Wait a moment or close"
            " it, then send again; what you typed is still here."
        )


class ReadOnly(StoreError):
    """The data cannot be written."""

    def __init__(self) -> None:
        super().__init__(
            "The data folder cannot be written, so nothing was kept. Give it back its write"
            " permission, then send again; what you typed is still here."
        )


class Full(StoreError):
    """There is no room left."""

    def __init__(
        self,
        so: str = (
            "nothing was kept. Make room on it, then send again; what you typed is still here"
        ),
    ) -> None:
        super().__init__(f"The disk is full, so {so}.")


class Failing(StoreError):
    """The disk does not read or write what it is told to."""

    def __init__(self, detail: str) -> None:
        super().__init__(
            f"The disk does not do what it is told to ({detail}), so nothing was kept. See that it"
            " is sound and connected, then send again; what you typed is still here."
        )


class Moved(StoreError):
    """The data file is not the one it was."""

    def __init__(self, what: str = "was changed for another while this was being written") -> None:
        super().__init__(
            f"The data file {what}, so nothing counts as kept. See that the right file stands in"
            " the data folder, then send again; what you typed is still here."
        )


class Newer(StoreError):
    """The database, or a record in it, comes from a newer version."""


class Unreadable(StoreError):
    """A record that does not hold together."""


class Broken(StoreError):
    """The file is not a sound database."""

    def __init__(self, detail: str) -> None:
        super().__init__(
            f"The data file is not a sound database ({detail}). Put back a copy, or give another"
            " folder with --data; nothing was changed."
        )


class Served(StoreError):
    """Another start serves this folder."""


class Missing(StoreError):
    """No such record."""


class Stale(StoreError):
    """The record changed since it was read."""


class NotAllowed(StoreError):
    """The record's state does not allow it."""


class Preparing(StoreError):
    """What is asked for is made ready; it is there in a moment."""

    def __init__(self, what: str, share: float) -> None:
        self.share = share
        super().__init__(f"{what} is being made ready: {share * 100:.0f} % so far.")


class Stopped(StoreError):
    """Long work that was stopped: it left nothing behind."""

    def __init__(self) -> None:
        super().__init__("Stopped; nothing was changed.")
