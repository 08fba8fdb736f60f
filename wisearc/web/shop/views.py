"""Pages of Shop: what it owns, its schools, its book."""

from __future__ import annotations

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import UnknownName
from ...core.plan.schools import BY_KEY
from ...core.quantities import Quantity
from ...core.shop.shop import HAS, LABELS, Cylinder, Item
from ...core.shop.words import format_item
from ...core.sources import format_short_mark
from ...forms import shop_items
from ...services.inventory import shop
from ...services.maintenance import maintenance
from ...services.planning.schools import choose_school, load_preferences
from ..context import get_request_context
from ..preferences import get_units

blueprint = Blueprint("shop", __name__, url_prefix="/shop", template_folder="templates")


@blueprint.get("/")
def index() -> ResponseReturnValue:
    """What the shop owns."""
    return render_stock()


def format_pressure(item: Item, habit: str) -> str:
    """What a cylinder's gauge shows now, with its unit."""
    return Quantity(item.bar, "pressure").text(habit) if isinstance(item, Cylinder) else ""


def render_stock(
    error: str = "", at: str = "", typed: str = "", near: list[str] | None = None
) -> str:
    """The lists of the shop. Parameters: error, where it stands (a list, or ""), what was typed
    there and what is near it.
    """
    standing, habit = shop.load_shop(), get_units()
    lists = [
        {
            "key": key,
            "label": label,
            "entered": getattr(standing, key) is not None,
            "rows": [(line, format_item(line.item, habit)) for line in shop.list_lines(key)],
        }
        for key, label in LABELS.items()
    ]
    return render_template(
        "shop/index.html",
        shop=standing,
        lists=lists,
        known=shop_items.list_known_names(habit),
        has=HAS,
        error=error,
        at=at,
        typed=typed,
        near=near or [],
        gauge=format_pressure,
        away=[(line, format_item(line.item, habit)) for line in shop.list_archived_lines()[-5:]],
    )


@blueprint.get("/schools")
def schools_asked() -> ResponseReturnValue:
    """Where practitioners disagree, and which school this shop goes by."""
    return render_preferences()


@blueprint.post("/schools")
def schools() -> ResponseReturnValue:
    """Choose a school for every new joint."""
    key, value = request.form.get("key", ""), request.form.get("value", "")
    try:
        choose_school(key, value)
    except UnknownName as error:
        return render_preferences(error.sentence), 422
    return redirect(url_for("shop.schools_asked") + f"#{key}", 303)


def render_preferences(error: str = "") -> str:
    """The questions, each with its mark, and what the shop chose."""
    return render_template(
        "shop/schools.html",
        questions=BY_KEY.values(),
        chosen=load_preferences(),
        short_mark=format_short_mark,
        error=error,
    )


@blueprint.get("/care")
def care_asked() -> ResponseReturnValue:
    """The book looked after."""
    return render_care()


def render_care(error: str = "") -> str:
    """The copies there are, and the work that goes on."""
    bench = get_request_context().tasks
    return render_template(
        "shop/care.html",
        care_error=error,
        copies=maintenance.list_copies(bench.folder),
        folder=bench.folder.resolve(),
        work=bench.work,
    )
