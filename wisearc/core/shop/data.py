"""Convert a shop and its items to plain data and back, by their declarations."""

from __future__ import annotations

from typing import Any

from ..schema.documents import read_document, write_document
from ..schema.json_types import Json
from .shop import LISTS, Cylinder, Item, Shop, get_name
from .shop import Part as Part


def make_shop(data: Any) -> Shop:
    """Check plain data and build the shop.

    Args:
        data: The keys of a shop file without `format` and `version`. A missing or null list is
            unknown.

    Raises:
        InputError: A value is wrong. The error names key, value and rule.

    >>> make_shop({"machines": [{"name": "bench 200", "pulse": None}]}).machines[0].pulses
    False
    """
    return read_document(Shop, data, document="a shop")


def shop_data(shop: Shop) -> dict[str, Json]:
    """Return the plain data of a shop: every known key, null for an unknown list."""
    lists = {key: items for key in LISTS if (items := shop.items(key)) is not None}
    return write_document(shop, with_defaults=True) | {
        key: [item_data(item) for item in items] for key, items in lists.items()
    }


def make_item(key: str, data: Any, where: str = "") -> Item:
    """Build an item of a list from plain data.

    Args:
        key: The list.
        data: The data.
        where: Key for errors.

    Raises:
        InputError: A value is wrong.
    """
    return read_document(LISTS[key], data, where or key)


def item_data(item: Item) -> dict[str, Json]:
    """Return the plain data of an item with every key except an unknown price."""
    fields = write_document(item, with_defaults=True)
    return {key: value for key, value in fields.items() if key != "price" or value is not None}


def find_identity(item: Item) -> str:
    """Return the identity of an item: its name, or else all fields except count and price.

    >>> find_identity(Part("cup", cup=8, fits="gas-lens", count=3))
    'cup|large||8|gas-lens|'
    """
    if name := get_name(item):
        return name
    varying = {"count", "price"} | ({"bar", "purity_pct"} if isinstance(item, Cylinder) else set())
    values = (value for key, value in item_data(item).items() if key not in varying)
    return "|".join(
        "" if value is None else f"{value:g}" if isinstance(value, float) else str(value)
        for value in values
    )
