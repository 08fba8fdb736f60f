"""A page in parts, with a hash of each.

A page sends its hashes and receives only the changed parts.
"""

from __future__ import annotations

import zlib
from collections.abc import Mapping


def hash_parts(parts: Mapping[str, str]) -> dict[str, str]:
    """Return a short hash of each part."""
    return {name: f"{zlib.crc32(html.encode()):08x}" for name, html in parts.items()}


def find_changed_parts(
    parts: Mapping[str, str], have: str
) -> tuple[dict[str, str], dict[str, str]]:
    """Return the parts that a page lacks, with their hashes.

    Args:
        parts: All parts.
        have: Hashes of the page, "name:mark,name:mark…".
    """
    held = dict(pair.split(":", 1) for pair in have.split(",") if ":" in pair)
    marks = {name: mark for name, mark in hash_parts(parts).items() if held.get(name) != mark}
    return {name: parts[name] for name in marks}, marks
