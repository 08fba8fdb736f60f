"""A bead without a record: joint, signs, the diagnosis. It can be saved as a run."""

from __future__ import annotations

import secrets

from flask import redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from werkzeug.datastructures import MultiDict

from ...core import catalogue
from ...core.diagnosis.diagnosis import has_tint_table
from ...core.errors import InputError
from ...core.quantities import get_typed_unit
from ...core.run.inspection import PLACES
from ...core.run.latest_inspection import list_placed
from ...core.run.run import MAX_NAME
from ...core.run.saved_reading import VERDICTS
from ...core.sources import format_short_mark
from ...core.typed_quantities import parse_quantity
from ...forms.inspection import PICKS, list_inspection_fields, place_value, read_inspection
from ...presenters.plan import describe_setting
from ...services.diagnosis import bead, diagnosis
from ...services.errors import StoreError
from ...services.inventory.shop import load_shop
from ...services.planning.planner import query_text
from ...services.planning.typed_joint import MAX_PHRASE_LENGTH, read_typed_joint
from ..errors import get_code
from ..preferences import YEAR_S, get_units, get_user
from .views import SHORT_PLACES, SHOWN_EVIDENCE, blueprint

MIN_CURRENT_A, MAX_CURRENT_A = 1.0, 500.0


@blueprint.get("/bead")
def judge() -> ResponseReturnValue:
    """Show the diagnosis of a bead by the joint and the signs in the address."""
    return _render_bead(request.args, {})


@blueprint.post("/bead")
def save_bead() -> ResponseReturnValue:
    """Save the bead as a run of its procedure, or of a new draft."""
    form, units, shop = request.form, get_units(), load_shop()
    inspection, errors = read_inspection(form, units)
    if errors:
        return _render_bead(form, errors)
    who = form.get("who", "").strip()[:MAX_NAME]
    try:
        typed = read_typed_joint(form.get("joint", ""), units, shop)
        current_a = _read_current(form, units)
        view = bead.judge_bead(typed, inspection, current_a, shop)
        revision, run = bead.save_bead(view, current_a, who, shop, form.get("once", "")[:60])
    except InputError as error:
        return _render_bead(form, {error.field: error.sentence})
    except StoreError as error:
        return _render_bead(form, {"form": str(error)}, get_code(error))
    answer = redirect(
        url_for(
            "inspect.page",
            number=revision.procedure.label,
            letter=revision.letter,
            run=run,
            kept="kept",
        ),
        303,
    )
    answer.set_cookie("who", who, max_age=YEAR_S, samesite="Lax", httponly=True)
    return answer


def _read_current(form: MultiDict[str, str], units: str) -> float | None:
    text = form.get("current", "").strip()[:60]
    if not text:
        return None
    value = parse_quantity(text, "current", "Current setting", units)
    if not MIN_CURRENT_A <= value <= MAX_CURRENT_A:
        rule = f"must be from {MIN_CURRENT_A:g} to {MAX_CURRENT_A:g} A"
        raise InputError("current", text, rule)
    return value


def _render_bead(
    form: MultiDict[str, str], errors: dict[str, str], code: int = 422
) -> ResponseReturnValue:
    units, shop = get_units(), load_shop()
    inspection, wrong = read_inspection(form, units)
    errors = {**wrong, **errors}
    phrase = form.get("joint", "")[:MAX_PHRASE_LENGTH]
    current_a: float | None = None
    try:
        typed = read_typed_joint(phrase, units, shop)
    except InputError as error:
        errors = {"joint": error.sentence, **errors}
        typed = read_typed_joint("", units, shop)
    try:
        current_a = _read_current(form, units)
    except InputError as error:
        errors = {"current": error.sentence, **errors}
    view, flaws = bead.judge_bead(typed, inspection, current_a, shop), catalogue.load_flaws()
    fields = list(list_inspection_fields(inspection, units))
    page = render_template(
        "inspect/bead.html",
        view=view,
        phrase=phrase,
        current=form.get("current", "")[:60],
        title=typed.plan.title.text(units),
        planned=describe_setting(typed.plan),
        link=query_text(typed.joint),
        is_seen=bool(inspection.front_tint or inspection.back_tint or inspection.faults),
        errors=errors,
        habit=units,
        tints=catalogue.load_tints(),
        tabled=has_tint_table(typed.plan),
        observed=None,
        hottest=max(tint.from_c or 0 for tint in catalogue.load_tints().values()),
        picks=PICKS,
        faults=catalogue.load_flaw_groups(),
        drawings=diagnosis.draw_picks(PICKS),
        verdicts=VERDICTS,
        placed=[
            (key, text or flaws.get(key, key)) for key, text in list_placed(bead.get_record(view))
        ],
        along=SHORT_PLACES,
        ends=PLACES,
        place_value=place_value,
        fields=fields,
        band=form.get("band", "")[:60],
        unit=get_typed_unit("length", units),
        shown=SHOWN_EVIDENCE,
        signs=catalogue.load_signs(),
        short_mark=format_short_mark,
        user=form.get("who", get_user())[:MAX_NAME],
        once=secrets.token_urlsafe(12),
    )
    return (page, code) if errors else page
