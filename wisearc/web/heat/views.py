"""Pages of heat in time. A page asks repeatedly for its field, and never waits for it."""

from __future__ import annotations

from urllib.parse import urlencode

from flask import Blueprint, Response, jsonify, render_template, request
from flask.typing import ResponseReturnValue
from msgspec import Struct

from ...core.conduction.field_reasons import list_field_reasons
from ...core.conduction.trial import Trial
from ...core.errors import InputError
from ...core.joint.joint import Joint
from ...core.plan.plan import Plan
from ...core.sources import format_short_mark
from ...forms.heat_trial import list_trial_fields, read_trial
from ...presenters.heat import describe_proposal, draw_missing_picture, read_page
from ...services.heat.goals import GOALS, list_changed_plans
from ...services.heat.requests import STOPPED, Answer, read_proposal
from ...services.inventory.shop import load_shop
from ...services.planning.planner import cached_plan, query_text, read_query
from ...services.procedures import book, procedures
from ..context import get_request_context
from ..plan.here import Here, list_joint_pairs
from ..preferences import get_units

blueprint = Blueprint("heat", __name__, url_prefix="/heat", template_folder="templates")
HELD = "held"
# A picture asks at most this often for its field, each time for a quarter of a second.
_PICTURE_WAITS = 24
_OWN_KEYS = ("kept", "link", "right", "goal", "preview", "number", "pulsed")


class _Seam(Struct, frozen=True):
    """A set-up: its pairs in an address, title, plan, and joint (None for a procedure)."""

    pairs: dict[str, str]
    title: str
    plan: Plan
    joint: Joint | None


def _read_seam(link: str, kept: str) -> _Seam:
    """Return the set-up of a link or of a procedure."""
    if kept:
        number, _, letter = kept.partition("/")
        revision = book.find(number, letter)
        return _Seam({"kept": kept}, f"{number} {letter}", procedures.get_plan(revision), None)
    joint, _ = read_query(list_joint_pairs(link))
    plan = cached_plan(joint, load_shop())
    return _Seam({"link": query_text(joint)}, plan.title.text(get_units()), plan, joint)


def _read_request() -> _Seam:
    return _read_seam(request.args.get("link", ""), request.args.get("kept", ""))


def _ask(seam: _Seam, trial: Trial, preview: bool) -> Answer:
    return get_request_context().heat_requests.ask_field(seam.plan, trial, preview)


@blueprint.get("/")
def page() -> ResponseReturnValue:
    """Show the heat of a plan or a procedure, or of two side by side."""
    seams = [_read_request()]
    if right := request.args.get("right", ""):
        kept = right.removeprefix("kept:") if right.startswith("kept:") else ""
        seams.append(_read_seam("" if kept else right, kept))
    problem, trial, answer = "", Trial(), None
    try:
        trial = read_trial(request.args)
        answer = _ask(seams[0], trial, preview=True)
    except InputError as error:
        problem = error.sentence
    held = request.cookies.get(HELD, "")
    return render_template(
        "heat/page.html",
        seams=seams,
        own=seams[0],
        problem=problem or (answer.error if answer else ""),
        answer=answer,
        body=read_page(answer.body) if answer and answer.body else None,
        fields=list_trial_fields(seams[0].plan, trial),
        trial=trial,
        goals=GOALS,
        units=get_units(),
        reasons=list_field_reasons(seams[0].plan),
        short_mark=format_short_mark,
        held=held if held and held != seams[0].pairs.get("link") else "",
        tried=urlencode([(k, v) for k, v in request.args.items() if k not in _OWN_KEYS]),
        plan_address=Here(seams[0].pairs["link"], "heat").address if seams[0].joint else "",
    )


@blueprint.get("/field")
def field() -> ResponseReturnValue:
    """Return a field as JSON; 202 with its progress until it is calculated."""
    try:
        trial = read_trial(request.args)
        answer = _ask(_read_request(), trial, bool(request.args.get("preview")))
    except InputError as error:
        return jsonify({"error": error.sentence}), 422
    return _send(answer)


def _send(answer: Answer) -> ResponseReturnValue:
    if answer.error == STOPPED:
        # Another page did not need it any more. The next request calculates it.
        return jsonify({"number": answer.number, "progress": 0.0}), 202
    if answer.error:
        return jsonify({"error": answer.error[:1].upper() + answer.error[1:]}), 422
    if not answer.body:
        return jsonify({"number": answer.number, "progress": answer.progress}), 202
    # Packed pictures do not shrink further, and their compression takes longer than a preview.
    return Response(answer.body, mimetype="application/vnd.wisearc.heat+json")


@blueprint.post("/stop")
def stop() -> ResponseReturnValue:
    """Stop a calculation that its page does not need any more. It saves nothing."""
    get_request_context().heat_requests.stop(request.form.get("number", ""))
    return "", 204


@blueprint.get("/picture.svg")
def picture() -> ResponseReturnValue:
    """Return the still picture of a field on paper. The picture waits, and its page does not."""
    seam = _read_request()
    try:
        for _ in range(_PICTURE_WAITS):
            answer = _ask(seam, Trial(), preview=True)
            if answer.is_ready:
                break
    except InputError as error:
        return _send_picture(draw_missing_picture(error.sentence), 422)
    if not answer.body:
        return _send_picture(draw_missing_picture(answer.error))
    return _send_picture(read_page(answer.body).paper[get_units()])


def _send_picture(svg: str, status: int = 200) -> Response:
    return Response(svg, status, mimetype="image/svg+xml", headers={"Cache-Control": "no-store"})


@blueprint.get("/change")
def change() -> ResponseReturnValue:
    """Return the least change that reaches a goal, as JSON; 202 until it is known."""
    seam, goal = _read_request(), request.args.get("goal", "")
    if goal not in GOALS or seam.joint is None:
        return jsonify({"error": "This goal is not known. Select one of the buttons."}), 422
    changed = list_changed_plans(seam.plan, seam.joint, load_shop())
    plans = [seam.plan, *(plan for _, plan in changed)]
    answer = get_request_context().heat_requests.ask_change(plans, goal)
    if answer.error or not answer.body:
        return _send(answer)
    proposal = read_proposal(answer)
    changes = [change for change, _ in changed]
    response = {"words": describe_proposal(proposal, changes)}
    if chosen := proposal.find_change(changes):
        response["address"] = Here(seam.pairs["link"], "heat").take(dict(chosen.sets))
    return jsonify(response)
