"""The pages of the user guide, and the search over them. No requests."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from markupsafe import Markup
from msgspec import Struct

PAGES = Path(__file__).with_name("pages")
PASSAGE_BEFORE, PASSAGE_AFTER = 60, 120


class GuidePage(Struct, frozen=True):
    """A page of the guide.

    Attributes:
        key: Last part of its address.
        title: Its heading.
        html: Its content, without the heading.
        text: Its text, without tags.
    """

    key: str
    title: str
    html: Markup
    text: str


@cache
def read_pages() -> dict[str, GuidePage]:
    """Return the pages by key, in the order of the guide."""
    pages = {}
    for path in sorted(PAGES.glob("*.txt")):
        title, _, html = path.read_text(encoding="utf-8").partition("\n")
        key = path.stem.partition("-")[2]
        pages[key] = GuidePage(key, title, Markup(html), Markup(html).striptags())
    return pages


def find_passages(search: str) -> list[tuple[GuidePage, str]]:
    """Return the pages with all words, each with the passage around the first word.

    Args:
        search: The words, as the user typed them.
    """
    wording = search.lower().split()
    results = []
    for page in read_pages().values():
        text = f"{page.title}. {page.text}"
        if wording and all(word in text.lower() for word in wording):
            start = text.lower().index(wording[0])
            passage = text[max(0, start - PASSAGE_BEFORE) : start + PASSAGE_AFTER]
            results.append((page, f"… {passage.strip()} …"))
    return results
