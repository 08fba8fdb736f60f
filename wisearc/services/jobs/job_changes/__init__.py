"""Changes of a job.

Each is a document with a text, which can be applied again after other changes, and compared with a
change of another person.
"""

from collections.abc import Mapping

from msgspec.structs import replace

from ....core.jobs.job import Job
from ....core.schema import checks
from ....core.schema.documents import read_document, write_document
from ....core.schema.json_types import Json, JsonObject
from .change import Change
from .parts import AddPart, DropPart, RenamePart, SetPart
from .seams import AddSeam, AddSeams, DropSeam, SetSeam, SetWaits
from .sequence import Move, Pin, SetHead, SetOrder

__all__ = [
    "AddPart",
    "AddSeam",
    "AddSeams",
    "Change",
    "DropPart",
    "DropSeam",
    "Move",
    "Pin",
    "RenamePart",
    "SetHead",
    "SetOrder",
    "SetPart",
    "SetSeam",
    "SetWaits",
    "apply_change",
    "change_data",
    "read_change",
]

_KINDS: Mapping[str, type[Change]] = {
    of.kind: of
    for of in (
        SetSeam,
        AddSeam,
        AddSeams,
        DropSeam,
        SetWaits,
        SetPart,
        AddPart,
        DropPart,
        RenamePart,
        SetHead,
        Move,
        Pin,
        SetOrder,
    )
}


def apply_change(change: Change, job: Job, displayed: tuple[str, ...] = ()) -> Job:
    """Return a job with a change.

    A manual order loses removed seams, and new ones are added at its end.

    Args:
        change: The change.
        job: The job.
        displayed: The displayed order.

    Raises:
        InputError: The change is not possible.
    """
    applied = change.applied(job, displayed)
    applied = replace(applied, order=_complete_order(applied))
    applied.check("")
    return applied


def _complete_order(job: Job) -> tuple[str, ...]:
    """Return the manual order with each seam once for each of its sections."""
    if not job.order:
        return ()
    left = {seam.key: seam.pieces for seam in job.seams}
    order = []
    for key in job.order:
        if left.get(key, 0):
            left[key] -= 1
            order.append(key)
    return (*order, *(key for key, count in left.items() for _ in range(count)))


def read_change(data: JsonObject) -> Change:
    """Return a change from its data.

    Raises:
        InputError: The data is wrong.
    """
    of = _KINDS[checks.name("do", data.get("do"), _KINDS)]
    return read_document(of, {k: v for k, v in data.items() if k != "do"}, document="a change")


def change_data(change: Change) -> dict[str, Json]:
    """Return the data of a change."""
    return {"do": change.kind, **write_document(change, with_defaults=True)}
