"""The jobs of an archive: written with references to runs, and imported with their new numbers."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from ...core.errors import InputError
from ...core.schema.json_types import Json, get_rows
from ...formats.jobs.saved_job import SavedJob, SavedTick, read_saved_job, write_saved_job
from ...store import jobs as store_jobs
from ...store import queries
from ...store.errors import Missing
from ...store.models import JobRow, JobTick


def list_archived_jobs() -> Iterator[dict[str, Json]]:
    """Yield the data of each job for an archive, in the order of creation."""
    for row in store_jobs.list_all():
        ticks = [_write_tick(tick) for tick in store_jobs.list_ticks(row.id)]
        ticks.sort(key=lambda tick: (tick.seam, tick.piece))
        yield write_saved_job(
            row.data, row.created_at, row.changed_at, row.done_at, row.removed_at, ticks
        )


def _write_tick(tick: JobTick) -> SavedTick:
    number = getattr(tick, "run_id", None)
    if number is None:
        return SavedTick(tick.seam, tick.piece, tick.at, tick.who)
    run = queries.get_any_run(number)
    return SavedTick(
        tick.seam,
        tick.piece,
        tick.at,
        tick.who,
        run.revision.procedure.label,
        run.revision.letter,
        queries.find_position(run),
    )


def import_job(name: str, data: Json, numbers: Mapping[str, str]) -> bool:
    """Import a job of an archive, unless the library has it.

    Args:
        name: Name of its entry, for errors.
        data: Its data.
        numbers: New numbers of the procedures of the archive, by their old ones.

    Returns:
        Whether it was added.

    Raises:
        InputError: The data is wrong.
    """
    try:
        saved = read_saved_job(data)
    except InputError as error:
        raise InputError(f"{name}: {error.field}", error.value, error.rule) from error
    renumbered = _renumber(saved, numbers)
    if any(
        row.data == renumbered and row.created_at == saved.created
        for row in store_jobs.list_titled(saved.job.title)
    ):
        return False
    row = JobRow.create(
        title=saved.job.title,
        data=renumbered,
        created_at=saved.created,
        changed_at=saved.changed,
        done_at=saved.done,
        removed_at=saved.removed,
    )
    for tick in saved.ticks:
        JobTick.create(
            job=row,
            seam=tick.seam,
            piece=tick.piece,
            who=tick.who,
            at=tick.at,
            run=_find_run(tick, numbers),
        )
    return True


def _renumber(saved: SavedJob, numbers: Mapping[str, str]) -> dict[str, Json]:
    """Return the data of a job with the new numbers of its procedures."""
    seams = []
    for seam in get_rows(saved.data, "seams"):
        number, _, letter = str(seam.get("procedure") or "").partition(" ")
        new = {"procedure": f"{numbers[number]} {letter}"} if number in numbers else {}
        seams.append({**seam, **new})
    return {**saved.data, **({"seams": seams} if "seams" in saved.data else {})}


def _find_run(tick: SavedTick, numbers: Mapping[str, str]) -> int | None:
    if not tick.procedure:
        return None
    label = numbers.get(tick.procedure, tick.procedure)
    try:
        runs = queries.list_runs(queries.get_revision(label, tick.revision), tick.position, 1)
    except Missing:
        return None
    return runs[0].id if runs else None
