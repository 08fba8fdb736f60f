"""The data folder: private to its owner, served by one process, with a complete secret or none."""

from __future__ import annotations

import fcntl
import os
import re
import secrets
import shutil
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from types import TracebackType

from .errors import AlreadyRunning, DatabaseBusy, DiskFull, ReadOnly, is_disk_full

FILE_NAME = "wisearc.sqlite3"
SECRET, LOCK, TURN, COPIES, FILES = "secret", "served", "writing", "backups", "files"
# Columns of the arc logs.
COLUMNS = "arcs"
# A file is written under a temporary name until it is complete. Such a file from a kill or a full
# disk has no value.
PART = ".part"
_OWNER, _OWNER_FOLDER = 0o600, 0o700
# Estimate: with less free space SQLite cannot extend its log.
MIN_FREE_BYTES = 128 * 1024
_SECRET_FORM = "[0-9a-f]{64}"


def make_folder(folder: Path) -> None:
    """Create the folder, or set its permissions for the owner alone.

    Raises:
        ReadOnly: It cannot be written.
        DiskFull: The disk is full.
    """
    with wrap_disk_errors():
        new = not folder.exists()
        folder.mkdir(mode=_OWNER_FOLDER, parents=True, exist_ok=True)
        if not folder.is_dir():
            raise ReadOnly
        if new or (folder / FILE_NAME).exists():
            _restrict_mode(folder, _OWNER_FOLDER)


def make_file(path: Path) -> None:
    """Create a file, or set its permissions for the owner alone.

    The files of SQLite next to it get the same.
    """
    with wrap_disk_errors():
        os.close(os.open(path, os.O_CREAT | os.O_RDWR, _OWNER))
        _restrict_mode(path, _OWNER)


def _restrict_mode(path: Path, mode: int) -> None:
    if path.stat().st_mode & 0o777 != mode and path.stat().st_uid == os.getuid():
        path.chmod(mode)


def is_writable(folder: Path) -> bool:
    """Return whether files can be created in the folder, and its database written."""
    try:
        with tempfile.TemporaryFile(dir=folder):
            pass
        path = folder / FILE_NAME
        return not path.exists() or os.access(path, os.W_OK)
    except OSError as error:
        # A full disk can still be writable.
        return is_disk_full(error)


def has_room(folder: Path) -> bool:
    """Return whether the disk of a folder has free space. Return True if that is unknown.

    Args:
        folder: A folder.
    """
    try:
        disk = os.statvfs(folder)
    except OSError:
        return True
    return disk.f_bavail * disk.f_frsize >= MIN_FREE_BYTES


def clear_parts(folder: Path) -> None:
    """Remove the temporary files of a kill or a full disk."""
    with wrap_disk_errors():
        for path in (
            part_file
            for place in (folder, folder / COPIES, folder / FILES, folder / COLUMNS)
            for part_file in place.glob(f"*{PART}*")
        ):
            if path.is_dir():
                shutil.rmtree(path, ignore_errors=True)
            else:
                path.unlink(missing_ok=True)


def load_secret(folder: Path) -> str:
    """Return the secret that keeps pages valid after a restart, created if missing or incomplete.

    Raises:
        ReadOnly: The folder cannot be written.
        DiskFull: The disk is full.
    """
    path = folder / SECRET
    with wrap_disk_errors():
        if path.exists():
            text = path.read_bytes().decode("ascii", "replace")
            if re.fullmatch(_SECRET_FORM, text):
                _restrict_mode(path, _OWNER)
                return text
        secret = secrets.token_hex(32)
        write_complete(path, secret.encode())
        return secret


def write_complete(path: Path, data: bytes) -> None:
    """Write a file completely to the disk, or not at all.

    Args:
        path: The file.
        data: Its contents.

    Raises:
        OSError: The disk is full or fails.
    """
    handle, name = tempfile.mkstemp(prefix=path.name, suffix=PART, dir=path.parent)
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(data)
        replace_file(Path(name), path)
    finally:
        Path(name).unlink(missing_ok=True)


def replace_file(part: Path, path: Path) -> None:
    """Rename a complete file. Its content and its name survive a power cut.

    Args:
        part: The complete file.
        path: The new name.

    Raises:
        OSError: The disk is full or fails.
    """
    _sync_path(part)
    part.replace(path)
    _sync_path(path.parent)


def _sync_path(path: Path) -> None:
    """Write a file, or the names in a folder, to the disk."""
    handle = os.open(path, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


@contextmanager
def write_atomically(path: Path) -> Iterator[Path]:
    """Write a file under a temporary name. Rename it when the block ends without an error.

    Args:
        path: The final name. The folder is created.

    Returns:
        The temporary name.

    Raises:
        StoreError: The disk is full or fails.
    """
    with wrap_disk_errors():
        path.parent.mkdir(mode=_OWNER_FOLDER, parents=True, exist_ok=True)
        handle, name = tempfile.mkstemp(prefix=path.name[:16], suffix=PART, dir=path.parent)
        os.close(handle)
        part = Path(name)
        try:
            yield part
            replace_file(part, path)
        finally:
            part.unlink(missing_ok=True)


@contextmanager
def wrap_disk_errors() -> Iterator[None]:
    """Convert errors of the disk into sentences for people."""
    try:
        yield
    except OSError as error:
        raise (DiskFull if is_disk_full(error) else ReadOnly) from error


@contextmanager
def lock_for_write(folder: Path, wait_s: float) -> Iterator[None]:
    """Allow a write.

    Writes take turns, and wait while all writes are locked.

    Args:
        folder: The data folder.
        wait_s: Maximum wait, s.

    Raises:
        DatabaseBusy: The wait was too long.
        ReadOnly: The folder cannot be written.
        DiskFull: The disk is full.
    """
    with wrap_disk_errors():
        handle = os.open(folder / TURN, os.O_CREAT | os.O_RDWR, _OWNER)
    try:
        until = time.monotonic() + wait_s
        while True:
            try:
                fcntl.flock(handle, fcntl.LOCK_SH | fcntl.LOCK_NB)
                break
            except BlockingIOError as error:
                if time.monotonic() > until:
                    raise DatabaseBusy from error
                time.sleep(0.02)
        yield
    finally:
        os.close(handle)


@contextmanager
def lock_all_writes(folder: Path) -> Iterator[None]:
    """Lock the writes of every process while the library is replaced."""
    handle = os.open(folder / TURN, os.O_CREAT | os.O_RDWR, _OWNER)
    try:
        fcntl.flock(handle, fcntl.LOCK_EX)
        yield
    finally:
        os.close(handle)


class FolderLock:
    """The lock of one process on a data folder, until it is closed or the process ends."""

    def __init__(self, folder: Path) -> None:
        """Lock a folder."""
        make_folder(folder)
        with wrap_disk_errors():
            self._file = os.open(folder / LOCK, os.O_CREAT | os.O_RDWR, _OWNER)
            try:
                fcntl.flock(self._file, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except BlockingIOError as error:
                at = os.read(self._file, 200).decode("utf-8", "replace").strip()
                os.close(self._file)
                where = f" at {at}" if at else ""
                text = (
                    "Use that one, stop it first, or give another folder with --data. No changes "
                    "were made."
                )
                raise AlreadyRunning(
                    f"Another Wise Arc serves the data in {folder.resolve()}{where}. {text}"
                ) from error
            self.at("")

    def at(self, address: str) -> None:
        """Save the address of the server for the message of a second start. Ignore a full disk.

        Args:
            address: The address.
        """
        with suppress(OSError):
            os.ftruncate(self._file, 0)
            os.pwrite(self._file, address.encode(), 0)

    def close(self) -> None:
        """Release the lock."""
        os.close(self._file)

    def __enter__(self) -> FolderLock:
        """Return the lock."""
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        value: BaseException | None,
        at: TracebackType | None,
    ) -> None:
        """Release the lock."""
        self.close()
