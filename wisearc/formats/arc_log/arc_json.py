"""wisearc/arc-log: what was read of a log, as JSON."""

from __future__ import annotations

from ...core.arc_log.arc_log import ArcLog
from ...core.schema.json_types import Json, JsonObject
from ..declared import of_data, to_data

FORMAT, VERSION = "wisearc/arc-log", 1


def arc_log_data(log: ArcLog) -> dict[str, Json]:
    """The data of a log that was read."""
    return {"format": FORMAT, "version": VERSION, **to_data(log)}


def read_own_arc_log(data: JsonObject) -> ArcLog:
    """A log of data that this product wrote and kept itself; nothing of it is checked."""
    return of_data(ArcLog, data)
