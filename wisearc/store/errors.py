"""The errors of the data folder, each with one sentence for the user.

StoreError(WiseArcError)
├── DatabaseBusy      another program or another request writes to the database
├── ReadOnly          the folder or the file cannot be written
├── DiskFull          the disk has no free space
├── Failing           the disk reports an error
├── DataFileReplaced  the data file was removed or replaced
├── NewerVersion      a newer version of Wise Arc wrote the database or the record
├── Broken            the database file is damaged
├── AlreadyRunning    another server uses this folder
├── Unreadable        a record is damaged
├── Missing           the record does not exist
├── EditConflict      the record changed after it was read
├── NotAllowed        the state of the record does not permit the action
├── Preparing         the server prepares the answer
└── Cancelled         the user cancelled a long task
"""

from __future__ import annotations

import errno

from ..core.errors import WiseArcError


class StoreError(WiseArcError):
    """The data cannot be used."""


class DatabaseBusy(StoreError):
    """Another writer is active."""

    def __init__(self) -> None:
        """Create the error."""
        super().__init__(
            "Not saved: another program is using the data. Wait a moment or close it, "
            "then save again. Your entries are still on this page."
        )


class ReadOnly(StoreError):
    """The data cannot be written."""

    def __init__(self) -> None:
        """Create the error."""
        super().__init__(
            "Not saved: the data folder is read-only. Restore its write permission, then "
            "save again. Your entries are still on this page."
        )


class DiskFull(StoreError):
    """The disk has no free space."""

    def __init__(
        self, effect: str = "Free some space, then save again. Your entries are still on this page."
    ) -> None:
        """Create the error.

        Args:
            effect: The blocked action, and the next step for the user.
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


class DataFileReplaced(StoreError):
    """The data file was removed or replaced."""

    def __init__(self, message: str = "was replaced during this request") -> None:
        """Create the error with a message."""
        super().__init__(
            f"Not saved: the data file {message}. Put the right file in the data folder, "
            "then save again. Your entries are still on this page."
        )


class NewerVersion(StoreError):
    """The database, or a record in it, comes from a newer version."""


class Unreadable(StoreError):
    """A record is inconsistent."""


class Broken(StoreError):
    """The database file is damaged."""

    def __init__(self, detail: str) -> None:
        """Create the error.

        Args:
            detail: Message of SQLite.
        """
        super().__init__(
            f"The data file is not a valid database ({detail}). Restore a backup, or give "
            "another folder with --data. No changes were made."
        )


class AlreadyRunning(StoreError):
    """Another server uses this folder."""


class Missing(StoreError):
    """The record does not exist."""


class EditConflict(StoreError):
    """The record changed after it was read."""


class NotAllowed(StoreError):
    """The state of the record does not permit the action."""


class Preparing(StoreError):
    """The server prepares the answer. The browser asks again."""

    def __init__(self, share: float) -> None:
        """Create the error.

        Args:
            share: Progress from 0 to 1.
        """
        self.share = share
        super().__init__(f"Preparing the arc log: {share * 100:.0f} %.")


class Cancelled(StoreError):
    """The user cancelled a long task.

    It left nothing behind.
    """

    def __init__(self) -> None:
        """Create the error."""
        super().__init__("Cancelled. No changes were made.")
