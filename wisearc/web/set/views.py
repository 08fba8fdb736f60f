"""Pages of Set: one for a plan by its link, one for a draft or procedure by its number."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any
from urllib.parse import parse_qsl

from flask import Blueprint, current_app, jsonify, redirect, render_template, request, url_for

from ...core.errors import BadInput
from ...core.plan import Plan, make_plan
from ...services import book, setting_up
from ...services.errors import Missing
from ...services.planning import joint_of_query, query_text
from ...services.setting_up import SetView
from ...services.shop import standing_shop
from ..habits import unit_habit

blueprint = Blueprint("set", __name__, url_prefix="/set", template_folder="templates")


@dataclass(frozen=True)
class _Subject:
    """What is set up: how it is called among set-ups, its number or "", its plan, its page, where it goes on and goes back to."""

    what: str
    label: str
    plan: Plan
    address: str
    onward: str
    onward_words: str
    back: str


def _by_link(link: str) -> _Subject:
    """The subject of a joint's link. Raises Missing where it is none."""
    joint, problems = joint_of_query(parse_qsl(link))
    if problems or not link:
        raise Missing("This address holds no joint that can be set up. Open Plan, and go to Set from there.")
    text = query_text(joint)
    plan_at = url_for("plan.page") + f"?{text}"
    return _Subject(
        text,
        "",
        make_plan(joint, standing_shop()),
        url_for("set.page") + f"?{text}",
        plan_at,
        "Keep it as a draft",
        plan_at,
    )


def _by_number(number: str, letter: str) -> _Subject:
    revision = book.find(number, letter)
    label = f"{revision.procedure.label} {revision.letter}"
    at = {"number": revision.procedure.label, "letter": revision.letter}
    page = url_for("keep.revision", **at)
    what = setting_up.kept_as(revision.procedure.label, revision.letter)
    plan = setting_up.plan_kept(revision.procedure.label, revision.letter)
    return _Subject(what, label, plan, url_for("set.kept", **at), f"{page}#write", "Write the run down", page)


def _subject(form: Any) -> _Subject:
    """The subject that a form names."""
    what = form.get("what", "")
    if what.startswith(setting_up.KEPT):
        number, _, letter = what.removeprefix(setting_up.KEPT).partition("/")
        return _by_number(number, letter)
    return _by_link(what)


@blueprint.get("/")
def index() -> Any:
    """What can be set up: the drafts and procedures of the book."""
    return render_template("set/index.html", rows=setting_up.to_set_up())


@blueprint.get("/plan")
def page() -> Any:
    """A plan set up, by its link."""
    return _page(_by_link(request.query_string.decode()))


@blueprint.get("/sw.js")
def holder() -> Any:
    """What holds the pages of Set where the browser allows it; from here, so that its reach is this place alone."""
    return current_app.send_static_file("sw.js")


@blueprint.get("/<number>/<letter>")
def kept(number: str, letter: str) -> Any:
    """A draft or procedure set up."""
    return _page(_by_number(number, letter))


def _page(subject: _Subject, error: str = "") -> str:
    view = _view(subject)
    return render_template("set/page.html", subject=subject, view=view, error=error, plan_link=subject.back)


def _view(subject: _Subject) -> SetView:
    return setting_up.view(subject.what, subject.label, subject.plan, standing_shop(), unit_habit())


@blueprint.post("/tick")
def tick() -> Any:
    """Tick a line, or not; the answer as JSON where it is asked for."""
    subject, key = _subject(request.form), request.form.get("key", "")
    asked = request.accept_mimetypes.best == "application/json"
    try:
        setting_up.tick(
            subject.what, subject.label, subject.plan, standing_shop(), key, request.form.get("on") == "yes"
        )
    except BadInput as error:
        return (jsonify(error=error.sentence), 422) if asked else (_page(subject, error.sentence), 422)
    if asked:
        view = _view(subject)
        return jsonify(ticked=sorted(view.ticked), done=view.done, of=len(view.lines))
    return redirect(subject.address + f"#line-{key}", 303)


@blueprint.post("/done")
def done() -> Any:
    """Say that it is set as it stands, and go on."""
    subject = _subject(request.form)
    try:
        setting_up.set_done(subject.what, subject.label, subject.plan, standing_shop(), request.cookies.get("who", ""))
    except BadInput as error:
        return _page(subject, error.sentence), 422
    return redirect(subject.address, 303)


@blueprint.post("/again")
def again() -> Any:
    """Begin the set-up anew."""
    subject = _subject(request.form)
    setting_up.again(subject.what, subject.label, subject.plan, standing_shop())
    return redirect(subject.address, 303)
