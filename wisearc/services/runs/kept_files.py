"""Files of runs, saved by their contents: converted photographs, and compressed arc logs."""

from __future__ import annotations

import gzip
import hashlib
import os
import re
import tempfile
import threading
import zlib
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO

from ...store.errors import Missing, Unreadable
from ...store.folder import FILES, PART, replace_file, wrap_disk_errors, write_atomically

PHOTOGRAPH, LOG = ".jpg", ".csv.gz"
_PIECE = 1024 * 1024
# Fast compression: logs are large, and compress well at any level.
_LEVEL = 3
DAMAGED = "The file of this arc log is damaged. Repair it from a backup, or upload the log again."


class KeptFiles:
    """The photographs and arc logs, by SHA-256. Saving a file again repairs a damaged file."""

    def __init__(self, data: Path) -> None:
        """Use a data folder."""
        self.folder = data / FILES
        self._lock = threading.Lock()
        self._last_log: tuple[str, IO[bytes]] | None = None

    def path(self, sha256: str, suffix: str) -> Path:
        """Return the path of a file.

        Args:
            sha256: Its SHA-256.
            suffix: Its kind.

        Raises:
            Missing: The file does not exist.
        """
        file_path = self.folder / f"{sha256}{suffix}"
        if not re.fullmatch(r"[0-9a-f]{64}", sha256) or not file_path.is_file():
            raise Missing("This file is missing: a copy left it out, or someone removed it.")
        return file_path

    def put_photograph(self, data: bytes) -> str:
        """Save a photograph, and return its SHA-256.

        Raises:
            StoreError: It cannot be saved.
        """
        sha = hashlib.sha256(data).hexdigest()
        with write_atomically(self.folder / f"{sha}{PHOTOGRAPH}") as part:
            part.write_bytes(data)
        return sha

    def put_log(self, source: Path, watch: Callable[[float], None] | None = None) -> str:
        """Save a log compressed, and return the SHA-256 of its contents.

        Args:
            source: The log.
            watch: Called with the progress. Its error cancels the save.

        Raises:
            StoreError: It cannot be saved.
        """
        size, done, sha = max(1, source.stat().st_size), 0, hashlib.sha256()
        with self._create_part() as part:
            # Without time and name inside, so that equal logs give equal files.
            with (
                part.open("wb") as file,
                gzip.GzipFile("", "wb", _LEVEL, file, mtime=0) as packed,
                source.open("rb") as incoming,
            ):
                while piece := incoming.read(_PIECE):
                    sha.update(piece)
                    packed.write(piece)
                    done += len(piece)
                    if watch:
                        watch(done / size)
            # An existing file can be damaged. Replace it.
            replace_file(part, self.folder / f"{sha.hexdigest()}{LOG}")
        return sha.hexdigest()

    @contextmanager
    def _create_part(self) -> Iterator[Path]:
        with wrap_disk_errors():
            self.folder.mkdir(mode=0o700, exist_ok=True)
            handle, name = tempfile.mkstemp(suffix=PART, dir=self.folder)
            os.close(handle)
            try:
                yield Path(name)
            finally:
                Path(name).unlink(missing_ok=True)

    def log(self, sha256: str) -> Iterator[bytes]:
        """Return the content of a log in pieces.

        Args:
            sha256: SHA-256 of the log.

        Raises:
            Missing: There is no such log.
            Unreadable: The log is damaged.
        """
        return self._unpacked(self.path(sha256, LOG))

    def _unpacked(self, path: Path) -> Iterator[bytes]:
        try:
            with gzip.open(path, "rb") as file:
                while piece := file.read(_PIECE):
                    yield piece
        except (OSError, EOFError, zlib.error) as error:
            raise Unreadable(DAMAGED) from error

    def open_log(self, sha256: str) -> IO[bytes]:
        """Open a log without compression, in a temporary file.

        All readers of the same log use one temporary file.

        Args:
            sha256: SHA-256 of the log.

        Raises:
            StoreError: The log is missing or damaged, or the disk is full.
        """
        self.path(sha256, LOG)
        with self._lock, wrap_disk_errors():
            if self._last_log is None or self._last_log[0] != sha256:
                file = tempfile.TemporaryFile()  # noqa: SIM115
                try:
                    for piece in self.log(sha256):
                        file.write(piece)
                    file.flush()
                except BaseException:
                    file.close()
                    raise
                if self._last_log is not None:
                    self._last_log[1].close()
                self._last_log = (sha256, file)
            # Each reader needs a separate file position.
            return Path(f"/proc/self/fd/{self._last_log[1].fileno()}").open("rb")

    def unpack(self, sha256: str, target: Path) -> None:
        """Write the content of a log to a file.

        Args:
            sha256: SHA-256 of the log.
            target: The file.

        Raises:
            StoreError: The log is missing or damaged, or the disk is full.
        """
        with target.open("wb") as out:
            for piece in self.log(sha256):
                with wrap_disk_errors():
                    out.write(piece)
