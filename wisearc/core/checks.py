"""Checks of single values, each raising an error that names field, value and rule."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from typing import Any

from .errors import BadInput, OutOfRange, UnknownName


def number(field: str, value: Any, low: float, high: float, unit: str = "") -> float:
    """A finite number within [low, high], as float.

    Raises BadInput for text, booleans, NaN and infinities, OutOfRange outside the limits.

    >>> number("gap_mm", 1, 0, 10)
    1.0
    """
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise BadInput(field, value, f"must be a number from {low:g} to {high:g} {unit}".rstrip())
    if not math.isfinite(value):
        raise BadInput(field, value, f"must be a finite number from {low:g} to {high:g} {unit}".rstrip())
    if not low <= value <= high:
        raise OutOfRange(field, value, low, high, unit)
    return float(value)


def name(field: str, value: Any, allowed: Iterable[str]) -> str:
    """A name that is among the allowed ones. Raises UnknownName otherwise."""
    names = list(allowed)
    if not isinstance(value, str) or value not in names:
        raise UnknownName(field, value, names)
    return value


def text(field: str, value: Any, most: int) -> str:
    """Text of at most so many characters. Raises BadInput otherwise."""
    if not isinstance(value, str) or len(value) > most:
        raise BadInput(field, str(value)[:40], f"must be text of at most {most} characters")
    return value


def mapping(field: str, value: Any) -> Mapping[str, Any]:
    """An object with keys. Raises BadInput otherwise."""
    if not isinstance(value, Mapping):
        raise BadInput(field, value, "must be an object")
    return value


def rows(field: str, value: Any, most: int) -> list[Any]:
    """A list of at most so many. Raises BadInput otherwise."""
    if not isinstance(value, list) or len(value) > most:
        shown = f"{len(value)} items" if isinstance(value, list) else value
        raise BadInput(field, shown, f"must be a list of at most {most}")
    return value


def keys(field: str, value: Mapping[str, Any], allowed: Iterable[str]) -> None:
    """Refuse keys that are not allowed. Raises BadInput."""
    for key in value:
        if key not in allowed:
            raise BadInput(f"{field}.{key}", value[key], "is not a key here; allowed are " + ", ".join(allowed))
