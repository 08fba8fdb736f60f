"""Integers of addresses and forms: the only parser for counts and row numbers."""

from __future__ import annotations

from typing import Any

from werkzeug.routing import IntegerConverter, Map

MAX_DIGITS = 9
# The largest integer that JSON and JavaScript represent exactly.
MAX_ROW = 2**53 - 1


class RowConverter(IntegerConverter):
    """The number of a row in an address, as `<row:number>`."""

    def __init__(self, map: Map, **more: Any) -> None:
        """Create the converter."""
        super().__init__(map, max=MAX_ROW, **more)


def parse_integer(text: str, missing: int = 0, maximum: int = 10**MAX_DIGITS - 1) -> int:
    """Return an integer: plain digits without sign.

    Args:
        text: The text.
        missing: The result for another text.
        maximum: Maximum value.
    """
    text = text.strip()
    if not (text.isascii() and text.isdigit() and len(text) <= MAX_DIGITS):
        return missing
    number = int(text)
    return number if number <= maximum else missing
