"""Terms of the glossary in the sentences of a page."""

from __future__ import annotations

import re
from functools import cache

from markupsafe import Markup, escape

from ..core import catalogue
from ..drawings.runs.faults import draw_fault

MAX_LINKS = 3


@cache
def _build_pattern() -> tuple[re.Pattern[str], dict[str, str]]:
    """Return the pattern of all linked names, the longest first, and the term of each."""
    keys = {
        name.lower(): term.key
        for term in catalogue.load_glossary().values()
        if term.linked
        for name in term.names
        if len(name) > 3
    }
    names = "|".join(re.escape(name) for name in sorted(keys, key=len, reverse=True))
    return re.compile(rf"(?<![\w-])({names})s?(?![\w-])", re.IGNORECASE), keys


def draw_terms() -> dict[str, Markup]:
    """Return the drawings of the terms that have one, as SVG, by key."""
    return {
        term.key: Markup(draw_fault(term.flaw, catalogue.load_flaws()[term.flaw]).svg)
        for term in catalogue.load_glossary().values()
        if term.flaw
    }


def link_terms(text: str, address: str) -> Markup:
    """Return a sentence whose terms are links to the glossary.

    Args:
        text: The sentence, not escaped.
        address: Address of the glossary page.

    Returns:
        Escaped HTML with at most three links, one for each term.
    """
    pattern, keys = _build_pattern()
    out, end = Markup(""), 0
    linked: set[str] = set()
    for match in pattern.finditer(text):
        key = keys[match[1].lower()]
        if key in linked or len(linked) == MAX_LINKS:
            continue
        linked.add(key)
        title = catalogue.load_glossary()[key].text
        out += escape(text[end : match.start()])
        out += Markup('<a class="term" href="{}#{}" title="{}">{}</a>').format(
            address, key, title, match[0]
        )
        end = match.end()
    return out + escape(text[end:])
