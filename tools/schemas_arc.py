"""The JSON Schema of an analysed arc log."""

from __future__ import annotations

from typing import Any, get_args, get_type_hints

from wisearc.core.arc_log.arc_log import ArcLog
from wisearc.core.schema.figures import list_figures

_TYPES = {float: "number", int: "integer", bool: "boolean", str: "string"}


def _object(of: type) -> dict[str, Any]:
    hints = get_type_hints(of)
    found: dict[str, Any] = {}
    for key, declared in list_figures(of).items():
        kinds = get_args(hints[key]) or (hints[key],)
        if declared.holds:
            found[key] = {
                "type": "array",
                "items": _object(declared.holds),
                "description": declared.label,
            }
            continue
        names = [
            "null" if kind is type(None) else _TYPES[kind]
            for kind in kinds
            if kind in _TYPES or kind is type(None)
        ]
        found[key] = {"type": names[0] if len(names) == 1 else names, "description": declared.label}
    return {
        "type": "object",
        "required": list(found),
        "properties": found,
        "additionalProperties": False,
    }


def arc_log_schema() -> dict[str, Any]:
    """Return the schema of an analysed log."""
    found = _object(ArcLog)
    head = {"format": {"const": "wisearc/arc-log"}, "version": {"const": 1}}
    properties = {**head, **found["properties"]}
    return {
        "title": "What was read of an arc log",
        "type": "object",
        "required": list(properties),
        "properties": properties,
        "additionalProperties": False,
    }
