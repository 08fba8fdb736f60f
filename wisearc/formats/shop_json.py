"""Shop ↔ wisearc/shop, and its lists ↔ CSV with the same keys as headings."""

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
    """The data of a shop file; a list that was not entered is left out."""
    told = {k: v for k, v in shop_data(shop).items() if v not in (None, "")}
    return {"format": FORMAT, "version": VERSION, **told}


def read_shop(data: Any) -> Shop:
    """A shop from the data of a shop file. Raises InputError."""
    return make_shop(check_head(data, FORMAT))


def list_columns(key: str) -> list[str]:
    """The headings of a list's CSV: the keys of its items; those of a part within one by a dot."""
    return list(_list_entries(LISTS[key]))


def _list_entries(of: type) -> dict[str, Entry]:
    found: dict[str, Entry] = {}
    for name, declared in read_entries(of).items():
        inner = _list_entries(declared.of) if declared.of is not None else {}
        found |= {f"{name}.{key}": one for key, one in inner.items()} or {name: declared}
    return found


def csv_text(key: str, shop: Shop) -> str:
    """A list of a shop as CSV (RFC 4180)."""
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
    # a cell that a spreadsheet would take for a formula is written as text
    return f"'{text}" if text[:1] in ("=", "+", "-", "@") else text


class Line(Struct, frozen=True):
    """A line of a CSV that holds: its number in the file and the item it says."""

    number: int
    item: Item


class BadLine(Struct, frozen=True):
    """A line of a CSV that cannot be taken: its number in the file, and why."""

    number: int
    wrong: str


class Sheet(Struct, frozen=True):
    """A CSV read: which list it is, its lines that hold, those that do not."""

    key: str
    good: tuple[Line, ...]
    bad: tuple[BadLine, ...]


def decode_text(raw: bytes) -> str:
    """The text of a CSV as spreadsheets save it: UTF-8, or UTF-16 with its mark. Raises
    InputError.
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
    """A list of a shop from CSV, line by line.

    Parameters: text; key, which list it must be, or "" to go by its headings. Comma, semicolon or
    tab between cells; a decimal comma is read where the cells are not parted by commas. Raises
    InputError where the headings are of no list.
    """
    table = read_table(text, ",;\t", MAX_ITEMS, _build_limit_error)
    headings, comma = list(table.headings), table.separator != ","
    key = key or _list_of(headings)
    _check_headings(key, headings)
    good: list[Line] = []
    bad: list[BadLine] = []
    seen: dict[str, int] = {}
    for number, row in table.lines:
        found = _parse_line(key, number, headings, row, comma)
        if isinstance(found, BadLine):
            bad.append(found)
            continue
        # two cylinders without a name are two
        unnamed = isinstance(found.item, Cylinder) and not found.item.name
        first = number if unnamed else seen.setdefault(find_identity(found.item), number)
        if first == number:
            good.append(found)
        else:
            words = f"repeats line {first}. Add their quantities in one line"
            bad.append(BadLine(number, words))
    return Sheet(key, tuple(good), tuple(bad))


def _build_limit_error(lines: str) -> InputError:
    return InputError("file", lines, f"must be at most {MAX_ITEMS}. Split the file")


def _list_of(headings: list[str]) -> str:
    """The list whose keys the headings are, the most of them. Raises InputError."""
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
            told = cell.strip().removeprefix("'")
            outer, _, inner = heading.partition(".")
            if inner:
                # a part of which no cell says anything is not there, such as the pulse of a machine
                # that has none
                inside.setdefault(outer, {})
            if told or declared[heading].kind == "names":
                at, name = (inside[outer], inner) if inner else (data, heading)
                at[name] = _parse_cell(declared[heading], told, comma)
        data |= {outer: part or None for outer, part in inside.items()}
        return Line(number, make_item(key, data))
    except InputError as error:
        says = "" if error.value in (None, "") else f" (it contains “{error.value}”)"
        return BadLine(number, f"{error.field.removeprefix(f'{key}.')} {error.rule}{says}")


def _parse_cell(declared: Entry, cell: str, comma: bool) -> Json:
    """What a cell says. Raises InputError."""
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
