"""Pages of the people: the list, and the user of this device."""

from __future__ import annotations

from collections.abc import Mapping

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import InputError
from ...core.shop.shop import ROLES
from ...services.errors import StoreError
from ...services.people import people
from ..errors import get_code
from ..numbers import parse_integer
from ..preferences import YEAR_S
from .access import close_session, is_unlocked

blueprint = Blueprint("people", __name__, url_prefix="/shop/people", template_folder="templates")


@blueprint.get("/")
def index() -> ResponseReturnValue:
    """Show all people."""
    return _render_page()


def _render_page(error: str = "", typed: Mapping[str, str] | None = None) -> str:
    return render_template(
        "people/index.html",
        people=people.list_people(),
        roles=ROLES,
        error=error,
        typed=typed or {},
        unlocked=is_unlocked(),
        least=people.MIN_PIN_LENGTH,
        most=people.MAX_PIN_LENGTH,
    )


@blueprint.post("/enter")
def enter() -> ResponseReturnValue:
    """Add a person."""
    form = request.form
    try:
        people.enter(
            form.get("initials", ""),
            form.get("name", ""),
            form.get("role", ""),
            form.get("pin", ""),
        )
    except InputError as error:
        return _render_page(error.sentence, form), 422
    return redirect(url_for("people.index"), 303)


@blueprint.post("/pin")
def set_pin() -> ResponseReturnValue:
    """Set the PIN of a person."""
    try:
        people.set_pin(request.form.get("initials", ""), request.form.get("pin", ""))
    except InputError as error:
        return _render_page(error.sentence), 422
    except StoreError as error:
        return _render_page(str(error)), get_code(error)
    return redirect(url_for("people.index"), 303)


@blueprint.post("/away")
def archive() -> ResponseReturnValue:
    """Archive a person."""
    text = request.form.get("person", "")
    try:
        people.archive_person(parse_integer(text))
    except StoreError as error:
        return _render_page(str(error)), get_code(error)
    return redirect(url_for("people.index"), 303)


@blueprint.post("/me")
def choose_user() -> ResponseReturnValue:
    """Choose the user of this device, or nobody."""
    known = people.find_person(request.form.get("initials", ""))
    answer = redirect(url_for("people.index"), 303)
    if known is None:
        answer.delete_cookie("who")
    else:
        answer.set_cookie("who", known.initials, max_age=YEAR_S, samesite="Lax", httponly=True)
    return answer


@blueprint.post("/lock")
def lock() -> ResponseReturnValue:
    """Ask for the PIN again."""
    close_session()
    return redirect(url_for("people.index"), 303)
