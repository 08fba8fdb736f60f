"""Equipment typed in the words of the bench: "#6 cup, 308 1/16, argon 50 L".

A word can leave a choice: a cup without its front end, a part without its family. The other
equipment decides it, or a person is asked. Common practice.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Sequence
from itertools import product

from msgspec import Struct
from msgspec.structs import replace

from .. import catalogue
from ..errors import InputError
from ..quantities import MM_PER_INCH
from .data import make_item
from .shop import Item, OwnTorch, Part, Shop

# A collet body of a large torch is about 50 mm long, of a small one 22 mm: the middle decides.
LARGE_BODY_MM = 35.0
STEEL_G_MM3, G_PER_LB = 7.9e-3, 453.6
# Contents of a cylinder by volume of gas: cubic feet at 2,200 psi.
L_PER_CF, FULL_BAR_2200_PSI = 28.3168, 152.0
# A cylinder that is typed without its pressure is full, bar: common practice.
FULL_BAR = 200.0
# A bar longer than this in inches is typed in mm.
MAX_BAR_IN = 48.0
# A typed size within this share of a stock size is that size: 3/32 in is 2.38 mm.
SAME_SIZE = 0.06
_NUMBER = r"(?:\d+\s+\d+/\d+|\d+/\d+|\d+[.,]\d+|[.,]\d+|\d+)"
_COUNT = re.compile(
    r"(?:\s*[x×*]\s*(\d{1,5})|\s+(\d{1,5})\s*(?:pcs|pieces|off|of them)|\bqty\s*(\d{1,5}))\s*$",
    re.I,
)
_COUNT_FIRST = re.compile(r"^(\d{1,4})\s*(?:[x×]|pcs|pieces|off)\s+(?=\D|\d)", re.I)
_MASS = re.compile(rf"({_NUMBER})\s*(kg|lbs?|pounds?|g)\b", re.I)
_SIZE = re.compile(rf"({_NUMBER})\s*(mm|in\b|inch(?:es)?\b|\"|″)?", re.I)
_CUP = re.compile(
    r"(?:#|\bno\.?|\bnumber)\s*(\d{1,2})\b|\b(\d{1,2})\s*(?:cup|nozzle)\b|\b(?:cup|nozzle)s?\s*#?(\d{1,2})\b",
    re.I,
)
_BOX = re.compile(
    rf"({_NUMBER})\s*(?:mm)?\s*[x×]\s*({_NUMBER})\s*(?:mm)?\s*[x×]\s*({_NUMBER})\s*(mm|in\b|\")?",
    re.I,
)
_LENGTH = re.compile(rf"(?<![\d/.,])({_NUMBER})\s*(mm|in\b|inch(?:es)?\b|\")\s*(?:long|body)", re.I)
_COLOURS = {
    "blue": "lanthanated-2",
    "gold": "lanthanated-1.5",
    "grey": "ceriated-2",
    "gray": "ceriated-2",
    "red": "thoriated-2",
    "purple": "rare-earth",
}
_TYPES = (
    (r"1[.,]5\s*%?.*lanth|lanth.*1[.,]5", "lanthanated-1.5"),
    (r"lanth", "lanthanated-2"),
    (r"ceri", "ceriated-2"),
    (r"thori", "thoriated-2"),
    (r"rare|tri-?mix|multi", "rare-earth"),
)
_GASES = (
    (r"argon.*hydrogen|hydrogen.*argon", "argon-hydrogen"),
    (r"argon.*helium|helium.*argon", "argon-helium"),
    (r"argon.*nitrogen|nitrogen.*argon", "argon-nitrogen"),
    (r"argon", "argon"),
)
_FAMILIES = ("small", "large", "stubby")
_FRONT_ENDS = {"gas-lens": "gas lens", "plain": "collet body"}
_CAPS = ("long", "short", "button")


class StockChoice(Struct, frozen=True):
    """An open choice of an item: its field, a question, and the possible items by label."""

    field: str
    question: str
    items: tuple[tuple[str, Item], ...]


class StockGuess(Struct, frozen=True):
    """A typed item: its text, the item, and the choice that is left or None."""

    text: str
    item: Item
    choice: StockChoice | None = None


class StockList(Struct, frozen=True):
    """A typed list: the items, and the texts that are not understood with the reason."""

    items: tuple[StockGuess, ...]
    unknown: tuple[tuple[str, str], ...]

    @property
    def choices(self) -> tuple[StockGuess, ...]:
        """Return the items that need a decision."""
        return tuple(guess for guess in self.items if guess.choice is not None)


def split_stock_text(text: str) -> list[str]:
    """Return the items of a list: separated by lines, semicolons and commas.

    >>> split_stock_text("#6 cup, ER316L 1,6; argon 50 L")
    ['#6 cup', 'ER316L 1,6', 'argon 50 L']
    """
    parts = re.split(r"[\n;]|,(?!\d)|,\s+", text.replace("·", ","))
    return [" ".join(part.split()).strip("- •") for part in parts if part.strip("-• ")]


def read_stock_text(text: str, shop: Shop, units: str) -> StockList:
    """Return the equipment of a typed list.

    Args:
        text: The list.
        shop: The shop, whose equipment decides what a text leaves open.
        units: Unit system of numbers without unit.
    """
    guesses, unknown = list[StockGuess](), list[tuple[str, str]]()
    for part in split_stock_text(text):
        try:
            guesses.append(StockGuess(part, read_stock_item(part, units)))
        except InputError as error:
            unknown.append((part, error.rule if isinstance(error.rule, str) else error.sentence))
    owned = _list_owned(shop, [guess.item for guess in guesses])
    return StockList(tuple(_settle(guess, owned) for guess in guesses), tuple(unknown))


def read_stock_item(text: str, units: str) -> Item:
    """Return a typed item. An open family is large, and an open cup has no front end.

    Args:
        text: The text.
        units: Unit system of numbers without unit.

    Raises:
        InputError: The text is no equipment.
    """
    typed, count = _cut_count(" ".join(text.lower().split()))
    for read in (
        _read_machine,
        _read_torch,
        _read_cylinder,
        _read_bar,
        _read_part,
        _read_tungsten,
        _read_rod,
    ):
        item = read(typed, count, units)
        if item is not None:
            return item
    rule = "is not understood. Name the part with its size, such as gas lens 1/16 or ER308L 1.6"
    raise InputError("stock", text, rule)


def _cut_count(text: str) -> tuple[str, int | None]:
    match = _COUNT.search(text)
    # "150 x 25 x 6" is a size and no count.
    if match is not None and not _BOX.search(text):
        return text[: match.start()].strip(), int(next(g for g in match.groups() if g))
    first = _COUNT_FIRST.match(text)
    if first is not None and not _BOX.search(text):
        return text[first.end() :].strip(), int(first[1])
    return text, None


def _parse(number: str) -> float:
    total = 0.0
    for part in number.replace(",", ".").split():
        numerator, _, denominator = part.partition("/")
        total += float(numerator) / float(denominator or 1)
    return total


def _measure_mm(number: str, unit: str | None, units: str) -> float:
    """Return a typed size in mm. A fraction, or a number without a digit first, is inches."""
    is_inch = (unit or "").strip().startswith(("in", '"', "″")) or (
        not unit and (units == "in" or "/" in number or number.startswith((".", ",")))
    )
    return _parse(number) * (MM_PER_INCH if is_inch else 1.0)


def _find_size(text: str, sizes: Iterable[float], units: str) -> float | None:
    """Return the stock size that a text names, mm."""
    for match in _SIZE.finditer(text):
        for system in (units, "mm", "in"):
            mm = _measure_mm(match[1], match[2], system)
            near = min(sizes, key=lambda size: abs(size - mm))
            if abs(near - mm) <= SAME_SIZE * near:
                return near
    return None


def _read_machine(text: str, count: int | None, units: str) -> Item | None:
    match = re.search(r"(\d{2,4})\s*(?:a\b|amps?\b|ampere)", text)
    is_machine = re.search(r"machine|welder|power source|inverter|set\b", text)
    if match is None or is_machine is None:
        return None
    has_pulse = "pulse" in text and not re.search(r"no pulse|without pulse", text)
    start = re.search(r"(\d{1,2})\s*(?:-|–|to)\s*\d{2,4}", text)
    data = {"name": f"{match[1]} A machine", "most_a": float(match[1])}
    more = {"least_a": float(start[1])} if start else {}
    pulse = {} if has_pulse else {"pulse": None}
    controls = [key for key, word in (("pedal", "pedal"), ("slide", "slide")) if word in text]
    return make_item(
        "machines", {**data, **more, **pulse, **({"controls": controls} if controls else {})}
    )


def _read_torch(text: str, count: int | None, units: str) -> Item | None:
    if "torch" not in text:
        return None
    for size in catalogue.load_torches():
        if re.search(rf"(?<![\d./]){size}(?![\d./])", text):
            return make_item("torches", {"name": f"no. {size} torch", "size": size})
    raise InputError("stock", text, "names no torch size. Give 9, 17, 18, 20 or 26")


def _read_cylinder(text: str, count: int | None, units: str) -> Item | None:
    gas = next((key for pattern, key in _GASES if re.search(pattern, text)), None)
    if gas is None:
        return None
    litres = re.search(rf"({_NUMBER})\s*(?:l\b|lit(?:re|er)s?)", text)
    feet = re.search(rf"({_NUMBER})\s*(?:cf\b|cu\.?\s*ft|cubic)", text)
    bar = re.search(rf"({_NUMBER})\s*bar", text)
    data: dict[str, float | str] = {"gas": gas}
    if litres:
        data["water_l"] = _parse(litres[1])
    elif feet:
        data["water_l"] = round(_parse(feet[1]) * L_PER_CF / FULL_BAR_2200_PSI, 1)
    else:
        raise InputError("stock", text, "has no size. Give its water volume, such as argon 50 L")
    data["bar"] = _parse(bar[1]) if bar else FULL_BAR
    return make_item("cylinders", data)


def _read_bar(text: str, count: int | None, units: str) -> Item | None:
    metal = re.search(r"(copper|alumini?um|steel)\s+(?:chill |backing )?bars?", text)
    if metal is None:
        return None
    data: dict[str, float | str | bool | int] = {
        "metal": "aluminium" if metal[1].startswith("al") else metal[1],
        "grooved": "groove" in text,
    }
    box = _BOX.search(text)
    if box is not None:
        numbers = box.groups()[:3]
        system = units if max(map(_parse, numbers)) <= MAX_BAR_IN else "mm"
        sides = sorted(
            (round(_measure_mm(side, box[4], system), 3) for side in numbers), reverse=True
        )
        data |= dict(zip(("length_mm", "width_mm", "thickness_mm"), sides, strict=True))
    return make_item("bars", data | ({"count": count} if count else {}))


def _read_part(text: str, count: int | None, units: str) -> Item | None:
    kind = _find_part_kind(text)
    if kind is None:
        return None
    row = catalogue.load_part_kinds()[kind]
    family = next((f for f in _FAMILIES if re.search(rf"\b{f}\b", text)), None)
    data: dict[str, float | str | int] = {"kind": kind}
    if row.has("numbered"):
        match = _CUP.search(text) or re.search(r"\b(\d{1,2})\b", text)
        if match is None:
            raise InputError("stock", text, "has no number. Give it, such as cup 8")
        data["cup"] = int(next(group for group in match.groups() if group))
        if "lens" in text:
            data["fits"] = "gas-lens"
        elif "body" in text or "plain" in text:
            data["fits"] = "plain"
    elif row.has("for_tungsten"):
        length = _LENGTH.search(text)
        if length is not None and kind == "collet-body" and family is None:
            mm = _measure_mm(length[1], length[2], units)
            family = "large" if mm >= LARGE_BODY_MM else "small"
            text = text[: length.start()] + text[length.end() :]
        size = _find_size(text, (1.0, 1.6, 2.4, 3.2), units)
        if size is None:
            raise InputError("stock", text, "has no tungsten size. Give it, such as gas lens 1/16")
        data["tungsten_mm"] = size
    elif row.has("caps"):
        data["length"] = next((cap for cap in _CAPS if cap in text), "long")
    data["family"] = family or "large"
    return make_item("parts", data | ({"count": count} if count else {}))


def _find_part_kind(text: str) -> str | None:
    if re.search(r"\bcups?\b|nozzle", text) or re.fullmatch(r"#\s*\d{1,2}(?:\s+lens)?", text):
        return "cup"
    for pattern, kind in (
        (r"\blens", "gas-lens"),
        (r"collet bod|\bbody\b|\bbodies\b", "collet-body"),
        (r"collet", "collet"),
        (r"\bcaps?\b", "back-cap"),
        (r"heat shield|insulator|ring", "heat-shield"),
    ):
        if re.search(pattern, text):
            return kind
    return None


def _read_tungsten(text: str, count: int | None, units: str) -> Item | None:
    kind = next((key for pattern, key in _TYPES if re.search(pattern, text)), None)
    kind = kind or next(
        (key for word, key in _COLOURS.items() if re.search(rf"\b{word}\b", text)), None
    )
    if kind is None and "tungsten" in text:
        kind = "lanthanated-2"
    if kind is None:
        return None
    # The share of the oxide is no size.
    sizes = re.sub(r"\d+(?:[.,]\d+)?\s*%", " ", text)
    size = _find_size(sizes, (1.0, 1.6, 2.4, 3.2), units)
    if size is None:
        raise InputError("stock", text, "has no diameter. Give it, such as 1/16 or 2.4")
    return make_item(
        "tungstens", {"type": kind, "diameter_mm": size} | ({"count": count} if count else {})
    )


def _read_rod(text: str, count: int | None, units: str) -> Item | None:
    mass = _MASS.search(text)
    rest = text[: mass.start()] + text[mass.end() :] if mass else text
    rod, rest = _find_rod(rest)
    if rod is None:
        return None
    sold = catalogue.load_rod_sizes()
    size = _find_size(rest, (*sold.spool_mm, *sold.stocked_mm, 3.2), units)
    if size is None:
        raise InputError("stock", text, "has no diameter. Give it, such as 1/16 or 1.6")
    length_mm = sold.rod_length_mm
    if mass is not None and count is None:
        scale = {"k": 1000.0, "g": 1.0}.get(mass[2][0], G_PER_LB)
        one_g = STEEL_G_MM3 * math.pi / 4 * size**2 * length_mm
        count = max(1, round(_parse(mass[1]) * scale / one_g))
    return make_item(
        "rods", {"rod": rod, "diameter_mm": size} | ({"count": count} if count else {})
    )


def _find_rod(text: str) -> tuple[str | None, str]:
    """Return the rod class that a text names, and the text without it."""
    names: dict[str, str] = {}
    for key in catalogue.load_rods():
        plain = key.lower()
        names[plain] = key
        grade = plain.removeprefix("er")
        names.setdefault(grade, key)
        # "308" is an ER308L.
        names.setdefault(grade.removesuffix("l"), key)
    for name in sorted(names, key=len, reverse=True):
        match = re.search(rf"(?<![\w.]){re.escape(name)}(?![\w.])", text)
        if match:
            return names[name], text[: match.start()] + " " + text[match.end() :]
    return None, text


class _Owned(Struct, frozen=True):
    """The families of the torches, and the front ends in the shop."""

    families: frozenset[str]
    front_ends: frozenset[str]


def _list_owned(shop: Shop, new: Sequence[Item]) -> _Owned:
    items: list[Item] = [*(shop.torches or ()), *(shop.parts or ()), *new]
    torches = [item for item in items if isinstance(item, OwnTorch)]
    parts = [item for item in items if isinstance(item, Part)]
    ends = {"gas-lens": "gas-lens", "collet-body": "plain"}
    return _Owned(
        frozenset(torch.row.family for torch in torches),
        frozenset(ends[part.kind] for part in parts if part.kind in ends),
    )


def _settle(guess: StockGuess, owned: _Owned) -> StockGuess:
    """Return an item as the other equipment decides it, or with the open choice."""
    item = guess.item
    if not isinstance(item, Part):
        return guess
    kind = catalogue.load_part_kinds()[item.kind]
    text = guess.text.lower()
    is_named = any(re.search(rf"\b{family}\b", text) for family in _FAMILIES)
    families: list[str] = [item.family]
    if not is_named and item.family in kind.sizes and _LENGTH.search(text) is None:
        families = [key for key in kind.sizes if key in owned.families] or ["large"]
    ends: list[str | None] = [item.fits]
    if kind.has("numbered") and item.fits is None:
        ends = [key for key in _FRONT_ENDS if key in owned.front_ends] or list(_FRONT_ENDS)
    options = [
        (
            _label_choice(family, end, len(families), len(ends)),
            replace(item, family=family, fits=end),
        )
        for family, end in product(families, ends)
    ]
    if len(options) == 1:
        return StockGuess(guess.text, options[0][1])
    if len(ends) == 1:
        choice = StockChoice("family", "Which family of torches does it fit?", tuple(options))
    elif len(families) == 1:
        choice = StockChoice("fits", "Which front end does this cup fit?", tuple(options))
    else:
        question = "Which family of torches and which front end does this cup fit?"
        choice = StockChoice("fits", question, tuple(options))
    return StockGuess(guess.text, item, choice)


def _label_choice(family: str, end: str | None, families: int, ends: int) -> str:
    """Return the label of an option: only its differences from the others."""
    words = [family] if families > 1 else []
    return ", ".join(words + ([_FRONT_ENDS[end]] if end and ends > 1 else []))
