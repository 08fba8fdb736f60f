"""One connection that is open while the library is served.

Without it, SQLite writes its log back and deletes it whenever the last request ends.
"""

from __future__ import annotations

import sqlite3
import threading
import time
from contextlib import suppress
from pathlib import Path

from .database import build_uri

# After this time without a write the log is emptied. The database file is then complete.
IDLE_S = 1.0


class Anchor:
    """Holds a database open. After an error it tries again."""

    def __init__(self, path: Path) -> None:
        """Open a database.

        Args:
            path: The database file.
        """
        self._path, self._log = path, Path(f"{path}-wal")
        self._lock, self._closed = threading.Lock(), threading.Event()
        self._connection: sqlite3.Connection | None = None
        self._file_id: tuple[int, int] | None = None
        self.refresh()

    def run(self) -> None:
        """Refresh until the anchor is closed."""
        while not self._closed.wait(IDLE_S):
            self.refresh()

    def refresh(self) -> None:
        """Connect to the current file. Empty its log after a time without a write."""
        with self._lock, suppress(sqlite3.Error, OSError):
            if self._closed.is_set():
                return
            file = self._path.stat()
            if self._connection is None or self._file_id != (file.st_dev, file.st_ino):
                self._disconnect()
                self._connection = sqlite3.connect(
                    build_uri(self._path), uri=True, timeout=0, check_same_thread=False
                )
                # The first read opens the log.
                self._connection.execute("SELECT count(*) FROM sqlite_schema").fetchone()
                self._file_id = (file.st_dev, file.st_ino)
            log = self._log.stat()
            if log.st_size and time.time() - log.st_mtime > IDLE_S:
                self._connection.execute("PRAGMA wal_checkpoint(TRUNCATE)").fetchone()

    def close(self) -> None:
        """Close the connection. SQLite empties the log if no other connection is open."""
        self._closed.set()
        with self._lock:
            self._disconnect()

    def _disconnect(self) -> None:
        if self._connection is not None:
            with suppress(sqlite3.Error):
                self._connection.close()
        self._connection = self._file_id = None
