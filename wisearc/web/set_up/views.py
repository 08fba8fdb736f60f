"""Pages of Set up: one for a plan by its link, one for a draft or procedure by its number."""

from __future__ import annotations

from flask import Blueprint, current_app, jsonify, redirect, render_template, request
from flask.typing import ResponseReturnValue

from ...core.errors import InputError
from ...services.inventory.shop import load_shop
from ...services.set_up import checklists
from ...services.set_up.checklists import SetView
from ..preferences import get_units, get_user
from ..subject import Subject, find_by_link, find_by_number, find_subject

blueprint = Blueprint("set_up", __name__, url_prefix="/set-up", template_folder="templates")


@blueprint.get("/")
def index() -> ResponseReturnValue:
    """Show the drafts and procedures that can be set up."""
    return render_template("set_up/index.html", rows=checklists.to_set_up())


@blueprint.get("/plan")
def page() -> ResponseReturnValue:
    """Show the set-up of a plan, by its link."""
    return _render_page(find_by_link(request.query_string.decode()))


@blueprint.get("/sw.js")
def holder() -> ResponseReturnValue:
    """Send the service worker of Set up.

    Its address limits it to this section.
    """
    return current_app.send_static_file("sw.js")


@blueprint.get("/<number>/<letter>")
def kept(number: str, letter: str) -> ResponseReturnValue:
    """Show the set-up of a draft or procedure.

    Args:
        number: Procedure number.
        letter: Revision letter.
    """
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
    return checklists.view(subject.what, subject.label, subject.plan, load_shop(), get_units())


@blueprint.post("/tick")
def tick() -> ResponseReturnValue:
    """Tick or untick a line, and answer as JSON on request."""
    subject, key = find_subject(request.form), request.form.get("key", "")
    asked = request.accept_mimetypes.best == "application/json"
    try:
        checklists.tick(
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
    """Finish the set-up, and continue."""
    subject = find_subject(request.form)
    try:
        checklists.set_done(
            subject.what,
            subject.label,
            subject.plan,
            load_shop(),
            get_user(),
            open_too=request.form.get("open_too") == "yes",
        )
    except checklists.LinesOpen as error:
        return _render_page(subject, unfinished=error.rule), 422
    except InputError as error:
        return _render_page(subject, error.sentence), 422
    return redirect(subject.address, 303)


@blueprint.post("/again")
def restart() -> ResponseReturnValue:
    """Restart the set-up."""
    subject = find_subject(request.form)
    checklists.restart_set_up(subject.what, subject.label, subject.plan, load_shop())
    return redirect(subject.address, 303)
