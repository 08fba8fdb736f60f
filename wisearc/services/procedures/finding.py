"""How a record stands in the book's list, and by which words it is found."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Sequence

from ...core.errors import InputError
from ...core.plan.plan import Plan
from ...core.quantities import MM_PER_INCH, format_plain, length
from ...core.run.run import Run
from ...core.schema.json_types import get_rows
from ...formats.plan_json import read_plan
from ...store import lessons, queries
from ...store.database import open_transaction
from ...store.errors import StoreError
from ...store.models import Listing, Revision, RunRow
from ..diagnosis.history import list_lessons

STATES = ("draft", "proved", "superseded", queries.REMOVED)
PAGE = 100
# A search with more results is not specific. The newest are first, and the others are not counted.
RANKED = 500
_AT_A_TIME = 200


def list_procedures(search: str = "", status: str = "", page: int = 1) -> tuple[list[Listing], int]:
    """A page of the book, searched, and how many revisions there are in all. Of a search with more
    results than RANKED the count is RANKED + 1.

    Parameters: search, words, the beginning of each enough; status, one of STATES or ""; page, from
    1.
    """
    words, state = queries.search_words(search), status if status in STATES else ""
    if search.strip() and not words:
        return [], 0
    found = queries.count(words, state, RANKED + 1 if words else -1)
    at = min(max(1, page), count_pages(found, bool(words)))
    return queries.list_library(words, state, (at - 1) * PAGE, PAGE, ranked=found <= RANKED), found


def has_uncounted(found: int, searched: bool) -> bool:
    """Return whether a search has more results than are counted.

    Args:
        found: Count of `list_procedures`.
        searched: Whether this is a search.
    """
    return searched and found > RANKED


def count_pages(found: int, searched: bool) -> int:
    """Return the number of pages, at least one.

    Args:
        found: Count of `list_procedures`.
        searched: Whether this is a search.
    """
    shown = RANKED if has_uncounted(found, searched) else found
    return max(1, -(-shown // PAGE))


def search_note(search: str) -> str:
    """What of a search was left away, in a sentence, or ""."""
    most = queries.MAX_WORDS
    if len(search) > queries.MAX_SEARCH_LENGTH:
        return f"The search is long. Only its first {queries.MAX_SEARCH_LENGTH} letters are used."
    if len(queries.search_words(search)) == most and len(search.split()) > most:
        return f"The search has many words. Only its first {most} are used."
    return ""


def list_record(of: Revision, plan: Plan | None = None, run: RunRow | None = None) -> None:
    """List a revision as it stands. Parameters: plan, where it has been read already; run, where it
    alone is another than before.
    """
    found = plan or _read(of)
    shown = {"current_a": found.current.steady_a, "rod": found.filler.rod} if found else {}
    runs = queries.list_runs(of)
    queries.list_anew(
        of, {"current_a": None, "rod": None, **shown}, _list_search_words(of, found, runs)
    )
    told = runs if run is None else [run]
    lessons.put(of, list_lessons(of, found, told), None if run is None else run.id)


def list_all_unlisted(told: Callable[[int, int], None] | None = None) -> None:
    """List what is not listed as the list is made today: after a start with a new version. So many
    at a time, so that it takes little room, and goes on where it was broken off. Parameters: told,
    how many of how many are done.
    """
    waiting = queries.list_unlisted()
    for first in range(0, len(waiting), _AT_A_TIME):
        with open_transaction():
            for revision in queries.list_revisions_by_id(waiting[first : first + _AT_A_TIME]):
                list_record(revision)
        if told:
            told(min(first + _AT_A_TIME, len(waiting)), len(waiting))


def _read(of: Revision) -> Plan | None:
    """A revision's plan, or None where it cannot be read: it is listed all the same, by its number
    and title.
    """
    try:
        return read_plan(of.plan)
    except InputError:
        return None


def _list_search_words(of: Revision, plan: Plan | None, runs: Sequence[RunRow]) -> dict[str, str]:
    number = of.procedure.number
    words = {
        "number": f"{of.procedure.label} {number:04d} {number} {of.letter}",
        "title": of.title,
        "who": " ".join(_list_initials(run.document for run in runs)),
        "notes": " ".join(
            f"{told.notes} {told.machine}" for told in (run.document for run in runs)
        ),
    }
    if plan is None:
        return words
    sides = plan.section.sides
    typed = [
        re.sub(r"(\d)\s*ga", r"\1 ga", str(m.get("thickness", "")).casefold())
        for m in get_rows(plan.joint, "members")
    ]
    rod = plan.filler.rod or "none"
    return words | {
        "title": " ".join((of.title, plan.title.text("in"), plan.section.joint_name)),
        "metals": " ".join(f"{s.metal} {s.form}" for s in sides),
        "thickness": " ".join(
            [*typed, *(w for s in sides for w in _list_thicknesses(s.thickness_mm))]
        ),
        "rods": f"{rod} {rod.removeprefix('ER')}",
    }


def _list_initials(records: Iterable[Run]) -> set[str]:
    """Initials as they were signed, and without their points."""
    names = {record.who for record in records}
    return names | {name.replace(".", "") for name in names}


def _list_thicknesses(mm: float) -> list[str]:
    """A thickness as people look for it, in either habit: "1.59 mm", "0.063 in", ".063"."""
    inch = length(mm).number("in")
    return [
        length(mm).text(),
        f"{inch} in",
        inch.removeprefix("0"),
        format_plain(mm, 1),
        format_plain(mm / MM_PER_INCH, 4),
    ]


LIKE_SHOWN = 4


def find_library_kind() -> str:
    """What kind of book stands: "demo", "empty", or "" for a book in use or one that cannot be
    asked just now.
    """
    try:
        if queries.is_empty():
            return "empty"
        return "demo" if queries.get_library_kind() == "demo" else ""
    except StoreError:
        return ""


def list_recent(most: int = LIKE_SHOWN) -> list[Listing]:
    """What was kept last, superseded revisions left away."""
    try:
        return [
            row
            for row in queries.list_library([], "", 0, 2 * most, ranked=False)
            if row.status != "superseded"
        ][:most]
    except StoreError:
        return []


def list_similar_words(plan: Plan) -> str:
    """By which words joints like a plan's are found: its kind and its metals."""
    return " ".join([plan.section.joint_name, *dict.fromkeys(s.metal for s in plan.section.sides)])


def list_similar(plan: Plan) -> list[Listing]:
    """The procedures of joints like a plan's, proved first: the same kind of joint in the same
    metals and near the same thickness.
    """
    words = queries.search_words(list_similar_words(plan))
    try:
        found = queries.list_library(words, "", 0, 40, ranked=False) if words else []
    except StoreError:
        # what is planned does not hang on the book
        return []
    standing = [row for row in found if row.status != "superseded"]
    return sorted(standing, key=lambda row: row.status != "proved")[:LIKE_SHOWN]
