"""Pages of fit-up, tacks and bars."""

from __future__ import annotations

from flask import jsonify, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import InputError
from ...presenters.fit_up import build_tacks_view, fit_up_view
from ...services.inventory.shop import load_shop
from ...services.set_up import tacking
from ...services.set_up.tacking import tick
from ..preferences import get_units
from ..subject import Subject, find_subject
from .views import blueprint

MAX_TEXT_LENGTH = 300


@blueprint.get("/fit-up")
def fit_up() -> ResponseReturnValue:
    """Show the gap, its effect, the preparation, and the order of the members."""
    subject = find_subject(request.args)
    view = fit_up_view(
        subject.plan, request.args.get("gap", "")[:MAX_TEXT_LENGTH], load_shop(), get_units()
    )
    return render_template("set_up/fit_up.html", subject=subject, view=view, at="fit_up"), (
        422 if view.fault else 200
    )


@blueprint.get("/tacks")
def tacks() -> ResponseReturnValue:
    """Show tacks and bars in order, to tick."""
    return _render_tacks(find_subject(request.args))


def _render_tacks(subject: Subject, error: str = "") -> str:
    view = build_tacks_view(subject.what, subject.plan, load_shop(), get_units())
    return render_template("set_up/tacks.html", subject=subject, view=view, error=error, at="tacks")


@blueprint.post("/tacks/tick")
def tick_tack() -> ResponseReturnValue:
    """Tick or untick a line, and answer as JSON on request."""
    subject, key = find_subject(request.form), request.form.get("key", "")
    asked = request.accept_mimetypes.best == "application/json"
    try:
        tick(subject.what, subject.plan, load_shop(), key, request.form.get("on") == "yes")
    except InputError as error:
        return (
            (jsonify(error=error.sentence), 422)
            if asked
            else (_render_tacks(subject, error.sentence), 422)
        )
    if asked:
        view = build_tacks_view(subject.what, subject.plan, load_shop(), get_units())
        return jsonify(
            ticked=sorted(view.ticked), done=view.done, of=len(view.lines), svg=view.drawing.svg
        )
    return redirect(url_for("set_up.tacks", what=subject.what) + f"#line-{key}", 303)


@blueprint.post("/tacks/again")
def restart_tacks() -> ResponseReturnValue:
    """Remove all ticks."""
    subject = find_subject(request.form)
    tacking.restart_tacks(subject.what)
    return redirect(url_for("set_up.tacks", what=subject.what), 303)
