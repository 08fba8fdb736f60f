"""The ways to weld a job: tacked first, one torch, one setting."""

from __future__ import annotations

from flask import redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import InputError
from ...presenters.job_options import list_job_options
from ...services.errors import NotAllowed
from ...services.inventory.shop import load_shop
from ...services.jobs import jobs
from ...services.jobs.job_changes import SetHead
from ..errors import get_code
from ..preferences import get_units, get_user
from .views import blueprint, build_view, get_searches, get_seen_edit

OPTIONS = ("tack_up", "one_torch", "same_dial")


@blueprint.get("/<row:number>/options")
def options(number: int) -> ResponseReturnValue:
    """Show the ways to weld a job, each with its cost."""
    return _render(number)


def _render(number: int, error: str = "", code: int = 200) -> ResponseReturnValue:
    view = build_view(number)
    rows = (
        list_job_options(view.job, load_shop(), get_searches(), get_units())
        if view.plan is not None
        else []
    )
    return (
        render_template("jobs/options.html", view=view, rows=rows, error=error, tab="options"),
        code,
    )


@blueprint.post("/<row:number>/options")
def set_option(number: int) -> ResponseReturnValue:
    """Switch a way to weld a job on or off."""
    key = request.form.get("key", "")
    if key not in OPTIONS:
        return _render(number, "This is no option of a job. Reload the page.", 422)
    change = SetHead({key: request.form.get("on") == "yes"})
    try:
        jobs.change(number, change, get_seen_edit(), get_user())
    except InputError as error:
        return _render(number, error.sentence, 422)
    except NotAllowed as error:
        return _render(number, str(error), get_code(error))
    return redirect(url_for("jobs.options", number=number), 303)
