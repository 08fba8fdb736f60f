"""Reference tables of the trade, with sources and marks."""

from __future__ import annotations

from flask import Blueprint, render_template
from flask.typing import ResponseReturnValue

from ...core import catalogue
from ...presenters.reference import reference_tables
from ..preferences import unit_habit

blueprint = Blueprint("reference", __name__, url_prefix="/reference", template_folder="templates")


@blueprint.get("/")
def index() -> ResponseReturnValue:
    """Gauges, metals, rods, which rod, tungsten, cups, joints, pulses."""
    return render_template("reference/index.html", tables=reference_tables(unit_habit()))


@blueprint.get("/sources")
def sources() -> ResponseReturnValue:
    """Every work cited and every estimate in use."""
    return render_template(
        "reference/sources.html", works=catalogue.works(), estimates=catalogue.estimates()
    )
