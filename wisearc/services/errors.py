"""What can go wrong with the data, for those who call the use cases."""

from ..store.errors import (
    Broken,
    Failing,
    Full,
    Locked,
    Missing,
    Moved,
    Newer,
    NotAllowed,
    Preparing,
    ReadOnly,
    Served,
    Stale,
    Stopped,
    StoreError,
    Unreadable,
    is_disk_full,
)

__all__ = [
    "Broken",
    "Failing",
    "Full",
    "Locked",
    "Missing",
    "Moved",
    "Newer",
    "NotAllowed",
    "Preparing",
    "ReadOnly",
    "Served",
    "Stale",
    "Stopped",
    "StoreError",
    "Unreadable",
    "is_disk_full",
]
