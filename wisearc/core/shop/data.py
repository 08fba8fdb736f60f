"""Plain data ↔ a shop: every key checked by its row in the table, then each machine as a whole."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from .. import catalogue
from ..errors import BadInput, OutOfRange
from ..schema import checks
from ..schema.entries import Entry, entries
from .shop import (
    HAS,
    LISTS,
    LONGEST_NAME,
    MOST_ITEMS,
    NAMED,
    Cylinder,
    Machine,
    OwnTorch,
    Part,
    PulseRange,
    Shop,
)

# what stands once in a shop besides its lists
SINGLE = ("name", "bench_machine", "bench_torch")
# tungstens and what holds them come in these, mm
TUNGSTEN_SIZES_MM = (0.5, 1.0, 1.6, 2.0, 2.4, 3.2, 4.0)
_SIZED = ("tungsten_mm",)


def make_shop(data: Mapping[str, Any]) -> Shop:
    """Check plain data and make the Shop.

    Parameters: data, the keys of a shop file without `format` and `version`; a list that is left
    out or null was not entered. Raises BadInput (UnknownName, OutOfRange) naming the key, value and
    rule.

    >>> make_shop({"machines": [{"name": "bench 200", "pulse": None}]}).machines[0].pulses
    False
    """
    allowed = (*SINGLE, *LISTS, "has")
    for key in data:
        if key not in allowed:
            raise BadInput(
                key, data[key], "is not a key of a shop; allowed are " + ", ".join(allowed)
            )
    values: dict[str, Any] = {
        key: checks.line(key, "" if data.get(key) is None else data[key], LONGEST_NAME)
        for key in SINGLE
    }
    for key, of in LISTS.items():
        raw = data.get(key)
        if raw is not None:
            rows = checks.rows(key, raw, MOST_ITEMS)
            values[key] = tuple(make_item(of, row, f"{key}[{i}]") for i, row in enumerate(rows))
    if data.get("has") is not None:
        values["has"] = tuple(
            checks.name(f"has[{i}]", one, HAS)
            for i, one in enumerate(checks.rows("has", data["has"], len(HAS)))
        )
    shop = Shop(**values)
    _check_whole(shop)
    return shop


def _check_whole(shop: Shop) -> None:
    """Refuse names that stand twice, and those that lead nowhere. Raises BadInput."""
    for key in NAMED:
        names = [one.name for one in getattr(shop, key) or () if one.name]
        twice = next((name for name in names if names.count(name) > 1), None)
        if twice is not None:
            raise BadInput(f"{key}.name", twice, "stands twice; give each its own")
    machines = {m.name for m in shop.machines or ()}
    for i, torch in enumerate(shop.torches or ()):
        if torch.machine and shop.machines is not None and torch.machine not in machines:
            raise BadInput(
                f"torches[{i}].machine",
                torch.machine,
                "must be one of the machines, or be left empty for any",
            )
    for key, names_of in (
        ("bench_machine", machines),
        ("bench_torch", {t.name for t in shop.torches or ()}),
    ):
        if getattr(shop, key) and getattr(shop, key) not in names_of:
            raise BadInput(key, getattr(shop, key), "must be one that is entered")


def shop_data(shop: Shop) -> dict[str, Any]:
    """The plain data of a shop: every key of what was entered, null for a list that was not."""
    lists = {key: getattr(shop, key) for key in LISTS}
    rows = {
        key: None if found is None else [item_data(one) for one in found]
        for key, found in lists.items()
    }
    has = None if shop.has is None else list(shop.has)
    return {**{key: getattr(shop, key) for key in SINGLE}, **rows, "has": has}


def make_item(of: type, raw: Any, where: str) -> Any:
    """One item of a list from plain data. Raises BadInput."""
    table = entries(of)
    for key in checks.mapping(where, raw):
        if key not in table:
            raise BadInput(
                f"{where}.{key}", raw[key], "is not a key here; allowed are " + ", ".join(table)
            )
    item = of(**{key: _value(declared, raw, where) for key, declared in table.items()})
    _check_item(item, where)
    return item


def _check_item(item: Any, where: str) -> None:
    """What several fields of an item keep together. Raises BadInput."""
    if isinstance(item, Machine):
        if item.least_a > item.most_a:
            raise BadInput(
                f"{where}.least_a",
                item.least_a,
                f"is over the most, {item.most_a:g} A; give the lower of the two as least",
            )
        if not item.name.strip():
            raise BadInput(f"{where}.name", item.name, "is missing; give the machine a name")
    if isinstance(item, PulseRange) and item.least_pps > item.most_pps:
        raise BadInput(
            f"{where}.least_pps", item.least_pps, f"is over the most, {item.most_pps:g} a second"
        )
    if isinstance(item, OwnTorch) and not item.name.strip():
        raise BadInput(f"{where}.name", item.name, "is missing; give the torch a name")
    if isinstance(item, Part):
        _check_part(item, where)


def _check_part(part: Part, where: str) -> None:
    kind = catalogue.part_kinds()[part.kind]
    if kind.has("for_tungsten") and part.tungsten_mm is None:
        raise BadInput(
            f"{where}.tungsten_mm", None, f"is missing: a {kind.name} is for one size of tungsten"
        )
    if kind.has("numbered") and part.cup is None:
        raise BadInput(f"{where}.cup", None, "is missing: give the cup's number")
    if part.family not in kind.sizes:
        raise BadInput(
            f"{where}.family",
            part.family,
            f"has no {kind.name}; give one of " + ", ".join(kind.sizes),
        )


def _value(declared: Entry, raw: Mapping[str, Any], where: str) -> Any:
    """What a field's data means. Raises BadInput."""
    key, name = declared.key, f"{where}.{declared.key}"
    if key not in raw:
        if declared.required:
            raise BadInput(
                name,
                None,
                "is missing"
                + (
                    f"; give one of {', '.join(declared.allowed())}"
                    if declared.kind == "name"
                    else ""
                ),
            )
        return _usual(declared)
    value = raw[key]
    return _KINDS[declared.kind](declared, name, value)


def _usual(declared: Entry) -> Any:
    if declared.kind == "part":
        return PulseRange()
    return tuple(declared.usual) if declared.kind == "names" else declared.usual


def _number(declared: Entry, name: str, value: Any) -> float | None:
    if value is None and not declared.required and declared.usual is None:
        return None
    found = checks.number(name, value, declared.low, declared.high, declared.unit)
    sized = declared.key in _SIZED or (
        declared.key == "diameter_mm" and name.startswith("tungstens")
    )
    if sized and found not in TUNGSTEN_SIZES_MM:
        raise BadInput(
            name,
            value,
            "must be a size that is sold: "
            + ", ".join(f"{d:g}" for d in TUNGSTEN_SIZES_MM)
            + " mm",
        )
    return found


def _count(declared: Entry, name: str, value: Any) -> int | None:
    if value is None and declared.usual is None:
        return None
    if isinstance(value, bool) or not isinstance(value, int):
        raise BadInput(
            name, value, f"must be a whole number from {declared.low:g} to {declared.high:g}"
        )
    if not declared.low <= value <= declared.high:
        raise OutOfRange(name, value, declared.low, declared.high)
    return value


def _name(declared: Entry, name: str, value: Any) -> str | None:
    if value is None and not declared.required and declared.usual is None:
        return None
    return checks.name(name, value, declared.allowed())


def _names(declared: Entry, name: str, value: Any) -> tuple[str, ...]:
    allowed = declared.allowed()
    rows = checks.rows(name, value, len(allowed))
    return tuple(
        dict.fromkeys(checks.name(f"{name}[{i}]", one, allowed) for i, one in enumerate(rows))
    )


def _yes(_declared: Entry, name: str, value: Any) -> bool:
    if not isinstance(value, bool):
        raise BadInput(name, value, "must be true or false")
    return value


def _text(declared: Entry, name: str, value: Any) -> str:
    return checks.line(name, value, int(declared.high))


def _part(_declared: Entry, name: str, value: Any) -> PulseRange | None:
    found: PulseRange | None = None if value is None else make_item(PulseRange, value, name)
    return found


_KINDS = {
    "number": _number,
    "count": _count,
    "name": _name,
    "names": _names,
    "yes": _yes,
    "text": _text,
    "part": _part,
}


def item_data(item: Any) -> dict[str, Any]:
    """The plain data of an item, every key written but a price that was not told."""
    found: dict[str, Any] = {}
    for key, declared in entries(type(item)).items():
        value = getattr(item, key)
        if declared.kind == "part":
            value = None if value is None else item_data(value)
        if key != "price" or value is not None:
            found[key] = list(value) if isinstance(value, tuple) else value
    return found


def identity(key: str, item: Any) -> str:
    """What makes an item of a list the same as another: its name where it has one, else all of it
    but how many there are and what one costs.

    >>> identity("parts", Part("cup", cup=8, fits="gas-lens", count=3))
    'cup|large||8|gas-lens|'
    """
    if key in NAMED and item.name:
        return str(item.name)
    found = item_data(item)
    varying = (
        ("count", "price", "bar", "purity_pct")
        if isinstance(item, Cylinder)
        else ("count", "price")
    )
    return "|".join(
        "" if value is None else f"{value:g}" if isinstance(value, float) else str(value)
        for k, value in found.items()
        if k not in varying
    )
