"""wisearc/archive: a whole book as one .zip of procedure files, and what belongs to none of them.

`book.json` says what it is and when it was made; `procedures/P-0001-A.json` is each revision as its
own procedure file. The same book gives the same bytes, but for the moment it was made.
"""

from __future__ import annotations

import io
import json
import re
import shutil
import stat
import zipfile
from collections.abc import Iterator, Mapping
from contextlib import ExitStack
from pathlib import Path
from typing import IO, Any

from msgspec import Struct

from ..core.errors import InputError
from ..core.schema import checks
from .declared import check_keys
from .joint_json import MAX_BYTES, check_head, load_json
from .plan_json import check_words
from .procedure_json import LETTER, NUMBER

FORMAT, VERSION = "wisearc/archive", 1
HEAD, FOLDER, SUFFIX = "book.json", "procedures/", ".zip"
KEYS = ("made", "procedures", "revisions", "runs", "schools")
# what an archive may come to, unpacked: ten times the largest book that was tried
MAX_ENTRIES, MAX_UNPACKED_BYTES = 200_000, 8 * 1024**3
# the room that the names of so many entries take in it
MAX_LIST_BYTES = 80 * MAX_ENTRIES
# the files of runs: photographs and arc logs, by what is in them
FILES, MAX_FILE_BYTES = "files/", 400 * 1024 * 1024
_FILE = re.compile(rf"{FILES}[0-9a-f]{{64}}\.(jpg|csv\.gz)")
_ENTRY = re.compile(rf"{FOLDER}(?P<number>{NUMBER.replace('$', '-')})-(?P<letter>{LETTER})\.json")
# a zip knows no time before 1980, and no time of its own is wanted in it
_NO_TIME = (1980, 1, 1, 0, 0, 0)


class Head(Struct, frozen=True):
    """What an archive says of itself: when it was made, how many of each it holds, the shop's
    schools.
    """

    made: str
    procedures: int
    revisions: int
    runs: int
    schools: Mapping[str, str]


class Writer:
    """An archive being written. Raises OSError where it cannot be."""

    def __init__(self, file: IO[bytes]) -> None:
        self._zip = zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED, compresslevel=6)

    def add(self, number: str, letter: str, text: str) -> None:
        """Add a revision's procedure file; they come in the order of number and revision."""
        self._write(f"{FOLDER}{number}-{letter}.json", text)

    def add_file(self, path: Path) -> None:
        """Add a file of a run as it is; they come in the order of their names."""
        info = self._info(FILES + path.name, zipfile.ZIP_STORED)
        info.file_size = path.stat().st_size
        with path.open("rb") as file, self._zip.open(info, "w") as out:
            shutil.copyfileobj(file, out, 1024 * 1024)

    def say(self, head: Head) -> None:
        """Write what it is."""
        data = {"format": FORMAT, "version": VERSION, **{key: getattr(head, key) for key in KEYS}}
        self._write(HEAD, json.dumps(data, ensure_ascii=False, indent=2) + "\n")

    def end(self) -> None:
        """End it; what is written to it is the caller's to keep or throw away."""
        self._zip.close()

    def _write(self, name: str, text: str) -> None:
        self._zip.writestr(self._info(name, zipfile.ZIP_DEFLATED), text)

    def _info(self, name: str, packed: int) -> zipfile.ZipInfo:
        info = zipfile.ZipInfo(name, _NO_TIME)
        info.compress_type, info.external_attr, info.create_system = packed, 0o600 << 16, 3
        return info


class _InParts(io.FileIO):
    """A file that is not read beyond so much at once: a zip's list of entries is taken whole,
    before any of it can be looked at.
    """

    def read(self, size: int | None = -1) -> Any:
        if size is not None and size > MAX_LIST_BYTES:
            raise InputError(
                "file", f"a list of {size} bytes", f"must contain at most {MAX_ENTRIES} entries"
            )
        return super().read(-1 if size is None else size)


class Reader:
    """An archive that was looked at: its head, and the names of its revisions in order. Raises
    InputError for what is none.
    """

    def __init__(self, path: Path) -> None:
        with ExitStack() as opened:
            try:
                self._zip = zipfile.ZipFile(opened.enter_context(_InParts(path)))
            except (zipfile.BadZipFile, OSError, ValueError, NotImplementedError) as error:
                raise InputError(
                    "file",
                    path.name,
                    "is not a zip file. Give an archive from “wisearc export”",
                ) from error
            self.files: list[str] = []
            self.entries = self._looked_at()
            self.head = self._head()
            self._opened = opened.pop_all()

    def __enter__(self) -> Reader:
        return self

    def __exit__(self, *_: object) -> None:
        self._opened.close()

    def _looked_at(self) -> list[tuple[str, str, str]]:
        """(number, letter, name) of each revision, by what the zip says of it, before anything is
        unpacked.
        """
        infos = self._zip.infolist()
        if len(infos) > MAX_ENTRIES:
            raise InputError("file", f"{len(infos)} entries", f"must contain at most {MAX_ENTRIES}")
        if sum(info.file_size for info in infos) > MAX_UNPACKED_BYTES:
            raise InputError(
                "file",
                "unpacked",
                f"unpacks to more than {MAX_UNPACKED_BYTES // 1024**3} GB, so it was not unpacked",
            )
        names: set[str] = set()
        found = []
        for info in infos:
            if info.filename in names:
                raise InputError("file", info.filename, "appears twice in the archive")
            names.add(info.filename)
            if info.flag_bits & 1 or stat.S_IFMT(info.external_attr >> 16) not in (0, stat.S_IFREG):
                raise InputError("file", info.filename, "is encrypted, or not a normal file")
            if _FILE.fullmatch(info.filename) and info.file_size <= MAX_FILE_BYTES:
                self.files.append(info.filename.removeprefix(FILES))
                continue
            if info.file_size > MAX_BYTES:
                raise InputError("file", info.filename, f"exceeds {MAX_BYTES // 1048576} MB")
            match = _ENTRY.fullmatch(info.filename)
            if match:
                found.append((match["number"], match["letter"], info.filename))
            elif info.filename != HEAD:
                raise InputError(
                    "file",
                    info.filename,
                    f"is not a part of an archive. Allowed: {HEAD} and {FOLDER}P-0001-A.json",
                )
        if HEAD not in names:
            raise InputError("file", HEAD, "is missing. Give an archive from “wisearc export”")
        return sorted(found, key=lambda entry: (int(entry[0][2:]), len(entry[1]), entry[1]))

    def _head(self) -> Head:
        data = self.read(HEAD)
        check_head(data, FORMAT)
        check_keys(data, ("format", "version", *KEYS), "")
        checks.check_moment("made", data["made"])
        check_words(data["schools"], "schools")
        for key, there in (
            ("revisions", len(self.entries)),
            ("procedures", len({entry[0] for entry in self.entries})),
        ):
            if data[key] != there:
                raise InputError(key, data[key], f"must be {there}, the number in the archive")
        checks.check_number("runs", data["runs"], 0, 1e9)
        return Head(*(data[key] for key in KEYS))

    def read(self, name: str) -> Any:
        """The data of an entry. Raises InputError."""
        try:
            with self._zip.open(name) as file:
                # no more than this is unpacked, whatever it says of itself
                raw = file.read(MAX_BYTES)
            return load_json(raw.decode("utf-8"), "wisearc/procedure")
        except UnicodeDecodeError as error:
            raise InputError("file", name, "is not UTF-8 text") from error
        except (
            zipfile.BadZipFile,
            EOFError,
            OSError,
            ValueError,
            NotImplementedError,
            RuntimeError,
        ) as error:
            raise InputError(
                "file", name, f"cannot be unpacked ({error}). The archive is damaged"
            ) from error

    def open_file(self, name: str) -> IO[bytes]:
        """A file of a run. Raises InputError."""
        try:
            return self._zip.open(FILES + name)
        except (
            zipfile.BadZipFile,
            OSError,
            ValueError,
            NotImplementedError,
            RuntimeError,
        ) as error:
            raise InputError(
                "file", name, f"cannot be unpacked ({error}). The archive is damaged"
            ) from error

    def revisions(self) -> Iterator[tuple[str, list[Any]]]:
        """Yield the number of each procedure with the data of its revisions, oldest first.

        Raises:
            InputError: An entry is not valid.
        """
        gathered: list[Any] = []
        for i, (number, letter, name) in enumerate(self.entries):
            data = self.read(name)
            for key, own in (("number", number), ("revision", letter)):
                if not isinstance(data, dict) or data.get(key) != own:
                    raise InputError(
                        f"{name} {key}",
                        data.get(key) if isinstance(data, dict) else data,
                        f"must be {own}, the name of the entry",
                    )
            gathered.append(data)
            if i + 1 == len(self.entries) or self.entries[i + 1][0] != number:
                yield number, gathered
                gathered = []
