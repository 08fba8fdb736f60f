"""What can go wrong with the data, each with a sentence for people.

StoreError(WiseArcError)
├── Locked     another program, or other writing, holds the database for now
├── ReadOnly   the folder or file cannot be written
├── Full       there is no room left
├── Failing    the disk reports an error
├── Moved      the data file was taken away or changed for another
├── Newer      the database, or a record, was written by a newer version
├── Broken     the file is not a sound database
├── Served     another start serves this folder already
├── Unreadable a record that does not hold together
├── Missing    no such record
├── Stale      the record changed since it was read
├── NotAllowed the record's state does not allow it
├── Preparing  the server prepares the answer
└── Stopped    long work that was stopped before its end
"""

from __future__ import annotations

import errno

from ..core.errors import WiseArcError


class StoreError(WiseArcError):
    """The data cannot be used as asked."""


class Locked(StoreError):
    """Something else is writing."""

    def __init__(self) -> None:
        super().__init__(
            "Not saved: another program is using the data. Wait a moment or close it, "
            "then save again. Your entries are still on this page."
        )


class ReadOnly(StoreError):
    """The data cannot be written."""

    def __init__(self) -> None:
        super().__init__(
            "Not saved: the data folder is read-only. Restore its write permission, then "
            "save again. Your entries are still on this page."
        )


class Full(StoreError):
    """The disk has no free space."""

    def __init__(
        self, effect: str = "Free some space, then save again. Your entries are still on this page."
    ) -> None:
        """Create the error.

        Args:
            effect: What the user cannot do, and what to do.
        """
        super().__init__(f"Not saved: the disk is full. {effect}")


def is_disk_full(error: OSError) -> bool:
    """Return whether an error means that the disk, or the quota of the user, is full.

    Args:
        error: Error of the operating system.
    """
    return error.errno in (errno.ENOSPC, errno.EDQUOT)


class Failing(StoreError):
    """The disk reports an error."""

    def __init__(self, detail: str) -> None:
        """Create the error.

        Args:
            detail: Message of SQLite.
        """
        super().__init__(
            f"Not saved: the disk reports an error ({detail}). Check the disk and its connection,"
            " then save again. Your entries are still on this page."
        )


class Moved(StoreError):
    """The data file is not the one it was."""

    def __init__(self, what: str = "was replaced during this request") -> None:
        super().__init__(
            f"Not saved: the data file {what}. Put the right file in the data folder, "
            "then save again. Your entries are still on this page."
        )


class Newer(StoreError):
    """The database, or a record in it, comes from a newer version."""


class Unreadable(StoreError):
    """A record that does not hold together."""


class Broken(StoreError):
    """The file is not a sound database."""

    def __init__(self, detail: str) -> None:
        super().__init__(
            f"The data file is not a valid database ({detail}). Restore a backup, or give "
            "another folder with --data. No changes were made."
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
    """The server prepares the answer. The browser asks again."""

    def __init__(self, share: float) -> None:
        """Create the error.

        Args:
            share: Progress from 0 to 1.
        """
        self.share = share
        super().__init__(f"Preparing the arc log: {share * 100:.0f} %.")


class Stopped(StoreError):
    """Long work that was stopped: it left nothing behind."""

    def __init__(self) -> None:
        super().__init__("Cancelled. No changes were made.")
