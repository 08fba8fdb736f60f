"""Pages of the course: all lessons, one lesson, and the beat."""

from __future__ import annotations

from flask import Blueprint, render_template, request, url_for
from flask.typing import ResponseReturnValue
from markupsafe import Markup

from ...core import catalogue
from ...core.catalogue.teaching import Lesson
from ...presenters.glossary import link_terms
from ...presenters.learn import draw_lesson, draw_mistake, draw_progress, format_steps
from ...services.clock import get_now
from ...services.practice.course import Course, LessonState, build_course
from ...services.practice.drills import DONE_AFTER
from ...services.practice.lessons import get_lesson
from ...services.practice.tries import PASS_IN_A_ROW, PASS_SCORE, list_weeks
from ..preferences import get_units, get_user
from .learner import get_learner

blueprint = Blueprint("learn", __name__, url_prefix="/learn", template_folder="templates")
# Beats of the metronome, 1/s: from a slow dab to a fast pulse that a hand can still follow.
MIN_PPS, MAX_PPS, USUAL_PPS = 0.4, 2.0, 1.0


@blueprint.get("/")
def index() -> ResponseReturnValue:
    """Show the course: evidence, next lesson, and proposals."""
    learner = get_learner()
    course = build_course(learner, get_user())
    weeks = list_weeks(learner.key, get_now())
    return render_template(
        "learn/index.html",
        course=course,
        learner=learner,
        chart=draw_progress(weeks, PASS_SCORE) if weeks else None,
        passed=PASS_SCORE,
        in_a_row=PASS_IN_A_ROW,
        after=DONE_AFTER,
    )


@blueprint.get("/lessons/<key>")
def lesson(key: str) -> ResponseReturnValue:
    """Show a lesson.

    Args:
        key: The lesson.
    """
    row = get_lesson(key)
    course = build_course(get_learner(), get_user())
    state = _find_state(course, row)
    others = [other.lesson for other in course.lessons]
    return render_template(
        "learn/lesson.html",
        lesson=row,
        state=state,
        count=len(others),
        before=others[row.number - 2] if row.number > 1 else None,
        after=others[row.number] if row.number < len(others) else None,
        drawing=draw_lesson(row, get_units()),
        mistakes=[(_link(m.text), draw_mistake(m)) for m in row.mistakes],
        steps=format_steps(row),
        drills=_list_drills(row),
        proposal=next((p for p in course.proposals if p.state.lesson.key == key), None),
        passed=PASS_SCORE,
        in_a_row=PASS_IN_A_ROW,
        drill_after=DONE_AFTER,
        link=_link,
    )


def _list_drills(row: Lesson) -> list[tuple[str, str, str]]:
    """Return the drills of a lesson: key, name, and measure."""
    drills = catalogue.load_drills()
    return [(key, drills[key].name, drills[key].measure) for key in row.drills]


def _find_state(course: Course, row: Lesson) -> LessonState:
    return next(state for state in course.lessons if state.lesson.key == row.key)


def _link(text: str) -> Markup:
    return link_terms(text, url_for("reference.glossary"))


@blueprint.get("/beat")
def beat() -> ResponseReturnValue:
    """Show a beat to work to, and to tap on paper."""
    try:
        pps = float(request.args.get("pps", USUAL_PPS))
    except ValueError:
        pps = USUAL_PPS
    pps = pps if MIN_PPS <= pps <= MAX_PPS else USUAL_PPS
    return render_template("learn/beat.html", pps=pps, least=MIN_PPS, most=MAX_PPS)
