"""Opening of the database of a data folder.

Checked, copied before changes, migrated, and read-only if it cannot be written.
"""

from __future__ import annotations

import shutil
import sqlite3
import tempfile
from contextlib import closing, suppress
from datetime import UTC, datetime
from pathlib import Path

from playhouse.migrations import Runner

from .copies import copy_to, remove_pins
from .database import build_uri, db, wrap_errors
from .errors import Broken, DiskFull, NewerVersion, StoreError
from .folder import (
    COPIES,
    FILE_NAME,
    FolderLock,
    clear_parts,
    has_room,
    is_writable,
    make_file,
    make_folder,
    wrap_disk_errors,
)

MIGRATIONS = Path(__file__).parent / "migrations"
SCHEMA = len(list(MIGRATIONS.glob("[0-9]*.py")))
# Above this size, bytes, a check takes seconds. It is made before serving and by `wisearc check`,
# and not by every command.
SOON_LOOKED_THROUGH = 64 * 1024 * 1024


class Store:
    """The database of a data folder, ready for use.

    `reads_only`: it can be read only. `held` is the lock on the folder. Without it, nothing is
    migrated while another process serves the folder.

    Raises:
        StoreError: It cannot be used.
    """

    def __init__(self, folder: Path, held: FolderLock | None = None) -> None:
        """Open the database of a folder.

        Args:
            folder: The data folder.
            held: The lock of this process, or None.
        """
        self.folder, self.path = folder, folder / FILE_NAME
        self.reads_only = self.path.exists() and not is_writable(folder)
        self._beside: tempfile.TemporaryDirectory[str] | None = None
        if self.reads_only:
            self._open_to_read()
            return
        make_folder(folder)
        if held:
            clear_parts(folder)
        make_file(self.path)
        db.point(self.path, None)
        try:
            with wrap_errors(), wrap_disk_errors():
                check_database(self.path, quick=True, reading="rw", full=held is not None)
                migrate(folder, held)
                db.pragma("journal_mode", "wal")
        except DiskFull:
            self._check_readable()
        finally:
            self.close()
        db.point(self.path, SCHEMA)

    @property
    def is_full(self) -> bool:
        """Whether the disk is full, so that the library is read-only."""
        return not self.reads_only and not has_room(self.folder)

    def _check_readable(self) -> None:
        """Check that the library can be read on a full disk.

        Raises:
            DiskFull: The library is empty or of an earlier version.
        """
        self.close()
        if self.path.stat().st_size and db.pragma("user_version") == SCHEMA:
            return
        raise DiskFull(
            "The library cannot be created or upgraded. Free some space, then start again."
        )

    def _open_to_read(self) -> None:
        """Open a folder that cannot be written.

        Directly, or a copy after an interrupted write or of an earlier version.
        """
        log = Path(f"{self.path}-wal")
        if not (log.exists() and log.stat().st_size):
            db.point(self.path, None, "immutable", {"query_only": 1})
            with wrap_errors():
                check_database(self.path, quick=True, reading="immutable")
                version = db.pragma("user_version")
            self.close()
            if version == SCHEMA:
                db.point(self.path, SCHEMA, "immutable", {"query_only": 1})
                return
        self._beside = tempfile.TemporaryDirectory(prefix="wisearc-")
        copy_path = Path(self._beside.name)
        with wrap_disk_errors():
            for source in (self.path, log):
                if source.exists():
                    shutil.copyfile(source, copy_path / source.name)
        Store(copy_path).close()
        db.point(copy_path / FILE_NAME, SCHEMA, "ro", {"query_only": 1}, self.folder)

    def close(self) -> None:
        """Close the connection of this thread."""
        if not db.is_closed():
            db.close()


_NEWER = (
    "A newer version of Wise Arc wrote this data (it contains {holds}). Start "
    "that version, or give another folder with --data. No changes were made."
)


def migrate(folder: Path, held: FolderLock | None) -> None:
    """Upgrade the database of `db` to the present schema, with a copy before.

    Args:
        folder: The data folder.
        held: The lock on the folder, or None.

    Raises:
        NewerVersion: A newer version wrote it.
        AlreadyRunning: Another process serves the folder.
    """
    runner = Runner(db, directory=str(MIGRATIONS))
    known = {m.name for m in runner.migrations()}
    applied = set(runner.applied())
    if unknown := sorted(applied - known):
        raise NewerVersion(_NEWER.format(holds=", ".join(unknown)))
    if known - applied:
        if held is None and applied:
            with FolderLock(folder):
                _upgrade(runner, folder, sorted(known - applied)[0])
        else:
            _upgrade(runner, folder, sorted(known - applied)[0] if applied else "")
    if db.pragma("user_version") != SCHEMA:
        db.pragma("user_version", SCHEMA)


def _upgrade(runner: Runner, folder: Path, first: str) -> None:
    if first:
        copies = folder / COPIES
        make_folder(copies)
        db.close()
        copy_to(folder / FILE_NAME, copies / f"before-{first}-{format_stamp()}.sqlite3")
    runner.up()
    if first:
        for path in sorted(copies.glob("*.sqlite3")):
            # A damaged copy does not change.
            with suppress(StoreError):
                remove_pins(path)


def is_library(path: Path) -> bool:
    """Return whether a database is a library of Wise Arc, of this version or an older one."""
    with wrap_errors(), closing(sqlite3.connect(build_uri(path, "ro"), uri=True)) as file:
        tables = {
            row[0] for row in file.execute("SELECT name FROM sqlite_schema WHERE type = 'table'")
        }
    return {"procedure", "revision", "run", "schema_migration"} <= tables


def format_stamp() -> str:
    """Return the time for a file name, UTC."""
    return datetime.now(UTC).strftime("%Y%m%d-%H%M%S")


def check_database(path: Path, quick: bool, reading: str = "ro", full: bool = False) -> None:
    """Check the integrity of a database.

    An empty file is an empty database, from a first start on a full disk.

    Args:
        path: The file.
        quick: Whether to skip the indexes, and all but the head of a large one.
        reading: Mode of SQLite.
        full: Whether to check a large one completely.

    Raises:
        Broken: The database is damaged.
    """
    with wrap_errors(), closing(sqlite3.connect(build_uri(path, reading), uri=True)) as file:
        file.execute("SELECT count(*) FROM sqlite_schema").fetchone()
        if quick and not full and path.stat().st_size > SOON_LOOKED_THROUGH:
            return
        problems = [
            row[0] for row in file.execute(f"PRAGMA {'quick' if quick else 'integrity'}_check(3)")
        ]
        lost = [] if problems != ["ok"] else file.execute("PRAGMA foreign_key_check").fetchmany(3)
    if problems != ["ok"]:
        raise Broken("; ".join(" ".join(line.split()) for line in problems)[:200])
    if lost:
        raise Broken(f"{len(lost)} rows of {lost[0][0]} have no parent record")
