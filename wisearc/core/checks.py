"""Checks of single values, each raising an error that names field, value and rule."""

from __future__ import annotations

import math
from collections.abc import Iterable
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
