"""The heat of a job: how long each seam must cool, by the plan and by the field."""

from __future__ import annotations

from flask import redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.conduction.trial import NO_TRIAL
from ...core.errors import InputError
from ...core.plan.plan import Plan
from ...core.schema.json_types import Json
from ...presenters.job_heat import HeatRow, build_heat_rows
from ...services.errors import NotAllowed
from ...services.heat.requests import Answer
from ...services.jobs import jobs
from ...services.jobs.job_changes import SetWaits
from ..context import get_request_context
from ..preferences import get_units, get_user
from .views import blueprint, build_view, get_seen_edit


def _ask(plan: Plan) -> Answer:
    """Return the field of a plan, or an answer with the reason why it has none."""
    try:
        requests = get_request_context().heat_requests
        return requests.ask_field(plan, NO_TRIAL, preview=False, brief=True, wait_s=0.0)
    except InputError as error:
        return Answer("", error=error.sentence)


def _list_rows(number: int) -> tuple[HeatRow, ...]:
    view = build_view(number)
    return () if view.plan is None else build_heat_rows(view.plan, _ask, get_units())


@blueprint.get("/<row:number>/heat")
def heat(number: int) -> ResponseReturnValue:
    """Show the waits of the seams; the fields are calculated in the background."""
    return _render(number, "", 200)


def _render(number: int, fault: str, code: int) -> ResponseReturnValue:
    view = build_view(number)
    rows = () if view.plan is None else build_heat_rows(view.plan, _ask, get_units())
    page = render_template(
        "jobs/heat.html",
        view=view,
        rows=rows,
        fault=fault,
        done=sum(row.is_ready for row in rows),
        used=any(row.used for row in rows),
        tab="heat",
    )
    return page, code


@blueprint.post("/<row:number>/heat")
def use_waits(number: int) -> ResponseReturnValue:
    """Use the waits of the field in the job, or those of the plans again."""
    rows = _list_rows(number)
    waits: dict[str, Json]
    if request.form.get("use") == "plan":
        waits = {row.key: None for row in rows}
    else:
        waits = {row.key: [row.wait_s, row.mean_c] for row in rows if row.wait_s is not None}
    try:
        if waits:
            jobs.change(number, SetWaits(waits), get_seen_edit(), get_user())
    except NotAllowed as error:
        return _render(number, str(error), 409)
    return redirect(url_for("jobs.heat", number=number), 303)
