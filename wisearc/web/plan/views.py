"""Pages of Plan: one address has a joint or a change of it.

The answer is a page or its changed parts.
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
from ...forms.joint_fields import KEYS
from ...presenters.comparison import compare
from ...presenters.plan import NOTHING, build_difference, build_plan_view, list_drawings
from ...services.inventory.shop import load_shop
from ...services.planning.approaches import build_new_joint
from ...services.planning.planner import Problem, cached_plan, query_text, read_query
from ...services.procedures import book, procedures
from ...services.procedures.fitting import build_fitting_key
from ..parts import find_changed_parts, hash_parts
from ..preferences import YEAR_S, back_where, get_units
from .fragments import PageState, render_parts
from .here import Here, find_target, list_joint_pairs

blueprint = Blueprint("plan", __name__, url_prefix="", template_folder="templates")
KEPT = "kept:"
HELD, MAX_COOKIE_LENGTH = "held", 3000


class _Asked(Struct, frozen=True):
    """The contents of an address.

    The joint before the change, the result of the change, unreadable pairs.
    """

    before: Joint
    changed: Changed
    unread: list[Problem]


def _read_request(units: str) -> _Asked:
    pairs = list_joint_pairs(request.query_string.decode())
    if "link" in request.args:
        before, unread = read_query(list_joint_pairs(request.args["link"]))
        return _Asked(before, change(before, pairs, units), unread)
    typed_pairs = [(key, text) for key, text in pairs if text]
    joint, unread = read_query(typed_pairs) if typed_pairs else (build_new_joint(), [])
    return _Asked(joint, Changed(joint), unread)


@blueprint.get("/plan")
def page() -> ResponseReturnValue:
    """Show the Plan page of the joint in the address, complete or in changed parts."""
    units, shop = get_units(), ASSUMED if request.args.get("bare") else load_shop()
    asked = _read_request(units)
    before, view = (
        build_plan_view(asked.before, units, shop),
        build_plan_view(asked.changed.joint, units, shop),
    )
    did = build_difference(before, view, asked.changed.said) if asked.changed.keys else NOTHING
    views = list_drawings()
    drawn = request.args.get("view", "")
    state = Here(
        view.link,
        drawn if drawn in views and drawn != next(iter(views)) else "",
        find_target(request),
        bool(request.args.get("bare")),
    )
    held = request.cookies.get(HELD, "")
    displayed = PageState(
        view,
        state,
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
        parts = render_parts(
            displayed,
            opened,
            build_fitting_key(before.plan) != build_fitting_key(view.plan)
            or "link" not in request.args,
        )
        changed, marks = find_changed_parts(parts, request.headers.get("X-Have", ""))
        body = {
            "address": state.address,
            "title": view.title,
            "parts": changed,
            "have": marks,
            "told": did.told,
        }
        return jsonify(body), 422 if asked.changed.problems else 200
    parts = render_parts(displayed, [line.key for line in view.lines])
    return render_template(
        "plan/page.html",
        view=view,
        here=state,
        title=view.title,
        parts=parts,
        have=hash_parts(parts),
        words=KEYS,
        opened=opened,
        did=did,
        once=secrets.token_urlsafe(12),
    ), (422 if asked.changed.problems else 200)


@blueprint.get("/hold")
def hold() -> ResponseReturnValue:
    """Hold the plan of a link for comparison, or release it without a link."""
    link = request.args.get("link", "")
    answer = make_response(redirect(back_where(url_for("plan.page")), 302))
    if link and len(link) <= MAX_COOKIE_LENGTH:
        answer.set_cookie(HELD, link, max_age=YEAR_S, samesite="Lax", httponly=True)
    else:
        answer.delete_cookie(HELD)
    return answer


@blueprint.get("/compare")
def compare_page() -> ResponseReturnValue:
    """Show two plans compared: each from its link, or from a saved record (kept:P-0001/A)."""
    sides = [_read_side(request.args.get(name, "")) for name in ("left", "right")]
    problems = [p for _, _, side_plan in sides for p in side_plan]
    numbers = tuple(
        link.removeprefix(KEPT).replace("/", " ") if link.startswith(KEPT) else ""
        for _, link, _ in sides
    )
    comparison = compare(sides[0][0], sides[1][0], get_units(), (numbers[0], numbers[1]))
    return render_template(
        "plan/compare.html",
        both=comparison,
        links=[link for _, link, _ in sides],
        problems=problems,
        kept=KEPT,
    )


def _read_side(asked: str) -> tuple[Plan, str, list[Problem]]:
    """Return the plan of a side, its link or record, and its problems."""
    if asked.startswith(KEPT):
        number, _, letter = asked.removeprefix(KEPT).partition("/")
        return procedures.get_plan(book.find(number, letter)), asked, []
    typed = dict(parse_qsl(asked))
    joint, problems = read_query(list_joint_pairs(typed.get("link", asked)))
    if "link" in typed:
        changed = change(joint, list_joint_pairs(asked), get_units())
        joint, problems = changed.joint, [*problems, *changed.problems]
    return cached_plan(joint, load_shop()), query_text(joint), problems
