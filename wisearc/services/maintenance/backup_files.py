"""A backup as one file: the database, photographs and arc logs, in a zip with a head.

`backup.json` has the format, the date and the counts; `wisearc.sqlite3` is the database, and
`files/` has the photographs and logs unchanged. The signing key and the PINs are not part of it.
"""

from __future__ import annotations

import json
import re
import shutil
import sqlite3
import stat
import zipfile
from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path
from typing import Any

from msgspec import Struct

from ...core.errors import InputError
from ...core.quantities import format_count
from ...core.schema import checks
from ...formats.declared import check_keys
from ...formats.joint_json import check_head
from ...store.copies import copy_to, keep_uncached, write_through
from ...store.database import build_uri, wrap_errors
from ...store.errors import Missing, StoreError
from ...store.folder import FILE_NAME, FILES, PART, make_folder, replace_file, wrap_disk_errors
from ...store.opening import check_database, format_stamp, is_library
from ..clock import get_now
from ..runs.kept_files import LOG, PHOTOGRAPH
from .long_work import (
    Watch,
    continue_always,
    find_unused_path,
    make_work_folder,
    report_progress,
)

FORMAT, VERSION, HEAD, SUFFIX = "wisearc/backup", 1, "backup.json", ".zip"
PREFIX = "wisearc-"
_KEYS = ("made", "procedures", "runs", "jobs", "photographs", "logs", "changed")
_FILE = re.compile(rf"{FILES}/[0-9a-f]{{64}}({re.escape(PHOTOGRAPH)}|{re.escape(LOG)})")
# A zip has no time before 1980.
_NO_TIME = (1980, 1, 1, 0, 0, 0)
_PIECE = 1024 * 1024
_SYNC_BYTES = 64 * _PIECE
# Ten times the largest tested library.
MAX_BYTES, MAX_ENTRIES = 200 * 1024**3, 2_000_000
MAX_HEAD_BYTES = 100_000


class LibrarySummary(Struct, frozen=True):
    """The contents of a library or of a backup.

    Attributes:
        made: Time of the backup, UTC, or "" for a library in use.
        procedures: Number of procedures.
        runs: Number of runs.
        jobs: Number of jobs.
        photographs: Number of photographs.
        logs: Number of arc logs.
        changed: Time of the last change, UTC, or "".
    """

    made: str
    procedures: int
    runs: int
    jobs: int
    photographs: int
    logs: int
    changed: str

    @property
    def text(self) -> str:
        """Return the counts as text."""
        parts = [
            format_count(self.procedures, "procedure"),
            format_count(self.runs, "run"),
            format_count(self.jobs, "job"),
            format_count(self.photographs, "photograph"),
            format_count(self.logs, "arc log"),
        ]
        last = f"; last change {self.changed[:10]}" if self.changed else ""
        return ", ".join(parts) + last


def summarise_library(folder: Path) -> LibrarySummary:
    """Return the contents of the library of a folder.

    Args:
        folder: The data folder.

    Raises:
        StoreError: It cannot be read.
    """
    return _summarise(folder / FILE_NAME, folder / FILES, "")


def _summarise(database: Path, files: Path, moment: str) -> LibrarySummary:
    names = [path.name for path in files.iterdir()] if files.is_dir() else []
    with (
        wrap_errors(),
        closing(sqlite3.connect(build_uri(database, "ro"), uri=True)) as file,
    ):

        def ask(sql: str) -> Any:
            return file.execute(sql).fetchone()[0]

        tables = {
            row[0] for row in file.execute("SELECT name FROM sqlite_schema WHERE type = 'table'")
        }
        return LibrarySummary(
            moment,
            ask("SELECT count(*) FROM procedure"),
            ask("SELECT count(*) FROM run"),
            ask("SELECT count(*) FROM job") if "job" in tables else 0,
            sum(name.endswith(PHOTOGRAPH) for name in names),
            sum(name.endswith(LOG) for name in names),
            ask(
                "SELECT max(coalesce((SELECT max(changed_at) FROM revision), ''),"
                " coalesce((SELECT max(kept_at) FROM run), ''))"
            ),
        )


def create_backup_file(
    folder: Path,
    into: Path,
    watch: Watch = continue_always,
    at: Callable[[], str] = get_now,
) -> Path:
    """Back up a library as one file, at one moment and while it is in use.

    Args:
        folder: The data folder.
        into: The folder of the backup, created if missing.
        watch: Called with the progress.
        at: Current time, UTC.

    Raises:
        StoreError: The backup failed. No file is left.
    """
    if not (folder / FILE_NAME).exists():
        raise Missing(
            f"There is no library in {folder.resolve()}. Give its data folder with --data."
        )
    make_folder(into)
    target = find_unused_path(into / f"{PREFIX}{format_stamp()}{SUFFIX}")
    part = target.with_name(target.name + PART)
    with make_work_folder(folder) as work, wrap_disk_errors():
        database = work / FILE_NAME
        # The copy of the database is half of the work.
        copy_to(folder / FILE_NAME, database, lambda share: watch(round(50 * share), 100))
        with keep_uncached(database):
            check_database(database, quick=True, full=True)
        names = _list_file_names(folder)
        summary = _summarise(database, folder / FILES, at())
        try:
            with zipfile.ZipFile(part, "w", allowZip64=True) as backup:
                part.chmod(0o600)
                _write_text(backup, HEAD, _write_head(summary))
                paths = [folder / FILES / name for name in names]
                # The server can delete a file without a run at the same time.
                paths = [database, *(path for path in paths if path.is_file())]
                done, total = 0, sum(path.stat().st_size for path in paths)
                for path in paths:
                    for written in _write_file(backup, path):
                        done += written
                        report_progress(watch, 50 + round(50 * min(1.0, done / total)), 100)
                        if done % _SYNC_BYTES < written:
                            write_through(part)
                            write_through(path)
            replace_file(part, target)
        finally:
            part.unlink(missing_ok=True)
    return target


def _list_file_names(folder: Path) -> list[str]:
    place = folder / FILES
    if not place.is_dir():
        return []
    return sorted(path.name for path in place.iterdir() if _FILE.fullmatch(f"{FILES}/{path.name}"))


def _write_head(summary: LibrarySummary) -> str:
    head = {
        "format": FORMAT,
        "version": VERSION,
        **{key: getattr(summary, key) for key in _KEYS},
    }
    return json.dumps(head, ensure_ascii=False, indent=2) + "\n"


def _write_text(backup: zipfile.ZipFile, name: str, text: str) -> None:
    backup.writestr(_build_info(name, zipfile.ZIP_DEFLATED), text)


def _write_file(backup: zipfile.ZipFile, path: Path) -> Iterator[int]:
    """Add the database or a file, and yield the size of each written piece, bytes."""
    is_database = path.name == FILE_NAME
    name = FILE_NAME if is_database else f"{FILES}/{path.name}"
    info = _build_info(name, zipfile.ZIP_DEFLATED if is_database else zipfile.ZIP_STORED)
    try:
        file = path.open("rb")
    except FileNotFoundError:
        return
    with file, backup.open(info, "w", force_zip64=True) as out:
        while piece := file.read(_PIECE):
            out.write(piece)
            yield len(piece)


def _build_info(name: str, packed: int) -> zipfile.ZipInfo:
    info = zipfile.ZipInfo(name, _NO_TIME)
    info.compress_type, info.external_attr, info.create_system = packed, 0o600 << 16, 3
    return info


def is_backup_file(path: Path) -> bool:
    """Return whether a file is a backup as one file, by its first bytes."""
    try:
        with path.open("rb") as file:
            return file.read(4) == b"PK\x03\x04"
    except OSError:
        return False


def read_backup_head(path: Path) -> LibrarySummary:
    """Return the contents of a backup, of one file or a database.

    Args:
        path: The backup.

    Raises:
        InputError: It is not a backup.
        StoreError: It cannot be read.
    """
    if not is_backup_file(path):
        check_backup_database(path)
        return _summarise(path, path.parent / FILES, "")
    with _open_backup(path) as backup:
        return _read_head(backup, path)


def check_backup_database(path: Path) -> None:
    """Check that a file is the database of a library.

    Args:
        path: The file.

    Raises:
        InputError: It is not.
    """
    try:
        check_database(path, quick=False)
    except StoreError as error:
        raise InputError(
            "file",
            path.name,
            "is not a valid database. Give a backup from “wisearc backup”",
        ) from error
    if not is_library(path):
        raise InputError("file", path.name, "is a database, but not a Wise Arc library")


def _read_head(backup: zipfile.ZipFile, path: Path) -> LibrarySummary:
    try:
        with backup.open(HEAD) as file:
            data = json.loads(file.read(MAX_HEAD_BYTES).decode("utf-8"))
    except (KeyError, ValueError, OSError, zipfile.BadZipFile) as error:
        raise _build_refusal(path, "has no readable head") from error
    check_head(data, FORMAT)
    check_keys(data, ("format", "version", *_KEYS), "")
    counts = [
        int(checks.check_number(key, data[key], 0, 1e9)) for key in _KEYS if key not in _TEXT_KEYS
    ]
    changed = data["changed"] and checks.check_moment("changed", data["changed"])
    procedures, runs, jobs, photographs, logs = counts
    moment = checks.check_moment("made", data["made"])
    return LibrarySummary(moment, procedures, runs, jobs, photographs, logs, changed)


_TEXT_KEYS = ("made", "changed")


def _open_backup(path: Path) -> zipfile.ZipFile:
    try:
        backup = zipfile.ZipFile(path)
        infos = backup.infolist()
    except (zipfile.BadZipFile, OSError, ValueError, NotImplementedError) as error:
        raise _build_refusal(path, "is not a zip file, or is damaged") from error
    names = {info.filename for info in infos}
    is_odd = len(infos) > MAX_ENTRIES or len(names) != len(infos)
    if is_odd or sum(info.file_size for info in infos) > MAX_BYTES:
        raise _build_refusal(path, "has too many or repeated entries")
    for info in infos:
        if info.flag_bits & 1 or stat.S_IFMT(info.external_attr >> 16) not in (0, stat.S_IFREG):
            raise _build_refusal(path, f"contains {info.filename[:60]}, not a normal file")
        if info.filename not in (HEAD, FILE_NAME) and not _FILE.fullmatch(info.filename):
            raise _build_refusal(path, f"contains {info.filename[:60]}, which is not part of one")
    if not {HEAD, FILE_NAME} <= names:
        raise _build_refusal(path, "has no library in it. An archive from “Export” is imported")
    return backup


def _build_refusal(path: Path, reason: str) -> InputError:
    return InputError("file", path.name, f"{reason}. Give a backup from “wisearc backup”")


def unpack_backup(path: Path, target: Path, watch: Watch = continue_always) -> Path:
    """Unpack a backup as one file, and return the database.

    Args:
        path: The backup.
        target: An empty folder.
        watch: Called with the progress.

    Raises:
        InputError: It is not a backup, or it is damaged.
        StoreError: The disk is full.
    """
    with _open_backup(path) as backup, wrap_disk_errors():
        _read_head(backup, path)
        infos = [info for info in backup.infolist() if info.filename != HEAD]
        (target / FILES).mkdir(mode=0o700)
        for i, info in enumerate(infos):
            try:
                with backup.open(info) as file, (target / info.filename).open("wb") as out:
                    shutil.copyfileobj(file, out, _PIECE)
            except (zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError) as error:
                raise _build_refusal(path, f"is damaged at {info.filename[:60]}") from error
            report_progress(watch, i + 1, len(infos))
    return target / FILE_NAME
