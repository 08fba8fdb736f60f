"""A page in parts: a short mark of each, by which a page that stands says what it has and is sent
what it lacks.
"""

from __future__ import annotations

import zlib
from collections.abc import Mapping


def hash_parts(parts: Mapping[str, str]) -> dict[str, str]:
    """A short mark of each part, by which a page says what it has."""
    return {name: f"{zlib.crc32(html.encode()):08x}" for name, html in parts.items()}


def find_changed_parts(
    parts: Mapping[str, str], have: str
) -> tuple[dict[str, str], dict[str, str]]:
    """The parts that a page lacks, with their marks. Parameters: have, "name:mark,name:mark…" as
    the page says it.
    """
    held = dict(pair.split(":", 1) for pair in have.split(",") if ":" in pair)
    marks = {name: mark for name, mark in hash_parts(parts).items() if held.get(name) != mark}
    return {name: parts[name] for name in marks}, marks
