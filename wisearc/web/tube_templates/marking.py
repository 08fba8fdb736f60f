"""Holes and studs marked out: a page, and files to scale."""

from __future__ import annotations

from urllib.parse import urlencode

from flask import Response, render_template, request
from flask.typing import ResponseReturnValue

from ...core.errors import InputError
from ...core.templates.cut import KINDS as CUT_KINDS
from ...core.templates.marking import KINDS, PATTERNS
from ...forms.marking import FIELDS, LABELS, START, read_marking
from ...presenters.marking import build_marking_view
from ...services.errors import Missing
from ...services.templates import templates
from ..preferences import get_units
from .views import MAX_TEXT_LENGTH, blueprint, choose_paper

MAX_CENTRES_LENGTH = 2000


def _read_values() -> dict[str, str]:
    return {
        key: request.args.get(key, usual)[: _get_max_length(key)] for key, usual in START.items()
    }


def _get_max_length(key: str) -> int:
    return MAX_CENTRES_LENGTH if key == "centres" else MAX_TEXT_LENGTH


@blueprint.get("/marking")
def marking() -> ResponseReturnValue:
    """Show holes or studs on a plate."""
    values, units = _read_values(), get_units()
    marked, errors = None, dict[str, str]()
    try:
        marked = build_marking_view(read_marking(values, units), units)
    except InputError as error:
        errors = {error.field: error.sentence}
    pattern = values["pattern"] if values["pattern"] in PATTERNS else START["pattern"]
    fields = ("width", "height", "diameter", *FIELDS[pattern])
    page = render_template(
        "tube_templates/marking.html",
        values=values,
        marked=marked,
        errors=errors,
        fields=fields,
        lead_error=next((text for key, text in errors.items() if key not in fields), ""),
        lengths={key: _get_max_length(key) for key in fields},
        drawings=[kind for kind in templates.FORMATS if kind != "pdf"],
        labels=LABELS,
        patterns=PATTERNS,
        marks=KINDS,
        kinds=CUT_KINDS,
        at="marking",
        query=urlencode(values),
        papers=templates.list_papers(),
    )
    return (page, 422) if errors else page


@blueprint.get("/marking.<kind>")
def marking_file(kind: str) -> ResponseReturnValue:
    """Send the marking to scale.

    Args:
        kind: svg, dxf, pdf or csv.
    """
    if kind not in templates.FORMATS:
        raise Missing("There is no marking in that format. Choose SVG, DXF, PDF or CSV.")
    values, units = _read_values(), get_units()
    paper = request.args.get("paper_size", choose_paper())
    try:
        data = templates.write_marking(read_marking(values, units), kind, units, paper)
    except InputError as error:
        return Response(error.sentence + "\n", 422, mimetype="text/plain")
    how = "inline" if kind in ("svg", "pdf") else "attachment"
    return Response(
        data,
        content_type=templates.FORMATS[kind],
        headers={"Content-Disposition": f'{how}; filename="marking.{kind}"'},
    )
