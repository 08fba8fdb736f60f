"""The list of the library, and its search terms."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Sequence

from msgspec import Struct
from msgspec.structs import replace

from ...core.errors import InputError
from ...core.plan.plan import Plan
from ...core.quantities import MM_PER_INCH, format_plain, length
from ...core.run.run import Run
from ...core.schema.json_types import Json, get_rows
from ...store import lessons, listings, queries
from ...store.database import open_transaction
from ...store.errors import StoreError
from ...store.listings import LibraryFilter
from ...store.models import Listing, Revision, RunRow
from ..diagnosis.history import list_lessons

STATES = ("draft", "waiting", "proved", "superseded", listings.REMOVED)
OUTCOMES, SORTS = listings.OUTCOMES, listings.SORTS
PAGE = 50
# A view with more results is not specific. The first are shown, and the others are not counted.
RANKED = 500
_AT_A_TIME = 200
MAX_EXPORTED = 10_000


class LibraryPage(Struct, frozen=True):
    """A page of a view: rows, counted total, whether there are more, page and number of pages."""

    rows: list[Listing]
    total: int
    has_more: bool
    page: int
    pages: int


def read_search(text: str) -> tuple[str, ...]:
    """Return the words of a search, as the index splits them."""
    return tuple(listings.split_search(text))


def list_page(view: LibraryFilter, page: int = 1) -> LibraryPage:
    """Return a page of a view of the library.

    A view with more than RANKED results is not counted further.

    Args:
        view: The view.
        page: Page, from 1, limited to the last.
    """
    is_limited = replace(view, sort=listings.NEWEST, status="") != listings.ALL
    total = listings.count(view, RANKED + 1 if is_limited else -1)
    has_more = is_limited and total > RANKED
    displayed = min(total, RANKED) if is_limited else total
    pages = max(1, -(-displayed // PAGE))
    at = min(max(1, page), pages)
    rows = listings.list_library(view, (at - 1) * PAGE, PAGE, ranked=not has_more)
    return LibraryPage(rows, displayed, has_more, at, pages)


def list_procedures(search: str = "", status: str = "", page: int = 1) -> tuple[list[Listing], int]:
    """Return a page of the searched library, and the number of counted revisions.

    Args:
        search: Words, or their beginnings.
        status: One of STATES, or "".
        page: Page, from 1.
    """
    terms = read_search(search)
    if search.strip() and not terms:
        return [], 0
    state = status if status in STATES else ""
    found_page = list_page(LibraryFilter(terms, state), page)
    return found_page.rows, found_page.total + found_page.has_more


def list_exported(view: LibraryFilter) -> list[Listing]:
    """Return the rows of a view for an export, at most MAX_EXPORTED."""
    return listings.list_library(view, 0, MAX_EXPORTED, ranked=False)


def list_filter_options(kind: str) -> list[str]:
    """Return the values of a filter in the library: "metal", "machine" or "welder"."""
    return listings.list_options(kind)


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
    runs = queries.list_runs(of)
    listings.update_listing(
        of,
        _list_figures(plan_read),
        _list_search_terms(of, plan_read, runs),
        _list_filter_values(plan_read, runs),
    )
    listed_runs = runs if run is None else [run]
    lessons.put(of, list_lessons(of, plan_read, listed_runs), None if run is None else run.id)


def _list_figures(plan: Plan | None) -> dict[str, Json]:
    """Return the figures of a plan for the list, or none of one that cannot be read."""
    if plan is None:
        return {"current_a": None, "rod": None}
    sides = plan.section.sides
    thicknesses = sorted(side.thickness_mm for side in sides)
    diameters = [side.diameter_mm for side in sides if side.diameter_mm is not None]
    return {
        "current_a": plan.current.steady_a,
        "rod": plan.filler.rod,
        "joint": str(plan.joint.get("joint", "")),
        "service": str(plan.joint.get("service", "")),
        "metals": " + ".join(dict.fromkeys(side.metal for side in sides)),
        "thin_mm": thicknesses[0],
        "thick_mm": thicknesses[-1],
        "diameter_mm": max(diameters, default=None),
    }


def _list_filter_values(plan: Plan | None, runs: Sequence[RunRow]) -> dict[str, set[str]]:
    valid_runs = [run.document for run in runs if run.voided_at is None]
    return {
        listings.METAL: {side.metal for side in plan.section.sides} if plan else set(),
        listings.MACHINE: {run.machine for run in valid_runs},
        listings.WELDER: {run.who for run in valid_runs},
    }


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
        return of.read_plan()
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
    sizes_mm = [side.thickness_mm for side in sides]
    sizes_mm += [side.diameter_mm for side in sides if side.diameter_mm is not None]
    rod = plan.filler.rod or "none"
    joint = str(plan.joint.get("joint", "")).replace("-", " ")
    return text | {
        "title": " ".join((of.title, plan.title.text("in"), plan.section.joint_name, joint)),
        "metals": " ".join(f"{s.metal} {s.form}" for s in sides),
        "thickness": " ".join([*typed, *(w for mm in sizes_mm for w in list_size_texts(mm))]),
        "rods": f"{rod} {rod.removeprefix('ER')}",
    }


def _list_initials(records: Iterable[Run]) -> set[str]:
    """Return initials as signed, and without points."""
    names = {record.who for record in records}
    return names | {name.replace(".", "") for name in names}


# A tube of 50.8 mm is sold as 2 in and called 51: estimate of the difference that people ignore.
_NOMINAL_SHARE = 0.015
_NOMINAL_INCH = 0.125


def list_size_texts(mm: float) -> list[str]:
    """Return the search texts of a size in both units, exact and nominal.

    Args:
        mm: Thickness or diameter, mm.

    >>> list_size_texts(50.8)
    ['50.8 mm', '2 in', '2', '50.8', '2', '51 mm']
    """
    inch = length(mm).number("in")
    words = [
        length(mm).text(),
        f"{inch} in",
        inch.removeprefix("0"),
        format_plain(mm, 1),
        format_plain(mm / MM_PER_INCH, 4),
    ]
    nominal_mm = round(mm)
    nominal_in = round(mm / MM_PER_INCH / _NOMINAL_INCH) * _NOMINAL_INCH
    for nominal, exact_value, unit in (
        (nominal_mm, mm, "mm"),
        (nominal_in, mm / MM_PER_INCH, "in"),
    ):
        if nominal and 0 < abs(nominal - exact_value) <= _NOMINAL_SHARE * exact_value:
            words.append(f"{format_plain(nominal, 3)} {unit}")
    return words


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
            for row in listings.list_library(maximum=2 * maximum, ranked=False)
            if row.status != "superseded"
        ][:maximum]
    except StoreError:
        return []
