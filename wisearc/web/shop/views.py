"""Pages of Shop: equipment, approaches, library."""

from __future__ import annotations

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core import catalogue
from ...core.errors import UnknownName
from ...core.plan.approaches import BY_KEY
from ...core.quantities import Quantity, format_count
from ...core.shop.shop import HAS, LABELS, Cylinder, Item
from ...core.shop.words import format_item
from ...core.sources import format_short_mark
from ...forms import shop_items
from ...services.inventory import kits, shop
from ...services.maintenance import maintenance
from ...services.planning import approaches
from ...services.planning.approaches import load_preferences
from ..context import get_request_context
from ..numbers import parse_integer
from ..preferences import get_units

blueprint = Blueprint("shop", __name__, url_prefix="/shop", template_folder="templates")


@blueprint.get("/")
def index() -> ResponseReturnValue:
    """Show the equipment of the shop."""
    return render_stock()


def format_pressure(item: Item, units: str) -> str:
    """Return the gauge pressure of a cylinder with its unit.

    Args:
        item: The cylinder.
        units: Unit system.
    """
    return Quantity(item.bar, "pressure").text(units) if isinstance(item, Cylinder) else ""


def render_stock(
    error: str = "", at: str = "", typed: str = "", near: list[str] | None = None
) -> str:
    """Return the lists of the shop.

    Args:
        error: An error, or "".
        at: Its list, or "".
        typed: The typed text.
        near: Similar labels, or None.
    """
    current_shop, units = shop.load_shop(), get_units()
    lists = [
        {
            "key": key,
            "label": label,
            "entered": getattr(current_shop, key) is not None,
            "rows": [(line, format_item(line.item, units)) for line in shop.list_lines(key)],
        }
        for key, label in LABELS.items()
    ]
    return render_template(
        "shop/index.html",
        shop=current_shop,
        lists=lists,
        known=shop_items.list_known_names(units),
        has=HAS,
        error=error,
        at=at,
        typed=typed,
        near=near or [],
        added=_describe_added(),
        missing_kinds=" or ".join(
            catalogue.load_part_kinds()[key].name for key in kits.find_missing_kinds(current_shop)
        ),
        gauge=format_pressure,
        away=[(line, format_item(line.item, units)) for line in shop.list_archived_lines()[-5:]],
    )


def _describe_added() -> str:
    count = parse_integer(request.args.get("added", ""))
    return f"{format_count(count, 'item')} added." if count else ""


@blueprint.get("/preferences")
def show_approaches() -> ResponseReturnValue:
    """Show the questions on which practitioners disagree, and the approaches of this shop."""
    return render_preferences()


@blueprint.post("/preferences")
def choose_approach() -> ResponseReturnValue:
    """Choose an approach for every new joint."""
    key, value = request.form.get("key", ""), request.form.get("value", "")
    try:
        approaches.choose_approach(key, value)
    except UnknownName as error:
        return render_preferences(error.sentence), 422
    return redirect(url_for("shop.show_approaches") + f"#{key}", 303)


def render_preferences(error: str = "") -> str:
    """Return the page of the questions, with evidence levels, and the choices of the shop."""
    return render_template(
        "shop/preferences.html",
        questions=BY_KEY.values(),
        chosen=load_preferences(),
        short_mark=format_short_mark,
        error=error,
    )


@blueprint.get("/maintenance")
def show_maintenance() -> ResponseReturnValue:
    """Show the maintenance page."""
    return render_care()


def render_care(error: str = "") -> str:
    """Return the page of the copies, and of the work in progress."""
    bench = get_request_context().tasks
    return render_template(
        "shop/maintenance.html",
        care_error=error,
        copies=maintenance.list_copies(bench.folder),
        folder=bench.folder.resolve(),
        work=bench.work,
    )
