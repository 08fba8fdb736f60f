"""The database: opened with each request that needs it and closed with it, migrated at start, every
write in a transaction.

A write counts as kept only once it is on the disk, in the file that stands in the data folder.
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
    """SQLite that opens what is there and makes nothing; each connection knows which file it
    holds.
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
        """Say which file it is, and of which schema; None where it is about to be migrated.

        Parameters: reading, how SQLite opens it: "rw", "ro", or "immutable" where nothing can be
        written beside it; folder, the data folder where it is not the file's own.
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
        """Which file stands in the place, or None where there is none."""
        try:
            found = self.path.stat() if self.path else None
        except OSError:
            return None
        return (found.st_dev, found.st_ino) if found else None

    def stands(self) -> bool:
        """Whether the file that this thread's connection holds is the one that stands in its
        place.
        """
        return getattr(self._held, "file", None) is not None and self._held.file == self.identity()


def build_uri(path: Path, reading: str = "rw") -> str:
    """A database as SQLite is told of it. Parameters: reading, "rw", "ro", "rwc" or "immutable"."""
    how = "mode=ro&immutable=1" if reading == "immutable" else f"mode={reading}"
    return f"file:{quote(str(path.absolute()))}?{how}"


class _Queue:
    """Those of this process who want to write, one at a time and in the order they came: none is
    passed over.
    """

    def __init__(self) -> None:
        self._guard = threading.Lock()
        self._waiting: deque[threading.Event] = deque()
        self._taken = False

    def enter(self, wait_s: float) -> bool:
        """Wait for one's turn. Returns whether it came in so many seconds."""
        turn = threading.Event()
        with self._guard:
            if not self._taken:
                self._taken = True
                return True
            self._waiting.append(turn)
        if turn.wait(wait_s):
            return True
        with self._guard:
            # it may have come just now
            if not turn.is_set():
                self._waiting.remove(turn)
            return turn.is_set()

    def leave(self) -> None:
        """Give the turn to the next."""
        with self._guard:
            if self._waiting:
                self._waiting.popleft().set()
            else:
                self._taken = False


db = _Database()
_writers = _Queue()


@contextmanager
def wrap_errors() -> Iterator[None]:
    """Turn the database's own errors into sentences for people."""
    try:
        yield
    except peewee.IntegrityError:
        # a rule of the tables broken is a fault of the product's, not of the file
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
    """What to say of an error of SQLite's: of the first that happened, where clearing up after it
    failed too.
    """
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
    """Run a statement of one's own on this thread's connection."""
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
                book, writes = execute(
                    "UPDATE book SET writes = writes + 1 RETURNING id, writes"
                ).fetchone()
            _check_written(book, writes)
    finally:
        _writers.leave()


@contextmanager
def _turn() -> Iterator[None]:
    """One write's turn among all processes'."""
    if db.path is None or not db.path.parent.is_dir():
        raise DataFileReplaced("is no longer in the data folder")
    with lock_for_write(db.path.parent, WAIT_MS / 1000):
        yield


def _check_written(book: str, writes: int) -> None:
    """Check with a new connection that the file on the disk has the write.

    Raises:
        DataFileReplaced: It does not have it.
    """
    if not db.stands() or db.path is None:
        raise DataFileReplaced
    with closing(sqlite3.connect(build_uri(db.path), timeout=WAIT_MS / 1000, uri=True)) as fresh:
        found = fresh.execute("SELECT id, writes FROM book").fetchone()
    if found is None or found[0] != book or found[1] < writes:
        raise DataFileReplaced
