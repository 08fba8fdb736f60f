"""Exercises with answers: a torch in order, the right grind, beads to be read. No script needed."""

from __future__ import annotations

import secrets
from collections.abc import Mapping

from flask import make_response, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.catalogue.teaching import Lesson
from ...presenters.exercises import ExerciseSheet, build_sheet, mark_sheet
from ...services.practice import tries
from ...services.practice.learners import Learner
from ...services.practice.lessons import get_lesson
from .learner import become_learner, get_learner, remember
from .views import blueprint

_MAX_NUMBER = 1_000_000_000


@blueprint.get("/lessons/<key>/exercise")
def exercise(key: str) -> ResponseReturnValue:
    """Show the exercise of a lesson, another one each time.

    Args:
        key: The lesson.
    """
    row = get_lesson(key)
    if row.seam is not None:
        return redirect(url_for("learn.seam", lesson=key), 303)
    number = request.args.get("n", "")
    if not number.isdigit() or int(number) > _MAX_NUMBER:
        return redirect(url_for("learn.exercise", key=key, n=secrets.randbelow(_MAX_NUMBER)), 303)
    return _render(row, build_sheet(row.exercise, int(number)), {}, get_learner())


def _render(row: Lesson, sheet: ExerciseSheet, answers: Mapping[str, str], learner: Learner) -> str:
    return render_template(
        "learn/exercise.html",
        lesson=row,
        sheet=sheet,
        answers=answers,
        progress=tries.find_progress(learner.key, row.key),
        passed=tries.PASS_SCORE,
        in_a_row=tries.PASS_IN_A_ROW,
    )


@blueprint.post("/lessons/<key>/exercise")
def answer_exercise(key: str) -> ResponseReturnValue:
    """Judge the answers to an exercise, and keep the try.

    Args:
        key: The lesson.
    """
    row = get_lesson(key)
    number = request.form.get("n", "")
    if row.seam is not None or not number.isdigit() or int(number) > _MAX_NUMBER:
        return redirect(url_for("learn.exercise", key=key), 303)
    answers = {name: request.form.get(name, "")[:40] for name in request.form}
    sheet = mark_sheet(build_sheet(row.exercise, int(number)), answers)
    if sheet.missing:
        return _render(row, sheet, answers, get_learner()), 422
    learner, secret = become_learner()
    result = {"right": sheet.right, "of": len(sheet.questions)}
    # The same answers sent twice are one try.
    tries.keep_try(
        learner.key, key, row.exercise, row.name, sheet.score, result, once=f"{key}-{number}"
    )
    response = make_response(_render(row, sheet, answers, learner))
    remember(response, secret)
    return response
