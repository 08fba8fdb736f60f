"""Shop files: export as shop file or CSV, preview and import."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Mapping
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from ...core.errors import InputError
from ...core.schema import checks
from ...core.shop.data import find_identity, item_data
from ...core.shop.shop import LISTS, Cylinder, Item, Shop, build_shop, get_count, with_count
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
from ..clock import get_now
from .shop import list_lines, load_shop, mark_entered, name_item, put_item, use_first

MAX_FILE_BYTES = MAX_BYTES


def shop_text(shop: Shop) -> str:
    """Return a shop as a shop file."""
    return json.dumps(write_shop_file(shop), ensure_ascii=False, indent=2, allow_nan=False) + "\n"


def list_text(key: str) -> str:
    """Return a list of the shop as CSV.

    Raises:
        UnknownName: The list does not exist.
    """
    return csv_text(checks.name("list", key, LISTS), load_shop())


def read_file(path: Path) -> bytes:
    """Read a file for import.

    Raises:
        InputError: The file cannot be read or is too large.
    """
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
    """The effect of an import: new, changed and removed items of each list, and invalid lines."""

    lists: Mapping[str, Mapping[str, list[str]]]
    bad: tuple[BadLine, ...] = ()
    whole: bool = True
    text: str = ""

    @property
    def nothing(self) -> bool:
        """Return whether nothing would change."""
        return not any(text for names in self.lists.values() for text in names.values())


def preview_file(raw: bytes, name: str) -> Preview:
    """Return the effect of an import.

    A shop file replaces each of its lists, and a CSV adds to its list.

    Args:
        raw: The file.
        name: Its name; the ending gives the format.

    Raises:
        InputError: The file is wrong.
    """
    shop, bad, text, is_complete = _read_file(raw, name)
    lists = {}
    for key in LISTS:
        items = shop.items(key)
        if items is None:
            continue
        was = {
            row.identity: line.item
            for row, line in zip(shelf.list_rows(key), list_lines(key), strict=True)
        }
        summed = _sum_items(items, () if is_complete else was)
        new_items = {find_identity(item): with_count(item, count) for item, count in summed}
        new = [format_item(item) for mark, item in new_items.items() if mark not in was]
        changed = [
            f"{format_item(item)}: {_format_varying(was[mark])} → {_format_varying(item)}"
            for mark, item in new_items.items()
            if mark in was and item != was[mark]
        ]
        removed = [
            format_item(item) for mark, item in was.items() if is_complete and mark not in new_items
        ]
        lists[key] = {"new": new, "changed": changed, "gone": removed}
    return Preview(lists, bad, is_complete, text)


def _format_varying(item: Item) -> str:
    if (count := get_count(item)) is not None:
        return str(count)
    if isinstance(item, Cylinder):
        return f"{item.bar:g} bar"
    fields = (f"{k} {v}" for k, v in item_data(item).items() if k != "name" and v not in (None, ""))
    return ", ".join(fields)[:80]


def import_file(
    raw: bytes, name: str, good_only: bool = False, at: Callable[[], str] = get_now
) -> Preview:
    """Import a file completely or not at all.

    With invalid lines, the valid ones are imported only on request.

    Args:
        raw: The file.
        name: Its name.
        good_only: Whether to import the valid lines alone.
        at: Current time, UTC.

    Raises:
        InputError: The file is wrong.
    """
    shop, bad, _, is_complete = _read_file(raw, name)
    if bad and not good_only:
        first = bad[0]
        raise InputError(
            "file", f"line {first.number}", f"is not valid: {first.wrong}. Nothing was imported"
        )
    preview = preview_file(raw, name)
    replace_lists(shop, is_complete, at)
    return preview


def replace_lists(shop: Shop, replaces_all: bool = True, at: Callable[[], str] = get_now) -> None:
    """Replace the lists of the shop, or add items to them.

    Args:
        shop: The lists.
        replaces_all: Whether to replace them.
        at: Current time, UTC.
    """
    with open_transaction():
        for key in LISTS:
            items = shop.items(key)
            if items is None:
                continue
            mark_entered(key)
            if replaces_all:
                shelf.clear(key, at())
            existing = () if replaces_all else [row.identity for row in shelf.list_rows(key)]
            for item, count in _sum_items(items, existing):
                put_item(item, count)
        if replaces_all:
            _save_head(shop)
        for key in ("machines", "torches"):
            for first in (shop.items(key) or ())[:1]:
                use_first(first)


def _sum_items(items: Iterable[Item], identities: Iterable[str]) -> list[tuple[Item, int]]:
    """Return the items of a list, with equal ones combined and each cylinder named.

    `identities` are the identities in the target list.
    """
    names = set(identities)
    sums: dict[str, tuple[Item, int]] = {}
    for item in items:
        named = name_item(item, names | set(sums))
        mark, count = find_identity(named), get_count(named)
        before = sums[mark][1] if mark in sums else 0
        sums[mark] = (named, before + (1 if count is None else count))
    return list(sums.values())


def _save_head(shop: Shop) -> None:
    if shop.name:
        shelf.set_head(name=shop.name)
    if shop.has is not None:
        shelf.set_head(has=list(shop.has))
    for key, mine in (("machine", "bench_machine"), ("torch", "bench_torch")):
        if getattr(shop, mine):
            shelf.set_head(**{key: getattr(shop, mine)})


def _read_file(raw: bytes, name: str) -> tuple[Shop, tuple[BadLine, ...], str, bool]:
    """Return the shop of a file, its invalid lines, its text, and whether it replaces lists."""
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
