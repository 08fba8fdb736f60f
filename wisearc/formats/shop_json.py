"""wisearc/shop: a shop as JSON, and its lists as CSV with the same keys as headings."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping
from typing import Any

from msgspec import Struct

from ..core.errors import InputError, shorten
from ..core.schema.entries import Entry, read_entries
from ..core.schema.json_types import Json, JsonObject
from ..core.shop.data import find_identity, item_data, make_item, make_shop, shop_data
from ..core.shop.shop import LISTS, MAX_ITEMS, Cylinder, Item, Shop
from .joint_json import check_head
from .table import check_headings, read_table

FORMAT, VERSION = "wisearc/shop", 1
MAX_BYTES = 2 * 1024 * 1024
YES, NO = ("yes", "true", "1"), ("no", "false", "0", "")


def write_shop_file(shop: Shop) -> dict[str, Json]:
    """Return the data of a shop file without unknown lists."""
    fields = {k: v for k, v in shop_data(shop).items() if v not in (None, "")}
    return {"format": FORMAT, "version": VERSION, **fields}


def read_shop(data: Any) -> Shop:
    """Parse a shop file.

    Raises:
        InputError: A value is wrong.
    """
    return make_shop(check_head(data, FORMAT))


def list_columns(key: str) -> list[str]:
    """Return the headings of the CSV of a list.

    The keys of its items, with a dot for nested fields.
    """
    return list(_list_entries(LISTS[key]))


def _list_entries(of: type) -> dict[str, Entry]:
    entries: dict[str, Entry] = {}
    for name, declared in read_entries(of).items():
        inner = _list_entries(declared.of) if declared.of is not None else {}
        entries |= {f"{name}.{key}": entry for key, entry in inner.items()} or {name: declared}
    return entries


def csv_text(key: str, shop: Shop) -> str:
    """Return a list of a shop as CSV (RFC 4180).

    Args:
        key: The list.
        shop: The shop.
    """
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(list_columns(key))
    for item in shop.items(key) or ():
        data = item_data(item)
        writer.writerow([_format_cell(_get_value(data, name)) for name in list_columns(key)])
    return out.getvalue()


def _get_value(data: JsonObject, name: str) -> Json:
    outer, _, inner = name.partition(".")
    value = data.get(outer)
    return value.get(inner) if isinstance(value, Mapping) else value


def _format_cell(value: Json) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, list):
        return " ".join(map(str, value))
    text = f"{value:g}" if isinstance(value, float) else str(value)
    # A cell that a spreadsheet would interpret as a formula is marked as text.
    return f"'{text}" if text[:1] in ("=", "+", "-", "@") else text


class Line(Struct, frozen=True):
    """A valid line of a CSV: its line number and item."""

    number: int
    item: Item


class BadLine(Struct, frozen=True):
    """An invalid line of a CSV: its line number and reason."""

    number: int
    wrong: str


class Sheet(Struct, frozen=True):
    """A parsed CSV: its list, valid lines and invalid lines."""

    key: str
    good: tuple[Line, ...]
    bad: tuple[BadLine, ...]


def decode_text(raw: bytes) -> str:
    """Decode the text of a CSV: UTF-8, or UTF-16 with its mark.

    Raises:
        InputError: It has another encoding.
    """
    if len(raw) > MAX_BYTES:
        raise InputError(
            "file", f"{len(raw)} bytes", f"exceeds {MAX_BYTES // 1048576} MB. Split it"
        )
    try:
        if raw[:2] in (b"\xff\xfe", b"\xfe\xff"):
            return raw.decode("utf-16")
        return raw.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise InputError(
            "file",
            f"byte {error.start + 1}",
            "is not UTF-8. Save it as “CSV UTF-8” and import it again",
        ) from error


def read_csv(text: str, key: str = "") -> Sheet:
    """Parse a list of a shop from CSV, line by line.

    Cells are separated by comma, semicolon or tab. A decimal comma is allowed unless commas
    separate the cells.

    Args:
        text: The text.
        key: The expected list, or "" to recognise it by its headings.

    Raises:
        InputError: The headings belong to no list.
    """
    table = read_table(text, ",;\t", MAX_ITEMS, _build_limit_error)
    headings, comma = list(table.headings), table.separator != ","
    key = key or _recognise_list(headings)
    _check_headings(key, headings)
    good: list[Line] = []
    bad: list[BadLine] = []
    counts: dict[str, int] = {}
    for number, row in table.lines:
        line = _parse_line(key, number, headings, row, comma)
        if isinstance(line, BadLine):
            bad.append(line)
            continue
        # Two cylinders without a name are different.
        unnamed = isinstance(line.item, Cylinder) and not line.item.name
        first = number if unnamed else counts.setdefault(find_identity(line.item), number)
        if first == number:
            good.append(line)
        else:
            wording = f"repeats line {first}. Add their quantities in one line"
            bad.append(BadLine(number, wording))
    return Sheet(key, tuple(good), tuple(bad))


def _build_limit_error(lines: str) -> InputError:
    return InputError("file", lines, f"must be at most {MAX_ITEMS}. Split the file")


def _recognise_list(headings: list[str]) -> str:
    """Return the list with the largest number of the headings.

    Raises:
        InputError: No list has them.
    """
    key = max(
        LISTS,
        key=lambda name: (sum(h in list_columns(name) for h in headings), -len(list_columns(name))),
    )
    if not set(headings) & set(list_columns(key)):
        known = "; ".join(f"{name}: {', '.join(list_columns(name))}" for name in LISTS)
        raise InputError(
            "headings",
            shorten(", ".join(headings)),
            f"do not match a list of the shop. The lists have {known}",
        )
    return key


def _check_headings(key: str, headings: list[str]) -> None:
    check_headings(headings, list_columns(key), key)
    missing = [
        name
        for name, declared in _list_entries(LISTS[key]).items()
        if declared.required and name not in headings
    ]
    if missing:
        raise InputError("heading", ", ".join(missing), f"is missing. {key} needs it")


def _parse_line(
    key: str, number: int, headings: list[str], row: list[str], comma: bool
) -> Line | BadLine:
    if len(row) > len(headings):
        return BadLine(number, f"has {len(row)} cells under {len(headings)} headings")
    declared = _list_entries(LISTS[key])
    data: dict[str, Json] = {}
    inside: dict[str, dict[str, Json]] = {}
    try:
        for heading, cell in zip(headings, row, strict=False):
            text = cell.strip().removeprefix("'")
            outer, _, inner = heading.partition(".")
            if inner:
                # A nested field without any cell is absent, such as the pulse of a machine without
                # pulse.
                inside.setdefault(outer, {})
            if text or declared[heading].kind == "names":
                at, name = (inside[outer], inner) if inner else (data, heading)
                at[name] = _parse_cell(declared[heading], text, comma)
        data |= {outer: part or None for outer, part in inside.items()}
        return Line(number, make_item(key, data))
    except InputError as error:
        typed_value = "" if error.value in (None, "") else f" (it contains “{error.value}”)"
        return BadLine(number, f"{error.field.removeprefix(f'{key}.')} {error.rule}{typed_value}")


def _parse_cell(declared: Entry, cell: str, comma: bool) -> Json:
    """Return the value of a cell.

    Raises:
        InputError: The value is wrong.
    """
    if declared.kind == "names":
        return cell.replace(",", " ").split()
    if declared.kind == "flag":
        if cell.lower() not in (*YES, *NO):
            raise InputError(declared.key, cell, "must be yes or no")
        return cell.lower() in YES
    if declared.kind not in ("number", "count"):
        return cell
    try:
        value = float(cell.replace(",", ".") if comma else cell)
    except ValueError as error:
        unit = f" in {declared.unit}" if declared.unit else ""
        raise InputError(declared.key, cell, f"must be a number{unit}, without its unit") from error
    return int(value) if declared.kind == "count" and value.is_integer() else value
