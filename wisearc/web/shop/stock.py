"""The equipment of the shop: entry, counts, import, export."""

from __future__ import annotations

from flask import Response, jsonify, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import InputError
from ...core.shop.data import item_data, make_item
from ...core.shop.shop import LABELS, LISTS, get_count, get_list_key, with_count
from ...core.shop.stock_text import read_stock_text
from ...core.shop.words import format_item
from ...core.typed_quantities import parse_quantity
from ...forms import shop_items
from ...forms.fields import Field
from ...services.errors import Missing, StoreError
from ...services.inventory import shop, shop_files
from ..errors import get_code
from ..numbers import parse_integer
from ..preferences import get_units
from .stock_list import enter_text
from .views import blueprint, render_stock


def _parse_number(text: str) -> int:
    """Return an integer of a form.

    Raises:
        InputError: The text is not an integer.
    """
    stripped = text.strip().replace("−", "-")
    if not stripped.lstrip("+-").isdecimal() or not stripped.isascii() or len(stripped) > 8:
        raise InputError("count", text, "must be a whole number, such as 3")
    return int(stripped)


def _parse_line_number(text: str) -> int:
    """Return the number of a line in a form or an address.

    Raises:
        Missing: The text is not a number.
    """
    if (number := parse_integer(text, -1)) < 0:
        raise Missing("That line is not in this shop. Reload the list.")
    return number


def _find_line(key: str, number: str) -> shop.Line | None:
    """Return the line of a list in an address, or None without one.

    Raises:
        Missing: The line does not exist.
    """
    if key not in LISTS:
        raise Missing("A shop has no such list.")
    line = shop.get_line(_parse_line_number(number)) if number else None
    if line is not None and line.key != key:
        raise Missing("That line is in another list of this shop.")
    return line


def _back(key: str = "", line: int = 0) -> ResponseReturnValue:
    return redirect(
        url_for("shop.index") + (f"#line-{line}" if line else f"#{key}" if key else ""), 303
    )


@blueprint.post("/enter")
def enter() -> ResponseReturnValue:
    """Enter an item by its label, or by similar words."""
    text = request.form.get("exact") or request.form.get("what", "")
    item, near = shop_items.find_meant_item(text)
    if item is None and request.form.get("exact") is None:
        stock = read_stock_text(text, shop.load_shop(), get_units())
        if stock.items and not (near and stock.unknown):
            return enter_text(text)
    try:
        if item is None:
            rule = (
                "is not in the catalogue. Pick a similar item below, or add it under its list"
                if near
                else "is not in the catalogue. Add it under its list"
            )
            raise InputError("what", text, rule)
        if get_count(item) is not None:
            item = with_count(item, _parse_number(request.form.get("count", "1")))
        shop.enter(make_item(get_list_key(item), item_data(item)))
    except InputError as error:
        return render_stock(error.sentence, typed=text, near=near), 422
    return _back(get_list_key(item))


@blueprint.post("/count")
def count() -> ResponseReturnValue:
    """Add to a count or reduce it, and answer as JSON on request."""
    asked = request.accept_mimetypes.best == "application/json"
    try:
        line = _parse_line_number(request.form.get("line", ""))
        left = shop.add(line, _parse_number(request.form.get("more", "")))
    except InputError as error:
        return (
            (jsonify(error=error.sentence), 422) if asked else (render_stock(error.sentence), 422)
        )
    return jsonify(count=left) if asked else _back(line=line)


@blueprint.get("/line/<key>")
def line(key: str) -> ResponseReturnValue:
    """Show a line of a list for changes, or a new one."""
    shop_line = _find_line(key, request.args.get("number", ""))
    fields = shop_items.build_fields(key, shop_line.item if shop_line else None, get_units())
    return _render_line(key, shop_line, fields)


def _render_line(key: str, line: shop.Line | None, fields: list[Field], error: str = "") -> str:
    return render_template(
        "shop/line.html",
        key=key,
        label=LABELS[key],
        line=line,
        words=format_item(line.item, get_units()) if line else "",
        fields=[f for f in fields if line is None or f.key != "count"],
        error=error,
    )


@blueprint.post("/line/<key>")
def change_line(key: str) -> ResponseReturnValue:
    """Enter or change a line.

    An error is shown at its field.
    """
    shop_line = _find_line(key, request.args.get("number", ""))
    unit_system = "in" if request.form.get("habit") == "in" else "mm"
    try:
        item = shop_items.read_item(
            key, request.form, unit_system, shop_line.item if shop_line else None
        )
        if shop_line is None:
            shop.enter(item)
        else:
            shop.edit(shop_line.id, item)
    except InputError as error:
        wrong, units = error.field.rpartition(f"{key}.")[2], get_units()
        fields = shop_items.build_refused_fields(
            key, request.form, units, wrong, error.beside(units)
        )
        has_error = any(f.error for f in fields)
        return _render_line(key, shop_line, fields, "" if has_error else error.sentence), 422
    return _back(key, shop_line.id if shop_line else 0)


@blueprint.post("/away")
def archive_line() -> ResponseReturnValue:
    """Archive a line."""
    return _back(shop.archive_line(_parse_line_number(request.form.get("line", ""))).key)


@blueprint.post("/back")
def restore_line() -> ResponseReturnValue:
    """Restore an archived line."""
    line = _parse_line_number(request.form.get("line", ""))
    shop.restore_line(line)
    return _back(line=line)


@blueprint.post("/none")
def none() -> ResponseReturnValue:
    """Mark a list as entered with nothing owned, or as unknown."""
    key = request.form.get("list", "")
    _find_line(key, "")
    shop.mark_none(key, bool(request.form.get("none")))
    return _back(key)


@blueprint.post("/bench")
def bench() -> ResponseReturnValue:
    """Set the machine and the torch in use."""
    try:
        shop.set_bench(request.form.get("machine", ""), request.form.get("torch", ""))
    except InputError as error:
        return render_stock(error.sentence, "bench"), 422
    return _back()


@blueprint.post("/has")
def has() -> ResponseReturnValue:
    """Set the other equipment."""
    try:
        shop.set_has(request.form.getlist("has"))
    except InputError as error:
        return render_stock(error.sentence, "has"), 422
    return _back("has")


@blueprint.post("/name")
def name() -> ResponseReturnValue:
    """Name the shop."""
    try:
        shop.set_name(request.form.get("name", ""))
    except InputError as error:
        return render_stock(error.sentence), 422
    return _back()


@blueprint.post("/pressure")
def pressure() -> ResponseReturnValue:
    """Set the gauge pressure of a cylinder."""
    text = request.form.get("bar", "").strip()
    try:
        line = _parse_line_number(request.form.get("line", ""))
        units = "in" if request.form.get("habit") == "in" else "mm"
        shop.set_pressure(line, parse_quantity(text, "pressure", "bar", units))
    except InputError as error:
        return render_stock(error.sentence, "cylinders"), 422
    return _back(line=line)


@blueprint.get("/starter")
def starter() -> ResponseReturnValue:
    """Show the usual equipment of a shop, to tick."""
    lines = shop.read_starter_list()
    lists = [(key, label, [s for s in lines if s.key == key]) for key, label in LABELS.items()]
    return render_template("shop/starter.html", lists=[row for row in lists if row[2]])


@blueprint.post("/starter")
def tick() -> ResponseReturnValue:
    """Enter the ticked lines."""
    shop.tick([_parse_line_number(text) for text in request.form.getlist("line")])
    return _back()


@blueprint.get("/shop.json")
def as_json() -> ResponseReturnValue:
    """Send the shop as a shop file."""
    text = shop_files.shop_text(shop.load_shop())
    return _build_file(text, "application/json", "shop.json")


@blueprint.get("/<key>.csv")
def as_csv(key: str) -> ResponseReturnValue:
    """Send a list as CSV."""
    _find_line(key, "")
    return _build_file(shop_files.list_text(key), "text/csv; charset=utf-8", f"{key}.csv")


def _build_file(text: str, kind: str, name: str) -> Response:
    return Response(
        text, mimetype=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )


@blueprint.post("/take")
def preview() -> ResponseReturnValue:
    """Show the effect of an import."""
    sent = request.files.get("file")
    if sent is None or not sent.filename:
        return render_stock("No file chosen. Choose a file.", "take"), 422
    try:
        preview_data = shop_files.preview_file(sent.read(), sent.filename)
    except InputError as error:
        return render_stock(error.sentence, "take"), 422
    return render_template(
        "shop/preview.html", seen=preview_data, name=sent.filename, labels=LABELS
    )


@blueprint.post("/taken")
def import_file() -> ResponseReturnValue:
    """Import a previewed file."""
    text = request.form.get("text", "").replace("\r\n", "\n").removeprefix("\n")
    try:
        shop_files.import_file(
            text.encode(), request.form.get("name", ""), request.form.get("good") == "yes"
        )
    except InputError as error:
        return render_stock(error.sentence, "take"), 422
    except StoreError as error:
        return render_stock(str(error), "take"), get_code(error)
    return _back()
