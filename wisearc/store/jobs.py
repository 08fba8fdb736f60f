"""Jobs: rows, their changes, their ticks."""

from __future__ import annotations

from typing import Any

from ..core.schema.json_types import JsonObject
from .database import wrap_errors
from .errors import Missing
from .models import JobChange, JobRow, JobTick

# changes whose data before is kept, to be undone
UNDONE_TO = 30


def get_job(number: int) -> JobRow:
    """A job that is not put away for good. Raises Missing."""
    with wrap_errors():
        found = JobRow.get_or_none(JobRow.id == number)
    if found is None:
        raise Missing(f"There is no job {number}. Open Jobs for the list.")
    return found


def list_jobs(done: bool = False) -> list[JobRow]:
    """The jobs that are open, or those that are done, newest change first."""
    with wrap_errors():
        where = JobRow.removed_at.is_null() & JobRow.done_at.is_null(not done)
        return list(
            JobRow.select()
            .where(where)
            .order_by(JobRow.changed_at.desc(), JobRow.id.desc())
            .limit(200)
        )


def put_away() -> list[JobRow]:
    """The jobs that were put away last."""
    with wrap_errors():
        return list(
            JobRow.select()
            .where(JobRow.removed_at.is_null(False))
            .order_by(JobRow.removed_at.desc())
            .limit(5)
        )


def find_by_token(once: str) -> JobRow | None:
    """The job that a form made."""
    with wrap_errors():
        return JobRow.get_or_none(JobRow.once == once) if once else None


def make(title: str, data: JsonObject, once: str, at: str) -> JobRow:
    """A new job."""
    return JobRow.create(title=title, data=data, once=once or None, created_at=at, changed_at=at)


def put(row: JobRow, data: JsonObject, at: str) -> None:
    """A job's data changed."""
    row.data, row.title = data, str(data.get("title", ""))
    row.edit, row.changed_at = row.edit + 1, at
    row.save(only=[JobRow.data, JobRow.title, JobRow.edit, JobRow.changed_at])


def set_fields(number: int, **values: Any) -> None:
    """Set fields of a job that are no change of what is entered."""
    JobRow.update(**values).where(JobRow.id == number).execute()


def note_change(row: JobRow, **values: Any) -> JobChange:
    """Write a change down; of older ones the data before is let go."""
    made = JobChange.create(job=row, edit=row.edit, **values)
    JobChange.update(before=None).where(
        (JobChange.job == row) & (JobChange.edit <= row.edit - UNDONE_TO)
    ).execute()
    return made


def list_changes_since(number: int, edit: int) -> list[JobChange]:
    """The changes after one, oldest first."""
    with wrap_errors():
        return list(
            JobChange.select()
            .where((JobChange.job == number) & (JobChange.edit > edit))
            .order_by(JobChange.id)
        )


def find_last_change(number: int) -> JobChange | None:
    """The newest change."""
    with wrap_errors():
        newest = JobChange.select().where(JobChange.job == number).order_by(JobChange.id.desc())
        found: JobChange | None = newest.first()
        return found


def change(number: int) -> JobChange | None:
    """A change by its number."""
    with wrap_errors():
        return JobChange.get_or_none(JobChange.id == number)


def list_unsettled(number: int) -> list[JobChange]:
    """Changes that went against another and were not looked at."""
    with wrap_errors():
        found = JobChange.select().where(
            (JobChange.job == number) & JobChange.against.is_null(False) & (JobChange.settled == 0)
        )
        return list(found.order_by(JobChange.id))


def settle(number: int) -> None:
    """A change was looked at."""
    JobChange.update(settled=True).where(JobChange.id == number).execute()


def list_ticks(number: int) -> list[JobTick]:
    """Which runs of a job are done."""
    with wrap_errors():
        return list(JobTick.select().where(JobTick.job == number))


def tick(number: int, seam: str, piece: int, who: str, at: str) -> None:
    """A run is done. Twice is once."""
    JobTick.insert(
        job=number, seam=seam, piece=piece, who=who, at=at
    ).on_conflict_ignore().execute()


def remove_tick(number: int, seam: str, piece: int) -> None:
    """A run is not done."""
    JobTick.delete().where(
        (JobTick.job == number) & (JobTick.seam == seam) & (JobTick.piece == piece)
    ).execute()


def clear_ticks(number: int) -> None:
    """Begin the bench anew."""
    JobTick.delete().where(JobTick.job == number).execute()


def record_written(number: int, seam: str, piece: int, run: Any) -> None:
    """The run that a tick was written down as."""
    JobTick.update(run=run).where(
        (JobTick.job == number) & (JobTick.seam == seam) & (JobTick.piece == piece)
    ).execute()
