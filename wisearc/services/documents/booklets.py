"""Booklets from a page: made by a command in the background, and kept in the data folder."""

from __future__ import annotations

from pathlib import Path

from ...core.errors import InputError
from ...store.folder import make_folder
from ...store.opening import format_stamp
from ..errors import Missing
from ..maintenance.long_work import find_unused_path
from ..maintenance.tasks import Task, TaskRunner
from ..procedures.library_search import list_exported
from ..records import LibraryFilter

FOLDER = "documents"
MAX_IN_BOOKLET = 200
# Older ones are deleted: they can be made again.
MAX_SAVED = 20


def begin_booklet(
    tasks: TaskRunner, view: LibraryFilter, units: str, paper: str, address: str
) -> Task:
    """Start a booklet of a view of the library.

    Args:
        tasks: The task runner.
        view: The view.
        units: Unit system.
        paper: "a4" or "letter".
        address: Address of the library, for the codes.

    Raises:
        InputError: The view is empty or too large.
        NotAllowed: Another work is in progress.
    """
    rows = list_exported(view)
    if not 1 <= len(rows) <= MAX_IN_BOOKLET:
        rule = f"must have 1 to {MAX_IN_BOOKLET} revisions for a booklet. Add a filter"
        raise InputError("view", f"{len(rows)} revisions", rule)
    folder = tasks.folder / FOLDER
    make_folder(folder)
    for path in sorted(folder.glob("*.pdf"))[: -MAX_SAVED + 1]:
        path.unlink(missing_ok=True)
    target = find_unused_path(folder / f"booklet-{format_stamp()}.pdf")
    names = [f"{row.label}/{row.letter}" for row in rows]
    options = ("--kind", "booklet", "--units", units, "--paper", paper, "--address", address)
    return tasks.begin("Booklet", "pdf", *names, *options, "--out", str(target), output=target)


def find_booklet(folder: Path, name: str) -> Path:
    """Return a booklet in the data folder by its name.

    Args:
        folder: The data folder.
        name: The name.

    Raises:
        Missing: It does not exist.
    """
    place = folder / FOLDER
    if name not in [path.name for path in place.glob("*.pdf")]:
        raise Missing("The data folder has no such booklet. Make it again.")
    return place / name
