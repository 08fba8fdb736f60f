"""Equipment typed or pasted as a list, and the kits to buy."""

from __future__ import annotations

from flask import Response, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core import catalogue
from ...core.errors import InputError, UnknownName
from ...core.quantities import format_count
from ...core.shop.shop import LABELS, Item
from ...core.shop.stock_text import StockGuess, StockList, read_stock_text
from ...core.shop.words import format_item
from ...services.inventory import kits, shop
from ..numbers import parse_integer
from ..preferences import get_units
from .views import blueprint, render_stock

MAX_LIST_LENGTH = 20_000


@blueprint.post("/list")
def enter_list() -> ResponseReturnValue:
    """Enter a typed list. Open choices are asked in one place."""
    return enter_text(request.form.get("list", "")[:MAX_LIST_LENGTH])


@blueprint.get("/list")
def open_list() -> ResponseReturnValue:
    """Lead an address that was typed or restored to the page with the list."""
    return redirect(url_for("shop.index"))


def enter_text(text: str) -> ResponseReturnValue:
    """Enter a typed list, or ask about it.

    Args:
        text: The list.
    """
    stock = read_stock_text(text, shop.load_shop(), get_units())
    if not stock.items and not stock.unknown:
        return render_stock("Type your equipment, such as cup 8 lens, ER308L 1/16."), 422
    items = [_choose_item(i, guess) for i, guess in enumerate(stock.items)]
    chosen = [item for item in items if item is not None]
    if len(chosen) < len(items) or (stock.unknown and "known" not in request.form):
        return _render_questions(text, stock), 422
    try:
        kits.enter_all(chosen)
    except InputError as error:
        return _render_questions(text, stock, error.sentence), 422
    if stock.unknown:
        rest = "\n".join(line for line, _ in stock.unknown)
        left = StockList((), stock.unknown)
        added = f"{format_count(len(chosen), 'item')} added."
        return _render_questions(rest, left, added=added), 422
    return redirect(url_for("shop.index", added=len(chosen)), 303)


def _choose_item(number: int, guess: StockGuess) -> Item | None:
    """Return the item of a guess, or None if its choice is open."""
    if guess.choice is None:
        return guess.item
    picked = parse_integer(request.form.get(f"pick.{number}", ""), -1)
    options = guess.choice.items
    return options[picked][1] if 0 <= picked < len(options) else None


def _render_questions(text: str, stock: StockList, error: str = "", added: str = "") -> str:
    units = get_units()
    rows = [
        (i, guess, format_item(guess.item, units), request.form.get(f"pick.{i}", ""))
        for i, guess in enumerate(stock.items)
    ]
    return render_template(
        "shop/list.html",
        text=text,
        asked=[row for row in rows if row[1].choice],
        rows=[row for row in rows if not row[1].choice],
        unknown=stock.unknown,
        error=error,
        added=added,
    )


@blueprint.post("/parts/usual")
def add_usual_parts() -> ResponseReturnValue:
    """Enter the usual parts that the list of parts does not have."""
    added = kits.add_usual_parts(shop.load_shop())
    return redirect(url_for("shop.index", added=len(added)) + "#parts", 303)


@blueprint.get("/kit")
def kit() -> ResponseReturnValue:
    """Show a kit to buy, by the family of the torch and the kind of work."""
    family, work = _get_kit()
    try:
        lines = kits.build_kit(family, work, shop.load_shop())
    except UnknownName as error:
        return render_stock(error.sentence), 422
    units = get_units()
    return render_template(
        "shop/kit.html",
        rows=[(LABELS[line.key], format_item(line.item, units), line) for line in lines],
        family=family,
        work=work,
        families=kits.FAMILIES,
        works=catalogue.load_buying_works(),
    )


def _get_kit() -> tuple[str, str]:
    torches = shop.load_shop().torches or ()
    usual = torches[0].row.family if torches else kits.FAMILIES[0]
    return request.values.get("family", usual)[:20], request.values.get("work", "beginner")[:20]


@blueprint.get("/kit.csv")
def kit_file() -> ResponseReturnValue:
    """Send a kit to buy as CSV."""
    family, work = _get_kit()
    try:
        lines = kits.build_kit(family, work, shop.load_shop())
    except UnknownName as error:
        return render_stock(error.sentence), 422
    head = {"Content-Disposition": f'attachment; filename="kit-{family}-{work}.csv"'}
    return Response(
        kits.kit_text(lines, get_units()), content_type="text/csv; charset=utf-8", headers=head
    )
