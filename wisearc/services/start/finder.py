"""One search: procedures, jobs, equipment and the glossary."""

from __future__ import annotations

import re

from msgspec import Struct

from ...core import catalogue
from ...core.catalogue.teaching import Term
from ...core.errors import InputError
from ...core.joint.joint import Joint
from ...core.shop.shop import LABELS, Shop
from ...core.shop.words import format_item
from ...store import jobs as job_rows
from ...store.errors import StoreError
from ...store.models import JobRow, Listing
from ..inventory import shop as inventory
from ..jobs.jobs import read_saved_job
from ..planning.typed_joint import read_typed_joint
from ..procedures.library_search import list_procedures

MAX_RESULTS, MAX_SEARCH_LENGTH = 8, 100
_NUMBER = re.compile(r"^P-?(\d{1,6})(?:\s*/?\s*((?-i:[A-Z]{1,3})))?$", re.IGNORECASE)


class StockMatch(Struct, frozen=True):
    """A line of equipment: its list, its label and its count."""

    list: str
    label: str
    count: int | None


class Results(Struct, frozen=True):
    """The results of a search.

    Attributes:
        joint: The joint, if the text is one, or None.
        title: Its title, or "".
        procedures: The best matches.
        jobs: Jobs whose title or seams match.
        stock: Equipment that matches.
        terms: Terms of the glossary.
    """

    joint: Joint | None
    title: str
    procedures: tuple[Listing, ...]
    jobs: tuple[JobRow, ...]
    stock: tuple[StockMatch, ...]
    terms: tuple[Term, ...]

    @property
    def is_empty(self) -> bool:
        """Return whether nothing matches."""
        return not (self.joint or self.procedures or self.jobs or self.stock or self.terms)


def find_number(search: str) -> str:
    """Return the label of the procedure that a search names exactly, or "".

    >>> find_number("p-4"), find_number("P-0004 cup")
    ('P-0004', '')
    """
    match = _NUMBER.match(search.strip())
    return f"P-{int(match[1]):04}" if match else ""


def find_anything(search: str, units: str, shop: Shop) -> Results:
    """Search everything.

    Args:
        search: The words, or their beginnings.
        units: Unit system of the labels, and of numbers without unit.
        shop: The shop.
    """
    words = search[:MAX_SEARCH_LENGTH].lower().split()
    joint, title = None, ""
    if len(words) > 1:
        try:
            typed = read_typed_joint(search, units, shop)
        except (InputError, StoreError):
            pass
        else:
            joint, title = typed.joint, typed.plan.title.text(units)
    procedures, _ = list_procedures(search) if words else ([], 0)
    return Results(
        joint,
        title,
        tuple(procedures[:MAX_RESULTS]),
        tuple(_find_jobs(words)),
        tuple(_find_stock(words, units)),
        catalogue.find_terms(search)[:MAX_RESULTS],
    )


def _contains_all(text: str, words: list[str]) -> bool:
    return bool(words) and all(word in text.lower() for word in words)


def _find_jobs(words: list[str]) -> list[JobRow]:
    matches = []
    for row in job_rows.list_jobs():
        try:
            seams = read_saved_job(row).seams
        except InputError:
            seams = ()
        if _contains_all(
            " ".join([row.title, *(seam.called or seam.key for seam in seams)]), words
        ):
            matches.append(row)
    return matches[:MAX_RESULTS]


def _find_stock(words: list[str], units: str) -> list[StockMatch]:
    matches = []
    for key in LABELS:
        for line in inventory.list_lines(key):
            label = format_item(line.item, units)
            # A size is found in both unit systems.
            texts = [label, format_item(line.item, "in"), format_item(line.item, "mm")]
            if any(_contains_all(text, words) for text in texts):
                matches.append(StockMatch(key, label, getattr(line.item, "count", None)))
    return matches[:MAX_RESULTS]
