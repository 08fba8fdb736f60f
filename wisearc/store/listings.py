"""The list of the library: its rows, its search index, and what was used last."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Mapping, Sequence
from typing import Any

import peewee
from peewee import SQL, fn

from ..core.schema.json_types import JsonObject
from .database import execute, wrap_errors
from .models import Listing, Revision, RunRow

# The version of the list rows. After an increase, every record is listed again at the next opening.
LISTED_AS = 3
FOUND_BY = ("number", "title", "metals", "thickness", "rods", "who", "notes")
# A match in the number or the title ranks above one in the notes.
_WEIGHTS = (8.0, 6.0, 4.0, 4.0, 4.0, 2.0, 1.0)
MAX_SEARCH_LENGTH, MAX_SEARCH_TERMS, _MAX_WORD_LENGTH = 200, 12, 40
# The state of an archived draft in the list.
REMOVED = "removed"


def list_library(
    terms: Sequence[str] = (),
    status: str = "",
    skip: int = 0,
    maximum: int = 100,
    ranked: bool = True,
) -> list[Listing]:
    """Return a page of the library: newest number first, or best match first.

    Args:
        terms: Words that must match, or their beginnings.
        status: One of the states, or "".
        skip: Number to skip.
        maximum: Maximum number.
        ranked: Whether to rank the matches. False: the newest first.
    """
    query = _select_listed(terms, status).offset(skip).limit(maximum)
    if terms and not ranked:
        # In the order of the index SQLite reads only one page.
        query = query.order_by(SQL("finding.rowid").desc())
    else:
        order: list[Any] = [
            Listing.number.desc(),
            fn.LENGTH(Listing.letter).desc(),
            Listing.letter.desc(),
        ]
        if terms:
            numbers = [
                (Listing.number == int(word)).desc()
                for word in terms
                if word.isascii() and word.isdigit() and len(word) < 10
            ]
            order = [*numbers, fn.BM25(SQL("finding"), *_WEIGHTS), *order]
        query = query.order_by(*order)
    with wrap_errors():
        return list(query)


def list_last_used(maximum: int) -> list[tuple[Listing, str]]:
    """Return the revisions that were saved, set up or welded last, each with the time.

    Without superseded and archived ones, the last used first.

    Args:
        maximum: Maximum number.
    """
    with wrap_errors():
        # The last of both are among the last of each.
        saved: Any = _select_current(Revision.changed_at).join(Revision)
        welded: Any = _select_current(fn.MAX(RunRow.kept_at)).join(
            RunRow, on=RunRow.revision == Listing.revision
        )
        used: dict[int, str] = {}
        for query in (saved, welded.group_by(Listing.revision)):
            for number, moment in query.order_by(SQL("moment").desc()).limit(maximum).tuples():
                used[number] = max(moment, used.get(number, ""))
        rows = list(Listing.select().where(Listing.revision.in_(list(used))))
    rows.sort(key=lambda row: used[row.number_of_revision], reverse=True)
    return [(row, used[row.number_of_revision]) for row in rows[:maximum]]


def _select_current(moment: Any) -> Any:
    """Select the revisions in use, with a time."""
    return Listing.select(Listing.revision, moment.alias("moment")).where(
        Listing.status.not_in([REMOVED, "superseded"])
    )


def count(terms: Sequence[str] = (), status: str = "", maximum: int = -1) -> int:
    """Count the revisions that match.

    Args:
        terms: Words of the search.
        status: A status, or an empty string.
        maximum: Maximum count, or -1.

    Raises:
        StoreError: The library cannot be read.
    """
    with wrap_errors():
        query = _select_listed(terms, status)
        return int((query.limit(maximum) if maximum >= 0 else query).count())


def _select_listed(terms: Sequence[str], status: str) -> Any:
    query = Listing.select()
    if terms:
        table: Any = peewee.Table("finding", ("rowid",)).alias("finding")
        query = (
            Listing.select()
            .from_(table)
            .join(Listing, on=(Listing.revision == table.rowid))
            .where(SQL("finding MATCH ?", (_build_search(terms),)))
        )
    return query.where(Listing.status == status if status else Listing.status != REMOVED)


_SOUGHT = re.compile(r"(?P<figure>[0-9]*\.?[0-9]+)\s*(?P<unit>ga|mm|in)\b|[\w.]+")


def split_search(text: str) -> list[str]:
    """Return the words of a search, as the index splits them.

    A figure with its unit is one word: "16 ga", ".065", "0003". Only the first `MAX_SEARCH_LENGTH`
    letters and `MAX_SEARCH_TERMS` words count.
    """
    wording = []
    plain = unicodedata.normalize("NFC", text[:MAX_SEARCH_LENGTH]).lower()
    # Each number starts with this letter.
    plain = re.sub(r"\bp-(?=[0-9])", "", plain)
    for match in _SOUGHT.finditer(re.sub(r"(?<=\d),(?=\d)", ".", plain)):
        word = f"{match['figure']} {match['unit']}" if match["figure"] else match[0].rstrip(".")
        if any(c.isalnum() for c in word):
            wording.append(word[:_MAX_WORD_LENGTH])
    return wording[:MAX_SEARCH_TERMS]


def _build_search(terms: Sequence[str]) -> str:
    """Return words in the language of the index, all required."""
    return " AND ".join(_build_term(word) for word in terms)


def _build_term(word: str) -> str:
    """Return a search word for the index: a measured figure exactly, any other by its beginning."""
    measured = " " in word or ("." in word and word.replace(".", "").isdigit())
    return f'"{word}"' if measured else f'"{word}"*'


def update_listing(of: Revision, figures: JsonObject, found_by: Mapping[str, str]) -> None:
    """Update the row of a revision in the list.

    Args:
        of: The revision.
        figures: Current and rod for the list.
        found_by: Search words by column of the index.
    """
    is_valid = (RunRow.revision == of) & RunRow.voided_at.is_null()
    counts = (
        RunRow.select(fn.COUNT(RunRow.id), fn.COALESCE(fn.SUM(RunRow.good), 0))
        .where(is_valid)
        .tuples()
        .first()
    )
    Listing.insert(
        revision=of,
        number=of.procedure.number,
        letter=of.letter,
        status=REMOVED if of.removed_at else of.status,
        title=of.title,
        runs=counts[0],
        good=counts[1],
        made_as=LISTED_AS,
        **figures,
    ).on_conflict_replace().execute()
    execute("DELETE FROM finding WHERE rowid = ?", (of.id,))
    columns, places = ", ".join(FOUND_BY), ", ".join("?" * (len(FOUND_BY) + 1))
    values = (of.id, *(unicodedata.normalize("NFC", found_by.get(key, "")) for key in FOUND_BY))
    execute(f"INSERT INTO finding (rowid, {columns}) VALUES ({places})", values)


def list_unlisted() -> list[int]:
    """Return the ids of revisions that the present version has not listed."""
    with wrap_errors():
        stale = Revision.select(Revision.id).join(
            Listing, peewee.JOIN.LEFT_OUTER, on=(Listing.revision == Revision.id)
        )
        wanted = stale.where(Listing.made_as.is_null() | (Listing.made_as != LISTED_AS))
        rows: Any = wanted.order_by(Revision.id).tuples()
        return [row[0] for row in rows]
