"""What JSON is made of, typed: a document before it is parsed and after it is written."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, TypeAlias, Union

Json: TypeAlias = Union[str, int, float, bool, "Sequence[Json]", "Mapping[str, Json]", None]
JsonObject: TypeAlias = Mapping[str, Json]
# data of a file while it is parsed or lifted to this version: what stands at its keys is not known
# yet; nothing beyond the parsers takes it
Unparsed: TypeAlias = Mapping[str, Any]
Data: TypeAlias = dict[str, Any]


def get_rows(data: JsonObject, key: str) -> list[JsonObject]:
    """The objects of a list that stands at a key; none where there is no such list."""
    found = data.get(key)
    rows = found if isinstance(found, Sequence) and not isinstance(found, str) else ()
    return [row for row in rows if isinstance(row, Mapping)]


def get_object(data: JsonObject, key: str) -> dict[str, Json]:
    """The object that stands at a key; an empty one where there is none."""
    found = data.get(key)
    return dict(found) if isinstance(found, Mapping) else {}
