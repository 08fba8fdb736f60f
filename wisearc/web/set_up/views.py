"""Pages of Set: one for a plan by its link, one for a draft or procedure by its number."""

from __future__ import annotations

from flask import Blueprint, current_app, jsonify, redirect, render_template, request
from flask.typing import ResponseReturnValue

from ...core.errors import InputError
from ...services.inventory.shop import load_shop
from ...services.set_up import setting_up
from ...services.set_up.setting_up import SetView
from ..preferences import get_units
from ..subject import Subject, find_by_link, find_by_number, find_subject

blueprint = Blueprint("set_up", __name__, url_prefix="/set-up", template_folder="templates")


@blueprint.get("/")
def index() -> ResponseReturnValue:
    """What can be set up: the drafts and procedures of the book."""
    return render_template("set_up/index.html", rows=setting_up.to_set_up())


@blueprint.get("/plan")
def page() -> ResponseReturnValue:
    """A plan set up, by its link."""
    return _render_page(find_by_link(request.query_string.decode()))


@blueprint.get("/sw.js")
def holder() -> ResponseReturnValue:
    """What holds the pages of Set where the browser allows it; from here, so that its reach is this
    place alone.
    """
    return current_app.send_static_file("sw.js")


@blueprint.get("/<number>/<letter>")
def kept(number: str, letter: str) -> ResponseReturnValue:
    """A draft or procedure set up."""
    return _render_page(find_by_number(number, letter))


def _render_page(subject: Subject, error: str = "", unfinished: str = "") -> str:
    view = _view(subject)
    return render_template(
        "set_up/page.html",
        subject=subject,
        view=view,
        error=error,
        unfinished=unfinished,
        plan_link=subject.back,
    )


def _view(subject: Subject) -> SetView:
    return setting_up.view(subject.what, subject.label, subject.plan, load_shop(), get_units())


@blueprint.post("/tick")
def tick() -> ResponseReturnValue:
    """Tick a line, or not; the answer as JSON where it is asked for."""
    subject, key = find_subject(request.form), request.form.get("key", "")
    asked = request.accept_mimetypes.best == "application/json"
    try:
        setting_up.tick(
            subject.what,
            subject.label,
            subject.plan,
            load_shop(),
            key,
            request.form.get("on") == "yes",
        )
    except InputError as error:
        return (
            (jsonify(error=error.sentence), 422)
            if asked
            else (_render_page(subject, error.sentence), 422)
        )
    if asked:
        view = _view(subject)
        return jsonify(ticked=sorted(view.ticked), done=view.done, of=len(view.lines))
    return redirect(subject.address + f"#line-{key}", 303)


@blueprint.post("/done")
def done() -> ResponseReturnValue:
    """Say that it is set as it stands, and go on."""
    subject = find_subject(request.form)
    try:
        setting_up.set_done(
            subject.what,
            subject.label,
            subject.plan,
            load_shop(),
            request.cookies.get("who", ""),
            open_too=request.form.get("open_too") == "yes",
        )
    except setting_up.LinesOpen as error:
        return _render_page(subject, unfinished=error.rule), 422
    except InputError as error:
        return _render_page(subject, error.sentence), 422
    return redirect(subject.address, 303)


@blueprint.post("/again")
def again() -> ResponseReturnValue:
    """Begin the set-up anew."""
    subject = find_subject(request.form)
    setting_up.restart_set_up(subject.what, subject.label, subject.plan, load_shop())
    return redirect(subject.address, 303)
