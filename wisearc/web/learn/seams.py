"""The virtual seam: its page, and the requests of the page during a weld."""

from __future__ import annotations

from collections.abc import Mapping
from urllib.parse import urlencode

import msgspec
from flask import Response, jsonify, render_template, request, url_for
from flask.typing import ResponseReturnValue
from msgspec.structs import replace

from ...core.errors import InputError
from ...presenters.learn import (
    build_page_data,
    describe_seam,
    describe_try,
    format_targets,
)
from ...services.clock import get_now
from ...services.errors import StoreError
from ...services.practice import tries
from ...services.practice.lessons import get_lesson
from ...services.practice.messages import JUDGE, OPEN, SHOW, SeamBody, SeamRequest, read_step
from ...services.practice.seams import SeamRefused
from ...services.practice.subjects import Subject, find_subject
from ..context import get_request_context
from ..plan.here import list_joint_pairs
from ..preferences import get_units
from .learner import become_learner, get_learner, remember
from .steps import PATH
from .views import blueprint

# A track of ten minutes at three hundred samples a second.
MAX_TRACK_BYTES = 10 * 1024 * 1024
MAX_LINK = 4000


def _read_body() -> SeamBody:
    return read_step(request.get_data())


def _find_subject(args: Mapping[str, str]) -> Subject:
    return find_subject(
        args.get("lesson", "")[:40],
        args.get("kept", "")[:40],
        list_joint_pairs(args.get("link", "")[:MAX_LINK]),
        args.get("stop") == "yes",
    )


@blueprint.get("/seam")
def seam() -> ResponseReturnValue:
    """Show the virtual seam of a lesson, a plan or a procedure."""
    subject = _find_subject(request.args)
    units, learner = get_units(), get_learner()
    lesson = get_lesson(subject.lesson) if subject.lesson else None
    progress = tries.find_progress(learner.key, subject.lesson)
    query = urlencode(subject.query)
    addresses = {
        name: url_for(f"learn.{name}_seam") + f"?{query}" for name in ("open", "judge", "show")
    } | {"step": PATH}
    return render_template(
        "learn/seam.html",
        lesson=lesson,
        subject=subject,
        title=subject.plan.title.text(units),
        goal=describe_seam(subject, units),
        targets=format_targets(subject, units),
        progress=progress,
        passed=tries.PASS_SCORE,
        data=msgspec.to_builtins(build_page_data(subject, addresses, units)),
        stop_address=_swap_stop(subject),
    )


def _swap_stop(subject: Subject) -> str:
    """Return the address of the same seam with or without a stop, "" for a lesson."""
    if subject.lesson:
        return ""
    query = {key: value for key, value in subject.query.items() if key != "stop"}
    if not subject.has_stop:
        query["stop"] = "yes"
    return f"{url_for('learn.seam')}?{urlencode(query)}"


def _send(body: bytes) -> Response:
    return Response(body, mimetype="application/json")


def _ask(seam_request: SeamRequest) -> Response:
    return _send(get_request_context().practice_seams.ask(seam_request))


def _refuse(error: InputError | StoreError) -> ResponseReturnValue:
    """Return the sentence of an error: 422 for a wrong request, 503 for one to repeat later."""
    sentence = error.sentence if isinstance(error, InputError) else str(error)
    return jsonify(error=sentence), 422 if isinstance(error, InputError | SeamRefused) else 503


@blueprint.post("/seam/open")
def open_seam() -> ResponseReturnValue:
    """Open a cold seam, or one with earlier samples."""
    try:
        body = _read_body()
        wanted = replace(
            _find_subject(request.args).build_request(OPEN, body.seam),
            samples=body.samples,
            dabs=body.dabs,
        )
        return _ask(wanted)
    except (InputError, StoreError) as error:
        return _refuse(error)


@blueprint.post("/seam/show")
def show_seam() -> ResponseReturnValue:
    """Return the track and the bead of a weld without a slip."""
    try:
        return _ask(_find_subject(request.args).build_request(SHOW))
    except (InputError, StoreError) as error:
        return _refuse(error)


@blueprint.post("/seam/judge")
def judge_seam() -> ResponseReturnValue:
    """Judge a track, and save the try."""
    try:
        body = _read_body()
        subject = _find_subject(request.args)
        wanted = replace(
            subject.build_request(JUDGE),
            samples=body.samples,
            dabs=body.dabs,
            gas_off_s=body.gas_off_s,
            when=get_now()[:10],
        )
        judged, result = get_request_context().practice_seams.judge(wanted)
        learner, secret = become_learner()
        before = tries.find_progress(learner.key, subject.lesson)
        number = tries.save_seam(learner.key, subject, result, wanted, body.once)
        after = tries.find_progress(learner.key, subject.lesson)
        answer = {
            "number": number,
            "text": describe_try(judged, len(after.tries), before.best, after, get_units()),
            "travel": judged.travel_mm_s,
            "current": judged.current_a,
            "frame": judged.frame,
        }
        response = _send(msgspec.json.encode(answer))
        remember(response, secret)
        return response
    except (InputError, StoreError) as error:
        return _refuse(error)


@blueprint.get("/seam/track/<row:number>")
def track_seam(number: int) -> ResponseReturnValue:
    """Send the track of an own try, as a track file.

    Args:
        number: Number of the try.
    """
    return jsonify(tries.read_saved_track(get_learner().key, number))
