"""The shop's items in words, and the fields they are entered by."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache, lru_cache
from typing import Any

from ..core import catalogue
from ..core.catalogue.rows import PartKind
from ..core.errors import BadInput
from ..core.quantities import MM_PER_INCH, parse_length, stock
from ..core.schema.entries import Entry, entries
from ..core.shop.data import TUNGSTEN_SIZES_MM, item_data, make_item
from ..core.shop.shop import CAPS, LISTS, PulseRange
from ..core.shop.words import PSI_PER_BAR, words_of


@dataclass(frozen=True)
class ShopField:
    """A field of an item's form: its name, label and unit, its kind, its options, what stands in
    it.
    """

    name: str
    label: str
    unit: str
    kind: str
    options: tuple[tuple[str, str], ...]
    value: Any
    required: bool

    quantity: str = "plain"
    habit: str = "mm"

    @property
    def shown(self) -> str:
        """What stands in it, as text in its unit."""
        if self.value is None:
            return ""
        if not isinstance(self.value, float):
            return str(self.value)
        per = _per_unit(self.quantity, self.habit)
        return f"{self.value:g}" if per == 1 else f"{self.value / per:.4g}"


def fields_of(
    key: str, data: Mapping[str, Any] | None = None, habit: str = "mm"
) -> list[ShopField]:
    """The fields of a list's form. Parameters: data, the item that stands in it; None for a new
    one.
    """
    return [
        one
        for declared in entries(LISTS[key]).values()
        for one in _fields(key, declared, data, habit)
    ]


def _fields(
    key: str, declared: Entry, data: Mapping[str, Any] | None, habit: str
) -> list[ShopField]:
    value = declared.usual if data is None else data.get(declared.key)
    if declared.kind == "part":
        held = None if data is not None and value is None else value or {}
        on = ShopField(declared.key, declared.label, "", "yes", (), held is not None, False)
        inner = [
            ShopField(
                f"{declared.key}.{k}",
                e.label,
                e.unit,
                e.kind,
                (),
                (held or {}).get(k, e.usual),
                False,
            )
            for k, e in entries(PulseRange).items()
        ]
        return [on, *inner]
    options = (
        tuple((name, option.label) for name, option in declared.allowed().items())
        if declared.kind in ("name", "names")
        else ()
    )
    if declared.key == "tungsten_mm" or (
        declared.key == "diameter_mm" and declared.label == "Diameter" and key == "tungstens"
    ):
        options = tuple((f"{d:g}", stock(d).text(habit)) for d in TUNGSTEN_SIZES_MM)
    if declared.quantity == "stock" and not options:
        sizes = sorted(
            {
                *catalogue.rod_sizes().spool_mm,
                *catalogue.rod_sizes().stocked_mm,
                2.0,
                3.2,
                *([value] if isinstance(value, float) else []),
            }
        )
        options = tuple((f"{d:g}", stock(d).text(habit)) for d in sizes)
    unit = _UNITS.get((declared.quantity, habit), declared.unit)
    return [
        ShopField(
            declared.key,
            declared.label,
            unit,
            declared.kind,
            options,
            value,
            declared.required,
            declared.quantity,
            habit,
        )
    ]


_UNITS = {("length", "in"): "in", ("pressure", "in"): "psi"}


def _per_unit(quantity: str, habit: str) -> float:
    """How much of what is kept one of the unit shown is."""
    return {"in": MM_PER_INCH, "psi": 1 / PSI_PER_BAR}.get(_UNITS.get((quantity, habit), ""), 1.0)


def data_of_form(
    key: str,
    form: Mapping[str, Any],
    many: Any,
    habit: str = "mm",
    was: Mapping[str, Any] | None = None,
) -> dict[str, Any]:
    """An item's data from a form as it was sent: text to what each field is; what is left empty is
    left out.

    Parameters: form, name to text; many, name to all its texts; habit, whose units bare figures are
    in; was, the item that stood in the form: what was not touched stays as it was to the last
    digit. Raises BadInput.
    """
    data: dict[str, Any] = {}
    for one in fields_of(key, was, habit):
        text = str(form.get(one.name, "")).strip()
        outer, _, inner = one.name.partition(".")
        if inner:
            if form.get(outer) and text:
                data.setdefault(outer, {})[inner] = _figure(text, one)
        elif one.kind == "yes":
            if f"{one.name}?" in form or form.get(one.name):
                on = bool(form.get(one.name))
                data[one.name] = ({} if on else None) if _has_inner(key, one.name) else on
        elif one.kind == "names":
            if f"{one.name}?" in form or many(one.name):
                data[one.name] = many(one.name)
        elif text:
            data[one.name] = _figure(text, one) if one.kind in ("number", "count") else text
    return data


def _has_inner(key: str, name: str) -> bool:
    return any(f.name.startswith(f"{name}.") for f in fields_of(key))


def _figure(text: str, one: ShopField) -> float | int | str:
    """A figure as it is typed in a field; the text itself where it is none, for the reader to
    refuse.
    """
    if text == one.shown and one.value is not None:
        found: float | int | str = one.value
        return found
    if one.quantity == "length":
        return parse_length(text, one.name, bare_unit="in" if one.habit == "in" else "mm").mm
    if one.quantity == "pressure":
        return pressure_bar(text, one.habit)
    return _number(text)


def pressure_bar(text: str, habit: str) -> float:
    """A pressure as it is typed, bar: with its unit, or bare in the habit's. Raises BadInput."""
    low = text.strip().lower()
    unit = next((u for u in ("bar", "psi") if low.endswith(u)), "psi" if habit == "in" else "bar")
    found = _number(low.removesuffix(unit).strip())
    if isinstance(found, str):
        raise BadInput("bar", text, "must be a pressure, such as 140 bar or 2000 psi")
    return round(found / PSI_PER_BAR, 3) if unit == "psi" else float(found)


def _number(text: str) -> float | int | str:
    """A number with a decimal point or comma; the text itself where it is none."""
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        return text
    return int(value) if value.is_integer() and abs(value) < 1e9 else value


def as_typed(key: str, form: Mapping[str, Any], many: Any) -> dict[str, Any]:
    """What stands in the fields of a form that was refused: as it was typed."""
    data: dict[str, Any] = {}
    for one in fields_of(key):
        outer, _, inner = one.name.partition(".")
        if inner:
            if data.get(outer) is not None:
                data[outer][inner] = form.get(one.name, "")
        elif one.kind == "yes":
            on = bool(form.get(one.name))
            data[one.name] = ({} if on else None) if _has_inner(key, one.name) else on
        else:
            data[one.name] = many(one.name) if one.kind == "names" else form.get(one.name, "")
    return data


@cache
def _known() -> Mapping[str, tuple[str, Mapping[str, Any]]]:
    """Everything of the catalogue that a shop can have, by its words in millimetres: list and
    item.
    """
    found: list[tuple[str, dict[str, Any]]] = []
    for key, kind in catalogue.part_kinds().items():
        for family in kind.sizes:
            for more in _kinds_of(kind):
                found.append(("parts", {"kind": key, "family": family, **more}))
    found += [
        ("tungstens", {"type": t, "diameter_mm": d})
        for t in catalogue.tungsten_types()
        for d in (1.0, 1.6, 2.4, 3.2)
    ]
    sizes = (*catalogue.rod_sizes().spool_mm, *catalogue.rod_sizes().stocked_mm)
    found += [("rods", {"rod": rod, "diameter_mm": d}) for rod in catalogue.rods() for d in sizes]
    found += [
        ("bars", {"metal": metal, "length_mm": long, "grooved": grooved})
        for metal in ("copper", "aluminium", "steel")
        for long in (100.0, 150.0)
        for grooved in (False, True)
    ]
    found += [("torches", {"name": f"torch {size}", "size": size}) for size in catalogue.torches()]
    items = [(key, item_data(make_item(LISTS[key], data, key))) for key, data in found]
    return {words_of(key, data): (key, data) for key, data in items}


def _kinds_of(kind: PartKind) -> list[dict[str, Any]]:
    if kind.has("numbered"):
        return [
            {"cup": number, "fits": fits}
            for fits in ("gas-lens", "plain")
            for number in catalogue.cups()
        ]
    if kind.has("for_tungsten"):
        return [{"tungsten_mm": d} for d in (1.0, 1.6, 2.4, 3.2)]
    return [{"length": length} for length in CAPS] if kind.has("caps") else [{}]


@lru_cache(maxsize=4)
def known_words(habit: str = "mm") -> tuple[str, ...]:
    """The words of everything of the catalogue that a shop can have."""
    return tuple(words_of(key, data, habit) for key, data in _known().values())


MOST_NEAR = 6


def meant(words: str) -> tuple[tuple[str, Mapping[str, Any]] | None, list[str]]:
    """What is meant by words: the item whose words they are or, where they fit one alone, that;
    else those they fit.
    """
    typed = " ".join(words.split()).lower()
    for habit in ("mm", "in"):
        for said, (text, found) in zip(known_words(habit), _known().items(), strict=True):
            if typed in (said.lower(), text.lower()):
                return found, []
    asked = [
        w.strip(".,()")
        for w in typed.split()
        if w.strip(".,()") not in ("", "no", "no.", "for", "a", "an", "the", "mm", "x")
    ]
    fit = [text for text in _known() if asked and all(_fits(w, text.lower()) for w in asked)]
    if len(fit) == 1:
        return _known()[fit[0]], []
    return None, fit[:MOST_NEAR]


def _fits(word: str, text: str) -> bool:
    """Whether a word that was typed is one of a text's, or begins one; a number only as a whole."""
    parts = [p.strip(".,()") for p in text.split()]
    plain = word.replace(",", ".")
    return (
        plain in parts
        if plain.replace(".", "").isdigit()
        else any(part.startswith(word) for part in parts)
    )
