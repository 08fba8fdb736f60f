"""Jobs: rows, changes, ticks."""

from __future__ import annotations

from typing import Any

from ..core.schema.json_types import JsonObject
from .database import execute, wrap_errors
from .errors import Missing
from .models import JobChange, JobRow, JobTick

# The number of changes with earlier data, for undo.
UNDONE_TO = 30


def get_job(number: int) -> JobRow:
    """Return a job that is not deleted."""
    with wrap_errors():
        row = JobRow.get_or_none(JobRow.id == number)
    if row is None:
        raise Missing(f"There is no job {number}. Open Jobs for the list.")
    return row


def list_all() -> list[JobRow]:
    """Return every job, also archived ones, in the order of creation."""
    with wrap_errors():
        return list(JobRow.select().order_by(JobRow.created_at, JobRow.id))


def list_titled(title: str) -> list[JobRow]:
    """Return the jobs with a title, also archived ones."""
    with wrap_errors():
        return list(JobRow.select().where(JobRow.title == title))


def list_jobs(done: bool = False) -> list[JobRow]:
    """Return the open or the finished jobs, last changed first."""
    with wrap_errors():
        where = JobRow.removed_at.is_null() & JobRow.done_at.is_null(not done)
        return list(
            JobRow.select()
            .where(where)
            .order_by(JobRow.changed_at.desc(), JobRow.id.desc())
            .limit(200)
        )


def list_users(label: str, letter: str) -> list[JobRow]:
    """Return the jobs that weld a revision, last changed first.

    Args:
        label: Procedure number.
        letter: Revision letter.
    """
    with wrap_errors():
        ids = [
            row[0]
            for row in execute("SELECT job_id FROM job_use WHERE label = ?", (f"{label} {letter}",))
        ]
        active = (JobRow.id << ids) & JobRow.removed_at.is_null()
        return list(JobRow.select().where(active).order_by(JobRow.changed_at.desc()))


def list_archived() -> list[JobRow]:
    """Return the last archived jobs."""
    with wrap_errors():
        return list(
            JobRow.select()
            .where(JobRow.removed_at.is_null(False))
            .order_by(JobRow.removed_at.desc())
            .limit(5)
        )


def find_by_token(once: str) -> JobRow | None:
    """Return the job of a form token."""
    with wrap_errors():
        return JobRow.get_or_none(JobRow.once == once) if once else None


def make(title: str, data: JsonObject, once: str, at: str) -> JobRow:
    """Create a job.

    Args:
        title: The title.
        data: The job data.
        once: Token of the form.
        at: Current time, UTC.
    """
    return JobRow.create(title=title, data=data, once=once or None, created_at=at, changed_at=at)


def put(row: JobRow, data: JsonObject, at: str) -> None:
    """Save changed data of a job.

    Args:
        row: The job.
        data: The job data.
        at: Current time, UTC.
    """
    row.data, row.title = data, str(data.get("title", ""))
    row.edit, row.changed_at = row.edit + 1, at
    row.save(only=[JobRow.data, JobRow.title, JobRow.edit, JobRow.changed_at])


def set_fields(number: int, **values: Any) -> None:
    """Set fields of a job outside its data."""
    JobRow.update(**values).where(JobRow.id == number).execute()


def note_change(row: JobRow, **values: Any) -> JobChange:
    """Record a change.

    The earlier data of old changes is deleted.
    """
    change = JobChange.create(job=row, edit=row.edit, **values)
    JobChange.update(before=None).where(
        (JobChange.job == row) & (JobChange.edit <= row.edit - UNDONE_TO)
    ).execute()
    return change


def list_changes_since(number: int, edit: int) -> list[JobChange]:
    """Return the changes after an edit number, oldest first.

    Args:
        number: The job.
        edit: The edit number.
    """
    with wrap_errors():
        return list(
            JobChange.select()
            .where((JobChange.job == number) & (JobChange.edit > edit))
            .order_by(JobChange.id)
        )


def find_last_change(number: int) -> JobChange | None:
    """Return the newest change."""
    with wrap_errors():
        newest = JobChange.select().where(JobChange.job == number).order_by(JobChange.id.desc())
        change: JobChange | None = newest.first()
        return change


def change(number: int) -> JobChange | None:
    """Return a change by its number."""
    with wrap_errors():
        return JobChange.get_or_none(JobChange.id == number)


def list_open_conflicts(number: int) -> list[JobChange]:
    """Return the open conflicts."""
    with wrap_errors():
        changes = JobChange.select().where(
            (JobChange.job == number) & JobChange.against.is_null(False) & (JobChange.settled == 0)
        )
        return list(changes.order_by(JobChange.id))


def settle(number: int) -> None:
    """Mark a conflict as settled."""
    JobChange.update(settled=True).where(JobChange.id == number).execute()


def list_ticks(number: int) -> list[JobTick]:
    """Return the finished runs of a job."""
    with wrap_errors():
        return list(JobTick.select().where(JobTick.job == number))


def tick(number: int, seam: str, piece: int, who: str, at: str) -> None:
    """Record a finished run, once.

    Args:
        number: The job.
        seam: The seam.
        piece: The piece.
        who: Initials of the person.
        at: Current time, UTC.
    """
    JobTick.insert(
        job=number, seam=seam, piece=piece, who=who, at=at
    ).on_conflict_ignore().execute()


def remove_tick(number: int, seam: str, piece: int) -> None:
    """Remove the tick of a run.

    Args:
        number: The job.
        seam: The seam.
        piece: The piece.
    """
    JobTick.delete().where(
        (JobTick.job == number) & (JobTick.seam == seam) & (JobTick.piece == piece)
    ).execute()


def clear_ticks(number: int) -> None:
    """Remove all ticks."""
    JobTick.delete().where(JobTick.job == number).execute()


def record_written(number: int, seam: str, piece: int, run: Any) -> None:
    """Save the recorded run of a tick.

    Args:
        number: The job.
        seam: The seam.
        piece: The piece.
        run: The run.
    """
    JobTick.update(run=run).where(
        (JobTick.job == number) & (JobTick.seam == seam) & (JobTick.piece == piece)
    ).execute()
