"""The JSON Schemas of the open formats, shipped as files."""

from __future__ import annotations

import json
from pathlib import Path

from ..core.errors import UnknownName
from ..core.schema.json_types import Json

NAMES = (
    "joint",
    "plan",
    "run",
    "procedure",
    "shop",
    "job",
    "job-plan",
    "arc-log",
    "reading",
    "heat",
    "track",
    "practice",
    "measure",
)


def load_schema(name: str) -> dict[str, Json]:
    """Return the JSON Schema of a format by name.

    Raises:
        UnknownName: The format does not exist.
    """
    if name not in NAMES:
        raise UnknownName("schema", name, list(NAMES))
    text = (Path(__file__).parent / "schemas" / f"{name}.schema.json").read_text(encoding="utf-8")
    loaded: dict[str, Json] = json.loads(text)
    return loaded
