"""The rows of the store that the use cases return."""

from __future__ import annotations

from ..store.listings import LibraryFilter
from ..store.models import (
    AtArc,
    JobRow,
    JobTick,
    Listing,
    Procedure,
    PurgeRun,
    Revision,
    RunRow,
    SavedView,
)

__all__ = [
    "AtArc",
    "JobRow",
    "JobTick",
    "LibraryFilter",
    "Listing",
    "Procedure",
    "PurgeRun",
    "Revision",
    "RunRow",
    "SavedView",
]
