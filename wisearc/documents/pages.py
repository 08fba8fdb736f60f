"""The templates of documents."""

from __future__ import annotations

import base64
from functools import cache
from typing import Any

from jinja2 import Environment, PackageLoader, StrictUndefined
from markupsafe import Markup

from ..core.joint.words import convert_title
from ..core.photograph.card import load_cards
from ..core.run.inspection import COLOUR_NAMES
from ..drawings.canvas import Drawing
from ..drawings.photo_card import draw_card
from ..services.procedures.states import STATUS_NAMES

# The style of a page does not reach into its drawings.
FAMILY = "Atkinson Hyperlegible Next, Symbols"


@cache
def _load_environment() -> Environment:
    environment = Environment(
        loader=PackageLoader("wisearc.documents"),
        autoescape=True,
        trim_blocks=True,
        lstrip_blocks=True,
        undefined=StrictUndefined,
    )
    environment.globals.update(
        COLOUR_NAMES=COLOUR_NAMES, STATUS_NAMES=STATUS_NAMES, build_strip=build_strip
    )
    environment.filters.update(figure=build_figure, in_units=convert_title)
    return environment


def build_figure(drawing: Drawing, label: str = "") -> Markup:
    """Return a drawing as an image with its description, in vectors.

    Args:
        drawing: The drawing.
        label: Its description, or "" for its own.
    """
    return Markup('<img class="drawing" alt="{}" src="{}">').format(
        label or drawing.words, embed_drawing(drawing)
    )


@cache
def build_strip() -> Markup:
    """Return the strip for photographs at true scale, as an image."""
    drawing = draw_card(load_cards()["strip"])
    return Markup('<img class="true-scale" alt="{}" src="{}">').format(
        drawing.words, embed_drawing(drawing)
    )


def embed_drawing(drawing: Drawing) -> str:
    """Return a drawing as the address of an image, in vectors.

    Args:
        drawing: The drawing.
    """
    svg = drawing.svg.replace("<svg ", f'<svg font-family="{FAMILY}" ', 1)
    return f"data:image/svg+xml;base64,{base64.b64encode(svg.encode()).decode()}"


def render_page(template: str, **values: Any) -> str:
    """Return a document as HTML.

    Args:
        template: Name of the template.
        values: Its variables.
    """
    return _load_environment().get_template(template).render(**values)
