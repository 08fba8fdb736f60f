"""Where a figure comes from: its mark, and the words that show it."""

from __future__ import annotations

from functools import cache

from .catalogue import MARKS, load_estimates, load_works
from .errors import UnknownName

PRACTICE = "common-practice"
_SHORT = {
    "published": "published",
    "common-practice": "practice",
    "estimate": "estimate",
    "own-record": "shop history",
}


@cache
def check(source: str, mark: str) -> None:
    """Refuse a mark or a source that the catalogue does not know. Raises UnknownName."""
    if mark not in MARKS:
        raise UnknownName("mark", mark, list(MARKS))
    known: dict[str, list[str]] = {
        "published": list(load_works()),
        "estimate": list(load_estimates()),
    }
    if mark in known and source not in known[mark]:
        raise UnknownName("source", source, known[mark])


def format_source(source: str, mark: str) -> str:
    """The source in words: the work's title (and whether it is from memory), the estimate, or
    practice.

    >>> format_source("common-practice", "common-practice")
    'common practice, no source'
    """
    if mark == "published":
        work = load_works()[source]
        return work.title if work.checked else f"{work.title} (from memory)"
    if mark == "estimate":
        return f"estimate: {load_estimates()[source].title}"
    if mark == "own-record":
        return "this shop's history"
    return "common practice, no source"


def format_short_mark(mark: str) -> str:
    """The mark as a chip shows it."""
    return _SHORT.get(mark, mark)
