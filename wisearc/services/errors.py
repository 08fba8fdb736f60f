"""What can go wrong with the data, for those who call the use cases."""

from ..store.errors import (
    Broken,
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
)

__all__ = [
    "Broken",
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
]
