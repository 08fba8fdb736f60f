"""wisearc/arc-log: what was read of a log, as JSON."""

from __future__ import annotations

from dataclasses import fields
from typing import Any

from ...core.arc_log.arc_log import ArcLog
from ...core.schema.figures import figures

FORMAT, VERSION = "wisearc/arc-log", 1


def arc_log_data(log: ArcLog) -> dict[str, Any]:
    """The data of a log that was read."""
    data = _data(log)
    data["gaps"] = [{"start_s": round(start, 3), "end_s": round(end, 3)} for start, end in log.gaps]
    return {"format": FORMAT, "version": VERSION, **data}


def _data(of: Any) -> dict[str, Any]:
    known = figures(type(of))
    return {
        f.name: (
            [_data(one) for one in getattr(of, f.name)]
            if known[f.name].holds
            else getattr(of, f.name)
        )
        for f in fields(of)
    }
