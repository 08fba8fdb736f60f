"""Opening a data folder."""

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
from ..procedures.finding import list_all_unlisted


def open_data(
    folder: Path, held: FolderLock | None = None, told: Callable[[int, int], None] | None = None
) -> Store:
    """The data of a folder, made or brought up to date as need be; only to be read where it cannot
    be written.

    Parameters: held, this process's hold on the folder; told, how many records of how many are
    listed anew. Raises StoreError where it cannot be used, BadCatalogue where the product's own
    tables do not hold together.
    """
    check_rows()
    store = Store(folder, held)
    try:
        if not store.reads_only:
            # On a full disk the list can be out of date.
            with suppress(DiskFull):
                list_all_unlisted(told)
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
    """Whether looking through the book before it is served takes seconds."""
    path = folder / FILE_NAME
    return path.exists() and path.stat().st_size > SOON_LOOKED_THROUGH


def load_session_secret(store: Store) -> str:
    """The secret that open pages outlive a restart by; one for this run alone where none can be
    kept.
    """
    if not store.reads_only:
        with suppress(DiskFull):
            return load_secret(store.folder)
    return secrets.token_hex(32)


def open_book(folder: Path) -> Store:
    """The data of a folder that is there already. Raises Missing where there is none."""
    if not (folder / FILE_NAME).exists():
        raise Missing(
            f"There is no library in {folder.resolve()}. Give its data folder with "
            "--data. “wisearc serve” creates one."
        )
    return open_data(folder)
