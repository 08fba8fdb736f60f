"""The last work: runs without a record, set-ups, procedures and jobs, each with its next step."""

from __future__ import annotations

from msgspec import Struct

from ...core.errors import InputError
from ...core.quantities import format_count
from ...store import jobs as job_rows
from ...store import listings, setups
from ...store.errors import StoreError
from ..jobs.jobs import list_ticks, read_saved_job
from ..set_up.checklists import format_subject
from ..weld_session.weld_session import list_unrecorded

# A run without a record, a procedure to set up, to weld or to open, and a job.
RUN, SET_UP, WELD, PROCEDURE, JOB = "run", "set-up", "weld", "procedure", "job"


class RecentWork(Struct, frozen=True):
    """A piece of work.

    Attributes:
        kind: What opens it.
        label: Its number or name.
        title: Its title, or "".
        state: Its state and the next step, in words.
        at: Time of its last change, UTC.
        number: Number of a run or job.
        letter: Revision letter, or "".
        going: Whether a run is still in progress.
        subject: Subject of a run, or "".
    """

    kind: str
    label: str
    title: str
    state: str
    at: str
    number: int = 0
    letter: str = ""
    going: bool = False
    subject: str = ""


def list_recent_work(maximum: int = 6) -> list[RecentWork]:
    """Return the last work, the newest first. Runs without a record come first.

    Args:
        maximum: Maximum number.
    """
    try:
        runs = [
            RecentWork(
                RUN,
                row.title,
                "",
                "run in progress" if going else "run not recorded yet",
                "",
                row.id,
                going=going,
                subject=row.what,
            )
            for row, going in list_unrecorded(2)
        ]
        others = [*_list_procedures(maximum), *_list_jobs(maximum)]
    except StoreError:
        # The page does not depend on the library.
        return []
    return [*runs, *sorted(others, key=lambda work: work.at, reverse=True)][:maximum]


def _list_procedures(maximum: int) -> list[RecentWork]:
    works = []
    for listing, changed_at in listings.list_last_used(maximum):
        subject = format_subject(listing.label, listing.letter)
        set_at = setups.set_last(subject) or ""
        if listing.runs:
            kind = PROCEDURE
            state = f"{listing.good} of {format_count(listing.runs, 'run')} good"
            state = f"verified, {state}" if listing.status == "proved" else state
        elif set_at:
            kind, state = WELD, "set up, not welded yet"
        else:
            kind, state = SET_UP, "draft, not set up yet"
        works.append(
            RecentWork(
                kind,
                f"{listing.label} {listing.letter}",
                listing.title,
                state,
                max(changed_at, set_at),
                listing.number,
                listing.letter,
            )
        )
    return works


def _list_jobs(maximum: int) -> list[RecentWork]:
    works = []
    for row in job_rows.list_jobs()[:maximum]:
        try:
            job = read_saved_job(row)
        except InputError:
            continue
        welded = sum(1 for key, _ in list_ticks(row.id) if key in {s.key for s in job.seams})
        total = len(job.seams) * job.quantity
        if not total:
            state = "no seams yet"
        elif welded:
            state = f"{welded} of {format_count(total, 'weld')} done"
        else:
            state = f"{format_count(total, 'weld')}, not started"
        title = f"{row.title} × {job.quantity}" if job.quantity > 1 else row.title
        works.append(RecentWork(JOB, title, "", state, row.changed_at, row.id))
    return works
