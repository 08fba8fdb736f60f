"""Jobs.

Creation, import, changes by several people, undo, archive, completion, and ticks at the bench.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

from msgspec import Struct
from msgspec.structs import replace

from ...core.errors import InputError
from ...core.jobs.job import (
    MAX_TITLE_LENGTH,
    Job,
    Seam,
    find_section_key,
    name_sections,
    read_run_name,
)
from ...core.jobs.job_data import job_data, make_job
from ...core.jobs.order import CHECK, TACK, WELDS
from ...core.joint.joint import Joint
from ...core.run.run import MAX_NAME
from ...core.schema import checks
from ...core.schema.json_types import Json
from ...core.shop.shop import Shop
from ...formats.jobs.job_csv import read_seams
from ...formats.jobs.job_json import read_job, write_job_file
from ...formats.joint_json import load_json
from ...formats.shop_json import decode_text
from ...store import jobs as store
from ...store import queries
from ...store.database import open_transaction
from ...store.errors import NotAllowed, StoreError
from ...store.models import JobChange, JobRow, JobTick, Revision
from ..clock import get_now
from ..procedures.procedures import keep_draft
from .job_changes import Change, SetOrder, SetSeam, apply_change, change_data, read_change


def open_jobs() -> list[JobRow]:
    """Return the open jobs."""
    return store.list_jobs()


def list_done_jobs() -> list[JobRow]:
    """Return the finished jobs."""
    return store.list_jobs(done=True)


def list_archived() -> list[JobRow]:
    """Return the last archived jobs."""
    return store.list_archived()


def find(number: int) -> JobRow:
    """Return a job.

    Raises:
        Missing: The job does not exist.
    """
    return store.get_job(number)


def read_saved_job(row: JobRow) -> Job:
    """Return the parsed job of a row.

    Raises:
        InputError: It is damaged.
    """
    return make_job(row.data)


def begin(
    title: str, once: str = "", at: Callable[[], str] = get_now, job: Job | None = None
) -> JobRow:
    """Create a job.

    A repeated form creates one job.

    Args:
        title: The title.
        once: Token of the form.
        at: Current time, UTC.
        job: The contents, or None for an empty job.

    Raises:
        InputError: The title is missing.
    """
    named = checks.check_line("title", title.strip(), MAX_TITLE_LENGTH)
    if not named:
        raise InputError("title", "", "is missing. Enter a name for the job, such as “Mast head”")
    data = job_data(replace(job or Job(), title=named))
    with open_transaction():
        return store.find_by_token(once) or store.make(named, data, once, at())


def import_job(raw: bytes, name: str, once: str = "", at: Callable[[], str] = get_now) -> JobRow:
    """Import a job from its file or from a CSV of seams.

    Args:
        raw: The file.
        name: Its name.
        once: Token of the form.
        at: Current time, UTC.

    Raises:
        InputError: The file is wrong. The error names the place.
    """
    text = decode_text(raw)
    title = name.rpartition(".")[0][:MAX_TITLE_LENGTH] or "Job"
    job = (
        read_job(load_json(text, "wisearc/job"))
        if text.lstrip().startswith("{")
        else read_seams(text, title)
    )
    return begin(job.title or title, once, at, job)


def copy_job(number: int, at: Callable[[], str] = get_now) -> JobRow:
    """Return a copy of a job without ticks.

    Args:
        number: The job.
        at: Current time, UTC.
    """
    row = store.get_job(number)
    return begin(f"{row.title} (again)"[:MAX_TITLE_LENGTH], "", at, read_saved_job(row))


def write_job(row: JobRow) -> dict[str, Json]:
    """Return the data of the job file."""
    return write_job_file(read_saved_job(row))


def change(
    number: int,
    job_change: Change,
    page_edit: int,
    who: str = "",
    order: Sequence[str] = (),
    at: Callable[[], str] = get_now,
) -> JobChange | None:
    """Change a job.

    A change from an older page is applied to the present job. If another person changed the same
    thing, both changes are saved as a conflict.

    Args:
        number: The job.
        job_change: The change.
        page_edit: The edit number of its page.
        who: Initials of the person.
        order: The order on its page.
        at: Current time, UTC.

    Returns:
        The change, or None without effect.

    Raises:
        InputError: The result is no valid job.
        NotAllowed: The job is archived.
    """
    with open_transaction():
        row = store.get_job(number)
        if row.removed_at or row.done_at:
            raise NotAllowed(
                f"“{row.title}” is {'archived' if row.removed_at else 'done'}. Reopen it to "
                "change it."
            )
        later, job = store.list_changes_since(number, page_edit), read_saved_job(row)
        base = make_job(later[0].before) if later and later[0].before else job
        mine = job_change.differing(base)
        after = job if mine is None else apply_change(mine, job, tuple(order))
        if mine is None or after == job:
            return None
        subjects, data, before = mine.subjects(), change_data(mine), row.data
        other = (
            c
            for c in reversed(later)
            if set(subjects) & set(c.subject.split("\n")) and c.change != data
        )
        against = next(other, None)
        store.put(row, job_data(after), at())
        return store.note_change(
            row,
            subject="\n".join(sorted(subjects)),
            words=mine.describe(),
            who=who[:MAX_NAME],
            change=data,
            before=before,
            against=against.id if against else None,
            at=row.changed_at,
        )


class Against(Struct, frozen=True):
    """A conflict: the change in effect, and the other one."""

    stands: JobChange
    other: JobChange


def list_conflicts(number: int) -> list[Against]:
    """Return the open conflicts."""
    conflicts = []
    for applied_change in store.list_open_conflicts(number):
        other = store.change(int(applied_change.against or 0))
        if other is not None:
            conflicts.append(Against(applied_change, other))
    return conflicts


def settle(
    number: int,
    applied_number: int,
    take_other: bool,
    order: Sequence[str],
    who: str = "",
    at: Callable[[], str] = get_now,
) -> None:
    """Settle a conflict.

    Args:
        number: The job.
        applied_number: Number of the change in effect.
        take_other: Whether to apply the other change.
        order: The order on the page.
        who: Initials of the person.
        at: Current time, UTC.
    """
    with open_transaction():
        change_row = store.change(applied_number)
        if (
            change_row is None
            or getattr(change_row, "job_id", None) != number
            or change_row.against is None
        ):
            return
        store.settle(applied_number)
        other = store.change(change_row.against)
        if take_other and other is not None:
            change(number, read_change(other.change), store.get_job(number).edit, who, order, at)


def undo(number: int, at: Callable[[], str] = get_now) -> str:
    """Undo the newest change, and return its text, or "" without one.

    Args:
        number: The job.
        at: Current time, UTC.
    """
    with open_transaction():
        row, last = store.get_job(number), store.find_last_change(number)
        if last is None or last.before is None:
            return ""
        text = str(last.words)
        store.put(row, last.before, at())
        JobChange.update(settled=True).where(JobChange.against == last.id).execute()
        last.delete_instance()
        return text


def describe_last_change(number: int) -> str:
    """Return the text of the newest change that can be undone."""
    last = store.find_last_change(number)
    return str(last.words) if last is not None and last.before is not None else ""


def set_state(number: int, state: str, at: Callable[[], str] = get_now) -> None:
    """Set the state of a job.

    Args:
        number: The job.
        state: "done", "open" or "away".
        at: Current time, UTC.
    """
    checks.name("standing", state, ("done", "open", "away"))
    with open_transaction():
        row = store.get_job(number)
        moment = at()
        store.set_fields(
            row.id,
            done_at=moment if state == "done" else None,
            removed_at=moment if state == "away" else None,
        )


def list_ticks(number: int) -> dict[tuple[str, int], JobTick]:
    """Return the finished runs by seam and piece."""
    return {(t.seam, t.piece): t for t in store.list_ticks(number)}


def tick(
    number: int,
    seam: str,
    piece: int,
    on: bool,
    who: str,
    order: Sequence[str],
    at: Callable[[], str] = get_now,
) -> None:
    """Tick or untick a run.

    The first tick fixes the displayed order, because the working order must not change by itself.

    Args:
        number: The job.
        seam: The seam.
        piece: The piece.
        on: Whether it is finished.
        who: Initials of the person.
        order: The displayed order.
        at: Current time, UTC.

    Raises:
        InputError: The run does not exist.
    """
    with open_transaction():
        row = store.get_job(number)
        job = read_saved_job(row)
        checks.name("seam", seam, list_bench_lines(job))
        checks.check_number("piece", piece, 1, job.quantity)
        if not on:
            store.remove_tick(number, seam, piece)
            return
        if not job.order and order:
            change(number, SetOrder(tuple(order)), row.edit, who, at=at)
        store.tick(number, seam, piece, who[:MAX_NAME], at())


def name_bench_line(kind: str, name: str) -> str:
    """Return the name of a bench line of a job.

    Args:
        kind: Kind of step.
        name: Seam, or name of its section.
    """
    return name if kind in WELDS else f"{kind} {name}"


def list_bench_lines(job: Job) -> list[str]:
    """Return the names of the bench lines of one piece: welds, and tacks with their checks."""
    keys = [seam.key for seam in job.seams]
    welds = name_sections(job, [seam.key for seam in job.seams for _ in range(seam.pieces)])
    tacks = [name_bench_line(kind, key) for kind in (TACK, CHECK) for key in keys]
    return [*welds, *(tacks if job.tack_up else ())]


def restart_bench(number: int) -> None:
    """Remove all ticks."""
    with open_transaction():
        store.clear_ticks(number)


def keep_seam(
    number: int, key: str, shop: Shop, who: str = "", at: Callable[[], str] = get_now
) -> tuple[str, str]:
    """Return the procedure of a seam, number and letter.

    A seam with a joint is first saved as a draft, with all equal seams of the job.

    Args:
        number: The job.
        key: The seam.
        shop: The shop.
        who: Initials of the person.
        at: Current time, UTC.

    Raises:
        InputError: The seam does not exist.
    """
    with open_transaction():
        row = store.get_job(number)
        job = read_saved_job(row)
        key = find_section_key(job, key)
        checks.name("seam", key, [s.key for s in job.seams])
        seam = job.seam(key)
        if seam.procedure:
            label, _, letter = seam.procedure.partition(" ")
            revision = queries.get_revision(label, letter or None)
            return revision.procedure.label, str(revision.letter)
        assert seam.joint is not None
        draft = keep_draft(seam.joint, shop, at=at)
        saved = _find_unnamed(seam)
        for known_seam in job.seams:
            if known_seam.joint is not None and _find_unnamed(known_seam) == saved:
                set_ = {
                    "procedure": draft.procedure.label,
                    "joint": None,
                    "title": known_seam.called or known_seam.joint.title,
                }
                change(
                    number, SetSeam(known_seam.key, set_), store.get_job(number).edit, who, at=at
                )
        return draft.procedure.label, str(draft.letter)


def _find_unnamed(seam: Seam) -> Joint | None:
    return replace(seam.joint, title="") if seam.joint is not None else None


def run_written(
    name: str, revision: Revision, who: str, at: Callable[[], str] = get_now
) -> int | None:
    """Mark a run of a job as finished after its record in a procedure, and return the job or None.

    Args:
        name: Name of the run, from `run_named`.
        revision: The revision.
        who: Initials of the person.
        at: Current time, UTC.
    """
    try:
        number, seam, piece = read_run_name(name)
    except InputError:
        # Earlier versions accepted any text.
        return None
    run = queries.find_last_run(revision)
    if run is None:
        return None
    try:
        with open_transaction():
            tick(number, seam, piece, True, who, (), at)
            store.record_written(number, seam, piece, run)
    except (InputError, StoreError):
        return None
    return number
