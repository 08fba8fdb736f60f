"""The card beside a seam as PDF, A6, at true scale."""

from __future__ import annotations

from ..core.photograph.card import load_cards
from ..drawings.photo_card import draw_card
from .pages import embed_drawing, render_page
from .pdf import write_pdf

TITLE = "Card for photographs"


def make_card() -> bytes:
    """Return the card as PDF.

    Raises:
        NoPdf: The libraries for PDF are missing.
    """
    drawing = draw_card(load_cards()["card"])
    html = render_page(
        "photo_card.html", title=TITLE, shop="", drawing=drawing, source=embed_drawing(drawing)
    )
    return write_pdf(html)


def make_card_svg() -> bytes:
    """Return the card as an SVG file."""
    return draw_card(load_cards()["card"]).svg.encode()
