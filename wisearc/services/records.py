"""The rows of the store that the use cases return."""

from __future__ import annotations

from ..store.models import AtArc, JobRow, JobTick, Procedure, PurgeRun, Revision, RunRow

__all__ = ["AtArc", "JobRow", "JobTick", "Procedure", "PurgeRun", "Revision", "RunRow"]
