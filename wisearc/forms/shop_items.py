"""The fields an item of the shop is entered by, and what is meant by its words."""

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


def build_fields(key: str, item: Item | None = None, habit: str = "mm") -> list[Field]:
    """The fields of a list's form. Parameters: item, that which stands in it; None for a new
    one.
    """
    return list(_iterate_fields(LISTS[key], item, habit))


def _iterate_fields(of: type, value: object, habit: str, inside: str = "") -> Iterator[Field]:
    for name, declared in read_entries(of).items():
        got = read_defaults(of).get(name) if value is None else getattr(value, name)
        if declared.kind == "flag" or declared.of is not None:
            yield Field(inside + name, declared.label, "yes" if got else "", "flag")
        else:
            yield build_field(
                inside + name, declared, got, habit, _list_sizes(declared, got, habit)
            )
        if declared.of is not None:
            yield from _iterate_fields(declared.of, got, habit, f"{name}.")


def _list_sizes(declared: Entry, value: object, habit: str) -> tuple[Choice, ...]:
    """The diameters that are sold of something, as choices."""
    if declared.quantity != "stock":
        return ()
    sold = catalogue.load_rod_sizes()
    more = (value,) if isinstance(value, float | int) else ()
    sizes = declared.sizes or sorted({*sold.spool_mm, *sold.stocked_mm, 2.0, 3.2, *more})
    return tuple(Choice(f"{d:g}", stock(d).text(habit)) for d in sizes)


def read_item(key: str, form: Typed, habit: str = "mm", was: Item | None = None) -> Item:
    """An item from a form as it was sent; what is left empty is left out.

    Parameters: habit, whose units bare figures are in; was, the item that stood in the form: what
    was not touched stays as it was to the last digit. Raises InputError.
    """
    return make_item(key, _read_data(LISTS[key], form, habit, was))


def _read_data(of: type, form: Typed, habit: str, was: object, inside: str = "") -> dict[str, Json]:
    data: dict[str, Json] = {}
    for name, declared in read_entries(of).items():
        field, text = inside + name, form.get(inside + name, "").strip()
        got = None if was is None else getattr(was, name)
        asked = bool(text) or f"{field}?" in form
        if declared.of is not None and asked:
            data[name] = _read_data(declared.of, form, habit, got, f"{name}.") if text else None
        elif declared.kind == "flag" and asked:
            data[name] = bool(text)
        elif declared.kind == "names" and asked:
            data[name] = form.getlist(field)
        elif text and declared.quantity == "stock":
            data[name] = parse_typed(declared, text, "mm", field)
        elif text:
            same = got is not None and text == value_text(got, declared.quantity, habit)
            data[name] = got if same else parse_typed(declared, text, habit, field)
    return data


def build_refused_fields(
    key: str, form: Typed, habit: str, wrong: str, sentence: str
) -> list[Field]:
    """The fields of a form that was refused, as it was typed. Parameters: wrong, the key of the
    field that was refused, and why.
    """
    return [
        replace(
            f,
            value=form.get(f.key, ""),
            ticked=tuple(form.getlist(f.key)),
            error=sentence if f.key == wrong else "",
        )
        for f in build_fields(key, None, habit)
    ]


@cache
def _load_known_items() -> Mapping[str, Item]:
    """Everything of the catalogue that a shop can have, by its words in millimetres."""
    found: list[tuple[str, JsonObject]] = []
    for key, kind in catalogue.load_part_kinds().items():
        for family in kind.sizes:
            for more in _list_kinds(kind):
                found.append(("parts", {"kind": key, "family": family, **more}))
    found += [
        ("tungstens", {"type": t, "diameter_mm": d})
        for t in catalogue.load_tungsten_types()
        for d in (1.0, 1.6, 2.4, 3.2)
    ]
    sizes = (*catalogue.load_rod_sizes().spool_mm, *catalogue.load_rod_sizes().stocked_mm)
    found += [
        ("rods", {"rod": rod, "diameter_mm": d}) for rod in catalogue.load_rods() for d in sizes
    ]
    found += [
        ("bars", {"metal": metal, "length_mm": long, "grooved": grooved})
        for metal in ("copper", "aluminium", "steel")
        for long in (100.0, 150.0)
        for grooved in (False, True)
    ]
    found += [
        ("torches", {"name": f"torch {size}", "size": size}) for size in catalogue.load_torches()
    ]
    items = (make_item(key, data) for key, data in found)
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
def list_known_names(habit: str = "mm") -> tuple[str, ...]:
    """The words of everything of the catalogue that a shop can have."""
    return tuple(format_item(item, habit) for item in _load_known_items().values())


def find_meant_item(words: str) -> tuple[Item | None, list[str]]:
    """What is meant by words: the item whose words they are or, where they fit one alone, that;
    else those they fit.
    """
    typed = " ".join(words.split()).lower()
    for habit in ("mm", "in"):
        for said, (text, found) in zip(
            list_known_names(habit), _load_known_items().items(), strict=True
        ):
            if typed in (said.lower(), text.lower()):
                return found, []
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
    """Whether a word that was typed is one of a text's, or begins one; a number only as a whole."""
    parts = [p.strip(".,()") for p in text.split()]
    plain = word.replace(",", ".")
    return (
        plain in parts
        if plain.replace(".", "").isdigit()
        else any(part.startswith(word) for part in parts)
    )
