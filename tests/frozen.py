"""Records as earlier versions wrote them, packed: three of each shape, and one whole book."""

from __future__ import annotations

import gzip
import json
from pathlib import Path
from typing import Any

RECORDS = Path(__file__).resolve().parent / "records"


def versions() -> list[Path]:
    """The folder of each version whose shape is kept."""
    return sorted(p for p in RECORDS.iterdir() if p.is_dir())


def unpacked(path: Path) -> bytes:
    """What a packed file holds."""
    return gzip.decompress(path.read_bytes())


def first_book() -> bytes:
    """The whole book that the first version wrote."""
    return unpacked(RECORDS / "0.1" / "book.sqlite3.gz")


def files_of(version: Path) -> dict[str, dict[str, Any]]:
    """The procedure files of a version, by name."""
    packed = {p.name.removesuffix(".json.gz"): p for p in version.glob("*.json.gz")}
    return {name: json.loads(unpacked(p)) for name, p in packed.items() if name != "shown"}


def shown_of(version: Path) -> dict[str, Any]:
    """What a version showed of its files."""
    found: dict[str, Any] = json.loads(unpacked(version / "shown.json.gz"))
    return found
