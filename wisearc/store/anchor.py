"""One connection that stays open while the book is served, so that no request has to lay anew
beside the file what SQLite wants there, nor to put the log back into the file when it closes its
own.
"""

from __future__ import annotations

import sqlite3
import threading
import time
from contextlib import suppress
from pathlib import Path

from .database import uri_of

# what was written is put into the file once nothing was for so long: whoever takes the file away
# or copies it by hand then has all of it
QUIET_S = 1.0


class Anchor:
    """Holds a database open until it is closed; what cannot be held is tried again."""

    def __init__(self, path: Path) -> None:
        self._path, self._log = path, Path(f"{path}-wal")
        self._guard, self._over = threading.Lock(), threading.Event()
        self._file: sqlite3.Connection | None = None
        self._holds: tuple[int, int] | None = None
        self.tidy()

    def look_after(self) -> None:
        """Tidy again and again until it is closed."""
        while not self._over.wait(QUIET_S):
            self.tidy()

    def tidy(self) -> None:
        """Hold the file that stands in the place, and put what was written into it where it is
        quiet.
        """
        with self._guard, suppress(sqlite3.Error, OSError):
            if self._over.is_set():
                return
            found = self._path.stat()
            if self._file is None or self._holds != (found.st_dev, found.st_ino):
                self._let_go()
                self._file = sqlite3.connect(
                    uri_of(self._path), uri=True, timeout=0, check_same_thread=False
                )
                # the first look opens what is beside it
                self._file.execute("SELECT count(*) FROM sqlite_schema").fetchone()
                self._holds = (found.st_dev, found.st_ino)
            log = self._log.stat()
            if log.st_size and time.time() - log.st_mtime > QUIET_S:
                self._file.execute("PRAGMA wal_checkpoint(TRUNCATE)").fetchone()

    def close(self) -> None:
        """Let go; the last that does puts what was written into the file."""
        self._over.set()
        with self._guard:
            self._let_go()

    def _let_go(self) -> None:
        if self._file is not None:
            with suppress(sqlite3.Error):
                self._file.close()
        self._file = self._holds = None
