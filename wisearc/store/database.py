"""The database.

Opened and closed with each request that needs it, migrated at start, with every write in a
transaction. A write counts as saved only when it is on the disk, in the file of the data folder.
"""

from __future__ import annotations

import shutil
import sqlite3
import tempfile
import threading
from collections import deque
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from typing import Any
from urllib.parse import quote

import peewee

from ..core.schema.json_types import Json
from .errors import Broken, DatabaseBusy, DataFileReplaced, DiskFull, Failing, ReadOnly, StoreError
from .folder import has_room, lock_for_write

# A page must answer within 2 s if another program uses the database. Writers of this process wait
# longer, because each of them gets its turn.
WAIT_MS, QUEUE_S = 1500, 10.0
PRAGMAS = {"foreign_keys": 1, "busy_timeout": WAIT_MS, "synchronous": "full"}
Identity = tuple[int, int]


class _Database(peewee.SqliteDatabase):
    """A SQLite database that opens existing files only.

    Each connection knows its file.
    """

    def __init__(self) -> None:
        super().__init__(None)
        self.path: Path | None = None
        # The data folder. The database file can be a copy in another folder.
        self.folder: Path | None = None
        self.schema: int | None = None
        self._held = threading.local()
        self._copying = threading.Lock()
        self._copy: tuple[tuple[int, int], tempfile.TemporaryDirectory[str]] | None = None

    def point(
        self,
        path: Path,
        schema: int | None,
        reading: str = "rw",
        pragmas: dict[str, Json] | None = None,
        folder: Path | None = None,
    ) -> None:
        """Set the file, and its schema.

        Args:
            path: The database file.
            schema: The schema, or None before a migration.
            reading: Mode of SQLite: "rw", "ro", or "immutable" if nothing can be written next to
                it.
            pragmas: Further settings, or None.
            folder: The data folder, if different from that of the file.
        """
        if not self.is_closed():
            self.close()
        self.path, self.schema, self.folder = path, schema, folder or path.parent
        self.init(
            build_uri(path, reading), pragmas=PRAGMAS if pragmas is None else pragmas, uri=True
        )

    def _connect(self) -> Any:
        before = self.identity()
        try:
            connection = super()._connect()  # type: ignore[misc]
            # The first read creates the files next to the database.
            connection.execute("PRAGMA user_version").fetchone()
        except sqlite3.Error:
            if self.path is None or before is None or has_room(self.path.parent):
                raise
            connection = self._connect_read_only(self.path)
        try:
            if before is not None and before != self.identity():
                raise DataFileReplaced
            if (
                self.schema is not None
                and connection.execute("PRAGMA user_version").fetchone()[0] != self.schema
            ):
                raise DataFileReplaced("was changed by another version. Start Wise Arc again")
        except (StoreError, sqlite3.Error):
            connection.close()
            raise
        self._held.file = before
        return connection

    def _connect_read_only(self, path: Path) -> sqlite3.Connection:
        """Connect on a full disk, on which SQLite cannot create its files.

        Each connection first tries to connect normally. Writing works again after the user frees
        some space.

        Args:
            path: The database file.

        Raises:
            DiskFull: There is no space for a temporary copy either.
        """
        log = Path(f"{path}-wal")
        if log.exists() and log.stat().st_size:
            # After a kill the log has data. SQLite can read it from a copy of both files.
            with self._copying:
                version = (log.stat().st_size, log.stat().st_mtime_ns)
                if self._copy is None or self._copy[0] != version:
                    folder = tempfile.TemporaryDirectory(prefix="wisearc-")
                    try:
                        for source in (path, log):
                            shutil.copyfile(source, Path(folder.name) / source.name)
                    except OSError as error:
                        raise DiskFull from error
                    self._copy = (version, folder)
                path = Path(self._copy[1].name) / path.name
            uri = build_uri(path)
        else:
            uri = build_uri(path, "immutable")
        connection = sqlite3.connect(uri, uri=True, isolation_level=None)
        connection.execute("PRAGMA query_only = 1")
        return connection

    def identity(self) -> Identity | None:
        """Return the identity of the current file, or None."""
        try:
            file_stat = self.path.stat() if self.path else None
        except OSError:
            return None
        return (file_stat.st_dev, file_stat.st_ino) if file_stat else None

    def is_current(self) -> bool:
        """Return whether the connection of this thread has the current file."""
        return getattr(self._held, "file", None) is not None and self._held.file == self.identity()


def build_uri(path: Path, reading: str = "rw") -> str:
    """Return the URI of a database for SQLite.

    Args:
        path: The file.
        reading: "rw", "ro", "rwc" or "immutable".
    """
    how = "mode=ro&immutable=1" if reading == "immutable" else f"mode={reading}"
    return f"file:{quote(str(path.absolute()))}?{how}"


class _Queue:
    """The writers of this process, one at a time in order of arrival."""

    def __init__(self) -> None:
        self._guard = threading.Lock()
        self._waiting: deque[threading.Event] = deque()
        self._taken = False

    def enter(self, wait_s: float) -> bool:
        """Wait for the turn, and return whether it was given within the time."""
        turn = threading.Event()
        with self._guard:
            if not self._taken:
                self._taken = True
                return True
            self._waiting.append(turn)
        if turn.wait(wait_s):
            return True
        with self._guard:
            # The turn can be given just now.
            if not turn.is_set():
                self._waiting.remove(turn)
            return turn.is_set()

    def leave(self) -> None:
        """Give the turn to the next writer."""
        with self._guard:
            if self._waiting:
                self._waiting.popleft().set()
            else:
                self._taken = False


db = _Database()
_writers = _Queue()


@contextmanager
def wrap_errors() -> Iterator[None]:
    """Convert errors of the database into sentences for people."""
    try:
        yield
    except peewee.IntegrityError:
        # A violated constraint is an error of the product, not of the file.
        raise
    except (peewee.DatabaseError, peewee.InterfaceError, sqlite3.Error) as error:
        raise _describe_error(error) from error


_KINDS: dict[int, type[DatabaseBusy | ReadOnly | DiskFull]] = {
    sqlite3.SQLITE_BUSY: DatabaseBusy,
    sqlite3.SQLITE_LOCKED: DatabaseBusy,
    sqlite3.SQLITE_READONLY: ReadOnly,
    sqlite3.SQLITE_CANTOPEN: ReadOnly,
    sqlite3.SQLITE_PERM: ReadOnly,
    sqlite3.SQLITE_FULL: DiskFull,
}


# SQLite reports a full disk with one of these codes.
_DISK_CODES = (
    sqlite3.SQLITE_IOERR,
    sqlite3.SQLITE_READONLY,
    sqlite3.SQLITE_CANTOPEN,
    sqlite3.SQLITE_FULL,
)


def _describe_error(error: Exception) -> StoreError:
    """Return the error for an error of SQLite, the first one if the cleanup failed too."""
    first: BaseException = error
    code = 0
    chain: BaseException | None = error
    while chain is not None:
        if hasattr(chain, "sqlite_errorcode"):
            first, code = chain, chain.sqlite_errorcode & 0xFF
        chain = chain.__context__
    if code == sqlite3.SQLITE_CANTOPEN and db.identity() is None:
        return DataFileReplaced("is no longer in the data folder")
    if code in _DISK_CODES:
        if db.path is not None and not has_room(db.path.parent):
            return DiskFull()
        if code == sqlite3.SQLITE_IOERR:
            return Failing(str(first))
    return _KINDS[code]() if code in _KINDS else Broken(str(first))


def execute(sql: str, params: tuple[Any, ...] = ()) -> sqlite3.Cursor:
    """Execute a separate statement on the connection of this thread.

    Args:
        sql: The statement.
        params: Its parameters.
    """
    cursor: sqlite3.Cursor = db.execute_sql(sql, params)  # type: ignore[no-untyped-call]
    return cursor


@contextmanager
def open_transaction() -> Iterator[None]:
    """Open a write transaction. It is the only writer from its start, and saves all or nothing.

    Raises:
        DatabaseBusy: Another program or request writes. Nothing is saved after any of these errors.
        ReadOnly: The file cannot be written.
        DiskFull: The disk has no free space.
        DataFileReplaced: The data file was removed or replaced.
        Broken: The database file is damaged.
    """
    if db.in_transaction():
        yield
        return
    if not _writers.enter(QUEUE_S):
        raise DatabaseBusy
    try:
        with wrap_errors(), _turn():
            with db.atomic("IMMEDIATE"):
                yield
                library_id, writes = execute(
                    "UPDATE book SET writes = writes + 1 RETURNING id, writes"
                ).fetchone()
            _check_written(library_id, writes)
    finally:
        _writers.leave()


@contextmanager
def _turn() -> Iterator[None]:
    """Wait for the turn of this write among all processes."""
    if db.path is None or not db.path.parent.is_dir():
        raise DataFileReplaced("is no longer in the data folder")
    with lock_for_write(db.path.parent, WAIT_MS / 1000):
        yield


def _check_written(library_id: str, writes: int) -> None:
    """Check with a new connection that the file on the disk has the write.

    Raises:
        DataFileReplaced: It does not have it.
    """
    if not db.is_current() or db.path is None:
        raise DataFileReplaced
    with closing(sqlite3.connect(build_uri(db.path), timeout=WAIT_MS / 1000, uri=True)) as fresh:
        row = fresh.execute("SELECT id, writes FROM book").fetchone()
    if row is None or row[0] != library_id or row[1] < writes:
        raise DataFileReplaced
