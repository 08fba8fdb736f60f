"""Reference tables of the trade, with sources and evidence levels."""

from __future__ import annotations

from flask import Blueprint, render_template, url_for
from flask.typing import ResponseReturnValue
from markupsafe import Markup

from ...core import catalogue
from ...presenters.glossary import draw_terms, link_terms
from ...presenters.reference import build_reference_tables
from ..preferences import get_units

blueprint = Blueprint("reference", __name__, url_prefix="/reference", template_folder="templates")


@blueprint.get("/")
def index() -> ResponseReturnValue:
    """Show gauges, metals, rods, filler chart, tungstens, cups, joints, pulse patterns."""
    return render_template("reference/index.html", tables=build_reference_tables(get_units()))


@blueprint.get("/glossary")
def glossary() -> ResponseReturnValue:
    """Show every term of the trade, each in one sentence."""
    return render_template(
        "reference/glossary.html", terms=catalogue.load_glossary().values(), drawn=draw_terms()
    )


@blueprint.app_template_filter("with_terms")
def with_terms(text: str) -> Markup:
    """Link the terms of a sentence to the glossary.

    Args:
        text: The sentence, not escaped.
    """
    return link_terms(text, url_for("reference.glossary"))


@blueprint.get("/sources")
def sources() -> ResponseReturnValue:
    """Show every cited work and every estimate in use."""
    return render_template(
        "reference/sources.html", works=catalogue.load_works(), estimates=catalogue.load_estimates()
    )
