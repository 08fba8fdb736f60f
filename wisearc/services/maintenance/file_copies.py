"""Files of runs in backups, archives and restores, each checked against its SHA-256."""

from __future__ import annotations

import filecmp
import gzip
import hashlib
import os
import re
import shutil
import time
import zlib
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import IO

from msgspec import Struct

from ...core.errors import InputError
from ...core.run.run import Run
from ...store.errors import Missing
from ...store.folder import COLUMNS, FILES, PART, wrap_disk_errors, write_atomically
from ..runs.kept_files import LOG, PHOTOGRAPH, KeptFiles

_PIECE = 1024 * 1024
_NAMED = re.compile(rf"[0-9a-f]{{64}}({re.escape(PHOTOGRAPH)}|{re.escape(LOG)})")
# A larger log was never saved here.
MAX_LOG_BYTES = 1_100_000_000


def list_file_names(run: Run) -> list[str]:
    """Return the names of the files of a run."""
    names = [f"{sha}{PHOTOGRAPH}" for photo in run.photographs for sha in photo.list_sha256()]
    return names + ([f"{run.arc_log.sha256}{LOG}"] if run.arc_log else [])


def copy_files(source: Path, target: Path, on_copied: Callable[[], None] = lambda: None) -> int:
    """Copy the files of runs to another folder.

    Skip files that are complete there.

    Args:
        source: Folder of a library or a backup.
        target: The other folder.
        on_copied: Called before each file. It can raise an error to cancel.

    Returns:
        Number of copied files.

    Raises:
        StoreError: The disk is full or fails.
    """
    files, count = source / FILES, 0
    if not files.is_dir():
        return 0
    for path in sorted(files.iterdir()):
        place = target / FILES / path.name
        if not _NAMED.fullmatch(path.name) or (place.exists() and not _can_repair(path, place)):
            continue
        on_copied()
        with write_atomically(place) as part:
            shutil.copyfile(path, part)
        count += 1
    return count


def _can_repair(path: Path, place: Path) -> bool:
    """Return whether a file is complete and differs from the file in the other folder."""
    with wrap_disk_errors():
        if filecmp.cmp(path, place, shallow=False):
            # A run may need it: do not delete it for another day.
            os.utime(place)
            return False
        with path.open("rb") as file:
            return is_complete_file(file, path.name)


def is_complete_file(file: IO[bytes], name: str) -> bool:
    """Return whether a file matches its name.

    The SHA-256 of a photograph, or of an uncompressed log.

    Args:
        file: The file.
        name: Its name.
    """
    sha, size = hashlib.sha256(), 0
    try:
        with gzip.GzipFile(fileobj=file) if name.endswith(LOG) else file as archive_file:
            while piece := archive_file.read(_PIECE):
                sha.update(piece)
                size += len(piece)
                if size > MAX_LOG_BYTES:
                    return False
    except (OSError, EOFError, ValueError, zlib.error):
        return False
    return sha.hexdigest() == name.partition(".")[0]


def put_file(target: Path, name: str, open_it: Callable[[], IO[bytes]]) -> None:
    """Import a file from an archive.

    Keep an existing file that is complete.

    Args:
        target: The data folder.
        name: Name of the file.
        open_it: Opens the file in the archive.

    Raises:
        InputError: The content does not match the SHA-256 in the name.
        StoreError: The disk is full or fails.
    """
    place = target / FILES / name
    if place.exists():
        with wrap_disk_errors(), place.open("rb") as existing:
            if is_complete_file(existing, name):
                os.utime(place)
                return
    if not is_complete_file(open_it(), name):
        raise InputError(
            "file", f"{FILES}/{name}", "does not match its name. The archive is damaged"
        )
    with write_atomically(place) as part, open_it() as incoming, part.open("wb") as out:
        shutil.copyfileobj(incoming, out, _PIECE)


class FileProblem(Struct, frozen=True):
    """A missing or damaged file of a run."""

    name: str
    text: str


def find_file_problems(files: KeptFiles, runs: Iterable[Run]) -> list[FileProblem]:
    """Find the missing and damaged files of runs.

    Args:
        files: The files of the library.
        runs: The runs.
    """
    problems = []
    for run in runs:
        for name in list_file_names(run):
            sha, _, suffix = name.partition(".")
            label = "an arc log" if name.endswith(LOG) else "a photograph"
            try:
                path = files.path(sha, f".{suffix}")
            except Missing:
                text = f"{label} of the run of {run.when} is missing ({sha[:12]})"
                problems.append(FileProblem(name, text))
                continue
            with path.open("rb") as file:
                if not is_complete_file(file, name):
                    text = f"{label} of the run of {run.when} is damaged ({sha[:12]})"
                    problems.append(FileProblem(name, text))
    return problems


def repair_files(folder: Path, names: Iterable[str], backup: Path) -> list[str]:
    """Copy files from a backup, if they are complete there.

    Args:
        folder: The data folder.
        names: Names of missing and damaged files.
        backup: The backup or its folder.

    Returns:
        Names of the repaired files.

    Raises:
        InputError: The backup has no files.
        StoreError: The disk is full or fails.
    """
    source = (backup if backup.is_dir() else backup.parent) / FILES
    if not backup.exists() or not source.is_dir():
        rule = (
            f"does not exist, or has no “{FILES}” folder next to it. Give a backup from "
            "“wisearc backup”"
        )
        raise InputError("repair", str(backup), rule)
    repaired = []
    for name in dict.fromkeys(names):
        path = source / name
        if not path.is_file():
            continue
        with wrap_disk_errors(), path.open("rb") as file:
            is_complete = is_complete_file(file, name)
        if is_complete:
            with write_atomically(folder / FILES / name) as part:
                shutil.copyfile(path, part)
            repaired.append(name)
    return repaired


# A run can be in progress for this time before it refers to a new file.
MIN_AGE_S = 24 * 3600


def find_unreferenced(
    folder: Path, get_references: Callable[[], set[str]], at_s: float | None = None
) -> list[Path]:
    """Find files without a run that are older than a day.

    Args:
        folder: The data folder.
        get_references: Returns the SHA-256 of each file that has a run.
        at_s: Current time, s since 1970.

    Raises:
        StoreError: The disk or the library cannot be read.
    """
    place = folder / FILES
    if not place.is_dir():
        return []
    limit_s = (time.time() if at_s is None else at_s) - MIN_AGE_S
    with wrap_disk_errors():
        old = [
            path
            for path in sorted(place.iterdir())
            if _NAMED.fullmatch(path.name) and path.stat().st_mtime < limit_s
        ]
    # Read the references after the files: a run could be recorded between the two.
    references = get_references() if old else set()
    return [path for path in old if path.name.partition(".")[0] not in references]


def delete_unreferenced(folder: Path, paths: Iterable[Path], at_s: float | None = None) -> int:
    """Delete files without a run, and the columns of the arc logs.

    Args:
        folder: The data folder.
        paths: The files. A file that was saved again in the meantime is not deleted.
        at_s: Current time, s since 1970.

    Returns:
        Number of deleted files.

    Raises:
        StoreError: The disk fails.
    """
    limit_s = (time.time() if at_s is None else at_s) - MIN_AGE_S
    count = 0
    with wrap_disk_errors():
        for path in paths:
            part = path.with_name(path.name + PART)
            try:
                path.replace(part)
            except FileNotFoundError:
                continue
            if part.stat().st_mtime >= limit_s:
                part.replace(path)
                continue
            part.unlink()
            count += 1
            if path.name.endswith(LOG):
                sha = path.name.removesuffix(LOG)
                shutil.rmtree(folder / COLUMNS / sha, ignore_errors=True)
                (folder / COLUMNS / f"{sha}.json").unlink(missing_ok=True)
    return count
