"""Pages of the user guide, with a search over all of them."""

from __future__ import annotations

import re
from functools import cache
from pathlib import Path

from flask import Blueprint, abort, render_template, request
from flask.typing import ResponseReturnValue
from markupsafe import Markup, escape
from msgspec import Struct

PAGES = Path(__file__).with_name("pages")
MAX_SEARCH_LENGTH = 100

blueprint = Blueprint(
    "guide",
    __name__,
    url_prefix="/guide",
    template_folder="templates",
    static_folder="pictures",
    static_url_path="/pictures",
)


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
    found = {}
    for path in sorted(PAGES.glob("*.txt")):
        title, _, html = path.read_text(encoding="utf-8").partition("\n")
        text = Markup(html).striptags()
        key = path.stem.partition("-")[2]
        found[key] = GuidePage(key, title, Markup(html), str(text))
    return found


def find_passages(words: str) -> list[tuple[GuidePage, Markup]]:
    """Return the pages with all words, each with the passage around the first word.

    Args:
        words: Words as they were typed.
    """
    typed = [word for word in re.split(r"\s+", words.lower()) if word]
    found = []
    for page in read_pages().values():
        text = f"{page.title}. {page.text}"
        if typed and all(word in text.lower() for word in typed):
            start = text.lower().index(typed[0])
            passage = text[max(0, start - 60) : start + 120]
            found.append((page, escape(f"… {passage.strip()} …")))
    return found


@blueprint.get("/")
def index() -> ResponseReturnValue:
    """List the pages, or the passages with the words of a search."""
    words = request.args.get("q", "")[:MAX_SEARCH_LENGTH].strip()
    return render_template(
        "guide/index.html",
        pages=read_pages().values(),
        words=words,
        passages=find_passages(words),
    )


@blueprint.get("/<key>")
def page(key: str) -> ResponseReturnValue:
    """Show a page.

    Args:
        key: Key of the page.
    """
    found = read_pages().get(key)
    if found is None:
        abort(404)
    keys = list(read_pages())
    at = keys.index(key)
    following = read_pages()[keys[at + 1]] if at + 1 < len(keys) else None
    return render_template("guide/page.html", page=found, following=following)
