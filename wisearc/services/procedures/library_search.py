"""The list of the library, and its search terms."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Sequence

from ...core.errors import InputError
from ...core.plan.plan import Plan
from ...core.quantities import MM_PER_INCH, format_plain, length
from ...core.run.run import Run
from ...core.schema.json_types import get_rows
from ...formats.plan_json import read_plan
from ...store import lessons, listings, queries
from ...store.database import open_transaction
from ...store.errors import StoreError
from ...store.models import Listing, Revision, RunRow
from ..diagnosis.history import list_lessons

STATES = ("draft", "proved", "superseded", listings.REMOVED)
PAGE = 100
# A search with more results is not specific. The newest are first, and the others are not counted.
RANKED = 500
_AT_A_TIME = 200


def list_procedures(search: str = "", status: str = "", page: int = 1) -> tuple[list[Listing], int]:
    """Return a page of the searched library, and the total number of revisions.

    A search with more results than RANKED has the total RANKED + 1.

    Args:
        search: Words, or their beginnings.
        status: One of STATES, or "".
        page: Page, from 1.
    """
    text, state = listings.split_search(search), status if status in STATES else ""
    if search.strip() and not text:
        return [], 0
    total = listings.count(text, state, RANKED + 1 if text else -1)
    at = min(max(1, page), count_pages(total, bool(text)))
    return listings.list_library(text, state, (at - 1) * PAGE, PAGE, ranked=total <= RANKED), total


def has_uncounted(total: int, searched: bool) -> bool:
    """Return whether a search has more results than are counted.

    Args:
        total: Total of `list_procedures`.
        searched: Whether this is a search.
    """
    return searched and total > RANKED


def count_pages(total: int, searched: bool) -> int:
    """Return the number of pages, at least one.

    Args:
        total: Total of `list_procedures`.
        searched: Whether this is a search.
    """
    displayed = RANKED if has_uncounted(total, searched) else total
    return max(1, -(-displayed // PAGE))


def search_note(search: str) -> str:
    """Return a sentence about omitted search words, or ""."""
    maximum = listings.MAX_SEARCH_TERMS
    if len(search) > listings.MAX_SEARCH_LENGTH:
        return f"The search is long. Only its first {listings.MAX_SEARCH_LENGTH} letters are used."
    if len(listings.split_search(search)) == maximum and len(search.split()) > maximum:
        return f"The search has many words. Only its first {maximum} are used."
    return ""


def list_record(of: Revision, plan: Plan | None = None, run: RunRow | None = None) -> None:
    """Update the row of a revision in the list.

    Args:
        of: The revision.
        plan: Its plan if already parsed, or None.
        run: The only changed run, or None for all.
    """
    plan_read = plan or _read(of)
    displayed = (
        {"current_a": plan_read.current.steady_a, "rod": plan_read.filler.rod} if plan_read else {}
    )
    runs = queries.list_runs(of)
    listings.update_listing(
        of, {"current_a": None, "rod": None, **displayed}, _list_search_terms(of, plan_read, runs)
    )
    listed_runs = runs if run is None else [run]
    lessons.put(of, list_lessons(of, plan_read, listed_runs), None if run is None else run.id)


def list_all_unlisted(on_progress: Callable[[int, int], None] | None = None) -> None:
    """List the records that the present version has not listed yet, after an upgrade.

    It works in small batches to limit the memory, and continues after an interruption.
    """
    waiting = listings.list_unlisted()
    for first in range(0, len(waiting), _AT_A_TIME):
        with open_transaction():
            for revision in queries.list_revisions_by_id(waiting[first : first + _AT_A_TIME]):
                list_record(revision)
        if on_progress:
            on_progress(min(first + _AT_A_TIME, len(waiting)), len(waiting))


def _read(of: Revision) -> Plan | None:
    """Return the plan of a revision, or None if unreadable.

    It is then listed by its number and title.
    """
    try:
        return read_plan(of.plan)
    except InputError:
        return None


def _list_search_terms(of: Revision, plan: Plan | None, runs: Sequence[RunRow]) -> dict[str, str]:
    number = of.procedure.number
    text = {
        "number": f"{of.procedure.label} {number:04d} {number} {of.letter}",
        "title": of.title,
        "who": " ".join(_list_initials(run.document for run in runs)),
        "notes": " ".join(
            f"{document.notes} {document.machine}" for document in (run.document for run in runs)
        ),
    }
    if plan is None:
        return text
    sides = plan.section.sides
    typed = [
        re.sub(r"(\d)\s*ga", r"\1 ga", str(m.get("thickness", "")).casefold())
        for m in get_rows(plan.joint, "members")
    ]
    rod = plan.filler.rod or "none"
    return text | {
        "title": " ".join((of.title, plan.title.text("in"), plan.section.joint_name)),
        "metals": " ".join(f"{s.metal} {s.form}" for s in sides),
        "thickness": " ".join(
            [*typed, *(w for s in sides for w in _list_thicknesses(s.thickness_mm))]
        ),
        "rods": f"{rod} {rod.removeprefix('ER')}",
    }


def _list_initials(records: Iterable[Run]) -> set[str]:
    """Return initials as signed, and without points."""
    names = {record.who for record in records}
    return names | {name.replace(".", "") for name in names}


def _list_thicknesses(mm: float) -> list[str]:
    """Return the search texts of a thickness in both units: "1.59 mm", "0.063 in", ".063"."""
    inch = length(mm).number("in")
    return [
        length(mm).text(),
        f"{inch} in",
        inch.removeprefix("0"),
        format_plain(mm, 1),
        format_plain(mm / MM_PER_INCH, 4),
    ]


MAX_SIMILAR = 4


def find_library_kind() -> str:
    """Return the kind of the library.

    "demo", "empty", or "" for a library in use or one that cannot be read now.
    """
    try:
        if queries.is_empty():
            return "empty"
        return "demo" if queries.get_library_kind() == "demo" else ""
    except StoreError:
        return ""


def list_recent(maximum: int = MAX_SIMILAR) -> list[Listing]:
    """Return the last saved procedures, without superseded revisions."""
    try:
        return [
            row
            for row in listings.list_library([], "", 0, 2 * maximum, ranked=False)
            if row.status != "superseded"
        ][:maximum]
    except StoreError:
        return []


def list_similarity_terms(plan: Plan) -> str:
    """Return the search terms for similar joints: joint type and metals."""
    return " ".join([plan.section.joint_name, *dict.fromkeys(s.metal for s in plan.section.sides)])


def list_similar(plan: Plan) -> list[Listing]:
    """Return the procedures of similar joints, verified ones first.

    The same joint type, metals and approximate thickness.
    """
    text = listings.split_search(list_similarity_terms(plan))
    try:
        rows = listings.list_library(text, "", 0, 40, ranked=False) if text else []
    except StoreError:
        # A plan does not depend on the library.
        return []
    current_rows = [row for row in rows if row.status != "superseded"]
    return sorted(current_rows, key=lambda row: row.status != "proved")[:MAX_SIMILAR]
