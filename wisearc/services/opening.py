"""Opening a data folder."""

from __future__ import annotations

from pathlib import Path

from ..store.database import Store


def open_data(folder: Path) -> Store:
    """The data of a folder, made or brought up to date as need be. Raises StoreError where it cannot be used."""
    return Store(folder)
