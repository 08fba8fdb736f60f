"""Pages and fragments of Plan."""

from __future__ import annotations

import secrets
from typing import Any
from urllib.parse import parse_qsl

from flask import Blueprint, jsonify, render_template, request

from ...core.plan import Plan, make_plan
from ...services import book
from ...services.comparing import compare
from ...services.planning import Problem, change_link, drawing_names, joint_of_query, query_text, view_of
from ...services.schools import new_joint
from ...services.shop import standing_shop
from ...services.word_fields import WORDS
from ..habits import unit_habit
from .fragments import changed_parts, marks_of, parts_of

blueprint = Blueprint("plan", __name__, url_prefix="", template_folder="templates")
# keys of an address that belong to the page, not to the joint
PAGE_KEYS = ("draft", "edit", "from", "view", "changed", "open")
KEPT = "kept:"


def joint_pairs(query: str) -> list[tuple[str, str]]:
    """The pairs of a query string that describe the joint."""
    return [(k, v) for k, v in parse_qsl(query) if k not in PAGE_KEYS]


@blueprint.get("/")
def page() -> Any:
    """The Plan page for the joint in the address."""
    pairs = joint_pairs(request.query_string.decode())
    joint, problems = joint_of_query(pairs) if pairs else (new_joint(), [])
    view = view_of(joint, unit_habit(), standing_shop())
    shown, views = _shown()
    parts = parts_of(view, shown, [line.key for line in view.lines])
    target = {k: request.args[k] for k in ("draft", "edit", "from") if k in request.args}
    return render_template(
        "plan/page.html", view=view, link=query_text(joint), title=view.title, parts=parts, have=marks_of(parts), words=WORDS, shown=shown,
        views=views, target=target, problems=problems, once=secrets.token_urlsafe(12),
    )  # fmt: skip


@blueprint.get("/plan/answers")
def answers() -> Any:
    """What of the page a changed joint changes, as JSON; 422 with problems where the change cannot stand."""
    result = change_link(joint_pairs(request.query_string.decode()), request.args.get("changed", ""), unit_habit())
    if result.joint is None:
        return jsonify(problems=[_problem(p) for p in result.problems]), 422
    view = view_of(result.joint, unit_habit(), standing_shop())
    parts = parts_of(view, _shown()[0], [request.args.get("open", "")])
    changed, marks = changed_parts(parts, request.headers.get("X-Have", ""))
    return jsonify(link=query_text(result.joint), said=result.said, title=view.title, parts=changed, have=marks)


def _shown() -> tuple[str, dict[str, str]]:
    """The drawing that is shown, and all there are."""
    views = drawing_names()
    asked = request.args.get("view", "")
    return (asked if asked in views else next(iter(views))), views


@blueprint.get("/compare")
def compare_page() -> Any:
    """Two set-ups side by side: each from its link, or from a record as it was kept (kept:P-0001/A)."""
    sides = [_side(request.args.get(name, "")) for name in ("left", "right")]
    problems = [p for _, _, found in sides for p in found]
    both = compare(sides[0][0], sides[1][0], unit_habit())
    return render_template(
        "plan/compare.html", both=both, links=[link for _, link, _ in sides], problems=problems, kept=KEPT
    )


def _side(asked: str) -> tuple[Plan, str, list[Problem]]:
    """A side's plan, the link or record it is of, and what of it could not be read."""
    if asked.startswith(KEPT):
        number, _, letter = asked.removeprefix(KEPT).partition("/")
        return book.plan_of(book.find(number, letter)), asked, []
    joint, problems = joint_of_query(joint_pairs(asked))
    return make_plan(joint, standing_shop()), query_text(joint), problems


def _problem(problem: Problem) -> dict[str, Any]:
    return {"key": problem.key, "sentence": problem.sentence, "nearest": problem.nearest}
