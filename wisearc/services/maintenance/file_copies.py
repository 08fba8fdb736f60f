"""The files of runs where the book goes: into copies, archives and back, each held against its
SHA-256.
"""

from __future__ import annotations

import gzip
import hashlib
import re
import shutil
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import IO

from ...core.errors import BadInput
from ...core.run.run import Run
from ...store.errors import Missing
from ...store.folder import FILES, PART, disk_errors, put_in_place
from ..runs.kept_files import LOG, PHOTOGRAPH, KeptFiles

_PIECE = 1024 * 1024
_NAME = rf"[0-9a-f]{{64}}({re.escape(PHOTOGRAPH)}|{re.escape(LOG)})"
# a log that unpacks to more was not kept here
MOST_LOG = 1_100_000_000


def names_of(run: Run) -> list[str]:
    """The names of the files that a run speaks of."""
    found = [f"{one.sha256}{PHOTOGRAPH}" for one in run.photographs]
    return found + ([f"{run.arc_log.sha256}{LOG}"] if run.arc_log else [])


def copy_files(source: Path, target: Path, told: Callable[[], None] = lambda: None) -> int:
    """Copy the files beside one book to beside another, those that are not there. Returns how many.
    Parameters: told, called before each; raises to stop. Raises StoreError.
    """
    came, count = source / FILES, 0
    if not came.is_dir():
        return 0
    with disk_errors():
        (target / FILES).mkdir(mode=0o700, parents=True, exist_ok=True)
        for path in sorted(came.iterdir()):
            place = target / FILES / path.name
            if re.fullmatch(_NAME, path.name) and not place.exists():
                told()
                part = place.with_name(place.name + PART)
                shutil.copyfile(path, part)
                part.chmod(0o600)
                put_in_place(part, place)
                count += 1
    return count


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
    except (OSError, EOFError, ValueError):
        return False
    return sha.hexdigest() == name.partition(".")[0]


def put_file(target: Path, name: str, open_it: Callable[[], IO[bytes]]) -> None:
    """Put a file of an archive beside a book, where it is what its name says. Raises BadInput,
    StoreError.
    """
    place = target / FILES / name
    if place.exists():
        return
    if not is_whole(open_it(), name):
        raise BadInput(
            "file", f"{FILES}/{name}", "is not what its name says; the archive is damaged"
        )
    with disk_errors():
        place.parent.mkdir(mode=0o700, exist_ok=True)
        part = place.with_name(place.name + PART)
        with open_it() as came, part.open("wb") as out:
            shutil.copyfileobj(came, out, _PIECE)
        part.chmod(0o600)
        put_in_place(part, place)


def wrong_with(files: KeptFiles, runs: Iterable[Run]) -> list[str]:
    """What is wrong with the files that runs speak of, in words."""
    found = []
    for run in runs:
        for name in names_of(run):
            sha, _, suffix = name.partition(".")
            what = "an arc log" if name.endswith(LOG) else "a photograph"
            try:
                path = files.path(sha, f".{suffix}")
            except Missing:
                found.append(f"{what} of the run of {run.when} is not beside the book ({sha[:12]})")
                continue
            with path.open("rb") as file:
                if not is_whole(file, name):
                    found.append(f"{what} of the run of {run.when} is damaged ({sha[:12]})")
    return found
