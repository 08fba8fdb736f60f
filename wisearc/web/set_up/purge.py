"""Pages of a purge: request and forecast, then its clock and its meter."""

from __future__ import annotations

from collections.abc import Mapping

from flask import Response, jsonify, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import InputError
from ...forms.purge import read_ask
from ...presenters.purge import purge_view
from ...services.errors import Missing, NotAllowed
from ...services.purge import purge_run, purge_status
from ...services.purge.oxygen import readings_csv
from ...services.records import PurgeRun
from ..context import get_request_context
from ..numbers import parse_integer
from ..preferences import get_units
from ..subject import Subject, find_subject
from .views import blueprint

MAX_TEXT_LENGTH = 60


def _read_fields(values: Mapping[str, str]) -> dict[str, str]:
    return {
        key: text[:MAX_TEXT_LENGTH]
        for key, text in values.items()
        if key not in ("what", "csrf_token")
    }


@blueprint.get("/purge")
def purge() -> ResponseReturnValue:
    """Show the purge of a subject: in progress, or as a request."""
    subject = find_subject(request.args)
    active = purge_run.find_active(subject.what)
    if active is not None:
        return redirect(url_for("set_up.purging", number=active.id), 302)
    return _ask_page(subject, _read_fields(request.args))


def _ask_page(
    subject: Subject, values: dict[str, str], error: str = "", port: str = ""
) -> ResponseReturnValue:
    view = purge_view(subject.plan, values, get_units())
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
    """Start a purge when the gas is opened, and connect the meter."""
    subject, values = find_subject(request.form), _read_fields(request.form)
    port_text = values.pop("port", "")
    try:
        ask = read_ask(subject.plan, values, get_units())
        port = purge_run.parse_port(port_text)
    except InputError as error:
        return _ask_page(
            subject, values, error.sentence if error.field == "port" else "", port_text
        )
    number = purge_run.begin(subject.what, subject.plan.title.text(get_units()), ask, port)
    answer = redirect(url_for("set_up.purging", number=number), 303)
    answer.set_cookie("meter", str(port or ""), max_age=31_536_000, samesite="Lax", httponly=True)
    return answer


def _find_purge(number: str) -> tuple[PurgeRun, Subject, purge_status.PurgeStatus]:
    if (row := parse_integer(number)) == 0:
        raise Missing("There is no such purge. Start one from Set up.")
    purge = purge_run.get_purge(row)
    subject = find_subject({"what": purge.what})
    return purge, subject, _get_status(purge, subject)


def _get_status(purge: PurgeRun, subject: Subject) -> purge_status.PurgeStatus:
    held = get_request_context()
    return purge_status.get_status(purge, subject.plan, held.listeners, held.fits, get_units())


@blueprint.get("/purge/<number>", endpoint="purging")
def purging_page(number: str) -> ResponseReturnValue:
    """Show a purge in progress or done."""
    purge, subject, status = _find_purge(number)
    return _render_page(purge, subject, status)


def _render_page(
    purge: PurgeRun,
    subject: Subject,
    status: purge_status.PurgeStatus,
    refused: str = "",
    act: str = "",
) -> ResponseReturnValue:
    return render_template(
        "set_up/purging.html",
        subject=subject,
        purge=purge,
        way=status,
        refused=refused,
        act_at=act,
        at="purge",
    ), (409 if refused else 200)


@blueprint.get("/purge/<number>/live")
def live(number: str) -> ResponseReturnValue:
    """Send the state of a purge for an open page: figures, text and drawing."""
    _, _, status = _find_purge(number)
    text = render_template("set_up/_way.html", way=status)
    return jsonify(
        phase=status.phase,
        elapsed=status.elapsed_s,
        ready=status.ready,
        said=status.said,
        words=text,
        svg=status.drawing.svg,
        readings=status.readings,
    )


@blueprint.get("/purge/<number>/readings.csv")
def readings(number: str) -> ResponseReturnValue:
    """Send the readings of the meter as CSV."""
    purge, _, _ = _find_purge(number)
    meter = get_request_context().listeners.of(
        purge.id, purge.port, purge.began, purge.ended is None
    )
    head = {"Content-Disposition": f'attachment; filename="purge-{purge.id}.csv"'}
    return Response(
        readings_csv(meter.readings), content_type="text/csv; charset=utf-8", headers=head
    )


@blueprint.post("/purge/<number>/<act>")
def record_event(number: str, act: str) -> ResponseReturnValue:
    """Record the arc start, the arc end or the gas end.

    If it is too early, ask for confirmation.

    Args:
        number: Number of the purge.
        act: The event.
    """
    purge, subject, status = _find_purge(number)
    is_forced = request.form.get("anyway") == "yes"
    listeners = get_request_context().listeners
    try:
        if act == "arc":
            purge_run.start(purge, status, is_forced)
        elif act == "arc-off":
            purge_run.stop_arc(purge)
        elif act == "shut":
            purge_run.stop(purge, subject.plan, status, is_forced, listeners)
        else:
            raise Missing("A purge has no such step.")
    except NotAllowed as error:
        return _render_page(purge, subject, status, str(error), act)
    return redirect(url_for("set_up.purging", number=purge.id), 303)
