"""The rows of the store that those who call the use cases are handed."""

from __future__ import annotations

from ..store.models import AtArc, JobRow, JobTick, Procedure, PurgeRun, Revision, RunRow

__all__ = ["AtArc", "JobRow", "JobTick", "Procedure", "PurgeRun", "Revision", "RunRow"]
