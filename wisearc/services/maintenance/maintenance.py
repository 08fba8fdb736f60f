"""Maintenance of the library.

Backup, restore, a new library and a complete check. Each reports its progress, and can be cancelled
without changes.
"""

from __future__ import annotations

from collections.abc import Callable
from contextlib import ExitStack
from pathlib import Path

from msgspec import Struct

from ...core.errors import InputError
from ...formats.archive import SUFFIX
from ...store import listings, queries
from ...store.copies import copy_into, copy_to
from ...store.database import open_transaction
from ...store.errors import Cancelled, Missing, NotAllowed, StoreError
from ...store.folder import COPIES, FILE_NAME, lock_all_writes, make_folder, wrap_disk_errors
from ...store.opening import Store, check_database, format_stamp
from ...store.pins import PinFile
from ..people import people
from ..people.shop_key import describe_key
from ..procedures import procedures as keeping
from ..procedures.judged_signatures import list_problems
from ..procedures.library_search import list_all_unlisted
from ..runs.kept_files import KeptFiles
from .backup_files import check_backup_database, is_backup_file, unpack_backup
from .file_copies import (
    copy_files,
    delete_unreferenced,
    find_file_problems,
    find_unreferenced,
    repair_files,
)
from .long_work import (
    Watch,
    continue_always,
    find_unused_path,
    make_work_folder,
    prevent_cancelling,
    report_progress,
)
from .opening import open_data, open_library


def create_backup(folder: Path, into: Path, watch: Watch = continue_always) -> Path:
    """Copy the library at one moment, while it is in use, and return the file.

    Args:
        folder: The data folder.
        into: The folder of the copy, created if missing.
        watch: Called with the progress.

    Raises:
        StoreError: The copy failed.
    """
    if not (folder / FILE_NAME).exists():
        raise Missing(
            f"There is no library in {folder.resolve()}. Give its data folder with --data."
        )
    make_folder(into)
    target = find_unused_path(into / f"wisearc-{format_stamp()}.sqlite3")
    copy_to(folder / FILE_NAME, target, lambda share: watch(round(100 * share), 100))
    try:
        check_database(target, quick=False)
    except BaseException:
        target.unlink()
        raise
    copy_files(folder, into)
    return target


def restore(folder: Path, source: Path, watch: Watch = continue_always) -> Path:
    """Replace the library with a backup, and return the copy of the earlier library.

    All users get the new library at once.

    Args:
        folder: The data folder.
        source: The backup.
        watch: Called with the progress.

    Raises:
        StoreError: The restore failed.
        InputError: The file is no backup. The library is unchanged.
    """
    if not source.is_file():
        raise InputError("file", source.name, "does not exist. Give a backup from “wisearc backup”")
    current = open_data(folder)
    had_lead = people.needs_lead()
    current.close()
    with ExitStack() as last, make_work_folder(folder) as work, wrap_disk_errors():
        if is_backup_file(source):
            unpacked = last.enter_context(make_work_folder(folder))
            source = unpack_backup(source, unpacked, watch)
        check_backup_database(source)
        report_progress(watch, 1, 4)
        copy_to(source, work / FILE_NAME)
        store = Store(work)
        list_all_unlisted(lambda done, of: report_progress(watch, done, of))
        needs_pin = had_lead or people.needs_lead()
        store.close()
        report_progress(watch, 2, 4)
        before = _replace_library(
            work, folder, "before-restore", last, lambda: report_progress(watch, 3, 4), needs_pin
        )
        copy_files(source.parent, folder)
    watch(4, 4)
    return before


def _replace_library(
    work: Path,
    folder: Path,
    name: str,
    last: ExitStack,
    copied: Callable[[], None],
    needs_pin: bool,
) -> Path:
    """Replace the library with that of another folder, and return a copy of it.

    `name` is the copy, `last` is entered before the library is overwritten, `copied` is called
    after the copy, and `needs_pin` requests a new lead PIN.
    """
    copies = folder / COPIES
    make_folder(copies)
    before = find_unused_path(copies / f"{name}-{format_stamp()}.sqlite3")
    with lock_all_writes(folder):
        copy_to(folder / FILE_NAME, before)
        copied()
        last.enter_context(prevent_cancelling())
        with PinFile(folder).clear(restored=needs_pin):
            copy_into(work / FILE_NAME, folder / FILE_NAME)
    return before


def create_library(folder: Path, watch: Watch = continue_always) -> Path:
    """Replace the library with an empty one, and return a copy of it.

    Args:
        folder: The data folder.
        watch: Called with the progress.

    Raises:
        StoreError: The change failed.
    """
    open_data(folder).close()
    with ExitStack() as last, make_work_folder(folder) as work, wrap_disk_errors():
        store = open_data(work)
        with open_transaction():
            queries.set_library_kind("own")
        store.close()
        before = _replace_library(
            work, folder, "before-own-book", last, lambda: report_progress(watch, 1, 2), False
        )
    watch(2, 2)
    return before


class LibraryCheck(Struct, frozen=True):
    """Result of a check: the problems, and other messages."""

    problems: list[str]
    notices: list[str]


def check_library(
    folder: Path, watch: Watch = continue_always, repair: Path | None = None
) -> LibraryCheck:
    """Check the database, its references, each record, and each file of a run.

    Args:
        folder: The data folder.
        watch: Called with the progress. Returns False to cancel.
        repair: A backup with complete files.

    Raises:
        InputError: The backup has no files.
        Cancelled: The check was cancelled.
    """
    store = open_library(folder)
    problems: list[str] = []
    damaged: dict[str, list[str]] = {}
    try:
        check_database(store.path, quick=False)
        ids = queries.list_ids_in_order()
        if unlisted := listings.list_unlisted():
            problems.append(
                f"{len(unlisted)} revisions are missing from the list. The next start adds them."
            )
        for i, revision_id in enumerate(ids):
            (revision,) = queries.list_revisions_by_id([revision_id])
            called = f"{revision.procedure.label} {revision.letter}"
            try:
                keeping.get_plan(revision)
                problems += [f"{called}: {text}" for text in list_problems(revision)]
                records = [run.document for run in queries.list_runs(revision)]
                for problem in find_file_problems(KeptFiles(folder), records):
                    damaged.setdefault(problem.name, []).append(f"{called}: {problem.text}")
            except (StoreError, InputError) as error:
                problems.append(f"{called}: {error}")
            report_progress(watch, i + 1, len(ids))
        if (key := describe_key()).is_lost:
            problems.append(key.sentence)
        notices = _repair(folder, damaged, repair)
        problems += [text for texts in damaged.values() for text in texts]
        unreferenced = find_unreferenced(folder, queries.find_referenced_files)
        notices += [f"{path.name} has no run. The server deletes it." for path in unreferenced]
    except Cancelled:
        raise
    except (StoreError, NotAllowed) as error:
        return LibraryCheck([*problems, str(error)], [])
    finally:
        store.close()
    return LibraryCheck(problems, notices)


def _repair(folder: Path, damaged: dict[str, list[str]], backup: Path | None) -> list[str]:
    """Repair files and remove them from the damaged ones. Return messages."""
    if backup is None:
        return []
    with ExitStack() as opened:
        if is_backup_file(backup):
            unpacked = opened.enter_context(make_work_folder(folder))
            backup = unpack_backup(backup, unpacked)
        return [
            f"Repaired from the backup: {text}"
            for name in repair_files(folder, damaged, backup)
            for text in damaged.pop(name)
        ]


def delete_unreferenced_files(folder: Path) -> int:
    """Delete files without a run that are older than a day.

    Args:
        folder: The data folder.

    Returns:
        Number of deleted files.

    Raises:
        StoreError: The library cannot be read, or the disk fails.
    """
    paths = find_unreferenced(folder, queries.find_referenced_files)
    return delete_unreferenced(folder, paths)


def get_copies_folder(folder: Path) -> Path:
    """Return the folder of copies from the page."""
    return folder / COPIES


def list_copies(folder: Path) -> list[tuple[str, int]]:
    """Return the copies and archives in the data folder, (name, bytes), newest first."""
    if not (folder / COPIES).is_dir():
        return []
    files = [p for p in (folder / COPIES).iterdir() if p.suffix in (".sqlite3", SUFFIX)]
    return [
        (p.name, p.stat().st_size)
        for p in sorted(files, key=lambda p: p.stat().st_mtime, reverse=True)
    ]


def copy_named(folder: Path, name: str) -> Path:
    """Return a copy or archive in the data folder by its name.

    Args:
        folder: The data folder.
        name: The name.

    Raises:
        Missing: It does not exist.
    """
    if name not in [copy for copy, _ in list_copies(folder)]:
        raise Missing("The data folder has no such copy.")
    return folder / COPIES / name
