"""The judgement of a tapped rhythm."""

from __future__ import annotations

import msgspec
from flask import jsonify, make_response, request
from flask.typing import ResponseReturnValue

from ...core.errors import InputError
from ...core.practice.rhythm import judge_taps
from ...presenters.learn import describe_rhythm
from ...services.practice import tries
from .learner import become_learner, remember
from .views import MAX_PPS, MIN_PPS, blueprint


class BeatBody(msgspec.Struct, frozen=True):
    """The body of a request: beats a second, times of the taps s, and its token."""

    pps: float
    taps: list[float]
    once: str = ""


@blueprint.post("/beat")
def judge_beat() -> ResponseReturnValue:
    """Judge a tapped rhythm, and keep the try."""
    try:
        body = msgspec.json.decode(request.get_data(), type=BeatBody)
        if not MIN_PPS - 1e-6 <= body.pps <= MAX_PPS + 1e-6:
            raise InputError("pps", f"{body.pps:g}", f"must be from {MIN_PPS:g} to {MAX_PPS:g}")
        rhythm = judge_taps(body.taps, 1 / body.pps)
    except msgspec.DecodeError:
        return jsonify(error="The taps cannot be read. Start the beat again."), 422
    except InputError as error:
        return jsonify(error=error.sentence), 422
    learner, secret = become_learner()
    result = {"pps": body.pps, **msgspec.to_builtins(rhythm)}
    title = f"Rhythm at {60 * body.pps:.0f} beats a minute"
    tries.keep_try(learner.key, "", tries.BEAT, title, rhythm.score, result, once=body.once)
    response = make_response(jsonify(score=round(rhythm.score), words=describe_rhythm(rhythm)))
    remember(response, secret)
    return response
