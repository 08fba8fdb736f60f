"""wisearc/arc-log: the analysis of a log as JSON."""

from __future__ import annotations

from ...core.arc_log.arc_log import ArcLog
from ...core.schema.json_types import Json, JsonObject
from ..declared import read_trusted, to_data

FORMAT, VERSION = "wisearc/arc-log", 1


def arc_log_data(log: ArcLog) -> dict[str, Json]:
    """Return the data of an analysed log."""
    return {"format": FORMAT, "version": VERSION, **to_data(log)}


def read_own_arc_log(data: JsonObject) -> ArcLog:
    """Return a log from data of `arc_log_data`, without checks."""
    return read_trusted(ArcLog, data)
