"""Export: the library, or a part of it, as one archive, with progress. It can be cancelled."""

from __future__ import annotations

import json
import os
from collections.abc import Callable
from pathlib import Path

from msgspec import Struct

from ...core.schema.json_types import JsonObject
from ...formats.archive import SUFFIX, Head, Writer
from ...store import queries, shelf
from ...store.database import db, wrap_errors
from ...store.folder import PART, make_folder, replace_file, wrap_disk_errors
from ...store.opening import format_stamp
from ..clock import get_now
from ..inventory import shop_files
from ..inventory.shop import load_shop
from ..procedures import book
from ..runs.kept_files import KeptFiles
from .archive_jobs import list_archived_jobs
from .file_copies import list_file_names
from .long_work import (
    Watch,
    continue_always,
    find_unused_path,
    report_progress,
)
from .maintenance import get_copies_folder
from .opening import open_library


class ExportChoice(Struct, frozen=True):
    """The contents of an archive.

    Attributes:
        procedures: Numbers of procedures, or () for all with the jobs.
        with_shop: Whether the shop is included.
    """

    procedures: tuple[str, ...] = ()
    with_shop: bool = False


ALL = ExportChoice()


def export(
    folder: Path,
    target: Path,
    watch: Watch = continue_always,
    at: Callable[[], str] = get_now,
    choice: ExportChoice = ALL,
) -> Head:
    """Export the library at one moment as one archive, completely or not at all.

    Args:
        folder: The data folder.
        target: The archive.
        watch: Called with the progress.
        at: Current time, UTC.
        choice: The contents.

    Raises:
        Missing: A chosen procedure does not exist.
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
                        head = write_archive(archive, at(), watch, KeptFiles(folder), choice)
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


def write_archive(
    archive: Writer, made_at: str, watch: Watch, files: KeptFiles, choice: ExportChoice
) -> Head:
    """Write the contents of an archive.

    Args:
        archive: The archive.
        made_at: Time of the archive, UTC.
        watch: Called with the progress.
        files: The files of runs.
        choice: The contents.

    Raises:
        Missing: A chosen procedure does not exist.
        StoreError: A record cannot be read.
    """
    ids = _list_ids(choice)
    runs, numbers, names = 0, set[int](), set[str]()
    for i, revision_id in enumerate(ids):
        (revision,) = queries.list_revisions_by_id([revision_id])
        archive.add(revision.procedure.label, revision.letter, book.procedure_text(revision))
        numbers.add(revision.procedure.number)
        runs += queries.measure_room(revision)[0]
        names |= {
            name for run in queries.list_runs(revision) for name in list_file_names(run.document)
        }
        report_progress(watch, i + 1, len(ids))
    job_count = 0
    for data in () if choice.procedures else list_archived_jobs():
        job_count += 1
        archive.add_job(job_count, _write_json(data))
    if choice.with_shop:
        archive.add_shop(shop_files.shop_text(load_shop()))
    for name in sorted(names):
        # “wisearc check” reports a missing file. The others are exported.
        if (files.folder / name).is_file():
            archive.add_file(files.folder / name)
    head = Head(
        made_at,
        len(numbers),
        len(ids),
        runs,
        {} if choice.procedures else queries.load_chosen_approaches(),
        job_count,
        shelf.load_head().name,
    )
    archive.write_head(head)
    return head


def _list_ids(choice: ExportChoice) -> list[int]:
    if not choice.procedures:
        return queries.list_ids_in_order()
    numbers = sorted({queries.parse_number(number) for number in choice.procedures})
    owners = [queries.get_procedure(f"P-{number:04d}") for number in numbers]
    return [revision.id for owner in owners for revision in queries.list_revisions(owner)]


def _write_json(data: JsonObject) -> str:
    return json.dumps(data, ensure_ascii=False, indent=2, sort_keys=True, allow_nan=False) + "\n"


def name_new_archive(folder: Path) -> Path:
    """Return an unused name for an archive in the data folder.

    Raises:
        StoreError: The folder cannot be read.
    """
    make_folder(get_copies_folder(folder))
    return find_unused_path(get_copies_folder(folder) / f"book-{format_stamp()}{SUFFIX}")
