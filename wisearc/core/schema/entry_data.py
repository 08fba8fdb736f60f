"""Plain data of a dataclass of declared fields: each checked by its row in the table."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ..errors import BadInput
from . import checks
from .entries import attributes, entries


def checked(of: type, data: Mapping[str, Any], what: str) -> dict[str, Any]:
    """The values of a dataclass's fields, by its own names. Parameters: data, by key; what, how the
    thing is called ("a cut").

    Raises BadInput (UnknownName, OutOfRange) naming the field, value and rule.
    """
    table = entries(of)
    for key in data:
        if key not in table:
            raise BadInput(
                key, data[key], f"is not a key of {what}; allowed are " + ", ".join(table)
            )
    values: dict[str, Any] = {}
    for key, declared in table.items():
        value = data.get(key)
        if value is None:
            if declared.required:
                raise BadInput(
                    key,
                    None,
                    f"is missing; give it in {declared.unit}" if declared.unit else "is missing",
                )
            value = declared.usual
        if declared.kind == "number" and value is not None:
            value = checks.number(key, value, declared.low, declared.high, declared.unit)
        elif declared.kind == "name":
            value = checks.name(key, value, declared.allowed())
        elif declared.kind == "text" and value is not None:
            value = checks.line(key, value, int(declared.high))
        values[attributes(of)[key]] = value
    return values
