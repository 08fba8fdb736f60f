"""Checks of single values.

Each error names field, value and rule.
"""

from __future__ import annotations

import calendar
import math
import re
from collections.abc import Iterable, Mapping
from typing import Any

from ..errors import InputError, OutOfRange, UnknownName, format_limits
from .json_types import Unparsed

LINE = r"[^\u0000-\u001f\u007f-\u009f\u2028\u2029]*"
DATE = r"[12][0-9]{3}-(0[1-9]|1[0-2])-(0[1-9]|[12][0-9]|3[01])"
MOMENT = DATE + r"T([01][0-9]|2[0-3]):[0-5][0-9]:[0-5][0-9]Z"


def check_number(field: str, value: Any, low: float, high: float, unit: str = "") -> float:
    """Return a finite number within limits.

    Args:
        field: Field name for the error.
        value: The value.
        low: Minimum.
        high: Maximum.
        unit: Unit for the error.

    Raises:
        InputError: The value is text, a boolean, NaN or infinite.
        OutOfRange: It is outside the limits.

    >>> check_number("gap_mm", 1, 0, 10)
    1.0
    """
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise InputError(field, value, f"must be a number {format_limits(low, high, unit)}")
    if value != value or value in (math.inf, -math.inf):
        raise InputError(field, value, f"must be a finite number {format_limits(low, high, unit)}")
    if not low <= value <= high:
        raise OutOfRange(field, value, low, high, unit)
    return float(value)


def name(field: str, value: Any, allowed: Iterable[str]) -> str:
    """Return an allowed name.

    Args:
        field: Field name for the error.
        value: The value.
        allowed: The allowed names.

    Raises:
        UnknownName: The name is not allowed.
    """
    names = list(allowed)
    if not isinstance(value, str) or value not in names:
        raise UnknownName(field, value, names)
    return value


def check_text(field: str, value: Any, maximum: int) -> str:
    """Return text up to a maximum length.

    Args:
        field: Field name for the error.
        value: The value.
        maximum: Maximum number of characters.

    Raises:
        InputError: The value is not such a text.
    """
    if not isinstance(value, str) or len(value) > maximum:
        raise InputError(field, value, f"must be text of at most {maximum} characters")
    return value


def check_line(field: str, value: Any, maximum: int) -> str:
    """Return one line of text.

    Args:
        field: Field name for the error.
        value: The value.
        maximum: Maximum number of characters.

    Raises:
        InputError: The value is not one line.
    """
    line = check_text(field, value, maximum)
    if not re.fullmatch(LINE, line):
        raise InputError(field, value, "must be one line of plain text, without line ends or tabs")
    return line


def check_date(field: str, value: Any) -> str:
    """Return an existing date, as 2026-03-31.

    Args:
        field: Field name for the error.
        value: The value.

    Raises:
        InputError: The value is not a date.
    """
    if not re.fullmatch(DATE, check_text(field, value, 10)) or not _is_day(value):
        raise InputError(field, value, "must be a date such as 2026-03-31")
    return str(value)


def check_moment(field: str, value: Any) -> str:
    """Return a past moment in UTC, as 2026-03-31T16:00:00Z.

    Args:
        field: Field name for the error.
        value: The value.

    Raises:
        InputError: The value is not such a moment.
    """
    if not re.fullmatch(MOMENT, check_text(field, value, 20)) or not _is_day(value[:10]):
        raise InputError(field, value, "must be a time in UTC, such as 2026-03-31T16:00:00Z")
    return str(value)


def _is_day(value: str) -> bool:
    year, month, day = map(int, value.split("-"))
    return day <= calendar.monthrange(year, month)[1]


def check_mapping(field: str, value: Any) -> Unparsed:
    """Return an object with keys.

    Args:
        field: Field name for the error.
        value: The value.

    Raises:
        InputError: The value is not an object.
    """
    if not isinstance(value, Mapping):
        raise InputError(field, value, "must be an object")
    return value


def check_rows(field: str, value: Any, maximum: int) -> list[Any]:
    """Return a list up to a maximum length.

    Args:
        field: Field name for the error.
        value: The value.
        maximum: Maximum length.

    Raises:
        InputError: The value is not such a list.
    """
    if not isinstance(value, list) or len(value) > maximum:
        displayed = f"{len(value)} items" if isinstance(value, list) else value
        raise InputError(field, displayed, f"must be a list of at most {maximum}")
    return value


def check_keys(field: str, value: Unparsed, allowed: Iterable[str]) -> None:
    """Check the keys of an object.

    Args:
        field: Field name for the error.
        value: The object.
        allowed: The allowed keys.

    Raises:
        InputError: A key is not allowed.
    """
    for key in value:
        if key not in allowed:
            raise InputError(
                f"{field}.{key}",
                value[key],
                "is not a key here. Allowed keys: " + ", ".join(allowed),
            )
