"""The own practice: tries, export, deletion, and opening it on another device with the PIN."""

from __future__ import annotations

import json

from flask import Response, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core import catalogue
from ...core.errors import InputError
from ...presenters.learn import draw_progress
from ...services.clock import get_now
from ...services.errors import NotAllowed
from ...services.people.people import check_own_pin
from ...services.practice import drills, tries
from ...services.practice.learners import get_device_key
from ..context import get_request_context
from ..gate import get_client
from .learner import become_learner, get_learner, get_secret, remember
from .views import blueprint


@blueprint.get("/own")
def own() -> ResponseReturnValue:
    """Show the own tries."""
    return _render()


def _render(error: str = "", initials: str = "") -> ResponseReturnValue:
    learner = get_learner()
    weeks = tries.list_weeks(learner.key, get_now())
    lessons = catalogue.load_lessons()
    rows = tries.list_own(learner.key)
    page = render_template(
        "learn/own.html",
        learner=learner,
        rows=[(row, lessons.get(row.lesson)) for row in rows],
        chart=draw_progress(weeks, tries.PASS_SCORE) if weeks else None,
        error=error,
        initials=initials,
        gone=request.args.get("gone", ""),
        deleted=request.args.get("deleted", ""),
    )
    return (page, 422) if error else page


@blueprint.get("/own/practice.json")
def export() -> ResponseReturnValue:
    """Send everything of this learner as JSON."""
    learner = get_learner()
    data = tries.export_tries(learner.key, drills.list_all_attempts(learner))
    head = {"Content-Disposition": 'attachment; filename="practice.json"'}
    text = json.dumps(data, ensure_ascii=False, indent=1)
    return Response(text, content_type="application/json; charset=utf-8", headers=head)


@blueprint.post("/own/delete")
def delete_own() -> ResponseReturnValue:
    """Delete everything of this learner for good."""
    count = tries.delete_everything(get_learner().key)
    return redirect(url_for("learn.own", deleted=count), 303)


@blueprint.post("/own/<row:number>")
def remove_try(number: int) -> ResponseReturnValue:
    """Remove a try, or restore it.

    Args:
        number: Number of the try.
    """
    back = request.form.get("back") == "yes"
    tries.remove_try(get_learner().key, number, back)
    return redirect(url_for("learn.own", gone="" if back else number), 303)


@blueprint.post("/own/open")
def open_own() -> ResponseReturnValue:
    """Open the practice of a person on this device with the PIN."""
    initials = request.form.get("initials", "").strip()[:20]
    context = get_request_context()
    _, secret = become_learner()
    try:
        person = check_own_pin(
            initials, request.form.get("pin", ""), get_client(), context.pin_limiter
        )
    except (InputError, NotAllowed) as error:
        sentence = error.sentence if isinstance(error, InputError) else str(error)
        return _render(sentence, initials)
    learner = context.learner_sessions.open(secret, person.id, person.initials)
    if request.form.get("take") == "yes":
        tries.transfer(get_device_key(secret), learner.key)
    answer = redirect(url_for("learn.own"), 303)
    remember(answer, secret)
    return answer


@blueprint.post("/own/close")
def close_own() -> ResponseReturnValue:
    """Close the practice of a person on this device."""
    get_request_context().learner_sessions.close(get_secret())
    return redirect(url_for("learn.own"), 303)
