"""Queries of the library.

Each list is one query of any length, without plans.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Mapping, Sequence
from typing import Any

import peewee
from peewee import SQL, fn

from ..core.errors import shorten
from ..core.schema.json_types import JsonObject
from .database import execute, wrap_errors
from .errors import Missing, NotAllowed
from .models import NUMBER_FORM, Listing, Procedure, Revision, RunRow, ShopSchool

# The version of the list rows. After an increase, every record is listed again at the next opening.
LISTED_AS = 3
MAX_NUMBER = 999_999
FOUND_BY = ("number", "title", "metals", "thickness", "rods", "who", "notes")
# A match in the number or the title ranks above one in the notes.
_WEIGHTS = (8.0, 6.0, 4.0, 4.0, 4.0, 2.0, 1.0)
MAX_SEARCH_LENGTH, MAX_SEARCH_TERMS, _MAX_WORD_LENGTH = 200, 12, 40
# The state of an archived draft in the list.
REMOVED = "removed"


def parse_number(label: str) -> int:
    """Return the number in "P-0003".

    Raises:
        Missing: The label is not one.
    """
    digits = label.upper().removeprefix("P-")
    if not digits.isascii() or not digits.isdigit() or len(digits) > 6:
        raise Missing(f"“{shorten(label)}” is not a procedure number. Example: P-0003.")
    return int(digits)


def find_procedure(number: int) -> Procedure | None:
    """Return a procedure by its number, or None."""
    with wrap_errors():
        return Procedure.get_or_none(Procedure.number == number)


def get_procedure(label: str) -> Procedure:
    """Return a procedure by its label.

    Raises:
        Missing: The procedure does not exist.
    """
    number = parse_number(label)
    procedure = find_procedure(number)
    if procedure is None:
        raise Missing(f"There is no procedure {NUMBER_FORM.format(number)} in this library.")
    return procedure


def get_revision(label: str, letter: str | None = None) -> Revision:
    """Return a revision: by letter, or the newest active one, or else the newest.

    Args:
        label: The procedure.
        letter: The letter, or None.

    Raises:
        Missing: The revision does not exist.
    """
    owner = get_procedure(label)
    with wrap_errors():
        query = Revision.select().where(Revision.procedure == owner)
        newest = query.order_by(
            Revision.removed_at.is_null().desc(),
            fn.LENGTH(Revision.letter).desc(),
            Revision.letter.desc(),
        )
        revision: Revision | None = (
            query.where(Revision.letter == letter) if letter else newest
        ).first()
    if revision is None:
        raise Missing(f"{owner.label} has no revision {shorten(letter or 'A')}.")
    revision.procedure = owner
    return revision


def list_revisions(owner: Procedure) -> list[Revision]:
    """Return every revision of a procedure, oldest first."""
    with wrap_errors():
        in_order = Revision.select().order_by(fn.LENGTH(Revision.letter), Revision.letter)
        return list(in_order.where(Revision.procedure == owner))


def get_last_letter(owner: Procedure) -> str:
    """Return the last letter of a procedure, with archived revisions."""
    return list_revisions(owner)[-1].letter


def list_numbered_revisions(letter: str, label: str) -> list[Revision]:
    """Return the revisions of a letter with a number, each with its procedure.

    Revisions imported from a file with the number count too.

    Args:
        letter: The letter.
        label: The number.
    """
    # Two queries with an index each. Combined, they would scan the complete library.
    with wrap_errors():
        join = Revision.select(Revision, Procedure).join(Procedure)
        revisions = list(
            join.where((Procedure.number == parse_number(label)) & (Revision.letter == letter))
        )
        return revisions + list(
            join.where((Revision.taken_as == label) & (Revision.letter == letter))
        )


def has_runs(of: Revision) -> bool:
    """Return whether a revision has runs, also voided ones."""
    return bool(RunRow.select().where(RunRow.revision == of).exists())


def measure_room(of: Revision) -> tuple[int, int]:
    """Return the number of runs of a revision, and their size, bytes."""
    sums = RunRow.select(
        fn.COUNT(RunRow.id), fn.COALESCE(fn.SUM(fn.LENGTH(RunRow.record.cast("BLOB"))), 0)
    )
    with wrap_errors():
        totals: tuple[int, int] = sums.where(RunRow.revision == of).tuples().first()
        return totals


def add_runs(rows: Sequence[Mapping[str, Any]]) -> None:
    """Add saved runs."""
    for first in range(0, len(rows), 500):
        RunRow.insert_many(rows[first : first + 500]).execute()


def list_runs(of: Revision, skip: int = 0, maximum: int = -1) -> list[RunRow]:
    """Return the runs of a revision, oldest first, with voided ones.

    Args:
        of: The revision.
        skip: Number to skip.
        maximum: Maximum number.
    """
    with wrap_errors():
        in_order = RunRow.select().where(RunRow.revision == of).order_by(RunRow.made_on, RunRow.id)
        return list(in_order.offset(skip).limit(maximum) if skip or maximum >= 0 else in_order)


def list_verifying_runs(of: Revision, maximum: int) -> list[RunRow]:
    """Return the last valid good runs of a revision, oldest first.

    Args:
        of: The revision.
        maximum: Maximum number.
    """
    with wrap_errors():
        good = RunRow.select().where(
            (RunRow.revision == of) & RunRow.good & RunRow.voided_at.is_null()
        )
        return list(good.order_by(RunRow.made_on.desc(), RunRow.id.desc()).limit(maximum))[::-1]


def get_run(of: Revision, number: int) -> RunRow:
    """Return a run of a revision by its number.

    Args:
        of: The revision.
        number: The number.

    Raises:
        Missing: The run does not exist.
    """
    with wrap_errors():
        run = RunRow.get_or_none((RunRow.revision == of) & (RunRow.id == number))
    if run is None:
        raise Missing(f"{of.procedure.label} {of.letter} has no such run.")
    return run


def get_any_run(number: int) -> RunRow:
    """Return a run by its number, with its revision and procedure.

    Raises:
        Missing: The run does not exist.
    """
    with wrap_errors():
        joined = (
            RunRow.select(RunRow, Revision, Procedure)
            .join(Revision)
            .join(Procedure)
            .where(RunRow.id == number)
        )
        run: RunRow | None = joined.first()
    if run is None:
        raise Missing("There is no such run.")
    return run


def run_sent(of: Revision, once: str) -> RunRow | None:
    """Return the run of a procedure with a form token, or None.

    Args:
        of: A revision of the procedure.
        once: The token.
    """
    if not once:
        return None
    with wrap_errors():
        sent = (RunRow.once >= f"{once}.") & (RunRow.once < f"{once}/")
        runs = RunRow.select(RunRow, Revision).join(Revision)
        run: RunRow | None = runs.where((Revision.procedure == of.procedure) & sent).first()
        return run


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
    count = 3 * maximum
    with wrap_errors():
        saved: Any = Revision.select(Revision.id, Revision.changed_at)
        welded: Any = RunRow.select(RunRow.revision, RunRow.kept_at)
        used: dict[int, str] = {}
        for query, newest in ((saved, Revision.id.desc()), (welded, RunRow.id.desc())):
            for number, moment in query.order_by(newest).limit(count).tuples():
                used[number] = max(moment, used.get(number, ""))
        rows = list(
            Listing.select().where(
                Listing.revision.in_(list(used)), Listing.status.not_in([REMOVED, "superseded"])
            )
        )
    rows.sort(key=lambda row: used[row.number_of_revision], reverse=True)
    return [(row, used[row.number_of_revision]) for row in rows[:maximum]]


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


def find_last_run(of: Revision) -> RunRow | None:
    """Return the last recorded run of a revision that is not void, or None."""
    with wrap_errors():
        valid_runs = RunRow.select().where((RunRow.revision == of) & RunRow.voided_at.is_null())
        run: RunRow | None = valid_runs.order_by(RunRow.id.desc()).first()
        return run


def list_procedure_runs(owner: Procedure, maximum: int) -> list[tuple[Revision, RunRow]]:
    """Return the last valid runs of a procedure, of every revision, oldest first.

    Args:
        owner: The procedure.
        maximum: Maximum number.
    """
    with wrap_errors():
        joined = (
            RunRow.select(RunRow, Revision)
            .join(Revision)
            .where((Revision.procedure == owner) & RunRow.voided_at.is_null())
        )
        runs = list(joined.order_by(RunRow.made_on.desc(), RunRow.id.desc()).limit(maximum))[::-1]
    return [(run.revision, run) for run in runs]


def list_last_runs(maximum: int) -> list[RunRow]:
    """Return the last recorded valid runs, the newest first."""
    with wrap_errors():
        joined = RunRow.select(RunRow, Revision, Procedure).join(Revision).join(Procedure)
        return list(
            joined.where(RunRow.voided_at.is_null()).order_by(RunRow.id.desc()).limit(maximum)
        )


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


def list_revisions_by_id(ids: Sequence[int]) -> list[Revision]:
    """Return revisions by id, in the given order, each with its procedure."""
    place = {number: i for i, number in enumerate(ids)}
    with wrap_errors():
        revisions = (
            Revision.select(Revision, Procedure).join(Procedure).where(Revision.id << list(ids))
        )
        return sorted(revisions, key=lambda revision: place[revision.id])


def list_ids_in_order() -> list[int]:
    """Return the id of every revision, in the order of number and letter."""
    with wrap_errors():
        rows = (
            Revision.select(Revision.id)
            .join(Procedure)
            .order_by(Procedure.number, fn.LENGTH(Revision.letter), Revision.letter)
        )
        ids: Any = rows.tuples()
        return [row[0] for row in ids]


def find_next_number(after: int = 0) -> int:
    """Return the next free number: after the highest, or the first gap if there is none.

    Args:
        after: A number to exceed, if possible.

    Raises:
        NotAllowed: No number is free.
    """
    max_number = max(after, Procedure.select(fn.MAX(Procedure.number)).scalar() or 0)
    if max_number < MAX_NUMBER:
        return max_number + 1
    other = Procedure.alias()
    gaps = Procedure.select(fn.MIN(Procedure.number)).where(
        ~fn.EXISTS(other.select().where(other.number == Procedure.number + 1))
        & (Procedure.number < MAX_NUMBER)
    )
    free = 0 if find_procedure(1) is None else gaps.scalar()
    if free is None:
        raise NotAllowed(f"The library is full: every number up to P-{MAX_NUMBER} is in use.")
    return free + 1


def get_library_kind() -> str:
    """Return the kind of the library: "demo", "own" for one created next to it, or ""."""
    with wrap_errors():
        return str(execute("SELECT kind FROM book").fetchone()[0])


def set_library_kind(kind: str) -> None:
    """Set the kind of the library."""
    execute("UPDATE book SET kind = ?", (kind,))


def is_empty() -> bool:
    """Return whether the library has no procedures."""
    with wrap_errors():
        return not Procedure.select().exists()


def load_chosen_approaches() -> dict[str, str]:
    """Return the approaches of the shop by question."""
    with wrap_errors():
        return {row.key: row.value for row in ShopSchool.select()}


def set_approach(key: str, value: str) -> None:
    """Set an approach of the shop.

    Args:
        key: The question.
        value: The approach.
    """
    ShopSchool.insert(key=key, value=value).on_conflict_replace().execute()


def find_referenced_files() -> set[str]:
    """Return the SHA-256 of each file of a run, also of voided, corrected and unfinished runs.

    Raises:
        StoreError: The library cannot be read.
    """
    hashes: set[str] = set()
    with wrap_errors():
        for table, column in (("run", "record"), ("run", "corrections"), ("at_arc", "log")):
            # LIKE skips rows without files, which is much faster.
            hashes |= {
                str(sha)
                for (sha,) in execute(
                    f"SELECT node.atom FROM {table}, json_tree({table}.{column}) AS node"
                    f" WHERE {table}.{column} LIKE '%sha256%' AND node.key = 'sha256'"
                )
            }
    return hashes
