"""Opening of a data folder."""

from __future__ import annotations

import secrets
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from ...core.catalogue import check_rows
from ...store.anchor import Anchor as Anchor
from ...store.errors import DiskFull, Missing
from ...store.folder import FILE_NAME, FolderLock, is_writable, load_secret
from ...store.opening import SOON_LOOKED_THROUGH
from ...store.opening import Store as Store
from ..procedures.library_search import list_all_unlisted


def open_data(
    folder: Path,
    held: FolderLock | None = None,
    on_progress: Callable[[int, int], None] | None = None,
) -> Store:
    """Open the data of a folder, created or upgraded if necessary.

    It is read-only if the folder cannot be written.

    Args:
        folder: The data folder.
        held: The lock of this process on the folder.
        on_progress: Receives the number of listed records and the total.

    Raises:
        StoreError: The data cannot be used.
        BadCatalogue: The tables of the product are inconsistent.
    """
    check_rows()
    store = Store(folder, held)
    try:
        if not store.reads_only:
            # On a full disk the list can be out of date.
            with suppress(DiskFull):
                list_all_unlisted(on_progress)
    finally:
        store.close()
    return store


def lock_folder(folder: Path) -> FolderLock | None:
    """Lock a data folder for this process.

    Returns:
        The lock, or None if the folder is read-only.

    Raises:
        AlreadyRunning: Another process uses the folder.
    """
    return None if (folder / FILE_NAME).exists() and not is_writable(folder) else FolderLock(folder)


def is_large(folder: Path) -> bool:
    """Return whether a check before serving takes seconds."""
    path = folder / FILE_NAME
    return path.exists() and path.stat().st_size > SOON_LOOKED_THROUGH


def load_session_secret(store: Store) -> str:
    """Return the secret that keeps pages valid after a restart.

    It is temporary if it cannot be saved.
    """
    if not store.reads_only:
        with suppress(DiskFull):
            return load_secret(store.folder)
    return secrets.token_hex(32)


def open_library(folder: Path) -> Store:
    """Open the data of an existing folder.

    Raises:
        Missing: The folder has no library.
    """
    if not (folder / FILE_NAME).exists():
        raise Missing(
            f"There is no library in {folder.resolve()}. Give its data folder with "
            "--data. “wisearc serve” creates one."
        )
    return open_data(folder)
