"""The list of the library: its rows, its search index, and what was used last."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

import peewee
from msgspec import Struct
from peewee import SQL, fn

from ..core.quantities import MM_PER_INCH, length
from ..core.schema.json_types import JsonObject
from .database import execute, wrap_errors
from .models import Listing, ListingWord, Revision, RunRow

# The version of the list rows. After an increase, every record is listed again at the next opening.
LISTED_AS = 4
FOUND_BY = ("number", "title", "metals", "thickness", "rods", "who", "notes")
# A match in the number or the title ranks above one in the notes.
_WEIGHTS = (8.0, 6.0, 4.0, 4.0, 4.0, 2.0, 1.0)
MAX_SEARCH_LENGTH, MAX_SEARCH_TERMS, _MAX_WORD_LENGTH = 200, 12, 40
# A thickness of 1.59 mm is also “1.6”.
_SLACK_MM = 0.02
# The state of an archived draft in the list.
REMOVED = "removed"


METAL, MACHINE, WELDER = "metal", "machine", "welder"
# The results of the runs of a revision: a good one, only bad ones, none.
HAS_GOOD, ONLY_BAD, NO_RUNS = "good", "not-good", "none"
OUTCOMES = (HAS_GOOD, ONLY_BAD, NO_RUNS)
NEWEST, LAST_USED, BY_TITLE, THINNEST, THICKEST, BY_RUNS = (
    "newest",
    "used",
    "title",
    "thin",
    "thick",
    "runs",
)
MAX_OPTIONS = 200


class LibraryFilter(Struct, frozen=True):
    """A view of the library. An empty value filters nothing.

    Attributes:
        terms: Words that must match, or their beginnings.
        status: One of the states; "" for all but archived ones.
        joint: Key of a joint kind.
        metal: Key of a metal, on either side.
        rod: Rod class, or "none".
        service: Key of a service.
        machine: Machine of a run.
        welder: Initials of the welder of a run.
        outcome: "good", "not-good" or "none".
        thin_mm: Thickness from, mm, of the thinner side, or None.
        thick_mm: Thickness to, mm, of the thinner side, or None.
        since: Last used on or after this date, "2026-05-04".
        until: Last used on or before this date.
        sort: One of the orders.
    """

    terms: tuple[str, ...] = ()
    status: str = ""
    joint: str = ""
    metal: str = ""
    rod: str = ""
    service: str = ""
    machine: str = ""
    welder: str = ""
    outcome: str = ""
    thin_mm: float | None = None
    thick_mm: float | None = None
    since: str = ""
    until: str = ""
    sort: str = NEWEST


ALL = LibraryFilter()
_ORDERS: Mapping[str, tuple[Any, ...]] = {
    LAST_USED: (Listing.used_at.desc(),),
    BY_TITLE: (Listing.title, Listing.number),
    THINNEST: (Listing.thin_mm, Listing.number),
    THICKEST: (Listing.thin_mm.desc(), Listing.number.desc()),
    BY_RUNS: (Listing.runs.desc(), Listing.number.desc()),
}
SORTS = (NEWEST, *_ORDERS)


def list_library(
    view: LibraryFilter = ALL, skip: int = 0, maximum: int = 100, ranked: bool = True
) -> list[Listing]:
    """Return a page of the library: best match first for a search, or in the order of the view.

    Args:
        view: The view.
        skip: Number to skip.
        maximum: Maximum number.
        ranked: Whether to rank the matches of a search. False: the newest first.
    """
    query = _select_listed(view, in_order=not ranked).offset(skip).limit(maximum)
    if view.sort in _ORDERS:
        query = query.order_by(*_ORDERS[view.sort])
    elif view.terms and not ranked:
        # In the order of the index SQLite reads only one page.
        query = query.order_by(SQL("finding.rowid").desc())
    else:
        order: list[Any] = [
            Listing.number.desc(),
            fn.LENGTH(Listing.letter).desc(),
            Listing.letter.desc(),
        ]
        if view.terms:
            numbers = [
                (Listing.number == int(word)).desc()
                for word in view.terms
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
        current = Listing.select().where(Listing.status.not_in([REMOVED, "superseded"]))
        return [
            (row, row.used_at) for row in current.order_by(Listing.used_at.desc()).limit(maximum)
        ]


def count(view: LibraryFilter = ALL, maximum: int = -1) -> int:
    """Count the revisions of a view.

    Args:
        view: The view.
        maximum: Maximum count, or -1.

    Raises:
        StoreError: The library cannot be read.
    """
    with wrap_errors():
        if view == ALL:
            # SQLite counts a whole table and a small state much faster than the rest of a table.
            return _count_rows("listing") - _count_rows("listing WHERE status = ?", REMOVED)
        query = _select_listed(view).select(SQL("1"))
        return int((query.limit(maximum) if maximum >= 0 else query).count())


def _count_rows(selected: str, *values: str) -> int:
    return int(execute(f"SELECT count(*) FROM {selected}", values).fetchone()[0])


def list_options(kind: str) -> list[str]:
    """Return the values of a filter in the library, at most MAX_OPTIONS, sorted.

    Args:
        kind: "metal", "machine" or "welder".
    """
    values: list[str] = []
    with wrap_errors():
        while len(values) < MAX_OPTIONS:
            # Each value is one step in the index, whatever the number of rows.
            row = execute(
                "SELECT min(value) FROM listing_word WHERE kind = ? AND value > ?",
                (kind, values[-1] if values else ""),
            ).fetchone()
            if row[0] is None:
                break
            values.append(str(row[0]))
    return values


def list_near(joint: str, thin_mm: float, share: float, maximum: int) -> list[Listing]:
    """Return active revisions of a joint kind with about this thickness, the nearest first.

    Args:
        joint: Key of the joint kind.
        thin_mm: Thickness of the thinner side, mm.
        share: Maximum difference, as a share of the thickness.
        maximum: Maximum number on each side of the thickness.
    """
    active = Listing.select().where(
        (Listing.joint == joint) & Listing.status.not_in([REMOVED, "superseded"])
    )
    above = active.where(Listing.thin_mm.between(thin_mm, thin_mm * (1 + share)))
    below = active.where(Listing.thin_mm.between(thin_mm * (1 - share), thin_mm))
    with wrap_errors():
        rows = [
            *above.order_by(Listing.thin_mm).limit(maximum),
            *below.order_by(Listing.thin_mm.desc()).limit(maximum),
        ]
    return list({row.number_of_revision: row for row in rows}.values())


def _select_listed(view: LibraryFilter, in_order: bool = False) -> Any:
    """Select a view. `in_order`: read it in its order and test each row, as for many matches."""
    query = Listing.select()
    if view.terms:
        table: Any = peewee.Table("finding", ("rowid",)).alias("finding")
        query = (
            Listing.select()
            .from_(table)
            .join(Listing, on=(Listing.revision == table.rowid))
            .where(SQL("finding MATCH ?", (_build_search(view.terms),)))
        )
    # A literal, so that the partial index of the list is used.
    state = Listing.status == view.status if view.status else SQL("t1.status <> 'removed'")
    return query.where(state, *_list_conditions(view, in_order and not view.terms))


# A word of more rows than this is tested for each row: estimate from timings with 100,000 rows.
_FREQUENT = 5000
# A word filter by its own index, for a rare word, or tested for each row, for a frequent one.
_BY_INDEX = "t1.revision_id IN (SELECT revision_id FROM listing_word WHERE kind = ? AND value = ?)"
_FOR_EACH_ROW = (
    "EXISTS (SELECT 1 FROM listing_word AS word WHERE word.kind = ? AND word.value = ?"
    " AND word.revision_id = t1.revision_id)"
)


def _list_conditions(view: LibraryFilter, in_order: bool) -> list[Any]:
    conditions: list[Any] = []
    # A column with a sign before it uses no index.
    joint, service, rod, thin_mm = (
        SQL(f"+t1.{name}") if in_order else getattr(Listing, name)
        for name in ("joint", "service", "rod", "thin_mm")
    )
    for column, value in (
        (joint, view.joint),
        (service, view.service),
    ):
        if value:
            conditions.append(column == value)
    if view.rod:
        conditions.append(Listing.rod.is_null() if view.rod == "none" else rod == view.rod)
    for kind, value in (
        (METAL, view.metal),
        (MACHINE, view.machine),
        (WELDER, view.welder),
    ):
        if value:
            conditions.append(
                SQL(
                    _FOR_EACH_ROW if in_order or _is_frequent(kind, value) else _BY_INDEX,
                    (kind, value),
                )
            )
    if view.outcome:
        conditions.append(
            {
                HAS_GOOD: Listing.good > 0,
                ONLY_BAD: (Listing.good == 0) & (Listing.runs > 0),
                NO_RUNS: Listing.runs == 0,
            }[view.outcome]
        )
    if view.thin_mm is not None:
        conditions.append(thin_mm >= view.thin_mm - _SLACK_MM)
    if view.thick_mm is not None:
        conditions.append(thin_mm <= view.thick_mm + _SLACK_MM)
    if view.since:
        conditions.append(Listing.used_at >= view.since)
    if view.until:
        conditions.append(Listing.used_at < f"{view.until}U")
    return conditions


def _is_frequent(kind: str, value: str) -> bool:
    rows = f"(SELECT 1 FROM listing_word WHERE kind = ? AND value = ? LIMIT {_FREQUENT + 1})"
    return _count_rows(rows, kind, value) > _FREQUENT


_SOUGHT = re.compile(r"(?P<figure>[0-9]*\.?[0-9]+)\s*(?P<unit>ga|mm|in)\b|[\w.]+")


def split_search(text: str) -> list[str]:
    """Return the words of a search, as the index splits them.

    A figure with its unit is one word: "16 ga", ".065", "0003". Only the first `MAX_SEARCH_LENGTH`
    letters and `MAX_SEARCH_TERMS` words count.
    """
    wording = []
    plain = _normalise_sizes(unicodedata.normalize("NFC", text[:MAX_SEARCH_LENGTH]).lower())
    # Each number starts with this letter.
    plain = re.sub(r"\bp-(?=[0-9])", "", plain)
    for match in _SOUGHT.finditer(re.sub(r"(?<=\d),(?=\d)", ".", plain)):
        word = f"{match['figure']} {match['unit']}" if match["figure"] else match[0].rstrip(".")
        if any(c.isalnum() for c in word):
            wording.append(word[:_MAX_WORD_LENGTH])
    return wording[:MAX_SEARCH_TERMS]


# Signs between sizes, as in "51 x 1.5", and an inch after a figure, as in 2".
_BETWEEN_SIZES = re.compile(r"(?<=\d)\s*(?:x|×|\*)\s*(?=[\d.])")
_INCH_SIGN = re.compile(r"(?<=\d)\s*(?:\"|″|”|inch(?:es)?\b)")
_FRACTION = re.compile(r"(?:(\d{1,3})[\s-]+)?(\d{1,3})/(\d{1,3})(?:\s*in\b)?")


def _normalise_sizes(text: str) -> str:
    """Return a search with its sizes as the index has them: "1-1/2 inch" is "1.5 in"."""

    def convert(match: re.Match[str]) -> str:
        if int(match[3]) == 0:
            return match[0]
        inch = int(match[1] or 0) + int(match[2]) / int(match[3])
        return f"{length(inch * MM_PER_INCH).number('in')} in "

    spaced = _INCH_SIGN.sub(" in", _BETWEEN_SIZES.sub(" ", text))
    return _FRACTION.sub(convert, spaced)


def _build_search(terms: Sequence[str]) -> str:
    """Return words in the language of the index, all required."""
    return " AND ".join(_build_term(word) for word in terms)


def _build_term(word: str) -> str:
    """Return a search word for the index: a measured figure exactly, any other by its beginning."""
    measured = " " in word or ("." in word and word.replace(".", "").isdigit())
    return f'"{word}"' if measured else f'"{word}"*'


def update_listing(
    of: Revision,
    figures: JsonObject,
    found_by: Mapping[str, str],
    words: Mapping[str, Iterable[str]],
) -> None:
    """Update the row of a revision in the list.

    Args:
        of: The revision.
        figures: Figures of its plan for the list.
        found_by: Search words by column of the index.
        words: Values of the filters by kind.
    """
    is_valid = (RunRow.revision == of) & RunRow.voided_at.is_null()
    counts = (
        RunRow.select(
            fn.COUNT(RunRow.id), fn.COALESCE(fn.SUM(RunRow.good), 0), fn.MAX(RunRow.kept_at)
        )
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
        used_at=max(of.changed_at, counts[2] or ""),
        made_as=LISTED_AS,
        **figures,
    ).on_conflict_replace().execute()
    _update_filter_values(of, words)
    execute("DELETE FROM finding WHERE rowid = ?", (of.id,))
    columns, places = ", ".join(FOUND_BY), ", ".join("?" * (len(FOUND_BY) + 1))
    values = (of.id, *(unicodedata.normalize("NFC", found_by.get(key, "")) for key in FOUND_BY))
    execute(f"INSERT INTO finding (rowid, {columns}) VALUES ({places})", values)


def _update_filter_values(of: Revision, words: Mapping[str, Iterable[str]]) -> None:
    fresh = {(kind, value) for kind, values in words.items() for value in values if value}
    stored: Any = ListingWord.select().where(ListingWord.revision == of.id).dicts()
    held = {(row["kind"], row["value"]) for row in stored}
    for kind, value in held - fresh:
        execute(
            "DELETE FROM listing_word WHERE kind = ? AND value = ? AND revision_id = ?",
            (kind, value, of.id),
        )
    rows = [{"kind": kind, "value": value, "revision": of.id} for kind, value in fresh - held]
    if rows:
        ListingWord.insert_many(rows).execute()


def list_unlisted() -> list[int]:
    """Return the ids of revisions that the present version has not listed."""
    with wrap_errors():
        stale = Revision.select(Revision.id).join(
            Listing, peewee.JOIN.LEFT_OUTER, on=(Listing.revision == Revision.id)
        )
        view = stale.where(Listing.made_as.is_null() | (Listing.made_as != LISTED_AS))
        rows: Any = view.order_by(Revision.id).tuples()
        return [row[0] for row in rows]
