"""Jobs kept: made, taken in, changed by several at once, undone, put away, done; what of them is
ticked at the bench.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

from msgspec import Struct
from msgspec.structs import replace

from ...core.errors import InputError
from ...core.jobs.job import MAX_TITLE_LENGTH, Job, Seam, read_run_name
from ...core.jobs.job_data import job_data, make_job
from ...core.joint.joint import Joint
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
from ..procedures.procedures import get_now, keep_draft
from .job_changes import Change, SetOrder, SetSeam, apply_change, change_data, read_change

MAX_PERSON_LENGTH = 60


def open_jobs() -> list[JobRow]:
    """The jobs that are open."""
    return store.list_jobs()


def list_done_jobs() -> list[JobRow]:
    """The jobs that are done."""
    return store.list_jobs(done=True)


def put_away_jobs() -> list[JobRow]:
    """The jobs that were put away last."""
    return store.put_away()


def find(number: int) -> JobRow:
    """A job. Raises Missing."""
    return store.get_job(number)


def read_saved_job(row: JobRow) -> Job:
    """The job of a row. Raises InputError where it was spoilt."""
    return make_job(row.data)


def begin(
    title: str, once: str = "", at: Callable[[], str] = get_now, job: Job | None = None
) -> JobRow:
    """Begin a job. Twice the same form is one. Raises InputError without a title."""
    named = checks.check_line("title", title.strip(), MAX_TITLE_LENGTH)
    if not named:
        raise InputError("title", "", "is missing. Enter a name for the job, such as “Mast head”")
    data = job_data(replace(job or Job(), title=named))
    with open_transaction():
        return store.find_by_token(once) or store.make(named, data, once, at())


def import_job(raw: bytes, name: str, once: str = "", at: Callable[[], str] = get_now) -> JobRow:
    """Take a job in from its file, or from a CSV of seams. Raises InputError naming what cannot be
    taken.
    """
    text = decode_text(raw)
    title = name.rpartition(".")[0][:MAX_TITLE_LENGTH] or "Job"
    job = (
        read_job(load_json(text, "wisearc/job"))
        if text.lstrip().startswith("{")
        else read_seams(text, title)
    )
    return begin(job.title or title, once, at, job)


def copy_of(number: int, at: Callable[[], str] = get_now) -> JobRow:
    """A job made anew from another, nothing ticked."""
    row = store.get_job(number)
    return begin(f"{row.title} (again)"[:MAX_TITLE_LENGTH], "", at, read_saved_job(row))


def write_job(row: JobRow) -> dict[str, Json]:
    """The data of a job's file."""
    return write_job_file(read_saved_job(row))


def change(
    number: int,
    what: Change,
    seen: int,
    who: str = "",
    order: Sequence[str] = (),
    at: Callable[[], str] = get_now,
) -> JobChange | None:
    """Change a job.

    Parameters: seen, the edit of the page it was made on; order, as that page showed it. A change
    made on an older page is made on what stands now; where another changed the same thing
    meanwhile, both are kept and that is noted. Returns the change, None where it changes nothing.
    Raises InputError where it makes no job of it, NotAllowed for a job that is put away.
    """
    with open_transaction():
        row = store.get_job(number)
        if row.removed_at or row.done_at:
            raise NotAllowed(
                f"“{row.title}” is {'archived' if row.removed_at else 'done'}. Reopen it to "
                "change it."
            )
        later, job = store.list_changes_since(number, seen), read_saved_job(row)
        base = make_job(later[0].before) if later and later[0].before else job
        mine = what.differing(base)
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
            words=mine.words(),
            who=who[:MAX_PERSON_LENGTH],
            change=data,
            before=before,
            against=against.id if against else None,
            at=row.changed_at,
        )


class Against(Struct, frozen=True):
    """Two changes of one thing, made at once: that which stands, and the other."""

    stands: JobChange
    other: JobChange


def list_conflicts(number: int) -> list[Against]:
    """Changes of the same thing made at once that nobody has looked at."""
    found = []
    for stands in store.list_unsettled(number):
        other = store.change(int(stands.against or 0))
        if other is not None:
            found.append(Against(stands, other))
    return found


def settle(
    number: int,
    stands: int,
    take_other: bool,
    order: Sequence[str],
    who: str = "",
    at: Callable[[], str] = get_now,
) -> None:
    """Leave two changes as they stand, or take the other."""
    with open_transaction():
        one = store.change(stands)
        if one is None or getattr(one, "job_id", None) != number or one.against is None:
            return
        store.settle(stands)
        other = store.change(one.against)
        if take_other and other is not None:
            change(number, read_change(other.change), store.get_job(number).edit, who, order, at)


def undo(number: int, at: Callable[[], str] = get_now) -> str:
    """Undo the newest change. Returns it in words, "" where there is none that can be undone."""
    with open_transaction():
        row, last = store.get_job(number), store.find_last_change(number)
        if last is None or last.before is None:
            return ""
        words = str(last.words)
        store.put(row, last.before, at())
        JobChange.update(settled=True).where(JobChange.against == last.id).execute()
        last.delete_instance()
        return words


def describe_last_change(number: int) -> str:
    """The newest change that can be undone, in words."""
    last = store.find_last_change(number)
    return str(last.words) if last is not None and last.before is not None else ""


def set_standing(number: int, standing: str, at: Callable[[], str] = get_now) -> None:
    """Say that a job is "done", "open" or "away"."""
    checks.name("standing", standing, ("done", "open", "away"))
    with open_transaction():
        row = store.get_job(number)
        moment = at()
        store.set_fields(
            row.id,
            done_at=moment if standing == "done" else None,
            removed_at=moment if standing == "away" else None,
        )


def list_ticks(number: int) -> dict[tuple[str, int], JobTick]:
    """Which runs are done, by seam and piece."""
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
    """Say that a run is done, or not. The first tick holds the order as it is shown: what is worked
    by does not change by itself. Raises InputError.
    """
    with open_transaction():
        row = store.get_job(number)
        job = read_saved_job(row)
        checks.name("seam", seam, [s.key for s in job.seams])
        checks.check_number("piece", piece, 1, job.quantity)
        if not on:
            store.remove_tick(number, seam, piece)
            return
        if not job.order and order:
            change(number, SetOrder(tuple(order)), row.edit, who, at=at)
        store.tick(number, seam, piece, who[:MAX_PERSON_LENGTH], at())


def restart_bench(number: int) -> None:
    """Begin the bench anew, nothing ticked."""
    with open_transaction():
        store.clear_ticks(number)


def keep_seam(
    number: int, key: str, shop: Shop, who: str = "", at: Callable[[], str] = get_now
) -> tuple[str, str]:
    """The procedure a seam goes by, number and letter; one that goes by a joint of its own is kept
    as a draft first, with all of the job that are the same but for their names.

    Raises InputError for a seam that is not there.
    """
    with open_transaction():
        row = store.get_job(number)
        job = read_saved_job(row)
        checks.name("seam", key, [s.key for s in job.seams])
        seam = job.seam(key)
        if seam.procedure:
            label, _, letter = seam.procedure.partition(" ")
            revision = queries.get_revision(label, letter or None)
            return revision.procedure.label, str(revision.letter)
        assert seam.joint is not None
        draft = keep_draft(seam.joint, shop, at=at)
        own = _find_unnamed(seam)
        for one in job.seams:
            if one.joint is not None and _find_unnamed(one) == own:
                set_ = {
                    "procedure": draft.procedure.label,
                    "joint": None,
                    "title": one.called or one.joint.title,
                }
                change(number, SetSeam(one.key, set_), store.get_job(number).edit, who, at=at)
        return draft.procedure.label, str(draft.letter)


def _find_unnamed(seam: Seam) -> Joint | None:
    return replace(seam.joint, title="") if seam.joint is not None else None


def run_written(
    name: str, standing: Revision, who: str, at: Callable[[], str] = get_now
) -> int | None:
    """A run of a job was written down with a procedure: it is done, and names that run. Parameters:
    name, as `run_named` has it. Returns the job, None where there is none.
    """
    run = queries.find_last_run(standing)
    try:
        number, seam, piece = read_run_name(name)
    except InputError:
        # Earlier versions accepted any text.
        return None
    if run is None:
        return None
    try:
        with open_transaction():
            tick(number, seam, piece, True, who, (), at)
            store.record_written(number, seam, piece, run)
    except (InputError, StoreError):
        return None
    return number
