"""The starting chart: the figures of the shop by thickness and joint, as page, PDF and CSV."""

from __future__ import annotations

from flask import Response, render_template, request
from flask.typing import ResponseReturnValue

from ...core import catalogue
from ...core.errors import UnknownName
from ...core.schema import checks
from ...presenters.starting_chart import (
    SETTINGS,
    ChartText,
    describe_chart,
    write_chart_csv,
    write_chart_pdf,
)
from ...services.inventory.shop import load_shop
from ...services.planning.approaches import load_preferences
from ...services.planning.planner import query_text
from ...services.planning.starting_chart import SHEET_SCALES, build_chart
from ..preferences import get_units
from .views import blueprint

USUAL_METAL, MAX_NAME_LENGTH = "304L", 20
PAPERS = {"mm": "a4", "in": "letter"}
TYPES = {"pdf": "application/pdf", "csv": "text/csv; charset=utf-8"}


def _read_choices() -> tuple[str, str, str]:
    """Return metal, unit system and gauge scale of the address."""
    metal, units, gauge = (
        request.args.get(name, usual)[:MAX_NAME_LENGTH]
        for name, usual in (("metal", USUAL_METAL), ("units", get_units()), ("gauge", ""))
    )
    return metal, units, gauge


def _build_text(metal: str, units: str, gauge: str) -> ChartText:
    return describe_chart(build_chart(metal, units, gauge, load_shop(), load_preferences()))


@blueprint.get("/chart")
def chart() -> ResponseReturnValue:
    """Show the starting chart."""
    metal, units, gauge = _read_choices()
    try:
        return _render_chart(metal, units, gauge)
    except UnknownName as error:
        return _render_chart(USUAL_METAL, get_units(), "", error.sentence)


def _render_chart(metal: str, units: str, gauge: str, error: str = "") -> ResponseReturnValue:
    text = _build_text(metal, units, gauge)
    page = render_template(
        "reference/chart.html",
        text=text,
        error=error,
        metal=metal,
        units=units,
        gauge=gauge,
        metals=[(key, row.name) for key, row in catalogue.load_metals().items()],
        scales=[(key, catalogue.load_gauge_scales()[key].label) for key in SHEET_SCALES],
        link=query_text,
        settings=SETTINGS,
    )
    return (page, 422) if error else page


@blueprint.get("/chart.<kind>")
def chart_file(kind: str) -> ResponseReturnValue:
    """Send the starting chart as a file.

    Args:
        kind: pdf or csv.
    """
    metal, units, gauge = _read_choices()
    paper = request.args.get("paper", PAPERS.get(units, "a4"))
    try:
        checks.name("format", kind, TYPES)
        text = _build_text(metal, units, gauge)
        content = write_chart_pdf(text, paper) if kind == "pdf" else write_chart_csv(text).encode()
    except UnknownName as error:
        return _render_chart(USUAL_METAL, get_units(), "", error.sentence)
    how = "inline" if kind == "pdf" else "attachment"
    head = {"Content-Disposition": f'{how}; filename="starting-chart-{metal}.{kind}"'}
    return Response(content, content_type=TYPES[kind], headers=head)
