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
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ...core.errors import BadInput
from ...core.plan.schools import check_school
from ...formats.archive import SUFFIX, Head, Reader, Writer
from ...formats.procedure_json import ProcedureFile
from ...store import merging, queries
from ...store import people as hands
from ...store.copies import copy_into, copy_to
from ...store.database import db, transaction, translated
from ...store.errors import Missing, NotAllowed, Stale, Stopped, StoreError
from ...store.folder import (
    COPIES,
    FILE_NAME,
    PART,
    all_writing_held,
    disk_errors,
    make_folder,
    put_in_place,
)
from ...store.models import Procedure
from ...store.opening import Store, is_book, look_through, stamp
from ...store.pins import Pins
from ..procedures import book
from ..procedures import procedures as keeping
from ..procedures.finding import list_all_unlisted
from ..runs.kept_files import KeptFiles
from .file_copies import (
    collect,
    copy_files,
    mend,
    names_of,
    put_file,
    unwanted,
    wrong_with,
)
from .opening import open_book, open_data

# told how many of how many are done; returns whether to go on
Watch = Callable[[int, int], bool]
# a book that is written to while it is taken into is tried again so often
_TRIES = 3


def go_on(_done: int, _of: int) -> bool:
    """Watches nothing."""
    return True


def _told(watch: Watch, done: int, of: int) -> None:
    if not watch(done, of):
        raise Stopped


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


def backup(folder: Path, into: Path, watch: Watch = go_on) -> Path:
    """Copy the book, as it is at one moment, while it is in use. Returns the file. Raises
    StoreError.

    Parameters: folder, the data folder; into, the folder to put it in, made if need be.
    """
    if not (folder / FILE_NAME).exists():
        raise Missing(f"There is no book in {folder.resolve()}. Give its data folder with --data.")
    make_folder(into)
    target = _free(into / f"wisearc-{stamp()}.sqlite3")
    copy_to(folder / FILE_NAME, target, lambda share: watch(round(100 * share), 100))
    try:
        look_through(target, quick=False)
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


def restore(folder: Path, source: Path, watch: Watch = go_on) -> Path:
    """Put a backup in the book's place, for all who use it at once. Returns the copy of what stood
    there before.

    Raises StoreError, BadInput where the file is no backup; then the book is as it was.
    """
    if not source.is_file():
        raise BadInput(
            "file", source.name, "is not there; give a backup that “wisearc backup” wrote"
        )
    standing = open_data(folder)
    had_lead = hands.pins().restored or any(one.role == "lead" for one in hands.standing())
    standing.close()
    with ExitStack() as last, _beside(folder) as work, disk_errors():
        try:
            look_through(source, quick=False)
        except StoreError as error:
            raise BadInput(
                "file",
                source.name,
                "is not a sound database; give a backup that “wisearc backup” wrote",
            ) from error
        if not is_book(source):
            raise BadInput("file", source.name, "is a database, but no book of Wise Arc")
        _told(watch, 1, 4)
        copy_to(source, work / FILE_NAME)
        store = Store(work)
        list_all_unlisted(lambda done, of: _told(watch, done, of))
        locked = had_lead or any(one.role == "lead" for one in hands.standing())
        store.close()
        _told(watch, 2, 4)
        before = _put_in_place(
            work, folder, "before-restore", last, lambda: _told(watch, 3, 4), locked
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
    locked: bool,
) -> Path:
    """Put the book made in one folder in the place of another's, of which a copy is made first.
    Returns that copy.

    Parameters: name, of the copy; last, what goes on to its end from where the book is written
    over; copied, told once it is copied; locked, whether nobody acts as a lead until a PIN is set.
    """
    copies = folder / COPIES
    make_folder(copies)
    before = _free(copies / f"{name}-{stamp()}.sqlite3")
    with all_writing_held(folder):
        copy_to(folder / FILE_NAME, before)
        copied()
        last.enter_context(_to_its_end())
        with Pins(folder).forgotten(locked):
            copy_into(work / FILE_NAME, folder / FILE_NAME)
    return before


def begin_own(folder: Path, watch: Watch = go_on) -> Path:
    """Put an empty book in the place of the one that stands, of which a copy is made first. Returns
    that copy. Raises StoreError.
    """
    open_data(folder).close()
    with ExitStack() as last, _beside(folder) as work, disk_errors():
        store = open_data(work)
        with transaction():
            queries.set_book_kind("own")
        store.close()
        before = _put_in_place(
            work, folder, "before-own-book", last, lambda: _told(watch, 1, 2), False
        )
    watch(2, 2)
    return before


@contextmanager
def _beside(folder: Path) -> Iterator[Path]:
    """A folder of its own in the data folder to work in, gone afterwards."""
    with disk_errors():
        work = Path(tempfile.mkdtemp(prefix="work", suffix=PART, dir=folder))
    try:
        yield work
    finally:
        if not db.is_closed():
            db.close()
        shutil.rmtree(work, ignore_errors=True)


def export(
    folder: Path, target: Path, watch: Watch = go_on, at: Callable[[], str] = keeping.now
) -> Head:
    """Write the whole book, as it is at one moment, as one archive; whole or not there. Raises
    StoreError.
    """
    store = open_book(folder)
    part = target.with_name(target.name + PART)
    try:
        with disk_errors(), translated(), db.atomic("DEFERRED"):
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
                put_in_place(part, target)
            finally:
                part.unlink(missing_ok=True)
    finally:
        store.close()
    return head


def _write_all(archive: Writer, made: str, watch: Watch, files: KeptFiles) -> Head:
    ids, runs, procedures, names = queries.in_order(), 0, set(), set[str]()
    for i, revision_id in enumerate(ids):
        (revision,) = queries.revisions_of([revision_id])
        archive.add(revision.procedure.label, revision.letter, book.procedure_text(revision))
        procedures.add(revision.procedure.number)
        runs += queries.room_taken(revision)[0]
        names |= {name for run in queries.runs(revision) for name in names_of(run.document)}
        _told(watch, i + 1, len(ids))
    for name in sorted(names):
        # one that is gone is told by “wisearc check”; the rest goes out
        if (files.folder / name).is_file():
            archive.add_file(files.folder / name)
    head = Head(made, len(procedures), len(ids), runs, queries.chosen_schools())
    archive.say(head)
    return head


def take_archive(folder: Path, source: Path, watch: Watch = go_on) -> dict[str, int]:
    """Take an archive into the book: whole, or where anything in it is wrong not at all.

    Procedures keep their numbers where those are free, else take the next; those that the book
    holds already are left. Returns how many were "taken", "renumbered" and "known". Raises BadInput
    with what is wrong and where, StoreError.
    """
    with Reader(source) as archive:
        # a folder without a book is an empty shop
        open_data(folder).close()
        for tried in range(_TRIES):
            with ExitStack() as last, _beside(folder) as work:
                copy_to(folder / FILE_NAME, work / FILE_NAME)
                store = Store(work)
                before = merging.standing(work / FILE_NAME)
                came, spoken_of = _take_all(archive, watch)
                store.close()
                last.enter_context(_to_its_end())
                try:
                    for name in (found for found in archive.files if found in spoken_of):
                        put_file(folder, name, lambda name=name: archive.open_file(name))  # type: ignore[misc]
                    merging.add_new(work / FILE_NAME, folder / FILE_NAME, before)
                    return came
                except Stale:
                    # another hand wrote meanwhile: what was made does not fit any more
                    if tried == _TRIES - 1:
                        raise
    raise AssertionError("unreachable")


def _take_all(archive: Reader, watch: Watch) -> tuple[dict[str, int], set[str]]:
    """Take every procedure of an archive in. Returns how many came in how, and the names of the
    files that their runs speak of.
    """
    came, spoken_of = {"taken": 0, "renumbered": 0, "known": 0}, set[str]()
    moment, done, runs = keeping.now(), 0, 0
    with transaction():
        empty = queries.is_empty()
        # what is renumbered comes after all that keep their own
        last = max((queries.parse_number(number) for number, _, _ in archive.entries), default=0)
        for number, revisions in archive.revisions():
            how, files = _take_procedure(number, revisions, moment, last)
            came[how] += 1
            spoken_of |= {
                name for file in files for one in file.recorded for name in names_of(one.run)
            }
            done += len(revisions)
            runs += sum(len(data["runs"]) for data in revisions)
            _told(watch, done, len(archive.entries))
        if runs != archive.head.runs:
            raise BadInput(
                "runs", archive.head.runs, f"must be {runs}, as many as the archive holds"
            )
        for key, value in archive.head.schools.items():
            check_school(key, value)
            if empty:
                queries.set_school(key, value)
    return came, spoken_of


def _take_procedure(
    number: str, revisions: list[Any], moment: str, last: int
) -> tuple[str, list[ProcedureFile]]:
    given: list[tuple[ProcedureFile, Any]] = []
    for data in revisions:
        try:
            given.append(keeping.checked_file(data, moment))
        except BadInput as error:
            name = f"{number} {data.get('revision')}"
            raise BadInput(
                f"{name}: {error.field}", error.value, error.rule, error.nearest
            ) from error
    files = [file for file, _ in given]
    _check_line(number, files)
    if all(keeping.known_as(file) for file in files):
        return "known", files
    own = queries.find_procedure(queries.parse_number(number)) is None
    label = queries.parse_number(number) if own else queries.next_number(last)
    owner = Procedure.create(number=label, created_at=files[0].created or moment)
    for file, plan in given:
        keeping.put_in(owner, file if own else keeping.renumbered(file), plan, moment)
    return "taken" if own else "renumbered", files


def _check_line(number: str, files: list[ProcedureFile]) -> None:
    """Refuse revisions that cannot stand in one procedure. Raises BadInput."""
    standing = [file.status for file in files if file.removed is None]
    for status in ("draft", "proved"):
        if standing.count(status) > 1:
            raise BadInput(
                number,
                f"{standing.count(status)} revisions",
                f"must have one that is {status} at most",
            )


@dataclass(frozen=True)
class LookThrough:
    """What a look through the book found, in sentences: what is wrong, and what else was seen or
    done.
    """

    wrong: list[str]
    seen: list[str]


def look_through_all(folder: Path, watch: Watch = go_on, repair: Path | None = None) -> LookThrough:
    """Look through the book: the file, what belongs to what, each record, each file of a run.

    Parameters: repair, a backup from which damaged and missing files of runs are put back. Raises
    BadInput where that is none.
    """
    store = open_book(folder)
    found: list[str] = []
    harmed: dict[str, list[str]] = {}
    try:
        look_through(store.path, quick=False)
        ids = queries.in_order()
        if unlisted := queries.unlisted():
            found.append(
                f"{len(unlisted)} revisions are not in the list; the next start lists them."
            )
        for i, revision_id in enumerate(ids):
            (revision,) = queries.revisions_of([revision_id])
            called = f"{revision.procedure.label} {revision.letter}"
            try:
                keeping.plan_of(revision)
                records = [run.document for run in queries.runs(revision)]
                for harm in wrong_with(KeptFiles(folder), records):
                    harmed.setdefault(harm.name, []).append(f"{called}: {harm.words}")
            except (StoreError, BadInput) as error:
                found.append(f"{called}: {error}")
            _told(watch, i + 1, len(ids))
        done = _mended(folder, harmed, repair)
        found += [words for told in harmed.values() for words in told]
        spare = unwanted(folder, queries.files_spoken_of)
        done += [f"{path.name} belongs to no run; the server takes it away." for path in spare]
    except Stopped:
        raise
    except (StoreError, NotAllowed) as error:
        return LookThrough([*found, str(error)], [])
    finally:
        store.close()
    return LookThrough(found, done)


def _mended(folder: Path, harmed: dict[str, list[str]], repair: Path | None) -> list[str]:
    """Put back what a backup has of harmed files, which then are not harmed any more. Returns that
    in words.
    """
    if repair is None:
        return []
    return [
        f"Put back from the backup: {words}"
        for name in mend(folder, harmed, repair)
        for words in harmed.pop(name)
    ]


def collect_files(folder: Path) -> int:
    """Take files away that no run speaks of and that have stood for a day. Returns how many. Raises
    StoreError.
    """
    return collect(folder, unwanted(folder, queries.files_spoken_of))


def copies_in(folder: Path) -> Path:
    """Where copies lie that are made from a page."""
    return folder / COPIES


def new_archive(folder: Path) -> Path:
    """A name for an archive in the data folder that is not taken. Raises StoreError."""
    make_folder(copies_in(folder))
    return _free(copies_in(folder) / f"book-{stamp()}{SUFFIX}")


def copies(folder: Path) -> list[tuple[str, int]]:
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
    if name not in [found for found, _ in copies(folder)]:
        raise Missing("There is no such copy in the data folder.")
    return folder / COPIES / name
