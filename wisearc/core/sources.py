"""Sources and evidence levels of figures, and their titles."""

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
    """Check a source and an evidence level.

    Args:
        source: Key of the source.
        mark: Evidence level.

    Raises:
        UnknownName: The catalogue does not have it.
    """
    if mark not in MARKS:
        raise UnknownName("mark", mark, list(MARKS))
    known: dict[str, list[str]] = {
        "published": list(load_works()),
        "estimate": list(load_estimates()),
    }
    if mark in known and source not in known[mark]:
        raise UnknownName("source", source, known[mark])


def format_source(source: str, mark: str) -> str:
    """Return the title of a source, with "from memory" where necessary.

    Args:
        source: Key of the source.
        mark: Evidence level.

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
