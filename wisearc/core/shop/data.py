"""Plain data ↔ a shop and its items, by their declarations."""

from __future__ import annotations

from typing import Any

from ..schema.documents import read_document, write_document
from ..schema.json_types import Json
from .shop import LISTS, Cylinder, Item, Shop, name_of
from .shop import Part as Part


def make_shop(data: Any) -> Shop:
    """Check plain data and make the Shop.

    Parameters: data, the keys of a shop file without `format` and `version`; a list that is left
    out or null was not entered.

    Raises:
        InputError: A value is not allowed. The error names the key, the value and the rule.

    >>> make_shop({"machines": [{"name": "bench 200", "pulse": None}]}).machines[0].pulses
    False
    """
    return read_document(Shop, data, what="a shop")


def shop_data(shop: Shop) -> dict[str, Json]:
    """The plain data of a shop: every key of what was entered, null for a list that was not."""
    lists = {key: items for key in LISTS if (items := shop.items(key)) is not None}
    return write_document(shop, whole=True) | {
        key: [item_data(item) for item in items] for key, items in lists.items()
    }


def make_item(key: str, data: Any, where: str = "") -> Item:
    """An item of a list from plain data. Raises InputError."""
    return read_document(LISTS[key], data, where or key)


def item_data(item: Item) -> dict[str, Json]:
    """The plain data of an item, every key written but a price that was not told."""
    found = write_document(item, whole=True)
    return {key: value for key, value in found.items() if key != "price" or value is not None}


def find_identity(item: Item) -> str:
    """What makes an item of a list the same as another: its name where it has one, else all of it
    but how many there are and what one costs.

    >>> find_identity(Part("cup", cup=8, fits="gas-lens", count=3))
    'cup|large||8|gas-lens|'
    """
    if name := name_of(item):
        return name
    varying = {"count", "price"} | ({"bar", "purity_pct"} if isinstance(item, Cylinder) else set())
    told = (value for key, value in item_data(item).items() if key not in varying)
    return "|".join(
        "" if one is None else f"{one:g}" if isinstance(one, float) else str(one) for one in told
    )
