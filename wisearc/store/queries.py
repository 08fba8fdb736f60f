"""Reading the book. Each list is one query, whatever its length; it reads no plan."""

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

# how the list is made of a record: raise it, and every record is listed anew at the next opening
LISTED_AS = 2
MAX_NUMBER = 999_999
FOUND_BY = ("number", "title", "metals", "thickness", "rods", "who", "notes")
# a find in the number or the title counts before one in the notes
_WEIGHTS = (8.0, 6.0, 4.0, 4.0, 4.0, 2.0, 1.0)
MAX_SEARCH_LENGTH, MAX_WORDS, _MAX_WORD_LENGTH = 200, 12, 40
# how the list says of a draft that it was put away
REMOVED = "removed"


def parse_number(label: str) -> int:
    """The number in "P-0003". Raises Missing."""
    digits = label.upper().removeprefix("P-")
    if not digits.isascii() or not digits.isdigit() or len(digits) > 6:
        raise Missing(f"“{shorten(label)}” is not a procedure number. Example: P-0003.")
    return int(digits)


def find_procedure(number: int) -> Procedure | None:
    """A procedure by its number, or None."""
    with wrap_errors():
        return Procedure.get_or_none(Procedure.number == number)


def get_procedure(label: str) -> Procedure:
    """A procedure by its label. Raises Missing."""
    number = parse_number(label)
    found = find_procedure(number)
    if found is None:
        raise Missing(f"There is no procedure {NUMBER_FORM.format(number)} in this library.")
    return found


def get_revision(label: str, letter: str | None = None) -> Revision:
    """A revision: by letter, or the newest that was not put away, or else the newest. Raises
    Missing.
    """
    owner = get_procedure(label)
    with wrap_errors():
        query = Revision.select().where(Revision.procedure == owner)
        newest = query.order_by(
            Revision.removed_at.is_null().desc(),
            fn.LENGTH(Revision.letter).desc(),
            Revision.letter.desc(),
        )
        found: Revision | None = (
            query.where(Revision.letter == letter) if letter else newest
        ).first()
    if found is None:
        raise Missing(f"{owner.label} has no revision {shorten(letter or 'A')}.")
    found.procedure = owner
    return found


def list_revisions(owner: Procedure) -> list[Revision]:
    """Every revision of a procedure, oldest first."""
    with wrap_errors():
        in_order = Revision.select().order_by(fn.LENGTH(Revision.letter), Revision.letter)
        return list(in_order.where(Revision.procedure == owner))


def get_last_letter(owner: Procedure) -> str:
    """The last letter a procedure has had, put away or not."""
    return list_revisions(owner)[-1].letter


def list_numbered_revisions(letter: str, label: str) -> list[Revision]:
    """The revisions of a letter that have a number, or were taken from a file of it, each with its
    procedure.
    """
    # two walks by an index each; together they would walk the whole book
    with wrap_errors():
        join = Revision.select(Revision, Procedure).join(Procedure)
        own = list(
            join.where((Procedure.number == parse_number(label)) & (Revision.letter == letter))
        )
        return own + list(join.where((Revision.taken_as == label) & (Revision.letter == letter)))


def has_runs(of: Revision) -> bool:
    """Whether runs were made to a revision, struck out or not."""
    return bool(RunRow.select().where(RunRow.revision == of).exists())


def measure_room(of: Revision) -> tuple[int, int]:
    """How many runs a revision has, and how many bytes they take."""
    sums = RunRow.select(
        fn.COUNT(RunRow.id), fn.COALESCE(fn.SUM(fn.LENGTH(RunRow.record.cast("BLOB"))), 0)
    )
    with wrap_errors():
        found: tuple[int, int] = sums.where(RunRow.revision == of).tuples().first()
        return found


def add_runs(rows: Sequence[Mapping[str, Any]]) -> None:
    """Add runs as they were kept."""
    for first in range(0, len(rows), 500):
        RunRow.insert_many(rows[first : first + 500]).execute()


def list_runs(of: Revision, skip: int = 0, most: int = -1) -> list[RunRow]:
    """The runs of a revision, oldest first, those struck out too. Parameters: skip and most, which
    of them.
    """
    with wrap_errors():
        in_order = RunRow.select().where(RunRow.revision == of).order_by(RunRow.made_on, RunRow.id)
        return list(in_order.offset(skip).limit(most) if skip or most >= 0 else in_order)


def list_verifying_runs(of: Revision, most: int) -> list[RunRow]:
    """The last good runs of a revision that stand, oldest first."""
    with wrap_errors():
        good = RunRow.select().where(
            (RunRow.revision == of) & RunRow.good & RunRow.voided_at.is_null()
        )
        return list(good.order_by(RunRow.made_on.desc(), RunRow.id.desc()).limit(most))[::-1]


def run_of(of: Revision, number: int) -> RunRow:
    """A run of a revision, by its own number. Raises Missing."""
    with wrap_errors():
        found = RunRow.get_or_none((RunRow.revision == of) & (RunRow.id == number))
    if found is None:
        raise Missing(f"{of.procedure.label} {of.letter} has no such run.")
    return found


def get_any_run(number: int) -> RunRow:
    """A run by its own number, with its revision and procedure. Raises Missing."""
    with wrap_errors():
        joined = (
            RunRow.select(RunRow, Revision, Procedure)
            .join(Revision)
            .join(Procedure)
            .where(RunRow.id == number)
        )
        found: RunRow | None = joined.first()
    if found is None:
        raise Missing("There is no such run.")
    return found


def run_sent(of: Revision, once: str) -> RunRow | None:
    """The run of a revision's procedure that was sent with a form's token, or None."""
    if not once:
        return None
    with wrap_errors():
        sent = (RunRow.once >= f"{once}.") & (RunRow.once < f"{once}/")
        runs = RunRow.select(RunRow, Revision).join(Revision)
        found: RunRow | None = runs.where((Revision.procedure == of.procedure) & sent).first()
        return found


def list_library(
    words: Sequence[str] = (), status: str = "", skip: int = 0, most: int = 100, ranked: bool = True
) -> list[Listing]:
    """A page of the book: newest number first, or where it is searched best find first.

    Parameters: words, each of which must be found, the beginning of a word enough; status, one of
    the states or ""; skip and most, which of them; ranked, whether what is found is weighed, else
    the newest first.
    """
    query = _select_listed(words, status).offset(skip).limit(most)
    if words and not ranked:
        # In the order of the index SQLite reads only one page.
        query = query.order_by(SQL("finding.rowid").desc())
    else:
        order: list[Any] = [
            Listing.number.desc(),
            fn.LENGTH(Listing.letter).desc(),
            Listing.letter.desc(),
        ]
        if words:
            own = [
                (Listing.number == int(word)).desc()
                for word in words
                if word.isascii() and word.isdigit() and len(word) < 10
            ]
            order = [*own, fn.BM25(SQL("finding"), *_WEIGHTS), *order]
        query = query.order_by(*order)
    with wrap_errors():
        return list(query)


def count(words: Sequence[str] = (), status: str = "", most: int = -1) -> int:
    """Count the revisions that match.

    Args:
        words: Words of the search.
        status: A status, or an empty string.
        most: Maximum count, or -1.

    Raises:
        StoreError: The library cannot be read.
    """
    with wrap_errors():
        query = _select_listed(words, status)
        return int((query.limit(most) if most >= 0 else query).count())


def _select_listed(words: Sequence[str], status: str) -> Any:
    query = Listing.select()
    if words:
        table: Any = peewee.Table("finding", ("rowid",)).alias("finding")
        query = (
            Listing.select()
            .from_(table)
            .join(Listing, on=(Listing.revision == table.rowid))
            .where(SQL("finding MATCH ?", (_build_search(words),)))
        )
    return query.where(Listing.status == status if status else Listing.status != REMOVED)


_SOUGHT = re.compile(r"(?P<figure>[0-9]*\.?[0-9]+)\s*(?P<unit>ga|mm|in)\b|[\w.]+")


def search_words(text: str) -> list[str]:
    """The words of a search, as the index cuts them; a figure with its unit is one: "16 ga",
    ".065", "0003".

    Of a long search the first `MAX_SEARCH_LENGTH` letters and `MAX_WORDS` words.
    """
    found = []
    plain = unicodedata.normalize("NFC", text[:MAX_SEARCH_LENGTH]).lower()
    # Each number starts with this letter.
    plain = re.sub(r"\bp-(?=[0-9])", "", plain)
    for match in _SOUGHT.finditer(re.sub(r"(?<=\d),(?=\d)", ".", plain)):
        word = f"{match['figure']} {match['unit']}" if match["figure"] else match[0].rstrip(".")
        if any(c.isalnum() for c in word):
            found.append(word[:_MAX_WORD_LENGTH])
    return found[:MAX_WORDS]


def _build_search(words: Sequence[str]) -> str:
    """Words in the index's own language: each is wanted."""
    return " AND ".join(_build_term(word) for word in words)


def _build_term(word: str) -> str:
    """A word of a search as the index reads it: a measured figure as it is, any other by its
    beginning.
    """
    measured = " " in word or ("." in word and word.replace(".", "").isdigit())
    return f'"{word}"' if measured else f'"{word}"*'


def find_last_run(of: Revision) -> RunRow | None:
    """The run of a revision that was written down last, those struck out left away."""
    with wrap_errors():
        standing = RunRow.select().where((RunRow.revision == of) & RunRow.voided_at.is_null())
        found: RunRow | None = standing.order_by(RunRow.id.desc()).first()
        return found


def list_procedure_runs(owner: Procedure, most: int) -> list[tuple[Revision, RunRow]]:
    """The last runs of a procedure, of every revision, oldest first; those struck out left away."""
    with wrap_errors():
        joined = (
            RunRow.select(RunRow, Revision)
            .join(Revision)
            .where((Revision.procedure == owner) & RunRow.voided_at.is_null())
        )
        found = list(joined.order_by(RunRow.made_on.desc(), RunRow.id.desc()).limit(most))[::-1]
    return [(run.revision, run) for run in found]


def list_last_runs(most: int) -> list[RunRow]:
    """The runs that were written down last, the newest first; those struck out left away."""
    with wrap_errors():
        joined = RunRow.select(RunRow, Revision, Procedure).join(Revision).join(Procedure)
        return list(joined.where(RunRow.voided_at.is_null()).order_by(RunRow.id.desc()).limit(most))


def list_anew(of: Revision, shown: JsonObject, found_by: Mapping[str, str]) -> None:
    """List a revision as it stands. Parameters: shown, current_a and rod; found_by, words by column
    of the index.
    """
    standing = (RunRow.revision == of) & RunRow.voided_at.is_null()
    made = (
        RunRow.select(fn.COUNT(RunRow.id), fn.COALESCE(fn.SUM(RunRow.good), 0))
        .where(standing)
        .tuples()
        .first()
    )
    Listing.insert(
        revision=of,
        number=of.procedure.number,
        letter=of.letter,
        status=REMOVED if of.removed_at else of.status,
        title=of.title,
        runs=made[0],
        good=made[1],
        made_as=LISTED_AS,
        **shown,
    ).on_conflict_replace().execute()
    execute("DELETE FROM finding WHERE rowid = ?", (of.id,))
    columns, places = ", ".join(FOUND_BY), ", ".join("?" * (len(FOUND_BY) + 1))
    values = (of.id, *(unicodedata.normalize("NFC", found_by.get(key, "")) for key in FOUND_BY))
    execute(f"INSERT INTO finding (rowid, {columns}) VALUES ({places})", values)


def list_unlisted() -> list[int]:
    """The revisions, by id, that are not listed as the list is made today."""
    with wrap_errors():
        stale = Revision.select(Revision.id).join(
            Listing, peewee.JOIN.LEFT_OUTER, on=(Listing.revision == Revision.id)
        )
        wanted = stale.where(Listing.made_as.is_null() | (Listing.made_as != LISTED_AS))
        rows: Any = wanted.order_by(Revision.id).tuples()
        return [row[0] for row in rows]


def list_revisions_by_id(ids: Sequence[int]) -> list[Revision]:
    """Revisions by id, in the order given, each with its procedure."""
    place = {number: i for i, number in enumerate(ids)}
    with wrap_errors():
        found = Revision.select(Revision, Procedure).join(Procedure).where(Revision.id << list(ids))
        return sorted(found, key=lambda revision: place[revision.id])


def list_ids_in_order() -> list[int]:
    """Every revision, by id, in the order of number and letter."""
    with wrap_errors():
        rows = (
            Revision.select(Revision.id)
            .join(Procedure)
            .order_by(Procedure.number, fn.LENGTH(Revision.letter), Revision.letter)
        )
        found: Any = rows.tuples()
        return [row[0] for row in found]


def find_next_number(after: int = 0) -> int:
    """The next free number: after the greatest, or where that is the last there is, the first gap.
    Raises NotAllowed.

    Parameters: after, a number that it comes after too, while there is room.
    """
    greatest = max(after, Procedure.select(fn.MAX(Procedure.number)).scalar() or 0)
    if greatest < MAX_NUMBER:
        return greatest + 1
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
    """What kind of book it is: "demo", "own" for one begun beside it, "" for any other."""
    with wrap_errors():
        return str(execute("SELECT kind FROM book").fetchone()[0])


def set_book_kind(kind: str) -> None:
    """Say what kind of book it is."""
    execute("UPDATE book SET kind = ?", (kind,))


def is_empty() -> bool:
    """Whether the book holds nothing yet."""
    with wrap_errors():
        return not Procedure.select().exists()


def load_chosen_approaches() -> dict[str, str]:
    """The schools the shop has chosen, by question."""
    with wrap_errors():
        return {row.key: row.value for row in ShopSchool.select()}


def set_school(key: str, value: str) -> None:
    """Choose a school for the shop."""
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
