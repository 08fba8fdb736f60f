"""Pages of Weld: the subjects, a session, and its live data."""

from __future__ import annotations

import json
import secrets
import time

from flask import (
    Blueprint,
    Response,
    current_app,
    jsonify,
    redirect,
    render_template,
    request,
    url_for,
)
from flask.typing import ResponseReturnValue
from msgspec.structs import asdict

from ...core import catalogue
from ...core.arc_log.limits import LABELS, excursion_text, get_limits
from ...core.arc_log.signals import MAX_TACK_S
from ...core.errors import InputError
from ...core.jobs.job import MAX_RUN_NAME_LENGTH, read_run_name
from ...core.schema.json_types import Json
from ...core.weld_session.course import ANY_STEP, ENDED_SHARE, TAPERED_SHARE
from ...core.weld_session.steps import pool_limit_s
from ...services.diagnosis import diagnosis
from ...services.errors import Missing
from ...services.inventory.shop import load_shop
from ...services.procedures import book
from ...services.procedures.states import SUPERSEDED
from ...services.purge import purge_run, purge_status
from ...services.records import AtArc
from ...services.runs import runs
from ...services.set_up import checklists
from ...services.weld_session import session_messages, session_view, weld_session
from .. import gate
from ..context import get_request_context
from ..network import is_beyond
from ..numbers import parse_integer
from ..preferences import get_units, get_user
from ..subject import Subject, find_subject

blueprint = Blueprint("weld", __name__, url_prefix="/weld", template_folder="templates")
MAX_PORT_LENGTH = 20
# The cookie with the last typed port.
SOURCE_COOKIE, YEAR_S = "source", 31_536_000


blueprint.add_app_template_filter(excursion_text)


@blueprint.get("/")
def index() -> ResponseReturnValue:
    """Show the sessions in progress, and the subjects to weld."""
    left_run = weld_session.find_left_run(parse_integer(request.args.get("left", "")))
    return render_template(
        "weld/index.html",
        runs=weld_session.list_unrecorded(),
        rows=checklists.to_set_up(),
        gone=left_run,
    )


@blueprint.get("/sw.js")
def holder() -> ResponseReturnValue:
    """Send the service worker of Weld.

    Its address limits it to this section.
    """
    return current_app.send_static_file("sw.js")


@blueprint.get("/at")
def page() -> ResponseReturnValue:
    """Show the session of a subject, in progress or before its first key."""
    subject, job = find_subject(request.args), request.args.get("job", "")[:MAX_RUN_NAME_LENGTH]
    if job:
        try:
            read_run_name(job)
        except InputError as error:
            return _render_page(subject, "", error.sentence), 422
    return _render_page(subject, job)


def _render_page(subject: Subject, job: str, error: str = "") -> str:
    row = weld_session.find_current(subject.what, job)
    if subject.revision is not None and subject.revision.status == SUPERSEDED:
        newest = book.find(subject.revision.procedure.label)
        return render_template("weld/superseded.html", subject=subject, newest=newest)
    units = get_units()
    last = runs.find_last_run(subject.revision) if subject.revision is not None else None
    run = session_view.view(
        row,
        subject.what,
        secrets.token_urlsafe(12).replace("_", "-"),
        subject.plan,
        load_shop(),
        units,
        last,
    )
    purge, this_time = (
        purge_run.find_active(subject.what),
        diagnosis.find_saved_change(subject.revision),
    )
    step = run.course.step
    return render_template(
        "weld/page.html",
        subject=subject,
        run=run,
        job=job,
        step=step,
        now=time.time(),
        error=error,
        habit=units,
        purge=purge,
        this_time=this_time,
        port=run.port or request.cookies.get(SOURCE_COOKIE, ""),
        came=session_view.describe_summary(run.came, run.pace, units),
        leads=session_view.LEADS,
        cue_texts=catalogue.load_cues(),
        cue_languages=catalogue.load_cue_languages(),
        is_secure=gate.is_secure() or not is_beyond(request.environ),
        data=_build_data(subject, run, job, units),
    )


def _build_data(
    subject: Subject, run: session_view.RunView, job: str, units: str
) -> dict[str, Json]:
    """Return the data that the page needs without the server."""
    held = get_limits(subject.plan, subject.bands)
    return {
        "what": subject.what,
        "job": job,
        "once": run.once,
        "number": run.number,
        "began": run.began,
        "now": time.time(),
        "port": run.port,
        "steps": session_view.steps_data(run, units),
        "acts": [
            {"id": a.id, "device": a.device, "at": a.at, "step": a.step, "key": a.key}
            for a in run.acts
        ],
        "pace": asdict(run.pace),
        "phases": [(key, text) for key, text, _ in run.phases],
        "held": [
            {"what": LABELS[k][0], "low": e[0], "high": e[1]}
            for k, e in held.items()
            if k in ("peak_a", "current_a")
        ],
        "cues": session_view.build_cue_data(units),
        "sense": session_view.build_sense_data(),
        "anyStep": ANY_STEP,
        "shares": {"ended": ENDED_SHARE, "tapered": TAPERED_SHARE},
        "tackS": MAX_TACK_S,
        "poolS": pool_limit_s(subject.plan),
        "background": held.get("background_a"),
        "mean": run.plan.slopes.mean_a,
        "most": run.plan.pulse.peak_a,
    }


@blueprint.post("/act")
def act() -> ResponseReturnValue:
    """Record a key of a page without script."""
    subject, job = find_subject(request.form), request.form.get("job", "")[:MAX_RUN_NAME_LENGTH]
    now = time.time()
    key = {
        "id": secrets.token_hex(8),
        "at": now,
        "step": request.form.get("step", ""),
        "key": request.form.get("key", ""),
    }
    sent = {
        "what": subject.what,
        "job": job,
        "once": request.form.get("once", ""),
        "who": get_user(),
        "device": _get_device(),
        "began": _parse_number(request.form.get("began", ""), now),
        "now": now,
        "acts": [key],
    }
    try:
        row = weld_session.receive_entries(
            session_messages.read_sent(sent),
            subject.plan,
            subject.plan.title.text(get_units()),
            load_shop(),
        )
        weld_session.get_source(row, subject.plan, get_request_context().sources)
    except InputError as error:
        return _render_page(subject, job, error.sentence), 422
    return redirect(url_for("weld.page", what=subject.what, job=job or None), 303)


def _get_device() -> str:
    return (request.cookies.get("device", "") or "without-script")[:40]


def _parse_number(text: str, usual: float) -> float:
    try:
        value = float(text)
    except ValueError:
        return usual
    return value if 0 < value < 1e11 else usual


@blueprint.post("/acts")
def acts() -> ResponseReturnValue:
    """Receive the saved events of a device, as JSON in a form.

    Each is saved once.
    """
    try:
        sent = session_messages.read_sent(
            {**json.loads(request.form.get("run", "")), "who": get_user()}
        )
        subject = find_subject({"what": sent.what})
        row = weld_session.receive_entries(
            sent, subject.plan, subject.plan.title.text(get_units()), load_shop()
        )
        weld_session.get_source(row, subject.plan, get_request_context().sources)
    except (ValueError, TypeError, RecursionError):
        return jsonify(error="The data from the page cannot be read. Reload the page."), 422
    except InputError as error:
        return jsonify(error=error.sentence), 422
    now = time.time()
    late = row.clocks.get(sent.device, now - sent.now)
    known = [
        {"id": a.id, "device": a.device, "at": a.at - late, "step": a.step, "key": a.key}
        for a in weld_session.list_acts(row)
    ]
    return jsonify(number=row.id, acts=known, port=row.port, now=sent.now + late)


def find_run_and_subject(number: str) -> tuple[AtArc, Subject]:
    """Return a session by its number in an address, and its subject.

    Raises:
        Missing: The session does not exist.
    """
    row = weld_session.get_run(parse_integer(number))
    return row, find_subject({"what": row.what})


@blueprint.get("/<number>/live")
def live(number: str) -> ResponseReturnValue:
    """Send the live data of the power source and of the purge."""
    row, subject = find_run_and_subject(number)
    units, now = get_units(), time.time()
    state: dict[str, Json] = {"now": now, "port": row.port}
    source = weld_session.get_source(row, subject.plan, get_request_context().sources)
    if source is not None:
        weld_session.follow_source(row, source, subject.plan, load_shop())
        traced = session_view.build_trace(
            source,
            subject.plan,
            subject.bands,
            _parse_number(request.args.get("after", ""), -1.0),
            load_shop().max_cylinder_l.get(subject.plan.gas.gas),
            units,
        )
        state |= {
            "state": traced.state,
            "words": traced.words,
            "gas": traced.has_gas,
            "facts": traced.facts,
            "left": traced.left,
            "rows": [[t, a] for t, a, *_ in traced.rows],
        }
        acts = weld_session.list_acts(row)
        if len(acts) != parse_integer(request.args.get("have", "")):
            state["acts"] = [
                {"id": a.id, "device": a.device, "at": a.at, "step": a.step, "key": a.key}
                for a in acts
            ]
    return jsonify(state)


@blueprint.get("/purged")
def purged() -> ResponseReturnValue:
    """Send the state of the purge of a subject, for an open page."""
    subject = find_subject(request.args)
    active = purge_run.find_active(subject.what)
    if active is None:
        return jsonify(words="")
    held = get_request_context()
    status = purge_status.get_status(active, subject.plan, held.listeners, held.fits, get_units())
    return jsonify(
        large=status.large, large_text=status.large_text, words=status.words, ready=status.ready
    )


@blueprint.post("/source")
def source() -> ResponseReturnValue:
    """Connect a power source on a port, or none."""
    subject, job = find_subject(request.form), request.form.get("job", "")[:MAX_RUN_NAME_LENGTH]
    now = time.time()
    text = request.form.get("port", "")[:MAX_PORT_LENGTH]
    try:
        purge_run.parse_port(text, "power source")
        sent = {
            "what": subject.what,
            "job": job,
            "once": request.form.get("once", ""),
            "who": get_user(),
            "device": _get_device(),
            "began": now,
            "now": now,
            "acts": [],
        }
        row = weld_session.receive_entries(
            session_messages.read_sent(sent),
            subject.plan,
            subject.plan.title.text(get_units()),
            load_shop(),
        )
        weld_session.connect(row, text)
    except InputError as error:
        return _render_page(subject, job, error.sentence), 422
    answer = redirect(url_for("weld.page", what=subject.what, job=job or None), 303)
    answer.set_cookie(SOURCE_COOKIE, text.strip(), max_age=YEAR_S, samesite="Lax", httponly=True)
    return answer


@blueprint.get("/<number>/trace.csv")
def trace(number: str) -> ResponseReturnValue:
    """Send the trace of a session as an arc log."""
    row, _ = find_run_and_subject(number)
    file = get_request_context().sources.file(row.id, row.began)
    if not file.exists():
        raise Missing("This run has no trace, because no power source was connected.")
    head = {"Content-Disposition": f'attachment; filename="run-{row.id}.csv"'}
    return Response(
        file.read_text(encoding="ascii"), content_type="text/csv; charset=utf-8", headers=head
    )


@blueprint.post("/<number>/leave")
def leave(number: str) -> ResponseReturnValue:
    """Leave a session without a record."""
    row, _ = find_run_and_subject(number)
    weld_session.stop_run(row, get_request_context().sources)
    return redirect(url_for("weld.index", left=row.id), 303)


@blueprint.post("/<number>/take-up")
def resume(number: str) -> ResponseReturnValue:
    """Resume a session that was left."""
    row, _ = find_run_and_subject(number)
    weld_session.resume_run(row)
    return redirect(url_for("weld.page", what=row.what, job=row.job or None), 303)
