"""Pages of a purge: asked for and forecast, then under way with its clock and its meter."""

from __future__ import annotations

from collections.abc import Mapping

from flask import Response, jsonify, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import InputError
from ...forms.purge import read_ask
from ...presenters.purge import purge_view
from ...services.errors import Missing, NotAllowed
from ...services.purge import purge_run
from ...services.purge.oxygen import readings_csv
from ...services.records import PurgeRun
from ..context import get_request_context
from ..numbers import parse_whole_number
from ..preferences import get_units
from ..subject import Subject, find_subject
from .views import blueprint

MAX_TEXT_LENGTH = 60


def _read_given(values: Mapping[str, str]) -> dict[str, str]:
    return {
        key: text[:MAX_TEXT_LENGTH]
        for key, text in values.items()
        if key not in ("what", "csrf_token")
    }


@blueprint.get("/purge")
def purge() -> ResponseReturnValue:
    """The purge of a subject: under way where one is, else asked for."""
    subject = find_subject(request.args)
    standing = purge_run.find_active(subject.what)
    if standing is not None:
        return redirect(url_for("set_up.purging", number=standing.id), 302)
    return _ask_page(subject, _read_given(request.args))


def _ask_page(
    subject: Subject, given: dict[str, str], error: str = "", port: str = ""
) -> ResponseReturnValue:
    view = purge_view(subject.plan, given, get_units())
    wrong = view.wrong or bool(error)
    return render_template(
        "set_up/purge.html",
        subject=subject,
        view=view,
        error=error,
        port=port or request.cookies.get("meter", ""),
        at="purge",
    ), (422 if wrong else 200)


@blueprint.post("/purge")
def open_gas() -> ResponseReturnValue:
    """The gas is opened: the clock starts, the meter is called."""
    subject, given = find_subject(request.form), _read_given(request.form)
    port_text = given.pop("port", "")
    try:
        ask = read_ask(subject.plan, given, get_units())
        port = purge_run.parse_port(port_text)
    except InputError as error:
        return _ask_page(subject, given, error.sentence if error.field == "port" else "", port_text)
    number = purge_run.begin(subject.what, subject.plan.title.text(get_units()), ask, port)
    answer = redirect(url_for("set_up.purging", number=number), 303)
    answer.set_cookie("meter", str(port or ""), max_age=31_536_000, samesite="Lax", httponly=True)
    return answer


def _find_purge(number: str) -> tuple[PurgeRun, Subject, purge_run.PurgeStatus]:
    if (row := parse_whole_number(number)) == 0:
        raise Missing("There is no such purge. Start one from Set up.")
    found = purge_run.get_purge(row)
    subject = find_subject({"what": found.what})
    return found, subject, _get_status(found, subject)


def _get_status(found: PurgeRun, subject: Subject) -> purge_run.PurgeStatus:
    held = get_request_context()
    return purge_run.get_status(found, subject.plan, held.listeners, held.fits, get_units())


@blueprint.get("/purge/<number>", endpoint="purging")
def purging_page(number: str) -> ResponseReturnValue:
    """A purge under way, or done."""
    found, subject, way = _find_purge(number)
    return _render_page(found, subject, way)


def _render_page(
    found: PurgeRun, subject: Subject, way: purge_run.PurgeStatus, refused: str = "", act: str = ""
) -> ResponseReturnValue:
    return render_template(
        "set_up/purging.html",
        subject=subject,
        purge=found,
        way=way,
        refused=refused,
        act_at=act,
        at="purge",
    ), (409 if refused else 200)


@blueprint.get("/purge/<number>/live")
def live(number: str) -> ResponseReturnValue:
    """How it stands, for a page that is open: figures, words and the drawing."""
    _, _, way = _find_purge(number)
    words = render_template("set_up/_way.html", way=way)
    return jsonify(
        phase=way.phase,
        elapsed=way.elapsed_s,
        ready=way.ready,
        said=way.said,
        words=words,
        svg=way.drawing.svg,
        readings=way.readings,
    )


@blueprint.get("/purge/<number>/readings.csv")
def readings(number: str) -> ResponseReturnValue:
    """What the meter said, as CSV."""
    found, _, _ = _find_purge(number)
    heard = get_request_context().listeners.of(
        found.id, found.port, found.began, found.ended is None
    )
    head = {"Content-Disposition": f'attachment; filename="purge-{found.id}.csv"'}
    return Response(
        readings_csv(heard.readings), content_type="text/csv; charset=utf-8", headers=head
    )


@blueprint.post("/purge/<number>/<act>")
def go_on(number: str, act: str) -> ResponseReturnValue:
    """The arc struck, the arc off, the gas shut; held back where it is too soon, and done all the
    same where that is asked for.
    """
    found, subject, way = _find_purge(number)
    anyway = request.form.get("anyway") == "yes"
    listeners = get_request_context().listeners
    try:
        if act == "arc":
            purge_run.start(found, way, anyway)
        elif act == "arc-off":
            purge_run.stop_arc(found)
        elif act == "shut":
            purge_run.stop(found, subject.plan, way, anyway, listeners)
        else:
            raise Missing("A purge has no such step.")
    except NotAllowed as error:
        return _render_page(found, subject, way, str(error), act)
    return redirect(url_for("set_up.purging", number=found.id), 303)
