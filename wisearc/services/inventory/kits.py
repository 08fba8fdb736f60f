"""Kits to buy, and the usual parts that complete a list."""

from __future__ import annotations

import csv
import io

from msgspec import Struct

from ...core import catalogue
from ...core.errors import InputError
from ...core.schema import checks
from ...core.shop.data import make_item
from ...core.shop.shop import LABELS, Item, Part, Shop
from ...core.shop.words import format_item
from ...store.database import open_transaction
from . import shop as shelf

FAMILIES = ("large", "small")


class KitLine(Struct, frozen=True):
    """A line of a kit: the list, the item, the count, and how many the shop has."""

    key: str
    item: Item
    count: int
    owned: int

    @property
    def missing(self) -> int:
        """Return the missing number."""
        return max(0, self.count - self.owned)


def build_kit(family: str, work: str, shop: Shop) -> list[KitLine]:
    """Return a kit to buy.

    Args:
        family: Family of the torch.
        work: Kind of work.
        shop: The shop, for what is there already.

    Raises:
        UnknownName: The family or the work does not exist.
    """
    checks.name("family", family, FAMILIES)
    checks.name("work", work, catalogue.load_buying_works())
    lines = []
    for row in catalogue.load_buying_items():
        count = row.counts[work]
        if not count:
            continue
        fields = {**row.item, **({"family": family} if row.list == "parts" else {})}
        item = make_item(row.list, fields)
        lines.append(KitLine(row.list, item, count, _count_in_shop(shop, row.list, item)))
    return lines


def _count_in_shop(shop: Shop, key: str, item: Item) -> int:
    """Return how many of an item the shop has, by its description."""
    owned = getattr(shop, key) or ()
    label = format_item(item)
    return sum(int(getattr(stock, "count", 1)) for stock in owned if format_item(stock) == label)


def kit_text(lines: list[KitLine], units: str) -> str:
    """Return a kit as CSV: list, item, to buy, owned.

    Args:
        lines: The kit.
        units: Unit system.
    """
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(("list", "item", "count", "owned", "to_buy"))
    for line in lines:
        label = format_item(line.item, units)
        writer.writerow((LABELS[line.key], label, line.count, line.owned, line.missing))
    return out.getvalue()


def find_missing_kinds(shop: Shop) -> list[str]:
    """Return the kinds of part that an entered list does not have, so that plans lack them.

    A collet body and a gas lens replace each other.
    """
    if not shop.parts:
        return []
    kinds = {part.kind for part in shop.parts if part.count}
    missing = []
    for key, kind in catalogue.load_part_kinds().items():
        is_front_end = kind.has("lens") or kind.has("plain")
        has_front_end = kinds & {"gas-lens", "collet-body"}
        if key not in kinds and not (is_front_end and has_front_end):
            missing.append(key)
    return [key for key in missing if not (key == "collet-body" and "gas-lens" in missing)]


def add_usual_parts(shop: Shop) -> list[str]:
    """Enter one of each missing kind of part, for the torches and tungstens of the shop.

    Returns:
        The descriptions of the entered parts.
    """
    families = {torch.row.family for torch in shop.torches or ()} or {"large"}
    sizes = sorted({t.diameter_mm for t in shop.tungstens or ()}) or [1.6]
    added = []
    with open_transaction():
        for key in find_missing_kinds(shop):
            kind = catalogue.load_part_kinds()[key]
            for family in sorted(families & set(kind.sizes)):
                for fields in _list_fields(kind.has("for_tungsten"), kind.has("numbered"), sizes):
                    more = {"length": "long"} if kind.has("caps") else {}
                    item = make_item("parts", {"kind": key, "family": family, **fields, **more})
                    assert isinstance(item, Part)
                    shelf.enter(item)
                    added.append(format_item(item))
    return added


def _list_fields(
    has_size: bool, has_number: bool, sizes: list[float]
) -> list[dict[str, float | int | str]]:
    if has_size:
        return [{"tungsten_mm": size} for size in sizes]
    return [{"cup": 8, "fits": "gas-lens"}] if has_number else [{}]


def enter_all(items: list[Item]) -> None:
    """Enter items, all or none.

    Raises:
        InputError: An item is wrong, or its name exists.
    """
    with open_transaction():
        for item in items:
            try:
                shelf.enter(item)
            except InputError as error:
                raise InputError("stock", format_item(item), error.rule) from error
