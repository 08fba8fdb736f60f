"""Reference tables of the trade, with sources and marks."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, render_template

from ...core import catalogue

blueprint = Blueprint("tables", __name__, url_prefix="/tables", template_folder="templates")


@blueprint.get("/")
def index() -> Any:
    """Gauges, metals, rods, tungsten, cups; and every source."""
    return render_template(
        "tables/index.html", gauges=catalogue.gauge_scales(), metals=catalogue.metals(), rods=catalogue.rods(), tips=catalogue.tips(),
        types=catalogue.tungsten_types(), cups=catalogue.cups(), works=catalogue.works(), estimates=catalogue.estimates(),
    )  # fmt: skip
