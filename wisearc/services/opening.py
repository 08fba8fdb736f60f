"""Opening a data folder."""

from __future__ import annotations

from pathlib import Path

from ..core.catalogue import check_rows
from ..store.database import Store
from .finding import list_all_unlisted


def open_data(folder: Path) -> Store:
    """The data of a folder, made or brought up to date as need be.

    Raises StoreError where it cannot be used, BadCatalogue where the product's own tables do not hold together.
    """
    check_rows()
    store = Store(folder)
    try:
        list_all_unlisted()
    finally:
        store.close()
    return store
