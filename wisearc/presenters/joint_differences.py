"""The fields of two joints that differ, as rows of a comparison."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from ..core.joint.joint import Joint, Member
from ..core.quantities import Quantity
from ..core.schema.entries import Entry, read_entries
from ..core.schema.json_types import Json, JsonObject, get_rows
from .comparison import Row

_MISSING = "–"
# Lengths are saved in mm under this end of their key.
_MM = "_mm"


def list_joint_rows(left: JsonObject, right: JsonObject, units: str) -> list[Row]:
    """Return the fields of two joints that differ.

    Args:
        left: Data of a joint file.
        right: Data of another one.
        units: Unit system.
    """
    rows = list(_compare_fields(read_entries(Joint), left, right, units, ""))
    pairs = zip(get_rows(left, "members"), get_rows(right, "members"), strict=False)
    for i, (before, after) in enumerate(pairs):
        rows += _compare_fields(read_entries(Member), before, after, units, f"Side {'AB'[i]}, ")
    return rows


def _compare_fields(
    entries: Mapping[str, Entry], left: JsonObject, right: JsonObject, units: str, prefix: str
) -> Iterator[Row]:
    for key, entry in entries.items():
        if not entry.label:
            continue
        before, after = (_format_field(key, entry, data, units) for data in (left, right))
        if before != after:
            label = f"{prefix}{entry.label[:1].lower()}{entry.label[1:]}" if prefix else entry.label
            yield Row(label, before, after, True)


def _format_field(key: str, entry: Entry, data: JsonObject, units: str) -> str:
    length_mm = data.get(f"{key}{_MM}")
    if isinstance(length_mm, int | float):
        return Quantity(float(length_mm), "length").text(units)
    return _format_value(entry, data.get(key))


def _format_value(entry: Entry, value: Json) -> str:
    if value is None or value == "":
        return _MISSING
    if isinstance(value, str):
        options = entry.allowed()
        return options[value].label if value in options else value
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, int | float):
        return f"{value:g} {entry.unit}".strip()
    return _MISSING
