"""Data folders for tests: a copy of one that was migrated once in this process."""

from __future__ import annotations

import atexit
import shutil
import sqlite3
import tempfile
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


def fill(folder: Path) -> None:
    """Put an empty database of today's shape into a folder, under a name of its own: what is
    remembered of a book is remembered by its name.
    """
    shutil.copytree(_migrated(), folder, dirs_exist_ok=True)
    with closing(sqlite3.connect(folder / FILE_NAME)) as database, database:
        database.execute("UPDATE book SET id = lower(hex(randomblob(8)))")
