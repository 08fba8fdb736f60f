"""Pages and fragments of Plan."""

from __future__ import annotations

import secrets
from typing import Any
from urllib.parse import parse_qsl

from flask import Blueprint, jsonify, render_template, request

from ...core.schools import BY_KEY
from ...services.comparing import compare
from ...services.planning import (
    PlanView,
    Problem,
    change_link,
    drawing,
    drawing_names,
    joint_of_query,
    query_text,
    view_of,
)
from ...services.schools import new_joint
from ...services.word_fields import editors_for
from ..habits import unit_habit

blueprint = Blueprint("plan", __name__, url_prefix="", template_folder="templates")
# keys of an address that belong to the page, not to the joint
PAGE_KEYS = ("draft", "edit", "from", "view", "changed")


def joint_pairs(query: str) -> list[tuple[str, str]]:
    """The pairs of a query string that describe the joint."""
    return [(k, v) for k, v in parse_qsl(query) if k not in PAGE_KEYS]


@blueprint.get("/")
def page() -> Any:
    """The Plan page for the joint in the address."""
    pairs = joint_pairs(request.query_string.decode())
    joint, problems = joint_of_query(pairs) if pairs else (new_joint(), [])
    view = view_of(joint, unit_habit())
    return render_template("plan/page.html", **_context(view), problems=problems, once=secrets.token_urlsafe(12))


@blueprint.get("/plan/answers")
def answers() -> Any:
    """The fragments for a changed joint, as JSON; 422 with problems where the change cannot stand."""
    result = change_link(joint_pairs(request.query_string.decode()), request.args.get("changed", ""), unit_habit())
    if result.problems:
        return jsonify(problems=[_problem(p) for p in result.problems]), 422
    assert result.joint is not None
    context = _context(view_of(result.joint, unit_habit()))
    fragments = {
        name: render_template(f"plan/_{name}.html", **context)
        for name in ("sentence", "editors", "answers", "drawing", "foot")
    }
    return jsonify(
        link=context["link"],
        said=result.said,
        title=context["title"],
        fragments=fragments,
    )


@blueprint.get("/compare")
def compare_page() -> Any:
    """Two set-ups side by side, each from its link."""
    sides, problems = [], []
    for name in ("left", "right"):
        joint, found = joint_of_query(joint_pairs(request.args.get(name, "")))
        sides.append(joint)
        problems += found
    links = [query_text(joint) for joint in sides]
    return render_template(
        "plan/compare.html", both=compare(sides[0], sides[1], unit_habit()), links=links, problems=problems
    )


def _problem(problem: Problem) -> dict[str, Any]:
    return {"key": problem.key, "sentence": problem.sentence, "nearest": problem.nearest}


def _context(view: PlanView) -> dict[str, Any]:
    link = query_text(view.joint)
    shown = request.args.get("view", "cut")
    names = drawing_names()
    shown = shown if shown in names else "cut"
    draft = {k: request.args[k] for k in ("draft", "edit", "from") if k in request.args}
    return {
        "view": view,
        "link": link,
        "title": view.title,
        "drawing": drawing(shown, view.data, unit_habit()),
        "shown": shown,
        "views": names,
        "editors": editors_for(view.joint, unit_habit()),
        "target": draft,
        "questions": BY_KEY,
    }
