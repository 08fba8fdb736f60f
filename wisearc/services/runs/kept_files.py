"""Files that belong to runs, kept by what is in them: photographs as they were put right, arc logs
as they came, compressed in a standard form (gzip).
"""

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
from ...store.folder import FILES, PART, disk_errors, put_in_place, written_beside

PHOTOGRAPH, LOG = ".jpg", ".csv.gz"
_PIECE = 1024 * 1024
# fast: a log is as large as it is long, and packs well even so
_LEVEL = 3
DAMAGED = "This log's file is damaged. Put a backup's files back, or give the log again."


class KeptFiles:
    """The files beside the book, each under its SHA-256. The same bytes given again take the place
    of what stands there, so that a damaged file is whole again.
    """

    def __init__(self, data: Path) -> None:
        self.folder = data / FILES
        self._unpacking = threading.Lock()
        self._last: tuple[str, IO[bytes]] | None = None

    def path(self, sha256: str, suffix: str) -> Path:
        """Where a file stands. Raises Missing."""
        found = self.folder / f"{sha256}{suffix}"
        if not re.fullmatch(r"[0-9a-f]{64}", sha256) or not found.is_file():
            raise Missing(
                "This file is not beside the book: it was left out of a copy, or taken away."
            )
        return found

    def put_photograph(self, data: bytes) -> str:
        """Keep a photograph. Returns its SHA-256. Raises StoreError."""
        sha = hashlib.sha256(data).hexdigest()
        with written_beside(self.folder / f"{sha}{PHOTOGRAPH}") as part:
            part.write_bytes(data)
        return sha

    def put_log(self, source: Path, watch: Callable[[float], None] | None = None) -> str:
        """Keep a log as it came, compressed. Returns the SHA-256 of what came. Raises StoreError,
        and what `watch` does.
        """
        size, done, sha = max(1, source.stat().st_size), 0, hashlib.sha256()
        with self._packing() as part:
            # no time and no name in it, so that the same log is the same file
            with (
                part.open("wb") as file,
                gzip.GzipFile("", "wb", _LEVEL, file, mtime=0) as packed,
                source.open("rb") as came,
            ):
                while piece := came.read(_PIECE):
                    sha.update(piece)
                    packed.write(piece)
                    done += len(piece)
                    if watch:
                        watch(done / size)
            # what stands there may be damaged; what was packed just now is not
            put_in_place(part, self.folder / f"{sha.hexdigest()}{LOG}")
        return sha.hexdigest()

    @contextmanager
    def _packing(self) -> Iterator[Path]:
        with disk_errors():
            self.folder.mkdir(mode=0o700, exist_ok=True)
            handle, name = tempfile.mkstemp(suffix=PART, dir=self.folder)
            os.close(handle)
            try:
                yield Path(name)
            finally:
                Path(name).unlink(missing_ok=True)

    def log(self, sha256: str) -> Iterator[bytes]:
        """A log as it came, piece by piece. Raises Missing; Unreadable where it is damaged."""
        return self._unpacked(self.path(sha256, LOG))

    def _unpacked(self, path: Path) -> Iterator[bytes]:
        try:
            with gzip.open(path, "rb") as file:
                while piece := file.read(_PIECE):
                    yield piece
        except (OSError, EOFError, zlib.error) as error:
            raise Unreadable(DAMAGED) from error

    def unpacked(self, sha256: str) -> IO[bytes]:
        """A log as it came, in a file without a name, for one reader; the one that was unpacked
        last is kept for the next. Raises Missing, Unreadable, StoreError.
        """
        self.path(sha256, LOG)
        with self._unpacking, disk_errors():
            if self._last is None or self._last[0] != sha256:
                file = tempfile.TemporaryFile()  # noqa: SIM115
                try:
                    for piece in self.log(sha256):
                        file.write(piece)
                    file.flush()
                except BaseException:
                    file.close()
                    raise
                if self._last is not None:
                    self._last[1].close()
                self._last = (sha256, file)
            # with a place of its own to read at
            return Path(f"/proc/self/fd/{self._last[1].fileno()}").open("rb")

    def unpack(self, sha256: str, target: Path) -> None:
        """Write a log as it came to a file. Raises Missing, Unreadable, StoreError."""
        with target.open("wb") as out:
            for piece in self.log(sha256):
                with disk_errors():
                    out.write(piece)
