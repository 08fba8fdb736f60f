"""Convert a job to plain data and back, by its declarations."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from ..errors import InputError
from ..schema import checks
from ..schema.documents import read_document, write_document
from ..schema.json_types import Json
from .job import MAX_SEAMS, Job, Seam

# Empty values that are omitted.
_EMPTY: tuple[Json, ...] = (None, "", [], {})


def make_job(data: Any) -> Job:
    """Build a job from plain data.

    Without a list of parts, the seams define them.

    Raises:
        InputError: A value is wrong. The error names key, value and rule.
    """
    values = checks.check_mapping("job", data)
    rows = values.get("seams")
    if isinstance(rows, list) and len(rows) > MAX_SEAMS:
        text = (
            f"exceed the maximum of one job ({MAX_SEAMS}). Make each sub-assembly a "
            "separate job, and one for the joints between them"
        )
        raise InputError("seams", f"{len(rows)} seams", text)
    if values.get("parts") is None:
        values = {**values, "parts": _list_joined_parts(rows)}
    return read_document(Job, values, document="a job")


def _list_joined_parts(rows: Any) -> list[str]:
    """Return the parts that seams name, for a file without a list."""
    seams = [row for row in rows if isinstance(row, Mapping)] if isinstance(rows, list) else []
    joins = (row.get("joins") for row in seams)
    named = (part for parts in joins if isinstance(parts, list) for part in parts)
    return list(dict.fromkeys(part for part in named if isinstance(part, str)))


def job_data(job: Job) -> dict[str, Json]:
    """Return a job as plain data without empty values."""
    return {
        k: _remove_empty(v)
        for k, v in write_document(job, with_defaults=True).items()
        if _has_content(v)
    }


def seam_data(seam: Seam) -> dict[str, Json]:
    """Return a seam as plain data without empty values."""
    return {k: v for k, v in write_document(seam, with_defaults=True).items() if _has_content(v)}


def _has_content(value: Json) -> bool:
    return value not in _EMPTY


def _remove_empty(value: Json) -> Json:
    if isinstance(value, Mapping):
        return {k: _remove_empty(v) for k, v in value.items() if _has_content(v)}
    if isinstance(value, Sequence) and not isinstance(value, str):
        return [_remove_empty(item) for item in value]
    return value
