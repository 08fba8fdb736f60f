"""Pages of Plan: one address holds a joint, or a change of one, and answers as a page or as the
parts of one that differ.
"""

from __future__ import annotations

import secrets
from urllib.parse import parse_qsl

from flask import Blueprint, jsonify, make_response, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from msgspec import Struct

from ...core.joint.joint import Joint
from ...core.plan.plan import Plan
from ...core.shop.shop import ASSUMED
from ...forms.joint_changes import Changed, change
from ...forms.joint_words import WORDS
from ...presenters.comparison import compare
from ...presenters.plan import NOTHING, difference, drawing_names, view_of
from ...services.inventory.shop import standing_shop
from ...services.planning.planning import Problem, cached_plan, joint_of_query, query_text
from ...services.planning.schools import new_joint
from ...services.procedures import book, procedures
from ...services.procedures.finding import like_words
from ..parts import changed_parts, marks_of
from ..preferences import YEAR_S, back_where, unit_habit
from .fragments import Shown, parts_of
from .here import Here, joint_pairs, target_of

blueprint = Blueprint("plan", __name__, url_prefix="", template_folder="templates")
KEPT = "kept:"
HELD, LONGEST_HELD = "held", 3000


class _Asked(Struct, frozen=True):
    """What an address comes to: the joint as it was before the change in it, what became of it,
    what could not be read.
    """

    before: Joint
    changed: Changed
    unread: list[Problem]


def _asked(habit: str) -> _Asked:
    pairs = joint_pairs(request.query_string.decode())
    if "link" in request.args:
        before, unread = joint_of_query(joint_pairs(request.args["link"]))
        return _Asked(before, change(before, pairs, habit), unread)
    given = [(key, text) for key, text in pairs if text]
    joint, unread = joint_of_query(given) if given else (new_joint(), [])
    return _Asked(joint, Changed(joint), unread)


@blueprint.get("/")
def page() -> ResponseReturnValue:
    """The Plan page for the joint in the address: whole, or where parts are asked for, those that
    the asker lacks.
    """
    habit, shop = unit_habit(), ASSUMED if request.args.get("bare") else standing_shop()
    asked = _asked(habit)
    before, view = view_of(asked.before, habit, shop), view_of(asked.changed.joint, habit, shop)
    did = difference(before, view, asked.changed.said) if asked.changed.keys else NOTHING
    views = drawing_names()
    drawn = request.args.get("view", "")
    here = Here(
        view.link,
        drawn if drawn in views and drawn != next(iter(views)) else "",
        target_of(request),
        bool(request.args.get("bare")),
    )
    held = request.cookies.get(HELD, "")
    shown = Shown(
        view,
        here,
        did,
        asked.changed.problems,
        asked.changed.typed,
        asked.unread,
        held if held != view.link else "",
        held == view.link,
        shop,
    )
    opened = request.args.get("open", "").split(",")
    if request.accept_mimetypes.best == "application/json":
        parts = parts_of(
            shown,
            opened,
            like_words(before.plan) != like_words(view.plan) or "link" not in request.args,
        )
        changed, marks = changed_parts(parts, request.headers.get("X-Have", ""))
        body = {
            "address": here.address,
            "title": view.title,
            "parts": changed,
            "have": marks,
            "told": did.told,
        }
        return jsonify(body), 422 if asked.changed.problems else 200
    parts = parts_of(shown, [line.key for line in view.lines])
    return render_template(
        "plan/page.html",
        view=view,
        here=here,
        title=view.title,
        parts=parts,
        have=marks_of(parts),
        words=WORDS,
        opened=opened,
        did=did,
        once=secrets.token_urlsafe(12),
    ), (422 if asked.changed.problems else 200)


@blueprint.get("/hold")
def hold() -> ResponseReturnValue:
    """Hold the set-up of a link, to set another beside it; without one, let go of what is held."""
    link = request.args.get("link", "")
    answer = make_response(redirect(back_where(url_for("plan.page")), 302))
    if link and len(link) <= LONGEST_HELD:
        answer.set_cookie(HELD, link, max_age=YEAR_S, samesite="Lax", httponly=True)
    else:
        answer.delete_cookie(HELD)
    return answer


@blueprint.get("/compare")
def compare_page() -> ResponseReturnValue:
    """Two set-ups side by side: each from its link, or from a record as it was kept
    (kept:P-0001/A).
    """
    sides = [_side(request.args.get(name, "")) for name in ("left", "right")]
    problems = [p for _, _, found in sides for p in found]
    numbers = tuple(
        link.removeprefix(KEPT).replace("/", " ") if link.startswith(KEPT) else ""
        for _, link, _ in sides
    )
    both = compare(sides[0][0], sides[1][0], unit_habit(), (numbers[0], numbers[1]))
    return render_template(
        "plan/compare.html",
        both=both,
        links=[link for _, link, _ in sides],
        problems=problems,
        kept=KEPT,
    )


def _side(asked: str) -> tuple[Plan, str, list[Problem]]:
    """A side's plan, the link or record it is of, and what of it could not be read."""
    if asked.startswith(KEPT):
        number, _, letter = asked.removeprefix(KEPT).partition("/")
        return procedures.plan_of(book.find(number, letter)), asked, []
    given = dict(parse_qsl(asked))
    joint, problems = joint_of_query(joint_pairs(given.get("link", asked)))
    if "link" in given:
        changed = change(joint, joint_pairs(asked), unit_habit())
        joint, problems = changed.joint, [*problems, *changed.problems]
    return cached_plan(joint, standing_shop()), query_text(joint), problems
