"""Copies of the database in use: consistent, checked, complete or absent."""

from __future__ import annotations

import os
import sqlite3
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager
from pathlib import Path

from .database import WAIT_MS, build_uri, wrap_errors
from .errors import Cancelled
from .folder import PART, make_file, replace_file, wrap_disk_errors

# Receives the finished fraction, 0 to 1, and returns whether to continue.
Watch = Callable[[float], bool]
_REPORT_EVERY_S = 0.2
# Steps of the virtual machine of SQLite: some milliseconds.
_SQLITE_STEPS = 20_000


def copy_to(source: Path, target: Path, watch: Watch | None = None) -> None:
    """Copy a database, consistent during writes and without PINs.

    An incomplete copy is deleted.

    Args:
        source: The database.
        target: The copy.
        watch: Called with the progress about five times a second, or None. The copy stops when it
            returns False.

    Raises:
        StoreError: The copy failed.
    """
    part = target.with_name(target.name + PART)
    with wrap_disk_errors(), wrap_errors():
        part.unlink(missing_ok=True)
        try:
            make_file(part)
            with closing(
                sqlite3.connect(build_uri(source), timeout=WAIT_MS / 1000, uri=True)
            ) as file:
                progress = _CopyProgress(part, _measure_size(file), watch)
                file.set_progress_handler(progress, _SQLITE_STEPS)
                try:
                    file.execute("VACUUM INTO ?", (str(part.absolute()),))
                except sqlite3.OperationalError as error:
                    if progress.stopped:
                        raise Cancelled from error
                    if error.sqlite_errorcode == sqlite3.SQLITE_INTERRUPT:
                        # A signal arrived in the progress handler, and SQLite hides its exception.
                        raise KeyboardInterrupt from error
                    raise
            _delete_pins(part)
            replace_file(part, target)
        finally:
            part.unlink(missing_ok=True)


def write_through(path: Path) -> None:
    """Write a growing file to the disk, and remove it from the memory of the system.

    Otherwise a large copy replaces the library in this memory, and pages wait for the disk.

    Args:
        path: The file.
    """
    if hasattr(os, "posix_fadvise"):
        handle = os.open(path, os.O_RDONLY)
        try:
            os.fdatasync(handle)
            os.posix_fadvise(handle, 0, 0, os.POSIX_FADV_DONTNEED)
        finally:
            os.close(handle)


@contextmanager
def keep_uncached(path: Path) -> Iterator[None]:
    """Remove a file from the memory of the system while it is read.

    Args:
        path: The file.
    """
    is_over = threading.Event()

    def remove_repeatedly() -> None:
        while not is_over.wait(_REPORT_EVERY_S):
            write_through(path)

    thread = threading.Thread(target=remove_repeatedly, daemon=True)
    thread.start()
    try:
        yield
    finally:
        is_over.set()
        thread.join()


def remove_pins(path: Path) -> None:
    """Remove the PINs from a copy that an earlier version made.

    Args:
        path: The copy. Its modification time does not change.

    Raises:
        StoreError: The copy is damaged, or the disk is full.
    """
    with wrap_errors(), closing(sqlite3.connect(build_uri(path, "ro"), uri=True)) as file:
        if not _has_pins(file):
            return
    stat = path.stat()
    copy_to(path, path)
    os.utime(path, ns=(stat.st_atime_ns, stat.st_mtime_ns))


def _has_pins(file: sqlite3.Connection) -> bool:
    columns = [row[1] for row in file.execute("PRAGMA table_info(person)")]
    return "pin" in columns and bool(
        file.execute("SELECT count(*) FROM person WHERE pin <> ''").fetchone()[0]
    )


def _delete_pins(part: Path) -> None:
    with closing(sqlite3.connect(build_uri(part), uri=True)) as file:
        if _has_pins(file):
            # The old text is overwritten. A second VACUUM would write the whole copy again.
            file.execute("PRAGMA secure_delete = ON")
            with file:
                file.execute("UPDATE person SET pin = ''")


def _measure_size(file: sqlite3.Connection) -> int:
    pages, page = (
        file.execute(f"PRAGMA {name}").fetchone()[0] for name in ("page_count", "page_size")
    )
    return max(1, int(pages) * int(page))


class _CopyProgress:
    """Reports the progress of a copy and writes it to the disk. It can stop the copy."""

    def __init__(self, part: Path, size: int, watch: Watch | None) -> None:
        self._part, self._size, self._watch = part, size, watch
        self._reported_at, self.stopped = time.monotonic(), False

    def __call__(self) -> int:
        """Return 0 to continue, as SQLite expects it."""
        if time.monotonic() - self._reported_at < _REPORT_EVERY_S:
            return 0
        copied = self._part.stat().st_size / self._size
        if self._watch and not self._watch(min(1.0, copied)):
            self.stopped = True
            return 1
        write_through(self._part)
        self._reported_at = time.monotonic()
        return 0


def copy_into(source: Path, target: Path) -> None:
    """Replace the contents of a database with those of another, in one write.

    Other users see the old or the new contents.

    Args:
        source: The new contents.
        target: The database.

    Raises:
        StoreError: The write failed. The database is unchanged.
    """
    with (
        wrap_errors(),
        closing(sqlite3.connect(build_uri(source, "ro"), uri=True)) as source_file,
        closing(
            sqlite3.connect(build_uri(target), timeout=WAIT_MS / 1000, uri=True)
        ) as current_file,
    ):
        current_file.execute("PRAGMA synchronous = full")
        source_file.backup(current_file)
