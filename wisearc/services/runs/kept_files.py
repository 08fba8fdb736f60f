"""Files that belong to runs, kept by what is in them: photographs as they were put right, arc logs
as they came, compressed in a standard form (gzip).
"""

from __future__ import annotations

import gzip
import hashlib
import os
import re
import shutil
import tempfile
from collections.abc import Callable, Iterator
from pathlib import Path

from ...store.errors import Missing
from ...store.folder import FILES, PART, disk_errors, put_in_place

PHOTOGRAPH, LOG = ".jpg", ".csv.gz"
_PIECE = 1024 * 1024
# fast: a log is as large as it is long, and packs well even so
_LEVEL = 3


class KeptFiles:
    """The files beside the book, each under its SHA-256; what is there already is not written
    again.
    """

    def __init__(self, data: Path) -> None:
        self.folder = data / FILES

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
        with self._part(sha + PHOTOGRAPH) as part:
            part.write_bytes(data)
        return sha

    def put_log(self, source: Path, watch: Callable[[float], None] | None = None) -> str:
        """Keep a log as it came, compressed. Returns the SHA-256 of what came. Raises StoreError,
        and what `watch` does.
        """
        size, done, sha = max(1, source.stat().st_size), 0, hashlib.sha256()
        with disk_errors():
            self._make()
            handle, name = tempfile.mkstemp(suffix=PART, dir=self.folder)
            part = Path(name)
            try:
                # no time and no name in it, so that the same log is the same file
                with (
                    os.fdopen(handle, "wb") as file,
                    gzip.GzipFile("", "wb", _LEVEL, file, mtime=0) as packed,
                    source.open("rb") as came,
                ):
                    while piece := came.read(_PIECE):
                        sha.update(piece)
                        packed.write(piece)
                        done += len(piece)
                        if watch:
                            watch(done / size)
                target = self.folder / f"{sha.hexdigest()}{LOG}"
                if not target.exists():
                    put_in_place(part, target)
            finally:
                part.unlink(missing_ok=True)
        return sha.hexdigest()

    def log(self, sha256: str) -> Iterator[bytes]:
        """A log as it came, piece by piece. Raises Missing."""
        return self._unpacked(self.path(sha256, LOG))

    def _unpacked(self, path: Path) -> Iterator[bytes]:
        with gzip.open(path, "rb") as file:
            while piece := file.read(_PIECE):
                yield piece

    def unpack(self, sha256: str, target: Path) -> None:
        """Write a log as it came to a file. Raises Missing."""
        with (
            disk_errors(),
            gzip.open(self.path(sha256, LOG), "rb") as file,
            target.open("wb") as out,
        ):
            shutil.copyfileobj(file, out, _PIECE)

    def _make(self) -> None:
        self.folder.mkdir(mode=0o700, exist_ok=True)

    def _part(self, name: str) -> _Part:
        return _Part(self, name)


class _Part:
    """A file while it is written: whole in its place, or not there."""

    def __init__(self, files: KeptFiles, name: str) -> None:
        self._files, self._target = files, files.folder / name

    def __enter__(self) -> Path:
        with disk_errors():
            self._files._make()
            handle, name = tempfile.mkstemp(suffix=PART, dir=self._files.folder)
            os.close(handle)
        self._path = Path(name)
        return self._path

    def __exit__(self, kind: object, *_: object) -> None:
        with disk_errors():
            if kind is None and not self._target.exists():
                put_in_place(self._path, self._target)
            self._path.unlink(missing_ok=True)
