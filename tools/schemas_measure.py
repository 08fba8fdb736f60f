"""The JSON Schema of a measured photograph."""

from __future__ import annotations

from typing import Any

from wisearc.core.photograph.measurement import Measurement
from wisearc.core.schema.documents import build_json_schema


def measure_schema() -> dict[str, Any]:
    """Return the schema of a measured photograph."""
    body = build_json_schema(Measurement)
    head = {"format": {"const": "wisearc/measure"}, "version": {"const": 1}}
    return body | {"properties": head | body["properties"]}
