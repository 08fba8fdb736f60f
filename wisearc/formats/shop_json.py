"""Shop ↔ wisearc/shop, and its lists ↔ CSV with the same keys as headings."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from ..core.errors import BadInput
from ..core.schema.entries import Entry, entries
from ..core.shop.data import identity, item_data, make_item, make_shop, shop_data
from ..core.shop.shop import LISTS, MOST_ITEMS, PulseRange, Shop

FORMAT, VERSION = "wisearc/shop", 1
MOST_BYTES = 2 * 1024 * 1024
YES, NO = ("yes", "true", "1"), ("no", "false", "0", "")


def shop_file(shop: Shop) -> dict[str, Any]:
    """The data of a shop file; a list that was not entered is left out."""
    return {
        "format": FORMAT,
        "version": VERSION,
        **{k: v for k, v in shop_data(shop).items() if v not in (None, "")},
    }


def read_shop(data: Any) -> Shop:
    """A shop from the data of a shop file. Raises BadInput."""
    if not isinstance(data, Mapping) or data.get("format") != FORMAT:
        raise BadInput(
            "format", data.get("format") if isinstance(data, Mapping) else data, f"must be {FORMAT}"
        )
    if data.get("version") != VERSION or isinstance(data.get("version"), bool):
        raise BadInput("version", data.get("version"), f"must be {VERSION}")
    return make_shop({k: v for k, v in data.items() if k not in ("format", "version")})


def columns(key: str) -> list[str]:
    """The headings of a list's CSV: the keys of its items; those of a part within one by a dot."""
    return [name for name, _ in _columns(LISTS[key])]


def _columns(of: type) -> Iterator[tuple[str, Entry]]:
    for name, declared in entries(of).items():
        if declared.kind == "part":
            yield from ((f"{name}.{inner}", row) for inner, row in _columns(PulseRange))
        else:
            yield name, declared


def csv_text(key: str, shop: Shop) -> str:
    """A list of a shop as CSV (RFC 4180)."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(columns(key))
    for item in getattr(shop, key) or ():
        data = item_data(item)
        writer.writerow([_cell(_at(data, name)) for name in columns(key)])
    return out.getvalue()


def _at(data: Mapping[str, Any], name: str) -> Any:
    outer, _, inner = name.partition(".")
    value = data.get(outer)
    return value if not inner else None if value is None else value[inner]


def _cell(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, list):
        return " ".join(value)
    text = f"{value:g}" if isinstance(value, float) else str(value)
    # a cell that a spreadsheet would take for a formula is written as text
    return f"'{text}" if text[:1] in ("=", "+", "-", "@") else text


@dataclass(frozen=True)
class Line:
    """A line of a CSV: its number in the file, the item it says, or why it cannot be taken."""

    number: int
    item: Any
    wrong: str = ""


@dataclass(frozen=True)
class Sheet:
    """A CSV read: which list it is, its lines that hold, those that do not."""

    key: str
    good: tuple[Line, ...]
    bad: tuple[Line, ...]


def decoded(raw: bytes) -> str:
    """The text of a CSV as spreadsheets save it: UTF-8, or UTF-16 with its mark. Raises
    BadInput.
    """
    if len(raw) > MOST_BYTES:
        raise BadInput(
            "file", f"{len(raw)} bytes", f"is larger than {MOST_BYTES // 1048576} MB; split it"
        )
    try:
        if raw[:2] in (b"\xff\xfe", b"\xfe\xff"):
            return raw.decode("utf-16")
        return raw.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise BadInput(
            "file",
            f"byte {error.start + 1}",
            "is not UTF-8; save it as “CSV UTF-8” and take it in again",
        ) from error


def read_csv(text: str, key: str = "") -> Sheet:
    """A list of a shop from CSV, line by line.

    Parameters: text; key, which list it must be, or "" to go by its headings. Comma, semicolon or
    tab between cells; a decimal comma is read where the cells are not parted by commas. Raises
    BadInput where the headings are of no list.
    """
    head = text.lstrip("\r\n").partition("\n")[0]
    apart = max((",", ";", "\t"), key=head.count)
    try:
        rows = list(csv.reader(io.StringIO(text, newline=""), delimiter=apart, strict=True))
    except csv.Error as error:
        raise BadInput(
            "file", None, f"is not CSV ({error}); save it as CSV and take it in again"
        ) from error
    numbered = [(i + 1, row) for i, row in enumerate(rows) if any(cell.strip() for cell in row)]
    if not numbered:
        raise BadInput("file", None, "is empty; the first line must be the headings")
    headings = [cell.strip().lower() for cell in numbered[0][1]]
    key = key or _list_of(headings)
    _check_headings(key, headings)
    if len(numbered) - 1 > MOST_ITEMS:
        raise BadInput(
            "file", f"{len(numbered) - 1} lines", f"must be at most {MOST_ITEMS}; split it"
        )
    lines = [_line(key, number, headings, row, apart != ",") for number, row in numbered[1:]]
    seen: dict[str, int] = {}
    for i, line in enumerate(lines):
        # two cylinders without a name are two
        if line.wrong or (key == "cylinders" and not line.item.name):
            continue
        first = seen.setdefault(identity(key, line.item), line.number)
        if first != line.number:
            lines[i] = Line(
                line.number, None, f"is the same thing as line {first}; add their counts in one"
            )
    return Sheet(key, tuple(x for x in lines if not x.wrong), tuple(x for x in lines if x.wrong))


def _list_of(headings: list[str]) -> str:
    """The list whose keys the headings are, the most of them. Raises BadInput."""
    key = max(
        LISTS, key=lambda name: (sum(h in columns(name) for h in headings), -len(columns(name)))
    )
    if not set(headings) & set(columns(key)):
        known = "; ".join(f"{name}: {', '.join(columns(name))}" for name in LISTS)
        raise BadInput(
            "headings", ", ".join(headings), f"are of no list of a shop. They are {known}"
        )
    return key


def _check_headings(key: str, headings: list[str]) -> None:
    for heading in headings:
        if heading not in columns(key):
            raise BadInput("heading", heading, f"is not one of {key}: " + ", ".join(columns(key)))
        if headings.count(heading) > 1:
            raise BadInput("heading", heading, "stands twice")
    missing = [
        name
        for name, declared in _columns(LISTS[key])
        if declared.required and name not in headings
    ]
    if missing:
        raise BadInput("heading", ", ".join(missing), f"is missing; {key} must have it")


def _line(key: str, number: int, headings: list[str], row: list[str], comma: bool) -> Line:
    if len(row) > len(headings):
        return Line(number, None, f"has {len(row)} cells under {len(headings)} headings")
    table = dict(_columns(LISTS[key]))
    data: dict[str, Any] = {}
    try:
        for heading, cell in zip(headings, row, strict=False):
            value = _from_cell(table[heading], cell.strip().removeprefix("'"), comma)
            if value is _LEFT_OUT:
                continue
            outer, _, inner = heading.partition(".")
            if inner:
                data.setdefault(outer, {})[inner] = value
            else:
                data[heading] = value
        for name, declared in entries(LISTS[key]).items():
            # a part of which no cell says anything is not there, such as the pulse of a machine
            # that has none
            if (
                declared.kind == "part"
                and name not in data
                and any(h.startswith(f"{name}.") for h in headings)
            ):
                data[name] = None
        return Line(number, make_item(LISTS[key], data, key))
    except BadInput as error:
        return Line(
            number,
            None,
            f"{error.field.removeprefix(f'{key}.')} {error.rule}"
            + (f" (it says “{error.value}”)" if error.value not in (None, "") else ""),
        )


_LEFT_OUT = object()


def _from_cell(declared: Entry, cell: str, comma: bool) -> Any:
    """What a cell says; one that is empty is left out. Raises BadInput."""
    if declared.kind == "names":
        return cell.replace(",", " ").split()
    if cell == "":
        return _LEFT_OUT
    if declared.kind == "yes":
        if cell.lower() not in (*YES, *NO):
            raise BadInput(declared.key, cell, "must be yes or no")
        return cell.lower() in YES
    if declared.kind not in ("number", "count"):
        return cell
    try:
        value = float(cell.replace(",", ".") if comma else cell)
    except ValueError as error:
        unit = f" in {declared.unit}" if declared.unit else ""
        raise BadInput(declared.key, cell, f"must be a number{unit}, without its unit") from error
    return int(value) if declared.kind == "count" and value.is_integer() else value
