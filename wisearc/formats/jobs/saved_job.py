"""A job of an archive: its data with its dates and its finished runs."""

import re
from typing import Annotated, Any

from msgspec import Struct

from ...core.errors import InputError
from ...core.jobs.job import Job
from ...core.jobs.job_data import make_job
from ...core.schema import checks
from ...core.schema.documents import read_document, write_document
from ...core.schema.entries import Entry
from ...core.schema.json_types import Json, JsonObject
from ..declared import check_keys
from ..joint_json import check_head
from ..procedure_json import LETTER, NUMBER

FORMAT, VERSION = "wisearc/saved-job", 1
_KEYS = ("job", "created", "changed", "done", "removed", "ticks")
MAX_TICKS, MAX_KEY, MAX_WHO, MAX_PIECE, MAX_POSITION = 20_000, 80, 60, 10_000, 100_000


class SavedTick(Struct, frozen=True):
    """A finished run of a job: seam, piece, person, time, and its recorded run or "" for none.

    `position` is that of the run among those of its revision, from 0.
    """

    seam: Annotated[str, Entry("text", high=MAX_KEY, required=True)]
    piece: Annotated[int, Entry("count", low=1, high=MAX_PIECE, required=True)]
    at: Annotated[str, Entry("moment", required=True)]
    who: Annotated[str, Entry("text", high=MAX_WHO)] = ""
    procedure: Annotated[str, Entry("text", high=20)] = ""
    revision: Annotated[str, Entry("text", high=4)] = ""
    position: Annotated[int, Entry("count", low=0, high=MAX_POSITION)] = 0


class SavedJob(Struct, frozen=True):
    """A job of an archive: data as stored, the parsed job, dates and ticks."""

    data: JsonObject
    job: Job
    created: str
    changed: str
    done: str | None
    removed: str | None
    ticks: tuple[SavedTick, ...]


def write_saved_job(
    data: JsonObject,
    created: str,
    changed: str,
    done: str | None,
    removed: str | None,
    ticks: list[SavedTick],
) -> dict[str, Json]:
    """Return the data of a job for an archive.

    Args:
        data: The job as stored.
        created: Time of its creation.
        changed: Time of its last change.
        done: Time at which it was finished, or None.
        removed: Time at which it was archived, or None.
        ticks: Its finished runs.
    """
    return {
        "format": FORMAT,
        "version": VERSION,
        "job": data,
        "created": created,
        "changed": changed,
        "done": done,
        "removed": removed,
        "ticks": [write_document(tick) for tick in ticks],
    }


def read_saved_job(data: Any) -> SavedJob:
    """Parse a job of an archive.

    Raises:
        InputError: A value is wrong.
    """
    check_head(data, FORMAT)
    check_keys(data, ("format", "version", *_KEYS), "")
    stored = checks.check_mapping("job", data["job"])
    rows = checks.check_rows("ticks", data["ticks"], MAX_TICKS)
    ticks = tuple(read_document(SavedTick, row, f"ticks[{i}]") for i, row in enumerate(rows))
    for i, tick in enumerate(ticks):
        if tick.procedure and not _is_reference(tick):
            rule = "must name a procedure such as P-0003 and a revision such as A"
            raise InputError(f"ticks[{i}].procedure", tick.procedure, rule)
    done, removed = (
        None if data[key] is None else checks.check_moment(key, data[key])
        for key in ("done", "removed")
    )
    return SavedJob(
        stored,
        make_job(stored),
        checks.check_moment("created", data["created"]),
        checks.check_moment("changed", data["changed"]),
        done,
        removed,
        ticks,
    )


def _is_reference(tick: SavedTick) -> bool:
    return bool(re.fullmatch(NUMBER, tick.procedure) and re.fullmatch(LETTER, tick.revision))
