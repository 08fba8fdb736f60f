"""The first page and its search. An address with a joint opens Plan."""

from __future__ import annotations

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import InputError
from ...core.joint.words import build_sentence
from ...core.shop.shop import LABELS
from ...services.errors import StoreError
from ...services.inventory.shop import load_shop
from ...services.planning.approaches import build_new_joint
from ...services.planning.planner import query_text
from ...services.planning.typed_joint import MAX_PHRASE_LENGTH, read_typed_joint
from ...services.procedures import book
from ...services.start.finder import MAX_SEARCH_LENGTH, find_anything, find_number
from ...services.start.recent_work import list_recent_work
from ..guide.guide_pages import find_passages
from ..plan.views import page as plan_page
from ..preferences import get_units

blueprint = Blueprint("front", __name__, url_prefix="", template_folder="templates")


@blueprint.get("/")
def index() -> ResponseReturnValue:
    """Show the first page, or Plan for an address with a joint."""
    if request.query_string:
        return plan_page()
    return _render_page()


def _render_page(phrase: str = "", error: str = "") -> ResponseReturnValue:
    joint = build_new_joint()
    page = render_template(
        "front/index.html",
        parts=build_sentence(joint),
        habit=get_units(),
        link=query_text(joint),
        works=list_recent_work(),
        has_equipment=load_shop().entered,
        phrase=phrase,
        error=error,
    )
    return (page, 422) if error else page


@blueprint.get("/start")
def start() -> ResponseReturnValue:
    """Open Plan with a typed joint."""
    phrase = request.args.get("joint", "")[:MAX_PHRASE_LENGTH]
    if not phrase.strip():
        return redirect(url_for("plan.page"))
    try:
        typed = read_typed_joint(phrase, get_units(), load_shop())
    except InputError as error:
        return _render_page(phrase, error.sentence)
    except StoreError as error:
        return _render_page(phrase, str(error))
    return redirect(f"{url_for('plan.page')}?{query_text(typed.joint)}")


@blueprint.get("/find")
def find() -> ResponseReturnValue:
    """Search procedures, jobs, equipment, the glossary and the guide."""
    units = get_units()
    search = request.args.get("q", "")[:MAX_SEARCH_LENGTH].strip()
    if label := find_number(search):
        try:
            return redirect(
                url_for("procedures.procedure", number=book.find(label).procedure.label)
            )
        except StoreError:
            pass
    results = find_anything(search, units, load_shop())
    return render_template(
        "front/find.html",
        search=search,
        results=results,
        link=query_text(results.joint) if results.joint else "",
        passages=find_passages(search),
        lists=LABELS,
    )
