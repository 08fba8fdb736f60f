"""Whole numbers from addresses and forms: the one way in which a page reads a count or a row."""

from __future__ import annotations

from typing import Any

from werkzeug.routing import IntegerConverter, Map

MAX_DIGITS = 9
# the greatest whole number that JSON and JavaScript hold exactly
MAX_ROW = 2**53 - 1


class RowConverter(IntegerConverter):
    """The number of a row in an address, as `<row:number>`."""

    def __init__(self, map: Map, **more: Any) -> None:
        super().__init__(map, max=MAX_ROW, **more)


def parse_whole_number(text: str, missing: int = 0, most: int = 10**MAX_DIGITS - 1) -> int:
    """A whole number from an address or a form: plain digits, no sign, from 0 to `most`; `missing`
    where there is none.
    """
    text = text.strip()
    if not (text.isascii() and text.isdigit() and len(text) <= MAX_DIGITS):
        return missing
    number = int(text)
    return number if number <= most else missing
