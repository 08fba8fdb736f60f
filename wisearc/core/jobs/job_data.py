"""A job ↔ plain data, by its declarations."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from ..errors import InputError
from ..schema import checks
from ..schema.documents import read_document, write_document
from ..schema.json_types import Json
from .job import MAX_SEAMS, Job, Seam

# what says nothing where it is empty
_EMPTY: tuple[Json, ...] = (None, "", [], {})


def make_job(data: Any) -> Job:
    """A job from plain data; where it lists no parts, they are those that its seams join. Raises
    InputError naming the key, its value and what is allowed.
    """
    found = checks.check_mapping("job", data)
    rows = found.get("seams")
    if isinstance(rows, list) and len(rows) > MAX_SEAMS:
        words = (
            f"exceed the maximum of one job ({MAX_SEAMS}). Make each sub-assembly a "
            "separate job, and one for the joints between them"
        )
        raise InputError("seams", f"{len(rows)} seams", words)
    if found.get("parts") is None:
        found = {**found, "parts": _list_joined_parts(rows)}
    return read_document(Job, found, what="a job")


def _list_joined_parts(rows: Any) -> list[str]:
    """The parts that seams name, where a file lists none."""
    seams = [row for row in rows if isinstance(row, Mapping)] if isinstance(rows, list) else []
    joins = (row.get("joins") for row in seams)
    named = (part for parts in joins if isinstance(parts, list) for part in parts)
    return list(dict.fromkeys(part for part in named if isinstance(part, str)))


def job_data(job: Job) -> dict[str, Json]:
    """A job as plain data; what is empty is left out."""
    return {k: _remove_empty(v) for k, v in write_document(job, whole=True).items() if _is_told(v)}


def seam_data(seam: Seam) -> dict[str, Json]:
    """A seam as plain data; what is empty is left out."""
    return {k: v for k, v in write_document(seam, whole=True).items() if _is_told(v)}


def _is_told(value: Json) -> bool:
    return value not in _EMPTY


def _remove_empty(value: Json) -> Json:
    if isinstance(value, Mapping):
        return {k: _remove_empty(v) for k, v in value.items() if _is_told(v)}
    if isinstance(value, Sequence) and not isinstance(value, str):
        return [_remove_empty(one) for one in value]
    return value
