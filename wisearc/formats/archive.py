"""wisearc/archive: a library as one .zip of procedure files and shared data.

`book.json` has the format and the date; `procedures/P-0001-A.json` is each revision as a separate
procedure file, `jobs/J-0001.json` each job, and `shop.json` the shop, if it is included. Equal
libraries give equal bytes, except for the date.
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
from .plan_json import check_text_fields
from .procedure_json import LETTER, NUMBER

FORMAT, VERSION = "wisearc/archive", 1
HEAD, FOLDER, SUFFIX = "book.json", "procedures/", ".zip"
KEYS = ("made", "procedures", "revisions", "runs", "schools")
# Keys that archives of earlier versions do not have.
MORE_KEYS = ("minor", "jobs", "shop")
MINOR = 1
JOBS, SHOP, JOB_NUMBER = "jobs/", "shop.json", r"J-[0-9]{4,6}"
# The maximum unpacked size: ten times the largest tested library.
MAX_ENTRIES, MAX_UNPACKED_BYTES = 200_000, 8 * 1024**3
MAX_SHOP_NAME = 60
# The room for the names of this number of entries.
MAX_LIST_BYTES = 80 * MAX_ENTRIES
# The files of runs: photographs and arc logs, by their contents.
FILES, MAX_FILE_BYTES = "files/", 400 * 1024 * 1024
_FILE = re.compile(rf"{FILES}[0-9a-f]{{64}}\.(jpg|csv\.gz)")
_JOB = re.compile(rf"{JOBS}(?P<number>{JOB_NUMBER})\.json")
_ENTRY = re.compile(rf"{FOLDER}(?P<number>{NUMBER.replace('$', '-')})-(?P<letter>{LETTER})\.json")
# A zip has no time before 1980, and the archive needs no file times.
_NO_TIME = (1980, 1, 1, 0, 0, 0)


class Head(Struct, frozen=True):
    """The head of an archive: date, counts, the approaches of the shop, and its name."""

    made: str
    procedures: int
    revisions: int
    runs: int
    schools: Mapping[str, str]
    jobs: int = 0
    shop: str = ""


class Writer:
    """An archive in progress.

    Raises:
        OSError: It cannot be written.
    """

    def __init__(self, file: IO[bytes]) -> None:
        """Start an archive in an open file."""
        self._zip = zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED, compresslevel=6)

    def add(self, number: str, letter: str, text: str) -> None:
        """Add the procedure file of a revision, in the order of number and revision.

        Args:
            number: Procedure number.
            letter: Revision letter.
            text: The file.
        """
        self._write(f"{FOLDER}{number}-{letter}.json", text)

    def add_job(self, number: int, text: str) -> None:
        """Add a job, in the order of numbers, after the procedures.

        Args:
            number: Its number in this archive, from 1.
            text: Its data.
        """
        self._write(f"{JOBS}J-{number:04d}.json", text)

    def add_shop(self, text: str) -> None:
        """Add the shop file."""
        self._write(SHOP, text)

    def add_file(self, path: Path) -> None:
        """Add an unchanged file of a run, in the order of names."""
        info = self._info(FILES + path.name, zipfile.ZIP_STORED)
        info.file_size = path.stat().st_size
        with path.open("rb") as file, self._zip.open(info, "w") as out:
            shutil.copyfileobj(file, out, 1024 * 1024)

    def write_head(self, head: Head) -> None:
        """Write the head."""
        data = {
            "format": FORMAT,
            "version": VERSION,
            "minor": MINOR,
            **{key: getattr(head, key) for key in (*KEYS, "jobs", "shop")},
        }
        self._write(HEAD, json.dumps(data, ensure_ascii=False, indent=2) + "\n")

    def end(self) -> None:
        """Finish the archive.

        The caller keeps or deletes its file.
        """
        self._zip.close()

    def _write(self, name: str, text: str) -> None:
        self._zip.writestr(self._info(name, zipfile.ZIP_DEFLATED), text)

    def _info(self, name: str, packed: int) -> zipfile.ZipInfo:
        info = zipfile.ZipInfo(name, _NO_TIME)
        info.compress_type, info.external_attr, info.create_system = packed, 0o600 << 16, 3
        return info


class _InParts(io.FileIO):
    """A file with limited reads.

    A zip parser loads the list of entries completely before any check.
    """

    def read(self, size: int | None = -1) -> Any:
        if size is not None and size > MAX_LIST_BYTES:
            raise InputError(
                "file", f"a list of {size} bytes", f"must contain at most {MAX_ENTRIES} entries"
            )
        return super().read(-1 if size is None else size)


class Reader:
    """A checked archive: its head, and the names of its revisions in order.

    Raises:
        InputError: The file is not an archive.
    """

    def __init__(self, path: Path) -> None:
        """Check an archive."""
        with ExitStack() as opened:
            try:
                self._zip = zipfile.ZipFile(opened.enter_context(_InParts(path)))
            except (zipfile.BadZipFile, OSError, ValueError, NotImplementedError) as error:
                is_missing = isinstance(error, FileNotFoundError)
                what = "does not exist" if is_missing else "is not a zip file"
                rule = f"{what}. Give an archive from “wisearc export”"
                raise InputError("file", path.name, rule) from error
            self.files: list[str] = []
            self.jobs: list[str] = []
            self.has_shop = False
            self.entries = self._list_revisions()
            self.head = self._head()
            self._opened = opened.pop_all()

    def __enter__(self) -> Reader:
        """Return the archive."""
        return self

    def __exit__(self, *_: object) -> None:
        """Close the file."""
        self._opened.close()

    def _list_revisions(self) -> list[tuple[str, str, str]]:
        """Return (number, letter, name) of each revision, before anything is unpacked."""
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
        files = []
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
                files.append((match["number"], match["letter"], info.filename))
            elif _JOB.fullmatch(info.filename):
                self.jobs.append(info.filename)
            elif info.filename == SHOP:
                self.has_shop = True
            elif info.filename != HEAD:
                raise InputError(
                    "file",
                    info.filename,
                    f"is not a part of an archive. Allowed: {HEAD}, {FOLDER}P-0001-A.json,"
                    f" {JOBS}J-0001.json and {SHOP}",
                )
        if HEAD not in names:
            raise InputError("file", HEAD, "is missing. Give an archive from “wisearc export”")
        self.jobs.sort(key=lambda name: (len(name), name))
        return sorted(files, key=lambda entry: (int(entry[0][2:]), len(entry[1]), entry[1]))

    def _head(self) -> Head:
        data = self.read(HEAD)
        check_head(data, FORMAT)
        check_keys(data, ("format", "version", *KEYS), "", MORE_KEYS)
        checks.check_moment("made", data["made"])
        check_text_fields(data["schools"], "schools")
        for key, counted in (
            ("revisions", len(self.entries)),
            ("procedures", len({entry[0] for entry in self.entries})),
            ("jobs", len(self.jobs)),
        ):
            if data.get(key, 0) != counted:
                raise InputError(key, data[key], f"must be {counted}, the number in the archive")
        checks.check_number("runs", data["runs"], 0, 1e9)
        shop = checks.check_line("shop", data.get("shop", ""), MAX_SHOP_NAME)
        return Head(
            data["made"],
            data["procedures"],
            data["revisions"],
            data["runs"],
            data["schools"],
            len(self.jobs),
            shop,
        )

    def read(self, name: str) -> Any:
        """Return the data of an entry.

        Raises:
            InputError: It is not valid.
        """
        try:
            with self._zip.open(name) as file:
                # Unpacking is limited to this size, whatever the entry declares.
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
        """Open a file of a run.

        Raises:
            InputError: It is not valid.
        """
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
        collected: list[Any] = []
        for i, (number, letter, name) in enumerate(self.entries):
            data = self.read(name)
            for key, expected in (("number", number), ("revision", letter)):
                if not isinstance(data, dict) or data.get(key) != expected:
                    raise InputError(
                        f"{name} {key}",
                        data.get(key) if isinstance(data, dict) else data,
                        f"must be {expected}, the name of the entry",
                    )
            collected.append(data)
            if i + 1 == len(self.entries) or self.entries[i + 1][0] != number:
                yield number, collected
                collected = []
