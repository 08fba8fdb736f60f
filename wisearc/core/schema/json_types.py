"""JSON types of a document before parsing and after writing."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, TypeAlias, Union

Json: TypeAlias = Union[str, int, float, bool, "Sequence[Json]", "Mapping[str, Json]", None]
JsonObject: TypeAlias = Mapping[str, Json]
# Data of a file during parsing or an upgrade. The types of its values are unknown. Only the parsers
# use it.
Unparsed: TypeAlias = Mapping[str, Any]
Data: TypeAlias = dict[str, Any]


def get_rows(data: JsonObject, key: str) -> list[JsonObject]:
    """Return the objects of a list at a key, or an empty list.

    Args:
        data: The object.
        key: The key.
    """
    row_list = data.get(key)
    rows = row_list if isinstance(row_list, Sequence) and not isinstance(row_list, str) else ()
    return [row for row in rows if isinstance(row, Mapping)]


def get_object(data: JsonObject, key: str) -> dict[str, Json]:
    """Return the object at a key, or an empty one.

    Args:
        data: The object.
        key: The key.
    """
    entry = data.get(key)
    return dict(entry) if isinstance(entry, Mapping) else {}
