"""The form of a shop item, and the recognition of items by their labels."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from functools import cache, lru_cache

from msgspec.structs import replace
from werkzeug.datastructures import MultiDict

from ..core import catalogue
from ..core.catalogue.rows import PartKind
from ..core.quantities import stock
from ..core.schema.entries import Entry, read_defaults, read_entries
from ..core.schema.json_types import Json, JsonObject
from ..core.shop.data import make_item
from ..core.shop.shop import CAPS, LISTS, Item
from ..core.shop.words import format_item
from .fields import Choice, Field, build_field, parse_typed, value_text

Typed = MultiDict[str, str]
MAX_NEAR_SIZES = 6


def build_fields(key: str, item: Item | None = None, units: str = "mm") -> list[Field]:
    """Return the fields of a list.

    Args:
        key: The list.
        item: The item to change, or None for a new one.
        units: Unit system.
    """
    return list(_iterate_fields(LISTS[key], item, units))


def _iterate_fields(of: type, value: object, units: str, inside: str = "") -> Iterator[Field]:
    for name, declared in read_entries(of).items():
        got = read_defaults(of).get(name) if value is None else getattr(value, name)
        if declared.kind == "flag" or declared.of is not None:
            yield Field(inside + name, declared.label, "yes" if got else "", "flag")
        else:
            yield build_field(
                inside + name, declared, got, units, _list_sizes(declared, got, units)
            )
        if declared.of is not None:
            yield from _iterate_fields(declared.of, got, units, f"{name}.")


def _list_sizes(declared: Entry, value: object, units: str) -> tuple[Choice, ...]:
    """Return the sold diameters as options."""
    if declared.quantity != "stock":
        return ()
    sold = catalogue.load_rod_sizes()
    more = (value,) if isinstance(value, float | int) else ()
    sizes = declared.sizes or sorted({*sold.spool_mm, *sold.stocked_mm, 2.0, 3.2, *more})
    return tuple(Choice(f"{d:g}", stock(d).text(units)) for d in sizes)


def read_item(key: str, form: Typed, units: str = "mm", was: Item | None = None) -> Item:
    """Read an item from a sent form, without empty fields.

    Args:
        key: The list.
        form: The sent fields.
        units: Unit system of numbers without unit.
        was: The item in the form. An unchanged field keeps its exact value.

    Raises:
        InputError: An entry is wrong.
    """
    return make_item(key, _read_data(LISTS[key], form, units, was))


def _read_data(of: type, form: Typed, units: str, was: object, inside: str = "") -> dict[str, Json]:
    data: dict[str, Json] = {}
    for name, declared in read_entries(of).items():
        field, text = inside + name, form.get(inside + name, "").strip()
        got = None if was is None else getattr(was, name)
        asked = bool(text) or f"{field}?" in form
        if declared.of is not None and asked:
            data[name] = _read_data(declared.of, form, units, got, f"{name}.") if text else None
        elif declared.kind == "flag" and asked:
            data[name] = bool(text)
        elif declared.kind == "names" and asked:
            data[name] = form.getlist(field)
        elif text and declared.quantity == "stock":
            data[name] = parse_typed(declared, text, "mm", field)
        elif text:
            same = got is not None and text == value_text(got, declared.quantity, units)
            data[name] = got if same else parse_typed(declared, text, units, field)
    return data


def build_refused_fields(
    key: str, form: Typed, units: str, wrong: str, sentence: str
) -> list[Field]:
    """Return the fields of a refused form as typed.

    Args:
        key: The list.
        form: The sent fields.
        units: Unit system.
        wrong: The wrong field.
        sentence: Its error.
    """
    return [
        replace(
            f,
            value=form.get(f.key, ""),
            ticked=tuple(form.getlist(f.key)),
            error=sentence if f.key == wrong else "",
        )
        for f in build_fields(key, None, units)
    ]


@cache
def _load_known_items() -> Mapping[str, Item]:
    """Return every possible shop item of the catalogue by its label in millimetres."""
    known_items: list[tuple[str, JsonObject]] = []
    for key, kind in catalogue.load_part_kinds().items():
        for family in kind.sizes:
            for more in _list_kinds(kind):
                known_items.append(("parts", {"kind": key, "family": family, **more}))
    known_items += [
        ("tungstens", {"type": t, "diameter_mm": d})
        for t in catalogue.load_tungsten_types()
        for d in (1.0, 1.6, 2.4, 3.2)
    ]
    sizes = (*catalogue.load_rod_sizes().spool_mm, *catalogue.load_rod_sizes().stocked_mm)
    known_items += [
        ("rods", {"rod": rod, "diameter_mm": d}) for rod in catalogue.load_rods() for d in sizes
    ]
    known_items += [
        ("bars", {"metal": metal, "length_mm": long, "grooved": grooved})
        for metal in ("copper", "aluminium", "steel")
        for long in (100.0, 150.0)
        for grooved in (False, True)
    ]
    known_items += [
        ("torches", {"name": f"torch {size}", "size": size}) for size in catalogue.load_torches()
    ]
    items = (make_item(key, data) for key, data in known_items)
    return {format_item(item): item for item in items}


def _list_kinds(kind: PartKind) -> list[JsonObject]:
    if kind.has("numbered"):
        return [
            {"cup": number, "fits": fits}
            for fits in ("gas-lens", "plain")
            for number in catalogue.load_cups()
        ]
    if kind.has("for_tungsten"):
        return [{"tungsten_mm": d} for d in (1.0, 1.6, 2.4, 3.2)]
    return [{"length": length} for length in CAPS] if kind.has("caps") else [{}]


@lru_cache(maxsize=4)
def list_known_names(units: str = "mm") -> tuple[str, ...]:
    """Return the labels of every possible shop item of the catalogue."""
    return tuple(format_item(item, units) for item in _load_known_items().values())


def find_meant_item(wording: str) -> tuple[Item | None, list[str]]:
    """Return the item with a label, or the only matching one, or else the matching labels."""
    typed = " ".join(wording.split()).lower()
    for units in ("mm", "in"):
        for name, (text, data) in zip(
            list_known_names(units), _load_known_items().items(), strict=True
        ):
            if typed in (name.lower(), text.lower()):
                return data, []
    asked = [
        w.strip(".,()")
        for w in typed.split()
        if w.strip(".,()") not in ("", "no", "no.", "for", "a", "an", "the", "mm", "x")
    ]
    fit = [
        text
        for text in _load_known_items()
        if asked and all(_matches_word(w, text.lower()) for w in asked)
    ]
    if len(fit) == 1:
        return _load_known_items()[fit[0]], []
    return None, fit[:MAX_NEAR_SIZES]


def _matches_word(word: str, text: str) -> bool:
    """Return whether a typed word equals or starts a word of a text.

    A number must be equal.
    """
    parts = [p.strip(".,()") for p in text.split()]
    plain = word.replace(",", ".")
    return (
        plain in parts
        if plain.replace(".", "").isdigit()
        else any(part.startswith(word) for part in parts)
    )
