"""Errors of the data, for the callers of the use cases."""

from ..store.errors import (
    AlreadyRunning,
    Broken,
    Cancelled,
    DatabaseBusy,
    DataFileReplaced,
    DiskFull,
    EditConflict,
    Failing,
    Missing,
    NewerVersion,
    NotAllowed,
    Preparing,
    ReadOnly,
    StoreError,
    Unreadable,
    is_disk_full,
)

__all__ = [
    "AlreadyRunning",
    "Broken",
    "Cancelled",
    "DataFileReplaced",
    "DatabaseBusy",
    "DiskFull",
    "EditConflict",
    "Failing",
    "Missing",
    "NewerVersion",
    "NotAllowed",
    "Preparing",
    "ReadOnly",
    "StoreError",
    "Unreadable",
    "is_disk_full",
]
