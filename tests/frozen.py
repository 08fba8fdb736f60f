"""Records as earlier versions wrote them, packed: three of each shape, and one whole book."""

from __future__ import annotations

import gzip
import json
from pathlib import Path
from typing import Any

RECORDS = Path(__file__).resolve().parent / "records"


def versions() -> list[Path]:
    """Return the folder of each version with frozen records."""
    return sorted(p for p in RECORDS.iterdir() if p.is_dir())


def unpacked(path: Path) -> bytes:
    """Return the contents of a compressed file."""
    return gzip.decompress(path.read_bytes())


def read_first_library() -> bytes:
    """Return the complete library of the first version."""
    return unpacked(RECORDS / "0.1" / "book.sqlite3.gz")


def read_procedure_files(version: Path) -> dict[str, dict[str, Any]]:
    """The procedure files of a version, by name."""
    packed = {p.name.removesuffix(".json.gz"): p for p in version.glob("*.json.gz")}
    return {name: json.loads(unpacked(p)) for name, p in packed.items() if name != "shown"}


def read_display(version: Path) -> dict[str, Any]:
    """Return the display of a version for its files."""
    found: dict[str, Any] = json.loads(unpacked(version / "shown.json.gz"))
    return found
