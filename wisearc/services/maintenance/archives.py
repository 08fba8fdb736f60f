"""The library as one archive: export and import.

Both report their progress, and can be cancelled without changes.
"""

from __future__ import annotations

import os
from collections.abc import Callable
from contextlib import ExitStack
from pathlib import Path
from typing import Any

from ...core.errors import InputError
from ...core.plan.approaches import check_approach
from ...formats.archive import SUFFIX, Head, Reader, Writer
from ...formats.procedure_json import ProcedureFile
from ...store import merging, queries
from ...store.copies import copy_to
from ...store.database import db, open_transaction, wrap_errors
from ...store.errors import EditConflict
from ...store.folder import FILE_NAME, PART, make_folder, replace_file, wrap_disk_errors
from ...store.models import Procedure
from ...store.opening import Store, format_stamp
from ..clock import get_now
from ..procedures import book, procedure_files
from ..runs.kept_files import KeptFiles
from .file_copies import list_file_names, put_file
from .long_work import (
    Watch,
    continue_always,
    find_unused_path,
    make_work_folder,
    prevent_cancelling,
    report_progress,
)
from .maintenance import get_copies_folder
from .opening import open_data, open_library

# The number of attempts to import into a library that is changed at the same time.
_TRIES = 3


def export(
    folder: Path,
    target: Path,
    watch: Watch = continue_always,
    at: Callable[[], str] = get_now,
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
        report_progress(watch, i + 1, len(ids))
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
            with ExitStack() as last, make_work_folder(folder) as work:
                copy_to(folder / FILE_NAME, work / FILE_NAME)
                store = Store(work)
                before = merging.read_state(work / FILE_NAME)
                summary, references = _import_procedures(archive, watch)
                store.close()
                last.enter_context(prevent_cancelling())
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
    moment, done, runs = get_now(), 0, 0
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
            report_progress(watch, done, len(archive.entries))
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
            pending.append(procedure_files.check_file(data, moment))
        except InputError as error:
            name = f"{number} {data.get('revision')}"
            raise InputError(
                f"{name}: {error.field}", error.value, error.rule, error.nearest
            ) from error
    files = [file for file, _ in pending]
    _check_line(number, files)
    if all(procedure_files.find_known_revision(file) for file in files):
        return "known", files
    is_number_free = queries.find_procedure(queries.parse_number(number)) is None
    label = queries.parse_number(number) if is_number_free else queries.find_next_number(last)
    owner = Procedure.create(number=label, created_at=files[0].created or moment)
    for file, plan in pending:
        procedure_files.insert_revision(
            owner, file if is_number_free else procedure_files.renumber_file(file), plan, moment
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


def name_new_archive(folder: Path) -> Path:
    """Return an unused name for an archive in the data folder.

    Raises:
        StoreError: The folder cannot be read.
    """
    make_folder(get_copies_folder(folder))
    return find_unused_path(get_copies_folder(folder) / f"book-{format_stamp()}{SUFFIX}")
