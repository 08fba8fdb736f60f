"""The inbox of a shop: arc logs and photographs, each matched to its run by time and machine.

A file is added to a run only when a person takes the proposal.
"""

from __future__ import annotations

import math
import os
import re
import tempfile
from collections.abc import Callable, Sequence
from datetime import UTC, datetime, timedelta
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from ...core.arc_log.arc_log import ArcLog
from ...core.errors import InputError
from ...core.run.run import MAX_PHOTOGRAPHS, ArcSummary, Photograph, StoredFile
from ...formats.arc_log.arc_csv import MAX_BYTES as MAX_LOG_BYTES
from ...formats.arc_log.arc_csv import read_arc_csv
from ...store import inbox as store_inbox
from ...store import queries, record_acts
from ...store.database import open_transaction
from ...store.errors import NotAllowed
from ...store.folder import wrap_disk_errors
from ...store.models import InboxItem, RunRow
from ..clock import get_now
from ..maintenance.long_work import Watch, continue_always, report_progress
from ..procedures.judged_signatures import is_signed_with_run
from ..procedures.library_search import list_filter_options
from ..procedures.procedures import get_plan
from .arc_logs import analyse_readings, summarise_arc
from .kept_files import KeptFiles
from .later_entries import extend_record
from .photographs import MAX_BYTES as MAX_PHOTOGRAPH_BYTES
from .photographs import convert_photograph
from .session_records import list_excursions

PHOTOGRAPH, LOG = "photograph", "log"
ATTACHED = "attached"
LOG_FIELDS, PHOTOGRAPH_FIELDS = ("arc", "arc_log", "left_band"), ("photographs",)
_PHOTOGRAPH_SUFFIXES = (".jpg", ".jpeg", ".png", ".webp")
# The origin of the time of a file.
BY_CAMERA, BY_NAME, BY_FILE = "camera", "name", "file"
# A time in a file name: 2026-05-04_10-12, 20260504T101203.
_NAMED = re.compile(
    r"(20\d\d)[-_.]?(\d\d)[-_.]?(\d\d)[T _-]?(\d\d)[-_.:h]?(\d\d)(?:[-_.:]?(\d\d))?(?!\d)"
)
_EXIF_TAKEN, _EXIF_CHANGED, _EXIF_IFD = 0x9003, 0x0132, 0x8769
# Estimates. A run is recorded within minutes of its last photograph; half of the certainty is gone
# after this time.
_HALF_TIME_MIN = 30.0
_WINDOW = timedelta(hours=20)
_MAX_CANDIDATES = 200
_TIME_WEIGHT, _MACHINE_WEIGHT, _ARC_WEIGHT = 0.5, 0.25, 0.25
_ARC_SHARE = 0.1
MIN_SCORE, MIN_LEAD = 0.45, 0.08
MAX_CHOICES = 12
MAX_FILES, MAX_NAME_LENGTH = 500, 200


class Match(Struct, frozen=True):
    """A run that could belong to a file: score 0 to 1, and why as clauses."""

    run: RunRow
    score: float
    reasons: tuple[str, ...]

    @property
    def label(self) -> str:
        """Return the run as text."""
        revision = self.run.revision
        who = str(self.run.record.get("who", ""))
        return f"{revision.procedure.label} {revision.letter}, {self.run.made_on}, {who}"


class Proposal(Struct, frozen=True):
    """A waiting file with its best run, or None if no run is clearly the best, and other runs."""

    item: InboxItem
    best: Match | None
    others: tuple[Match, ...]


class Received(Struct, frozen=True):
    """The result of received files: added, already there, and refused with their reasons."""

    added: int
    known: int
    refused: tuple[str, ...]


# A page saves each sent file in a separate folder, because two can have the same name.
_UPLOADED = re.compile(r"^sent-\d+/")


def get_upload_folder(place: Path, number: int) -> Path:
    """Return the folder of a sent file. It is not part of the name of the file.

    Args:
        place: The folder for `receive_folder`.
        number: Number of the file.
    """
    return place / f"sent-{number}"


def receive_folder(
    folder: Path, data: Path, watch: Watch = continue_always, at: Callable[[], str] = get_now
) -> Received:
    """Add the arc logs and photographs of a folder to the inbox.

    Args:
        folder: The folder, with its subfolders.
        data: The data folder.
        watch: Called with the progress.
        at: Current time, UTC.

    Raises:
        InputError: The folder is missing or has too many files.
        StoreError: A file cannot be saved.
    """
    if not folder.is_dir():
        raise InputError("folder", folder.name, "is not a folder. Give the folder with the files")
    paths = sorted(path for path in folder.rglob("*") if path.is_file())
    if len(paths) > MAX_FILES:
        rule = f"has {len(paths)} files. At most {MAX_FILES} can be added at once"
        raise InputError("folder", folder.name, rule)
    files, machines = KeptFiles(data), list_filter_options("machine")
    added, known, refused = 0, 0, []
    for i, path in enumerate(paths):
        name = _UPLOADED.sub("", path.relative_to(folder).as_posix())
        try:
            if _receive(path, name, files, machines, at):
                added += 1
            else:
                known += 1
        except InputError as error:
            refused.append(f"{name[-80:]} {error.rule}.")
        report_progress(watch, i + 1, len(paths))
    return Received(added, known, tuple(refused))


def _receive(
    path: Path, name: str, files: KeptFiles, machines: Sequence[str], at: Callable[[], str]
) -> bool:
    """Add a file, and return whether it is new."""
    suffix = path.suffix.lower()
    if suffix in _PHOTOGRAPH_SUFFIXES:
        if path.stat().st_size > MAX_PHOTOGRAPH_BYTES:
            raise InputError("file", name, "exceeds the maximum of a photograph")
        data = path.read_bytes()
        taken = _read_camera_time(data)
        sha256 = files.put_photograph(convert_photograph(path.name, data))
        arc_s, kind = None, PHOTOGRAPH
    elif suffix == ".csv":
        if path.stat().st_size > MAX_LOG_BYTES:
            raise InputError("file", name, "exceeds the maximum of an arc log")
        log = _analyse(path)
        taken = None
        sha256, arc_s, kind = files.put_log(path), round(log.seam_arc_s, 1), LOG
    else:
        raise InputError("file", name, "is not a photograph or an arc log (.csv)")
    moment, known_by = _find_time(path, name, taken)
    with open_transaction():
        if store_inbox.has_file(sha256):
            return False
        InboxItem.create(
            kind=kind,
            name=name[-MAX_NAME_LENGTH:],
            sha256=sha256,
            taken_at=moment,
            known_by=known_by,
            machine=_find_machine(name, machines),
            arc_s=arc_s,
            added_at=at(),
        )
    return True


def _analyse(path: Path) -> ArcLog:
    with wrap_disk_errors(), tempfile.TemporaryDirectory() as columns:
        return analyse_readings(read_arc_csv(path, None, Path(columns)), None, None)


def _read_camera_time(data: bytes) -> datetime | None:
    """Return the time at which a camera took a photograph, by its own clock, or None."""
    import io

    from PIL import Image

    try:
        exif = Image.open(io.BytesIO(data)).getexif()
        text = exif.get_ifd(_EXIF_IFD).get(_EXIF_TAKEN) or exif.get(_EXIF_CHANGED)
        return datetime.strptime(str(text), "%Y:%m:%d %H:%M:%S").astimezone()
    except (OSError, ValueError, SyntaxError, KeyError, TypeError):
        return None


def _find_time(path: Path, name: str, taken: datetime | None) -> tuple[str, str]:
    """Return the time of a file, UTC, and its origin: camera, name or file system."""
    if taken is not None:
        return _format(taken), BY_CAMERA
    if match := _NAMED.search(name):
        try:
            year, month, day, hour, minute = (int(match[i]) for i in range(1, 6))
            named = datetime(year, month, day, hour, minute, int(match[6] or 0)).astimezone()
            return _format(named), BY_NAME
        except ValueError:
            pass
    return _format(datetime.fromtimestamp(path.stat().st_mtime, UTC)), BY_FILE


def _format(moment: datetime) -> str:
    return moment.astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


def _find_machine(name: str, machines: Sequence[str]) -> str:
    """Return the machine that a path names, or ""."""
    plain = _normalise(name)
    named = [machine for machine in machines if machine and _normalise(machine) in plain]
    return max(named, key=len, default="")


def _normalise(text: str) -> str:
    return re.sub(r"[^a-z0-9]+", "", text.lower())


def list_proposals() -> list[Proposal]:
    """Return the waiting files, each with the run that it probably belongs to."""
    return [_propose(item) for item in store_inbox.list_waiting()]


def count_waiting() -> int:
    """Return the number of waiting files."""
    return store_inbox.count_waiting()


def _propose(item: InboxItem) -> Proposal:
    taken = datetime.fromisoformat(item.taken_at)
    runs = store_inbox.list_runs_between(
        _format(taken - _WINDOW), _format(taken + _WINDOW), _MAX_CANDIDATES
    )
    matches = [match for run in runs if (match := _measure(item, taken, run)) is not None]
    matches.sort(key=lambda match: match.score, reverse=True)
    best = matches[0] if matches and matches[0].score >= MIN_SCORE else None
    if best and len(matches) > 1 and best.score - matches[1].score < MIN_LEAD:
        best = None
    others = tuple(match for match in matches if match is not best)[:MAX_CHOICES]
    return Proposal(item, best, others)


def _measure(item: InboxItem, taken: datetime, run: RunRow) -> Match | None:
    document = run.document
    if item.kind == LOG and document.arc_log is not None:
        return None
    minutes = abs((datetime.fromisoformat(run.kept_at) - taken).total_seconds()) / 60
    score = _TIME_WEIGHT * 0.5 ** (minutes / _HALF_TIME_MIN)
    total = _TIME_WEIGHT
    reasons = [f"recorded {_format_minutes(minutes)} apart"]
    if item.machine and document.machine:
        is_same = _normalise(item.machine) == _normalise(document.machine)
        total += _MACHINE_WEIGHT
        score += _MACHINE_WEIGHT * is_same
        reasons.append("same machine" if is_same else f"another machine, {document.machine}")
    arc_s = document.measured.arc_time_s
    if item.arc_s and arc_s:
        is_same = abs(math.log(item.arc_s / arc_s)) <= _ARC_SHARE
        total += _ARC_WEIGHT
        score += _ARC_WEIGHT * is_same
        reasons.append("same arc time" if is_same else f"another arc time, {arc_s:.0f} s")
    return Match(run, score / total, tuple(reasons))


def _format_minutes(minutes: float) -> str:
    if minutes < 1.5:
        return "a minute"
    return f"{minutes:.0f} min" if minutes < 90 else f"{minutes / 60:.0f} h"


def take_item(
    number: int, run_number: int, files: KeptFiles, at: Callable[[], str] = get_now
) -> RunRow:
    """Add a waiting file to a run.

    Args:
        number: Number of the file.
        run_number: Number of the run.
        files: The files of runs.
        at: Current time, UTC.

    Raises:
        NotAllowed: The run is void, full or signed, has a log, or the file has another run.
        StoreError: The file cannot be read.
    """
    item = store_inbox.get_item(number)
    run = queries.get_any_run(run_number)
    log = _read_log(item, run, files) if item.kind == LOG else None
    with open_transaction():
        item = store_inbox.get_item(number)
        if item.run is not None:
            if item.run.id == run_number:
                return run
            raise NotAllowed("This file already belongs to another run. Undo that first.")
        run = queries.get_any_run(run_number)
        if run.voided_at:
            raise NotAllowed("This run is void. Choose another run.")
        if is_signed_with_run(run.revision, run):
            raise NotAllowed(
                "This run was signed, and a file would change the signed content. Choose another"
                " run, or remove the file."
            )
        before, document = run.record, run.document
        name = Path(item.name).name[-120:]
        if log is None:
            if len(document.photographs) >= MAX_PHOTOGRAPHS:
                raise NotAllowed(f"This run has {MAX_PHOTOGRAPHS} photographs, the maximum.")
            photographs = (*document.photographs, Photograph(name, item.sha256))
            extend_record(run, replace(document, photographs=photographs), PHOTOGRAPH_FIELDS)
        else:
            if document.arc_log is not None:
                raise NotAllowed("This run has an arc log already. Choose another run.")
            extended = replace(
                document,
                arc=summarise_arc(document.arc or ArcSummary(by="log"), log),
                arc_log=StoredFile(name, item.sha256),
                left_band=list_excursions(log),
            )
            extend_record(run, extended, LOG_FIELDS)
        item.run, item.dropped_at = run, None
        item.save(only=[InboxItem.run, InboxItem.dropped_at])
        name = "Photograph" if log is None else "Arc log"
        text = f"{name} was added to the run of {run.made_on}."
        record_acts.add_act(ATTACHED, run.revision, text, at(), run, before)
        return run


def _read_log(item: InboxItem, run: RunRow, files: KeptFiles) -> ArcLog:
    plan = get_plan(run.revision)
    with wrap_disk_errors(), tempfile.TemporaryDirectory() as work:
        path = Path(work) / "log.csv"
        files.unpack(item.sha256, path)
        return analyse_readings(read_arc_csv(path, None, Path(work)), plan, run.revision.bands)


def drop_item(number: int, at: Callable[[], str] = get_now) -> InboxItem:
    """Remove a file from the inbox. It can be restored for a day.

    Args:
        number: Number of the file.
        at: Current time, UTC.
    """
    with open_transaction():
        item = store_inbox.get_item(number)
        item.dropped_at = at()
        item.save(only=[InboxItem.dropped_at])
        return item


def restore_item(number: int) -> InboxItem:
    """Restore a removed file.

    Args:
        number: Number of the file.

    Raises:
        NotAllowed: The same file waits already.
    """
    with open_transaction():
        item = store_inbox.get_item(number)
        if store_inbox.has_file(item.sha256):
            raise NotAllowed("The same file is in the inbox already.")
        item.dropped_at = None
        item.save(only=[InboxItem.dropped_at])
        return item


def release_items(run: RunRow, sha256s: Sequence[str]) -> None:
    """Return files of a run to the inbox, after an undo.

    Args:
        run: The run.
        sha256s: The files that the run has no more.
    """
    for sha256 in sha256s:
        InboxItem.update(run=None).where(
            (InboxItem.run == run) & (InboxItem.sha256 == sha256)
        ).execute()


def set_file_time(path: Path, modified_ms: float) -> None:
    """Set the time of an uploaded file to that of its original.

    Args:
        path: The file.
        modified_ms: Time of the last change, ms since 1970.
    """
    if math.isfinite(modified_ms) and 0 < modified_ms < 4e12:
        os.utime(path, (modified_ms / 1000, modified_ms / 1000))
