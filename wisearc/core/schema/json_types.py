"""What JSON is made of, typed: a document before it is parsed and after it is written."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TypeAlias, Union

Json: TypeAlias = Union[str, int, float, bool, "Sequence[Json]", "Mapping[str, Json]", None]
JsonObject: TypeAlias = Mapping[str, Json]
