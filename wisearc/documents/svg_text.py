"""Text of drawings in a PDF: each string drawn at once.

The PDF library lays out and draws the text of an SVG one letter at a time, so that each letter can
have its own position. The drawings here give a position for each string only. Drawn at once, its
letters are spaced as in HTML and a reader of the file gets words.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

_LETTER_ATTRIBUTES = frozenset(("rotate", "dx", "dy", "letter-spacing", "textLength"))


class _StringAtOnce(str):
    """A string whose only part is all of it."""

    __slots__ = ()

    def __iter__(self) -> Iterator[str]:
        return iter((str(self),))


def draw_strings_at_once(svg_module: Any) -> None:
    """Change the SVG module of the PDF library, once, so that it draws a string at once.

    Args:
        svg_module: The module `weasyprint.svg`.
    """
    draw_by_letters = svg_module.text
    if draw_by_letters.__module__ == __name__:
        return

    def draw(svg: Any, node: Any, font_size: float) -> None:
        """Draw a text node.

        Args:
            svg: The drawing, of the PDF library.
            node: The text node.
            font_size: Font size, px.
        """
        if node.text and not _places_letters(node.attrib):
            node._etree_node.text = _StringAtOnce(node.text)
        draw_by_letters(svg, node, font_size)

    svg_module.text = draw
    for tag, function in svg_module.TAGS.items():
        if function is draw_by_letters:
            svg_module.TAGS[tag] = draw


def _places_letters(attributes: Any) -> bool:
    """Return whether a text node has positions of single letters."""
    coordinates = (attributes.get(name, "").replace(",", " ").split() for name in ("x", "y"))
    return not _LETTER_ATTRIBUTES.isdisjoint(attributes) or any(
        len(axis) > 1 for axis in coordinates
    )
