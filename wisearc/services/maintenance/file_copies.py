"""The files of runs where the book goes: into copies, archives and back, each held against its
SHA-256.
"""

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
from dataclasses import dataclass
from pathlib import Path
from typing import IO

from ...core.errors import BadInput
from ...core.run.run import Run
from ...store.errors import Missing
from ...store.folder import COLUMNS, FILES, PART, disk_errors, written_beside
from ..runs.kept_files import LOG, PHOTOGRAPH, KeptFiles

_PIECE = 1024 * 1024
_NAMED = re.compile(rf"[0-9a-f]{{64}}({re.escape(PHOTOGRAPH)}|{re.escape(LOG)})")
# a log that unpacks to more was not kept here
MOST_LOG = 1_100_000_000


def names_of(run: Run) -> list[str]:
    """The names of the files that a run speaks of."""
    found = [f"{one.sha256}{PHOTOGRAPH}" for one in run.photographs]
    return found + ([f"{run.arc_log.sha256}{LOG}"] if run.arc_log else [])


def copy_files(source: Path, target: Path, told: Callable[[], None] = lambda: None) -> int:
    """Copy the files beside one book to beside another: those that are not there, and those that
    are damaged there and whole here. Returns how many. Parameters: told, called before each; raises
    to stop. Raises StoreError.
    """
    came, count = source / FILES, 0
    if not came.is_dir():
        return 0
    for path in sorted(came.iterdir()):
        place = target / FILES / path.name
        if not _NAMED.fullmatch(path.name) or (place.exists() and not _mends(path, place)):
            continue
        told()
        with written_beside(place) as part:
            shutil.copyfile(path, part)
        count += 1
    return count


def _mends(path: Path, place: Path) -> bool:
    """Whether a file is whole where the one that stands under the same name is not."""
    with disk_errors():
        if filecmp.cmp(path, place, shallow=False):
            # it is wanted: its day begins anew
            os.utime(place)
            return False
        with path.open("rb") as file:
            return is_whole(file, path.name)


def is_whole(file: IO[bytes], name: str) -> bool:
    """Whether a file is what its name says: by the SHA-256 of a photograph, or of a log as it
    came.
    """
    sha, size = hashlib.sha256(), 0
    try:
        with gzip.GzipFile(fileobj=file) if name.endswith(LOG) else file as whole:
            while piece := whole.read(_PIECE):
                sha.update(piece)
                size += len(piece)
                if size > MOST_LOG:
                    return False
    except (OSError, EOFError, ValueError, zlib.error):
        return False
    return sha.hexdigest() == name.partition(".")[0]


def put_file(target: Path, name: str, open_it: Callable[[], IO[bytes]]) -> None:
    """Put a file of an archive beside a book, where it is what its name says; what stands there and
    is whole is left. Raises BadInput, StoreError.
    """
    place = target / FILES / name
    if place.exists():
        with disk_errors(), place.open("rb") as standing:
            if is_whole(standing, name):
                os.utime(place)
                return
    if not is_whole(open_it(), name):
        raise BadInput(
            "file", f"{FILES}/{name}", "is not what its name says; the archive is damaged"
        )
    with written_beside(place) as part, open_it() as came, part.open("wb") as out:
        shutil.copyfileobj(came, out, _PIECE)


@dataclass(frozen=True)
class Harm:
    """A file that a run speaks of and that is not as it was: its name, and what is wrong in
    words.
    """

    name: str
    words: str


def wrong_with(files: KeptFiles, runs: Iterable[Run]) -> list[Harm]:
    """What is wrong with the files that runs speak of."""
    found = []
    for run in runs:
        for name in names_of(run):
            sha, _, suffix = name.partition(".")
            what = "an arc log" if name.endswith(LOG) else "a photograph"
            try:
                path = files.path(sha, f".{suffix}")
            except Missing:
                words = f"{what} of the run of {run.when} is not beside the book ({sha[:12]})"
                found.append(Harm(name, words))
                continue
            with path.open("rb") as file:
                if not is_whole(file, name):
                    words = f"{what} of the run of {run.when} is damaged ({sha[:12]})"
                    found.append(Harm(name, words))
    return found


def mend(folder: Path, names: Iterable[str], backup: Path) -> list[str]:
    """Put back files from beside a backup, where they are whole there. Returns the names of those
    that were put back. Parameters: backup, the backup's file or its folder. Raises BadInput where
    there are no files beside it, StoreError.
    """
    came = (backup if backup.is_dir() else backup.parent) / FILES
    if not backup.exists() or not came.is_dir():
        raise BadInput(
            "repair",
            str(backup),
            f"is not there, or has no folder “{FILES}” beside it; give a backup that “wisearc"
            " backup” wrote",
        )
    mended = []
    for name in dict.fromkeys(names):
        path = came / name
        if not path.is_file():
            continue
        with disk_errors(), path.open("rb") as file:
            whole = is_whole(file, name)
        if whole:
            with written_beside(folder / FILES / name) as part:
                shutil.copyfile(path, part)
            mended.append(name)
    return mended


# as long as a file stands that nothing speaks of: a run may be under way that will
SPARED_S = 24 * 3600


def unwanted(folder: Path, wanted: Callable[[], set[str]], at: float | None = None) -> list[Path]:
    """The files beside a book that nothing speaks of and that have stood for a day. Parameters:
    wanted, gives the SHA-256 of those that something speaks of; at, the time, s.
    """
    place = folder / FILES
    if not place.is_dir():
        return []
    late = (time.time() if at is None else at) - SPARED_S
    with disk_errors():
        old = [
            path
            for path in sorted(place.iterdir())
            if _NAMED.fullmatch(path.name) and path.stat().st_mtime < late
        ]
    # asked for afterwards: what was written down meanwhile is among them
    spoken_of = wanted() if old else set()
    return [path for path in old if path.name.partition(".")[0] not in spoken_of]


def collect(folder: Path, paths: Iterable[Path], at: float | None = None) -> int:
    """Take files away that nothing speaks of, with the columns of logs. Returns how many. One that
    was put there anew meanwhile stays.
    """
    late = (time.time() if at is None else at) - SPARED_S
    count = 0
    with disk_errors():
        for path in paths:
            aside = path.with_name(path.name + PART)
            try:
                path.replace(aside)
            except FileNotFoundError:
                continue
            if aside.stat().st_mtime >= late:
                aside.replace(path)
                continue
            aside.unlink()
            count += 1
            if path.name.endswith(LOG):
                sha = path.name.removesuffix(LOG)
                shutil.rmtree(folder / COLUMNS / sha, ignore_errors=True)
                (folder / COLUMNS / f"{sha}.json").unlink(missing_ok=True)
    return count
