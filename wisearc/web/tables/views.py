"""Reference tables of the trade, with sources and marks."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, render_template

from ...core import catalogue
from ...presenters.reference import reference_tables
from ..preferences import unit_habit

blueprint = Blueprint("tables", __name__, url_prefix="/tables", template_folder="templates")


@blueprint.get("/")
def index() -> Any:
    """Gauges, metals, rods, which rod, tungsten, cups, joints, pulses."""
    return render_template("tables/index.html", tables=reference_tables(unit_habit()))


@blueprint.get("/sources")
def sources() -> Any:
    """Every work cited and every estimate in use."""
    return render_template(
        "tables/sources.html", works=catalogue.works(), estimates=catalogue.estimates()
    )
