"""The shop's files: given out as a shop file or CSV, looked at before they are taken in, and taken
in.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Mapping
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from ...core.errors import InputError
from ...core.schema import checks
from ...core.shop.data import find_identity, item_data
from ...core.shop.shop import LISTS, Cylinder, Item, Shop, build_shop, count_of, with_count
from ...core.shop.words import format_item
from ...formats.joint_json import load_json
from ...formats.shop_json import (
    MAX_BYTES,
    BadLine,
    csv_text,
    decode_text,
    read_csv,
    read_shop,
    write_shop_file,
)
from ...store import shelf
from ...store.database import open_transaction
from ..procedures.procedures import get_now
from .shop import list_lines, load_shop, mark_entered, name_item, put_item, use_first

MAX_FILE_BYTES = MAX_BYTES


def shop_text(shop: Shop) -> str:
    """A shop as a shop file."""
    return json.dumps(write_shop_file(shop), ensure_ascii=False, indent=2, allow_nan=False) + "\n"


def list_text(key: str) -> str:
    """A list of the shop as CSV. Raises UnknownName."""
    return csv_text(checks.name("list", key, LISTS), load_shop())


def read_file(path: Path) -> bytes:
    """A file to take in. Raises InputError where it cannot be read or is too large."""
    try:
        with path.open("rb") as file:
            raw = file.read(MAX_BYTES + 1)
    except (OSError, ValueError) as error:
        raise InputError(
            "file", str(path), f"cannot be read ({error}). Give the path of a shop file or CSV"
        ) from error
    if len(raw) > MAX_BYTES:
        raise InputError(
            "file", str(path), f"exceeds {MAX_BYTES // 1048576} MB. Give a shop file or CSV"
        )
    return raw


class Preview(Struct, frozen=True):
    """What taking a file in would do: of each list what is new, what changes its count and what
    goes; the lines that cannot be taken.
    """

    lists: Mapping[str, Mapping[str, list[str]]]
    bad: tuple[BadLine, ...] = ()
    whole: bool = True
    text: str = ""

    @property
    def nothing(self) -> bool:
        """Whether it would change nothing."""
        return not any(words for found in self.lists.values() for words in found.values())


def preview_file(raw: bytes, name: str) -> Preview:
    """What a file would do: a shop file takes the place of each list it holds, a CSV is added to
    its list. Raises InputError.

    Parameters: raw, the file; name, its own, by whose ending it is told.
    """
    shop, bad, text, whole = _read_file(raw, name)
    lists = {}
    for key in LISTS:
        items = shop.items(key)
        if items is None:
            continue
        was = {
            row.identity: one.item
            for row, one in zip(shelf.list_rows(key), list_lines(key), strict=True)
        }
        summed = _sum_items(items, () if whole else was)
        told = {find_identity(item): with_count(item, count) for item, count in summed}
        new = [format_item(item) for mark, item in told.items() if mark not in was]
        changed = [
            f"{format_item(item)}: {_format_varying(was[mark])} → {_format_varying(item)}"
            for mark, item in told.items()
            if mark in was and item != was[mark]
        ]
        gone = [format_item(item) for mark, item in was.items() if whole and mark not in told]
        lists[key] = {"new": new, "changed": changed, "gone": gone}
    return Preview(lists, bad, whole, text)


def _format_varying(item: Item) -> str:
    if (count := count_of(item)) is not None:
        return str(count)
    if isinstance(item, Cylinder):
        return f"{item.bar:g} bar"
    told = (f"{k} {v}" for k, v in item_data(item).items() if k != "name" and v not in (None, ""))
    return ", ".join(told)[:80]


def import_file(
    raw: bytes, name: str, good_only: bool = False, at: Callable[[], str] = get_now
) -> Preview:
    """Take a file in, whole or not at all; where lines of it cannot be taken, the rest only when
    that is asked for. Raises InputError.
    """
    shop, bad, _, whole = _read_file(raw, name)
    if bad and not good_only:
        first = bad[0]
        raise InputError(
            "file", f"line {first.number}", f"is not valid: {first.wrong}. Nothing was imported"
        )
    told = preview_file(raw, name)
    put_whole(shop, whole, at)
    return told


def put_whole(shop: Shop, whole: bool = True, at: Callable[[], str] = get_now) -> None:
    """Put the lists that a shop holds in the place of those that stand, or, not whole, its items
    among them.
    """
    with open_transaction():
        for key in LISTS:
            items = shop.items(key)
            if items is None:
                continue
            mark_entered(key)
            if whole:
                shelf.clear(key, at())
            there = () if whole else [row.identity for row in shelf.list_rows(key)]
            for item, count in _sum_items(items, there):
                put_item(item, count)
        if whole:
            _save_head(shop)
        for key in ("machines", "torches"):
            for first in (shop.items(key) or ())[:1]:
                use_first(first)


def _sum_items(items: Iterable[Item], standing: Iterable[str]) -> list[tuple[Item, int]]:
    """The items of a list, those that are the same thing as one with their counts together; each
    cylinder by a name of its own.

    Parameters: standing, what makes the same thing in the list that they are put into.
    """
    names = set(standing)
    found: dict[str, tuple[Item, int]] = {}
    for item in items:
        one = name_item(item, names | set(found))
        mark, count = find_identity(one), count_of(one)
        before = found[mark][1] if mark in found else 0
        found[mark] = (one, before + (1 if count is None else count))
    return list(found.values())


def _save_head(shop: Shop) -> None:
    if shop.name:
        shelf.set_head(name=shop.name)
    if shop.has is not None:
        shelf.set_head(has=list(shop.has))
    for key, mine in (("machine", "bench_machine"), ("torch", "bench_torch")):
        if getattr(shop, mine):
            shelf.set_head(**{key: getattr(shop, mine)})


def _read_file(raw: bytes, name: str) -> tuple[Shop, tuple[BadLine, ...], str, bool]:
    """The shop that a file holds, its bad lines, its text, and whether it takes the place of what
    stands.
    """
    text = decode_text(raw)
    if name.lower().endswith(".json") or text.lstrip()[:1] == "{":
        return read_shop(load_json(text)), (), text, True
    sheet = read_csv(text)
    items = [line.item for line in sheet.good]
    machines = load_shop().machines if sheet.key == "torches" else None
    lists: dict[str, Iterable[Item]] = {"machines": machines} if machines else {}
    shop = build_shop(lists | {sheet.key: items})
    try:
        shop.check("")
    except InputError as error:
        raise InputError(
            "file", error.value, f"has a conflict: {error.field} {error.rule}"
        ) from error
    return replace(shop, machines=None) if machines else shop, sheet.bad, text, False
