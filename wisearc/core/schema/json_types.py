"""What JSON is made of, typed: a document before it is parsed and after it is written."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, TypeAlias, Union

Json: TypeAlias = Union[str, int, float, bool, "Sequence[Json]", "Mapping[str, Json]", None]
JsonObject: TypeAlias = Mapping[str, Json]
# data of a file while it is parsed: what stands at its keys is not known yet
Unparsed: TypeAlias = Mapping[str, Any]
