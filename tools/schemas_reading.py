"""The JSON Schema of a diagnosis, from its declarations."""

from __future__ import annotations

from typing import Any

from wisearc.core.run.saved_reading import SavedReading
from wisearc.core.schema.documents import build_json_schema


def reading_schema() -> dict[str, Any]:
    """Return the schema of a diagnosis."""
    found: dict[str, Any] = dict(build_json_schema(SavedReading))
    own = ("format", "version", "draft")
    properties = {key: value for key, value in found["properties"].items() if key not in own}
    head = {"format": {"const": "wisearc/reading"}, "version": {"const": 1}}
    return {
        "title": "What a run says",
        **found,
        "required": [*head, *properties],
        "properties": {**head, **properties},
    }
