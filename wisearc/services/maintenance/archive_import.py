"""Import of an archive, and its preview, with progress. Both can be cancelled without changes."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import ExitStack
from pathlib import Path
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from ...core.errors import InputError
from ...core.plan.approaches import check_approach
from ...core.plan.plan import Plan
from ...core.run.signature import MAX_SIGNATURES
from ...formats.archive import SHOP, Head, Reader
from ...formats.procedure_json import ProcedureFile
from ...formats.shop_json import read_shop
from ...store import jobs as store_jobs
from ...store import merging, queries, shelf, shop_keys
from ...store.copies import copy_to
from ...store.database import open_transaction
from ...store.errors import EditConflict
from ...store.folder import FILE_NAME
from ...store.models import Procedure
from ...store.opening import Store
from ..clock import get_now
from ..inventory import shop_files
from ..procedures import procedure_files, procedures
from ..procedures.judged_signatures import MATCHES, judge_file
from ..procedures.signatures import merge_signatures
from .archive_jobs import import_job
from .file_copies import list_file_names, put_file
from .long_work import (
    Watch,
    continue_always,
    make_work_folder,
    prevent_cancelling,
    report_progress,
)
from .opening import open_data

# The number of attempts to import into a library that is changed at the same time.
_TRIES = 3
# The result for a procedure of an archive.
NEW, SAME, CONFLICT = "new", "same", "conflict"


class ImportChoice(Struct, frozen=True):
    """The decisions of the user about an import.

    Attributes:
        skipped: Numbers in the archive that are not imported.
        replaced: Numbers in the archive that retire the procedure here with the same number.
        with_shop: Whether the shop here is replaced by that of the archive.
    """

    skipped: frozenset[str] = frozenset()
    replaced: frozenset[str] = frozenset()
    with_shop: bool = False


class ImportSummary(Struct, frozen=True):
    """The result of an import: numbers of procedures and jobs by result."""

    taken: int = 0
    renumbered: int = 0
    known: int = 0
    skipped: int = 0
    retired: int = 0
    jobs: int = 0
    known_jobs: int = 0
    has_shop: bool = False


class PreviewRow(Struct, frozen=True):
    """A procedure of an archive before its import.

    Attributes:
        number: Number in the archive.
        title: Title of its last revision.
        letters: Letters of its revisions.
        runs: Number of runs.
        result: "new", "same" or "conflict".
        ours: Number of the procedure here, or "".
        our_title: Title of the procedure here, or "".
        bad_signatures: Number of signatures that do not match.
        signatures: Number of signatures.
    """

    number: str
    title: str
    letters: tuple[str, ...]
    runs: int
    result: str
    ours: str = ""
    our_title: str = ""
    bad_signatures: int = 0
    signatures: int = 0


class ArchivePreview(Struct, frozen=True):
    """An archive before its import: head, procedures, and the jobs that are new or known."""

    made: str
    shop: str
    has_shop: bool
    rows: tuple[PreviewRow, ...]
    jobs: int
    files: int

    def count(self, result: str) -> int:
        """Return the number of procedures with a result."""
        return sum(row.result == result for row in self.rows)


def preview_archive(folder: Path, source: Path, watch: Watch = continue_always) -> ArchivePreview:
    """Return what an import of an archive would add, without changes.

    Args:
        folder: The data folder.
        source: The archive.
        watch: Called with the progress.

    Raises:
        InputError: The archive is not valid. The error names the entry.
    """
    moment = get_now()
    with Reader(source) as archive:
        store = open_data(folder)
        try:
            rows, done = [], 0
            for number, revisions in archive.revisions():
                rows.append(_preview_procedure(number, _check_revisions(number, revisions, moment)))
                done += len(revisions)
                report_progress(watch, done, len(archive.entries))
            return ArchivePreview(
                archive.head.made,
                archive.head.shop,
                archive.has_shop,
                tuple(rows),
                archive.head.jobs,
                len(archive.files),
            )
        finally:
            store.close()


def _preview_procedure(number: str, pending: Sequence[tuple[ProcedureFile, Any]]) -> PreviewRow:
    files = [file for file, _ in pending]
    judged = [signature for file in files for signature in judge_file(file)]
    row = PreviewRow(
        number,
        files[-1].title,
        tuple(file.letter for file in files),
        sum(len(file.runs) for file in files),
        NEW,
        signatures=len(judged),
        bad_signatures=sum(signature.result != MATCHES for signature in judged),
    )
    known = [procedure_files.find_known_revision(file) for file in files]
    if all(known) and known[-1] is not None:
        label = known[-1].procedure.label
        return replace(row, result=SAME, ours=label, our_title=known[-1].title)
    if queries.find_procedure(queries.parse_number(number)) is None:
        return row
    ours = queries.get_revision(number)
    return replace(row, result=CONFLICT, ours=number, our_title=ours.title)


def load_archived_revision(source: Path, number: str) -> tuple[ProcedureFile, Plan]:
    """Return the last revision of a procedure in an archive, with its plan.

    Args:
        source: The archive.
        number: Number in the archive.

    Raises:
        InputError: The archive does not contain it.
    """
    with Reader(source) as archive:
        names = [name for label, _, name in archive.entries if label == number]
        if not names:
            raise InputError("number", number, "is not in this archive")
        return procedure_files.check_file(archive.read(names[-1]), get_now())


def import_archive(
    folder: Path,
    source: Path,
    watch: Watch = continue_always,
    choice: ImportChoice | None = None,
) -> ImportSummary:
    """Import an archive completely, or not at all after an error.

    Procedures keep free numbers and get new ones otherwise. Known procedures are skipped, and get
    new signatures. Nothing here is replaced without a decision of the user.

    Args:
        folder: The data folder.
        source: The archive.
        watch: Called with the progress.
        choice: The decisions of the user, or None for none.

    Raises:
        InputError: The archive is not valid. The error names the entry.
        StoreError: The library cannot be written.
    """
    wanted = choice or ImportChoice()
    with Reader(source) as archive:
        # A folder without a library is an empty shop.
        open_data(folder).close()
        for tried in range(_TRIES):
            with ExitStack() as last, make_work_folder(folder) as work:
                copy_to(folder / FILE_NAME, work / FILE_NAME)
                store = Store(work)
                before = merging.read_state(work / FILE_NAME)
                summary, references = _import_procedures(archive, watch, wanted)
                store.close()
                last.enter_context(prevent_cancelling())
                try:
                    for name in sorted(references.intersection(archive.files)):
                        put_file(folder, name, lambda name=name: archive.open_file(name))  # type: ignore[misc]
                    merging.add_new(work / FILE_NAME, folder / FILE_NAME, before, summary.has_shop)
                    return summary
                except EditConflict:
                    # Another user wrote at the same time, so the result no longer fits.
                    if tried == _TRIES - 1:
                        raise
    raise AssertionError("unreachable")


def _import_procedures(
    archive: Reader, watch: Watch, choice: ImportChoice
) -> tuple[ImportSummary, set[str]]:
    """Import the contents of an archive.

    Returns:
        The summary, and the names of the files of its runs.
    """
    counts = {"taken": 0, "renumbered": 0, "known": 0, "skipped": 0, "retired": 0}
    references, numbers = set[str](), dict[str, str]()
    moment, done, runs = get_now(), 0, 0
    with open_transaction():
        is_empty = queries.is_empty() and not store_jobs.list_all()
        sender = "" if is_empty else _name_sender(archive.head)
        # Renumbered procedures come after those that keep their numbers.
        last = max((queries.parse_number(number) for number, _, _ in archive.entries), default=0)
        for number, revisions in archive.revisions():
            pending = _check_revisions(number, revisions, moment)
            if number in choice.skipped:
                counts["skipped"] += 1
            else:
                if number in choice.replaced and _retire_same_number(number, pending, moment):
                    counts["retired"] += 1
                how, label = _import_procedure(number, pending, moment, last, sender)
                numbers[number] = label
                counts[how] += 1
                references |= {
                    name
                    for file, _ in pending
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
            if is_empty:
                queries.set_approach(key, value)
        added = sum(import_job(name, archive.read(name), numbers) for name in archive.jobs)
        has_shop = archive.has_shop and (choice.with_shop or is_empty)
        if archive.has_shop:
            shop = read_shop(archive.read(SHOP))
            if has_shop:
                shop_files.replace_lists(shop)
    summary = ImportSummary(
        **counts, jobs=added, known_jobs=len(archive.jobs) - added, has_shop=has_shop
    )
    return summary, references


def _name_sender(head: Head) -> str:
    """Return the shop of an archive, or "" for this shop."""
    own_name = shelf.load_head().name
    return "" if head.shop == own_name else head.shop or "a shop without a name"


def _check_revisions(
    number: str, revisions: Sequence[Any], moment: str
) -> list[tuple[ProcedureFile, Any]]:
    """Return the checked revisions of a procedure, each with its plan.

    Raises:
        InputError: One of them is wrong, or they cannot belong to one procedure.
    """
    pending = []
    for data in revisions:
        try:
            pending.append(procedure_files.check_file(data, moment))
        except InputError as error:
            name = f"{number} {data.get('revision')}"
            raise InputError(
                f"{name}: {error.field}", error.value, error.rule, error.nearest
            ) from error
    _check_line(number, [file for file, _ in pending])
    return pending


def _retire_same_number(
    number: str, pending: Sequence[tuple[ProcedureFile, Any]], moment: str
) -> bool:
    """Retire the procedure here with a number. Return whether there was another one."""
    if all(procedure_files.find_known_revision(file) for file, _ in pending):
        return False
    if queries.find_procedure(queries.parse_number(number)) is None:
        return False
    procedures.retire_procedure(number, lambda: moment)
    return True


def _import_procedure(
    number: str,
    pending: Sequence[tuple[ProcedureFile, Any]],
    moment: str,
    last: int,
    sender: str,
) -> tuple[str, str]:
    """Import a procedure. Return the result, and its number here."""
    files = [file for file, _ in pending]
    known = [procedure_files.find_known_revision(file) for file in files]
    if all(known):
        for file, revision in zip(files, known, strict=True):
            if revision is not None:
                shop_keys.add_received(file.keys, moment)
                merge_signatures(revision, file.signatures[:MAX_SIGNATURES])
                number = revision.procedure.label
        return "known", number
    is_number_free = queries.find_procedure(queries.parse_number(number)) is None
    label = queries.parse_number(number) if is_number_free else queries.find_next_number(last)
    owner = Procedure.create(number=label, created_at=files[0].created or moment)
    for file, plan in pending:
        received = replace(file, received_from=file.received_from or sender or None)
        procedure_files.insert_revision(
            owner,
            received if is_number_free else procedure_files.renumber_file(received),
            plan,
            moment,
        )
    return ("taken" if is_number_free else "renumbered"), owner.label


def _check_line(number: str, files: Sequence[ProcedureFile]) -> None:
    """Check that revisions can belong to one procedure.

    Raises:
        InputError: They cannot.
    """
    statuses = [file.status for file in files if file.removed is None]
    for status in ("draft", "waiting", "proved"):
        if statuses.count(status) > 1:
            raise InputError(
                number,
                f"{statuses.count(status)} revisions",
                f"must have at most one that is {status}",
            )
