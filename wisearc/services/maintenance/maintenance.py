"""The book cared for: backup, restore, the whole book out and in as one archive, and a look through
all of it.

Long work: each tells how far it is, and stops where it is told to, leaving everything as it was.
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
from ...core.plan.schools import check_school
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
from ...store.opening import Store, check_database, format_stamp, is_book
from ...store.pins import PinFile
from ..people import people
from ..procedures import book
from ..procedures import procedures as keeping
from ..procedures.finding import list_all_unlisted
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
from .opening import open_book, open_data

# told how many of how many are done; returns whether to go on
Watch = Callable[[int, int], bool]
# a book that is written to while it is taken into is tried again so often
_TRIES = 3


def continue_always(_done: int, _of: int) -> bool:
    """Watches nothing."""
    return True


def _report(watch: Watch, done: int, of: int) -> None:
    if not watch(done, of):
        raise Cancelled


@contextmanager
def _to_its_end() -> Iterator[None]:
    """What is begun here is done, whoever asks to stop: so that "nothing was changed" is said only
    where nothing was.
    """
    if threading.current_thread() is not threading.main_thread():
        # signals are the main thread's alone
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
    """Copy the book, as it is at one moment, while it is in use. Returns the file. Raises
    StoreError.

    Parameters: folder, the data folder; into, the folder to put it in, made if need be.
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
    """A name that is not taken."""
    found, n = path, 2
    while found.exists():
        found, n = path.with_stem(f"{path.stem}-{n}"), n + 1
    return found


def restore(folder: Path, source: Path, watch: Watch = continue_always) -> Path:
    """Put a backup in the book's place, for all who use it at once. Returns the copy of what stood
    there before.

    Raises StoreError, BadInput where the file is no backup; then the book is as it was.
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
        if not is_book(source):
            raise InputError("file", source.name, "is a database, but not a Wise Arc library")
        _report(watch, 1, 4)
        copy_to(source, work / FILE_NAME)
        store = Store(work)
        list_all_unlisted(lambda done, of: _report(watch, done, of))
        needs_pin = had_lead or people.needs_lead()
        store.close()
        _report(watch, 2, 4)
        before = _put_in_place(
            work, folder, "before-restore", last, lambda: _report(watch, 3, 4), needs_pin
        )
        copy_files(source.parent, folder)
    watch(4, 4)
    return before


def _put_in_place(
    work: Path,
    folder: Path,
    name: str,
    last: ExitStack,
    copied: Callable[[], None],
    needs_pin: bool,
) -> Path:
    """Put the book made in one folder in the place of another's, of which a copy is made first.
    Returns that copy.

    Parameters: name, of the copy; last, what goes on to its end from where the book is written
    over; copied, told once it is copied; needs_pin, whether lead actions need a new PIN.
    """
    copies = folder / COPIES
    make_folder(copies)
    before = _free(copies / f"{name}-{format_stamp()}.sqlite3")
    with lock_all_writes(folder):
        copy_to(folder / FILE_NAME, before)
        copied()
        last.enter_context(_to_its_end())
        with PinFile(folder).clear(restored=needs_pin):
            copy_into(work / FILE_NAME, folder / FILE_NAME)
    return before


def create_library(folder: Path, watch: Watch = continue_always) -> Path:
    """Put an empty book in the place of the one that stands, of which a copy is made first. Returns
    that copy. Raises StoreError.
    """
    open_data(folder).close()
    with ExitStack() as last, _make_work_folder(folder) as work, wrap_disk_errors():
        store = open_data(work)
        with open_transaction():
            queries.set_book_kind("own")
        store.close()
        before = _put_in_place(
            work, folder, "before-own-book", last, lambda: _report(watch, 1, 2), False
        )
    watch(2, 2)
    return before


@contextmanager
def _make_work_folder(folder: Path) -> Iterator[Path]:
    """A folder of its own in the data folder to work in, gone afterwards."""
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
    """Write the whole book, as it is at one moment, as one archive; whole or not there. Raises
    StoreError.
    """
    store = open_book(folder)
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


def _write_all(archive: Writer, made: str, watch: Watch, files: KeptFiles) -> Head:
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
        # one that is gone is told by “wisearc check”; the rest goes out
        if (files.folder / name).is_file():
            archive.add_file(files.folder / name)
    head = Head(made, len(procedures), len(ids), runs, queries.load_chosen_approaches())
    archive.say(head)
    return head


def import_archive(folder: Path, source: Path, watch: Watch = continue_always) -> dict[str, int]:
    """Take an archive into the book: whole, or where anything in it is wrong not at all.

    Procedures keep their numbers where those are free, else take the next; those that the book
    holds already are left. Returns how many were "taken", "renumbered" and "known".

    Raises:
        InputError: The archive is not valid. The error names the entry.
        StoreError: The library cannot be written.
    """
    with Reader(source) as archive:
        # a folder without a book is an empty shop
        open_data(folder).close()
        for tried in range(_TRIES):
            with ExitStack() as last, _make_work_folder(folder) as work:
                copy_to(folder / FILE_NAME, work / FILE_NAME)
                store = Store(work)
                before = merging.read_state(work / FILE_NAME)
                came, references = _import_procedures(archive, watch)
                store.close()
                last.enter_context(_to_its_end())
                try:
                    for name in sorted(references.intersection(archive.files)):
                        put_file(folder, name, lambda name=name: archive.open_file(name))  # type: ignore[misc]
                    merging.add_new(work / FILE_NAME, folder / FILE_NAME, before)
                    return came
                except EditConflict:
                    # another hand wrote meanwhile: what was made does not fit any more
                    if tried == _TRIES - 1:
                        raise
    raise AssertionError("unreachable")


def _import_procedures(archive: Reader, watch: Watch) -> tuple[dict[str, int], set[str]]:
    """Import the procedures of an archive.

    Returns:
        Number of procedures by result, and the names of the files of their runs.
    """
    came, references = {"taken": 0, "renumbered": 0, "known": 0}, set[str]()
    moment, done, runs = keeping.get_now(), 0, 0
    with open_transaction():
        empty = queries.is_empty()
        # what is renumbered comes after all that keep their own
        last = max((queries.parse_number(number) for number, _, _ in archive.entries), default=0)
        for number, revisions in archive.revisions():
            how, files = _import_procedure(number, revisions, moment, last)
            came[how] += 1
            references |= {
                name for file in files for one in file.recorded for name in list_file_names(one.run)
            }
            done += len(revisions)
            runs += sum(len(data["runs"]) for data in revisions)
            _report(watch, done, len(archive.entries))
        if runs != archive.head.runs:
            raise InputError(
                "runs", archive.head.runs, f"must be {runs}, the number in the archive"
            )
        for key, value in archive.head.schools.items():
            check_school(key, value)
            if empty:
                queries.set_school(key, value)
    return came, references


def _import_procedure(
    number: str, revisions: list[Any], moment: str, last: int
) -> tuple[str, list[ProcedureFile]]:
    given: list[tuple[ProcedureFile, Any]] = []
    for data in revisions:
        try:
            given.append(keeping.check_file(data, moment))
        except InputError as error:
            name = f"{number} {data.get('revision')}"
            raise InputError(
                f"{name}: {error.field}", error.value, error.rule, error.nearest
            ) from error
    files = [file for file, _ in given]
    _check_line(number, files)
    if all(keeping.find_known_revision(file) for file in files):
        return "known", files
    own = queries.find_procedure(queries.parse_number(number)) is None
    label = queries.parse_number(number) if own else queries.find_next_number(last)
    owner = Procedure.create(number=label, created_at=files[0].created or moment)
    for file, plan in given:
        keeping.put_in(owner, file if own else keeping.renumber_file(file), plan, moment)
    return "taken" if own else "renumbered", files


def _check_line(number: str, files: list[ProcedureFile]) -> None:
    """Refuse revisions that cannot stand in one procedure. Raises InputError."""
    standing = [file.status for file in files if file.removed is None]
    for status in ("draft", "proved"):
        if standing.count(status) > 1:
            raise InputError(
                number,
                f"{standing.count(status)} revisions",
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
        BadInput: The backup has no files.
        Stopped: The check was cancelled.
    """
    store = open_book(folder)
    found: list[str] = []
    damaged: dict[str, list[str]] = {}
    try:
        check_database(store.path, quick=False)
        ids = queries.list_ids_in_order()
        if unlisted := queries.list_unlisted():
            found.append(
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
                found.append(f"{called}: {error}")
            _report(watch, i + 1, len(ids))
        notices = _repair(folder, damaged, repair)
        found += [text for texts in damaged.values() for text in texts]
        unreferenced = find_unreferenced(folder, queries.find_referenced_files)
        notices += [f"{path.name} has no run. The server deletes it." for path in unreferenced]
    except Cancelled:
        raise
    except (StoreError, NotAllowed) as error:
        return LibraryCheck([*found, str(error)], [])
    finally:
        store.close()
    return LibraryCheck(found, notices)


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
    """Where copies lie that are made from a page."""
    return folder / COPIES


def name_new_archive(folder: Path) -> Path:
    """A name for an archive in the data folder that is not taken. Raises StoreError."""
    make_folder(get_copies_folder(folder))
    return _free(get_copies_folder(folder) / f"book-{format_stamp()}{SUFFIX}")


def list_copies(folder: Path) -> list[tuple[str, int]]:
    """The copies and archives that lie in the data folder, (name, bytes), newest first."""
    if not (folder / COPIES).is_dir():
        return []
    files = [p for p in (folder / COPIES).iterdir() if p.suffix in (".sqlite3", SUFFIX)]
    return [
        (p.name, p.stat().st_size)
        for p in sorted(files, key=lambda p: p.stat().st_mtime, reverse=True)
    ]


def copy_named(folder: Path, name: str) -> Path:
    """A copy or archive in the data folder by its name. Raises Missing."""
    if name not in [found for found, _ in list_copies(folder)]:
        raise Missing("The data folder has no such copy.")
    return folder / COPIES / name
