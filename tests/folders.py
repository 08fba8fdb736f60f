"""Data folders for tests: a copy of one that was migrated once in this process."""

from __future__ import annotations

import atexit
import shutil
import sqlite3
import tempfile
from collections.abc import Callable
from contextlib import closing
from functools import cache
from pathlib import Path

from wisearc.store.folder import FILE_NAME
from wisearc.store.opening import Store


@cache
def _migrated() -> Path:
    folder = Path(tempfile.mkdtemp())
    atexit.register(shutil.rmtree, folder, True)
    Store(folder).close()
    return folder


@cache
def _built(build: Callable[[Path], None]) -> Path:
    folder = Path(tempfile.mkdtemp())
    atexit.register(shutil.rmtree, folder, True)
    build(folder)
    return folder


def fill(folder: Path, build: Callable[[Path], None] | None = None) -> None:
    """Copy a library into a folder. Each copy has its own ID, because caches use the ID as a key.

    Args:
        folder: The data folder.
        build: Creates the library in a new folder, once in this process. None means an empty
            library.
    """
    source = _migrated() if build is None else _built(build)
    shutil.copytree(source, folder, dirs_exist_ok=True)
    with closing(sqlite3.connect(folder / FILE_NAME)) as database, database:
        database.execute("UPDATE book SET id = lower(hex(randomblob(8)))")
