"""The templates of documents."""

from __future__ import annotations

import base64
from functools import cache
from typing import Any

from jinja2 import Environment, PackageLoader, StrictUndefined
from markupsafe import Markup

from ..core.joint.words import convert_title
from ..core.run.inspection import COLOUR_NAMES
from ..drawings.canvas import Drawing
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
    environment.globals.update(COLOUR_NAMES=COLOUR_NAMES, STATUS_NAMES=STATUS_NAMES)
    environment.filters.update(figure=build_figure, in_units=convert_title)
    return environment


def build_figure(drawing: Drawing, label: str = "") -> Markup:
    """Return a drawing as an image with its description, in vectors.

    Args:
        drawing: The drawing.
        label: Its description, or "" for its own.
    """
    svg = drawing.svg.replace("<svg ", f'<svg font-family="{FAMILY}" ', 1)
    text = base64.b64encode(svg.encode()).decode()
    alt = label or drawing.words
    return Markup('<img class="drawing" alt="{}" src="data:image/svg+xml;base64,{}">').format(
        alt, text
    )


def render_page(template: str, **values: Any) -> str:
    """Return a document as HTML.

    Args:
        template: Name of the template.
        values: Its variables.
    """
    return _load_environment().get_template(template).render(**values)
