"""Pages of the user guide, with a search over all of them and over the glossary."""

from __future__ import annotations

from flask import Blueprint, abort, render_template, request
from flask.typing import ResponseReturnValue

from ...core import catalogue
from .guide_pages import find_passages, read_pages

MAX_SEARCH_LENGTH = 100

blueprint = Blueprint(
    "guide",
    __name__,
    url_prefix="/guide",
    template_folder="templates",
    static_folder="pictures",
    static_url_path="/pictures",
)


@blueprint.get("/")
def index() -> ResponseReturnValue:
    """List the pages, or the passages and terms with the words of a search."""
    search = request.args.get("q", "")[:MAX_SEARCH_LENGTH].strip()
    return render_template(
        "guide/index.html",
        pages=read_pages().values(),
        search=search,
        passages=find_passages(search),
        terms=catalogue.find_terms(search),
    )


@blueprint.get("/<key>")
def page(key: str) -> ResponseReturnValue:
    """Show a page.

    Args:
        key: Key of the page.
    """
    displayed = read_pages().get(key)
    if displayed is None:
        abort(404)
    keys = list(read_pages())
    at = keys.index(key)
    following = read_pages()[keys[at + 1]] if at + 1 < len(keys) else None
    return render_template("guide/page.html", page=displayed, following=following)
