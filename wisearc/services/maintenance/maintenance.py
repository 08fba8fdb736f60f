"""Maintenance of the library.

Backup, restore, export and import as one archive, and a complete check. Long work: each reports its
progress, and can be cancelled without changes.
"""

from __future__ import annotations

import os
import shutil
import signal
import tempfile
import threading
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path
from typing import Any

from msgspec import Struct

from ...core.errors import InputError
from ...core.plan.approaches import check_approach
from ...formats.archive import SUFFIX, Head, Reader, Writer
from ...formats.procedure_json import ProcedureFile
from ...store import merging, queries
from ...store.copies import copy_into, copy_to
from ...store.database import db, open_transaction, wrap_errors
from ...store.errors import Cancelled, EditConflict, Missing, NotAllowed, StoreError
from ...store.folder import (
    COPIES,
    FILE_NAME,
    PART,
    lock_all_writes,
    make_folder,
    replace_file,
    wrap_disk_errors,
)
from ...store.models import Procedure
from ...store.opening import Store, check_database, format_stamp, is_library
from ...store.pins import PinFile
from ..people import people
from ..procedures import book
from ..procedures import procedures as keeping
from ..procedures.library_search import list_all_unlisted
from ..runs.kept_files import KeptFiles
from .file_copies import (
    copy_files,
    delete_unreferenced,
    find_file_problems,
    find_unreferenced,
    list_file_names,
    put_file,
    repair_files,
)
from .opening import open_data, open_library

# Receives the finished number and the total, and returns whether to continue.
Watch = Callable[[int, int], bool]
# The number of attempts to import into a library that is changed at the same time.
_TRIES = 3


def continue_always(_done: int, _of: int) -> bool:
    """Continue without progress reports."""
    return True


def _report(watch: Watch, done: int, of: int) -> None:
    if not watch(done, of):
        raise Cancelled


@contextmanager
def _without_cancelling() -> Iterator[None]:
    """Complete the work inside despite a cancellation, so that "no changes" is always true."""
    if threading.current_thread() is not threading.main_thread():
        # Only the main thread has signals.
        yield
        return
    before = {
        asked: signal.signal(asked, signal.SIG_IGN) for asked in (signal.SIGINT, signal.SIGTERM)
    }
    try:
        yield
    finally:
        for asked, handler in before.items():
            signal.signal(asked, handler)


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
    target = _free(into / f"wisearc-{format_stamp()}.sqlite3")
    copy_to(folder / FILE_NAME, target, lambda share: watch(round(100 * share), 100))
    try:
        check_database(target, quick=False)
    except BaseException:
        target.unlink()
        raise
    copy_files(folder, into)
    return target


def _free(path: Path) -> Path:
    """Return an unused name."""
    free_path, n = path, 2
    while free_path.exists():
        free_path, n = path.with_stem(f"{path.stem}-{n}"), n + 1
    return free_path


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
    with ExitStack() as last, _make_work_folder(folder) as work, wrap_disk_errors():
        try:
            check_database(source, quick=False)
        except StoreError as error:
            raise InputError(
                "file",
                source.name,
                "is not a valid database. Give a backup from “wisearc backup”",
            ) from error
        if not is_library(source):
            raise InputError("file", source.name, "is a database, but not a Wise Arc library")
        _report(watch, 1, 4)
        copy_to(source, work / FILE_NAME)
        store = Store(work)
        list_all_unlisted(lambda done, of: _report(watch, done, of))
        needs_pin = had_lead or people.needs_lead()
        store.close()
        _report(watch, 2, 4)
        before = _replace_library(
            work, folder, "before-restore", last, lambda: _report(watch, 3, 4), needs_pin
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
    before = _free(copies / f"{name}-{format_stamp()}.sqlite3")
    with lock_all_writes(folder):
        copy_to(folder / FILE_NAME, before)
        copied()
        last.enter_context(_without_cancelling())
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
    with ExitStack() as last, _make_work_folder(folder) as work, wrap_disk_errors():
        store = open_data(work)
        with open_transaction():
            queries.set_library_kind("own")
        store.close()
        before = _replace_library(
            work, folder, "before-own-book", last, lambda: _report(watch, 1, 2), False
        )
    watch(2, 2)
    return before


@contextmanager
def _make_work_folder(folder: Path) -> Iterator[Path]:
    """Yield a temporary folder in the data folder."""
    with wrap_disk_errors():
        work = Path(tempfile.mkdtemp(prefix="work", suffix=PART, dir=folder))
    try:
        yield work
    finally:
        if not db.is_closed():
            db.close()
        shutil.rmtree(work, ignore_errors=True)


def export(
    folder: Path,
    target: Path,
    watch: Watch = continue_always,
    at: Callable[[], str] = keeping.get_now,
) -> Head:
    """Export the library at one moment as one archive, completely or not at all.

    Args:
        folder: The data folder.
        target: The archive.
        watch: Called with the progress.
        at: Current time, UTC.

    Raises:
        StoreError: The export failed.
    """
    store = open_library(folder)
    part = target.with_name(target.name + PART)
    try:
        with wrap_disk_errors(), wrap_errors(), db.atomic("DEFERRED"):
            try:
                with os.fdopen(
                    os.open(part, os.O_CREAT | os.O_WRONLY | os.O_TRUNC, 0o600), "wb"
                ) as file:
                    archive = Writer(file)
                    try:
                        head = _write_all(archive, at(), watch, KeptFiles(folder))
                    finally:
                        archive.end()
                    file.flush()
                    os.fsync(file.fileno())
                replace_file(part, target)
            finally:
                part.unlink(missing_ok=True)
    finally:
        store.close()
    return head


def _write_all(archive: Writer, created_at: str, watch: Watch, files: KeptFiles) -> Head:
    ids, runs, procedures, names = queries.list_ids_in_order(), 0, set(), set[str]()
    for i, revision_id in enumerate(ids):
        (revision,) = queries.list_revisions_by_id([revision_id])
        archive.add(revision.procedure.label, revision.letter, book.procedure_text(revision))
        procedures.add(revision.procedure.number)
        runs += queries.measure_room(revision)[0]
        names |= {
            name for run in queries.list_runs(revision) for name in list_file_names(run.document)
        }
        _report(watch, i + 1, len(ids))
    for name in sorted(names):
        # “wisearc check” reports a missing file. The others are exported.
        if (files.folder / name).is_file():
            archive.add_file(files.folder / name)
    head = Head(created_at, len(procedures), len(ids), runs, queries.load_chosen_approaches())
    archive.write_head(head)
    return head


def import_archive(folder: Path, source: Path, watch: Watch = continue_always) -> dict[str, int]:
    """Import an archive completely, or not at all after an error.

    Procedures keep free numbers and get new ones otherwise. Known procedures are skipped.

    Args:
        folder: The data folder.
        source: The archive.
        watch: Called with the progress.

    Returns:
        Numbers of "taken", "renumbered" and "known" procedures.

    Raises:
        InputError: The archive is not valid. The error names the entry.
        StoreError: The library cannot be written.
    """
    with Reader(source) as archive:
        # A folder without a library is an empty shop.
        open_data(folder).close()
        for tried in range(_TRIES):
            with ExitStack() as last, _make_work_folder(folder) as work:
                copy_to(folder / FILE_NAME, work / FILE_NAME)
                store = Store(work)
                before = merging.read_state(work / FILE_NAME)
                summary, references = _import_procedures(archive, watch)
                store.close()
                last.enter_context(_without_cancelling())
                try:
                    for name in sorted(references.intersection(archive.files)):
                        put_file(folder, name, lambda name=name: archive.open_file(name))  # type: ignore[misc]
                    merging.add_new(work / FILE_NAME, folder / FILE_NAME, before)
                    return summary
                except EditConflict:
                    # Another user wrote at the same time, so the result no longer fits.
                    if tried == _TRIES - 1:
                        raise
    raise AssertionError("unreachable")


def _import_procedures(archive: Reader, watch: Watch) -> tuple[dict[str, int], set[str]]:
    """Import the procedures of an archive.

    Returns:
        Number of procedures by result, and the names of the files of their runs.
    """
    counts, references = {"taken": 0, "renumbered": 0, "known": 0}, set[str]()
    moment, done, runs = keeping.get_now(), 0, 0
    with open_transaction():
        empty = queries.is_empty()
        # Renumbered procedures come after those that keep their numbers.
        last = max((queries.parse_number(number) for number, _, _ in archive.entries), default=0)
        for number, revisions in archive.revisions():
            how, files = _import_procedure(number, revisions, moment, last)
            counts[how] += 1
            references |= {
                name
                for file in files
                for recorded in file.recorded
                for name in list_file_names(recorded.run)
            }
            done += len(revisions)
            runs += sum(len(data["runs"]) for data in revisions)
            _report(watch, done, len(archive.entries))
        if runs != archive.head.runs:
            raise InputError(
                "runs", archive.head.runs, f"must be {runs}, the number in the archive"
            )
        for key, value in archive.head.schools.items():
            check_approach(key, value)
            if empty:
                queries.set_approach(key, value)
    return counts, references


def _import_procedure(
    number: str, revisions: list[Any], moment: str, last: int
) -> tuple[str, list[ProcedureFile]]:
    pending: list[tuple[ProcedureFile, Any]] = []
    for data in revisions:
        try:
            pending.append(keeping.check_file(data, moment))
        except InputError as error:
            name = f"{number} {data.get('revision')}"
            raise InputError(
                f"{name}: {error.field}", error.value, error.rule, error.nearest
            ) from error
    files = [file for file, _ in pending]
    _check_line(number, files)
    if all(keeping.find_known_revision(file) for file in files):
        return "known", files
    is_number_free = queries.find_procedure(queries.parse_number(number)) is None
    label = queries.parse_number(number) if is_number_free else queries.find_next_number(last)
    owner = Procedure.create(number=label, created_at=files[0].created or moment)
    for file, plan in pending:
        keeping.insert_revision(
            owner, file if is_number_free else keeping.renumber_file(file), plan, moment
        )
    return "taken" if is_number_free else "renumbered", files


def _check_line(number: str, files: list[ProcedureFile]) -> None:
    """Check that revisions can belong to one procedure.

    Raises:
        InputError: They cannot.
    """
    statuses = [file.status for file in files if file.removed is None]
    for status in ("draft", "proved"):
        if statuses.count(status) > 1:
            raise InputError(
                number,
                f"{statuses.count(status)} revisions",
                f"must have at most one that is {status}",
            )


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
        if unlisted := queries.list_unlisted():
            problems.append(
                f"{len(unlisted)} revisions are missing from the list. The next start adds them."
            )
        for i, revision_id in enumerate(ids):
            (revision,) = queries.list_revisions_by_id([revision_id])
            called = f"{revision.procedure.label} {revision.letter}"
            try:
                keeping.get_plan(revision)
                records = [run.document for run in queries.list_runs(revision)]
                for problem in find_file_problems(KeptFiles(folder), records):
                    damaged.setdefault(problem.name, []).append(f"{called}: {problem.text}")
            except (StoreError, InputError) as error:
                problems.append(f"{called}: {error}")
            _report(watch, i + 1, len(ids))
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


def name_new_archive(folder: Path) -> Path:
    """Return an unused name for an archive in the data folder.

    Raises:
        StoreError: The folder cannot be read.
    """
    make_folder(get_copies_folder(folder))
    return _free(get_copies_folder(folder) / f"book-{format_stamp()}{SUFFIX}")


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
