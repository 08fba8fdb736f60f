"""Tables in CSV (RFC 4180). Limits on headings and lines keep the reading time short."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Iterator, Sequence

from msgspec import Struct

from ..core.errors import InputError, shorten

# The number of lines includes empty lines.
MAX_HEADINGS, MAX_LINES = 100, 500_000


class Table(Struct, frozen=True):
    """A table.

    Attributes:
        headings: Headings in lower case.
        lines: Line number in the file and cells of each line that is not empty.
        separator: Character between two cells.
    """

    headings: tuple[str, ...]
    lines: tuple[tuple[int, list[str]], ...]
    separator: str


def read_table(
    text: str, separators: str, max_lines: int, build_error: Callable[[str], InputError]
) -> Table:
    """Read a table.

    Args:
        text: The CSV text.
        separators: Characters that can be between two cells.
        max_lines: Maximum number of lines after the headings.
        build_error: Builds the error for more lines from a text such as “more than 9 lines”.

    Raises:
        InputError: The text is not a table, or has too many headings or lines.
    """
    head = text.lstrip("\r\n").partition("\n")[0]
    separator = max(separators, key=head.count)
    rows = _iterate_rows(text, separator)
    number, first = next(rows, (0, []))
    if not number:
        raise InputError("file", None, "is empty. The first line must contain the headings")
    if len(first) > MAX_HEADINGS:
        raise InputError(
            "headings",
            f"{len(first)} headings",
            f"exceed the maximum of {MAX_HEADINGS}. Check that this is the correct file",
        )
    lines: list[tuple[int, list[str]]] = []
    for number, row in rows:
        if len(lines) == max_lines:
            raise build_error(f"more than {max_lines} lines")
        lines.append((number, row))
    return Table(tuple(cell.strip().lower() for cell in first), tuple(lines), separator)


def _iterate_rows(text: str, separator: str) -> Iterator[tuple[int, list[str]]]:
    """Yield the line number and the cells of each line that is not empty."""
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=separator, strict=True)
    try:
        for i, row in enumerate(reader, 1):
            if i > MAX_LINES:
                raise InputError(
                    "file",
                    f"more than {MAX_LINES} lines",
                    "is too long. Remove the empty lines or split the file",
                )
            # An empty line has no cell or one empty cell.
            if row and (len(row) > 1 or row[0]) and any(map(str.strip, row)):
                yield i, row
    except csv.Error as error:
        raise InputError(
            "file", None, f"is not CSV ({error}). Save it as CSV and import it again"
        ) from error


def check_headings(headings: Sequence[str], known: Sequence[str], subject: str) -> None:
    """Check that each heading is known and occurs once.

    Args:
        headings: Headings of the table.
        known: Known headings.
        subject: Subject of the table, for the message.

    Raises:
        InputError: A heading is unknown or occurs twice.
    """
    used: set[str] = set()
    for heading in headings:
        if heading not in known:
            rule = f"is not one of {subject}: " + ", ".join(known)
            raise InputError("heading", shorten(heading), rule)
        if heading in used:
            raise InputError("heading", heading, "appears twice. Remove one of them")
        used.add(heading)
