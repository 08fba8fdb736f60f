"""A table in CSV (RFC 4180) as spreadsheets save it: its headings and lines, no more of either than
there can be, so that a file of any shape is read in a time that goes with its size.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

from ..core.errors import BadInput, in_few_words

# lines with the empty ones: several times what the longest list has
MAX_HEADINGS, MAX_LINES = 100, 500_000


@dataclass(frozen=True)
class Table:
    """A table read: its headings in lower case; its lines that are not empty, each with its number
    in the file; what parts its cells.
    """

    headings: tuple[str, ...]
    lines: tuple[tuple[int, list[str]], ...]
    separator: str


def read_table(text: str, separators: str, most: int, too_many: Callable[[str], BadInput]) -> Table:
    """A table of CSV text.

    Parameters: separators, the characters that may part its cells; most, lines after the headings;
    too_many, what is said of more, told how many. Raises BadInput.
    """
    head = text.lstrip("\r\n").partition("\n")[0]
    separator = max(separators, key=head.count)
    rows = _rows(text, separator)
    number, first = next(rows, (0, []))
    if not number:
        raise BadInput("file", None, "is empty; the first line must be the headings")
    if len(first) > MAX_HEADINGS:
        raise BadInput(
            "headings",
            f"{len(first)} of them",
            f"are more than {MAX_HEADINGS}, and no table here has as many; see that it is the right"
            " file",
        )
    lines: list[tuple[int, list[str]]] = []
    for number, row in rows:
        if len(lines) == most:
            raise too_many(f"more than {most} lines")
        lines.append((number, row))
    return Table(tuple(cell.strip().lower() for cell in first), tuple(lines), separator)


def _rows(text: str, separator: str) -> Iterator[tuple[int, list[str]]]:
    """The lines of a table that are not empty, each with its number. Raises BadInput."""
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=separator, strict=True)
    try:
        for i, row in enumerate(reader, 1):
            if i > MAX_LINES:
                raise BadInput(
                    "file",
                    f"more than {MAX_LINES} lines",
                    "is more than is read; take the empty lines out, or split it",
                )
            # a line of nothing is no row at all, or one cell
            if row and (len(row) > 1 or row[0]) and any(map(str.strip, row)):
                yield i, row
    except csv.Error as error:
        raise BadInput(
            "file", None, f"is not CSV ({error}); save it as CSV and take it in again"
        ) from error


def check_headings(headings: Sequence[str], known: Sequence[str], of: str) -> None:
    """Refuse a heading that is none of those known, or stands twice. Parameters: of, what the table
    is of, in words. Raises BadInput.
    """
    seen: set[str] = set()
    for heading in headings:
        if heading not in known:
            words = f"is not one of {of}: " + ", ".join(known)
            raise BadInput("heading", in_few_words(heading), words)
        if heading in seen:
            raise BadInput("heading", heading, "stands twice")
        seen.add(heading)
