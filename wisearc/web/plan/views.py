"""Pages and fragments of Plan."""

from __future__ import annotations

import secrets
from typing import Any
from urllib.parse import parse_qsl, urlencode

from flask import Blueprint, jsonify, render_template, request

from ...core.schools import BY_KEY
from ...drawings.views import VIEWS, draw
from ...formats.link import Problem, link_query, read_link
from ...services.comparing import compare
from ...services.planning import PlanView, change_link, view_of
from ...services.schools import new_joint
from ..habits import unit_habit
from .editors import editors_for

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
    joint, problems = read_link(pairs) if pairs else (new_joint(), [])
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
        link=urlencode(link_query(result.joint)),
        said=result.said,
        title=context["title"],
        fragments=fragments,
    )


@blueprint.get("/compare")
def compare_page() -> Any:
    """Two set-ups side by side, each from its link."""
    sides, problems = [], []
    for name in ("left", "right"):
        joint, found = read_link(joint_pairs(request.args.get(name, "")))
        sides.append(joint)
        problems += found
    links = [urlencode(link_query(joint)) for joint in sides]
    return render_template(
        "plan/compare.html", both=compare(sides[0], sides[1], unit_habit()), links=links, problems=problems
    )


def _problem(problem: Problem) -> dict[str, Any]:
    return {"key": problem.key, "sentence": problem.sentence, "nearest": problem.nearest}


def _context(view: PlanView) -> dict[str, Any]:
    link = urlencode(link_query(view.joint))
    shown = request.args.get("view", "cut")
    shown = shown if shown in VIEWS else "cut"
    draft = {k: request.args[k] for k in ("draft", "edit", "from") if k in request.args}
    return {
        "view": view,
        "link": link,
        "title": view.title,
        "drawing": draw(shown, view.data, unit_habit()),
        "shown": shown,
        "views": {key: name for key, (name, _) in VIEWS.items()},
        "editors": editors_for(view.joint, unit_habit()),
        "target": draft,
        "questions": BY_KEY,
    }
