"""Quantities: the lengths people type, conversions, and figures shown in either unit habit.

Inside the core: mm, s, A, V, °C, L/min, kJ/mm, wt%. A habit is "mm" or "in"; it changes what is
shown, never what is computed. Conversions are exact by definition (1 in = 25.4 mm) or the standard
factors: 1 CFH = 0.4719 L/min (1 ft³ = 28.316 846 592 L).
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from fractions import Fraction
from functools import partial

from msgspec import Struct

from .catalogue import load_gauge_scales
from .errors import InputError

MM_PER_INCH = 25.4
L_PER_CUBIC_FOOT = 28.316846592
L_MIN_PER_CFH = L_PER_CUBIC_FOOT / 60
# by definition of the pound, the inch and standard gravity
PSI_PER_BAR = 14.503774
HABITS = ("mm", "in")

_NUMBER = r"(?:[0-9]+(?:[.,][0-9]*)?|[.,][0-9]+)"
_SIGNED = re.compile(r"[+-]?(?:[0-9]+\.?[0-9]*|\.[0-9]+)")
_UNITS = {
    "mm": 1.0,
    "millimetre": 1.0,
    "millimetres": 1.0,
    "millimeter": 1.0,
    "millimeters": 1.0,
    "cm": 10.0,
    "m": 1000.0,
    "in": MM_PER_INCH,
    "inch": MM_PER_INCH,
    "inches": MM_PER_INCH,
    '"': MM_PER_INCH,
    "″": MM_PER_INCH,
    "”": MM_PER_INCH,
    "thou": 0.0254,
    "mil": 0.0254,
    "ft": 304.8,
    "'": 304.8,
    "′": 304.8,
}
_UNIT = "|".join(re.escape(u) for u in sorted(_UNITS, key=len, reverse=True))
_GAUGE = re.compile(
    r"(?:no\.?\s*)?([0-9]+)\s*(?:ga|gauge|swg|bwg|g)\.?(?:\s+([a-z]+))?(?:\s+(?:sheet|tube|steel))?"
)
_GAUGE_FIRST = re.compile(r"(?:gauge|ga)\s*([0-9]+)(?:\s+([a-z]+))?")
_FRACTION = re.compile(rf"(?:([0-9]+)[\s-]+)?([0-9]+)\s*/\s*([0-9]+)\s*({_UNIT})?")
_PLAIN = re.compile(rf"({_NUMBER})\s*({_UNIT})?")
_SCALE_WORDS = {
    "carbon": "carbon",
    "mild": "carbon",
    "steel": "carbon",
    "stainless": "stainless",
    "ss": "stainless",
    "tube": "tube",
    "wall": "tube",
    "bwg": "tube",
    "galvanised": "galvanised",
    "galvanized": "galvanised",
    "galv": "galvanised",
    "zinc": "galvanised",
}
# diameters, mm, as rods and tungstens of them are sold by the inch: common practice
SOLD_INCH = {
    0.6: "0.023",
    0.8: "0.030",
    0.9: "0.035",
    1.0: "0.040",
    1.2: "0.045",
    1.6: "1/16",
    2.0: "5/64",
    2.4: "3/32",
    3.2: "1/8",
    4.0: "5/32",
}
SOLD_SLACK_MM = 0.026
# a temperature in °F is told to so many degrees: of 842 °F the last figure means nothing
COARSE_F = 10
# longer than any figure anyone writes; longer ones are not even looked through
MAX_TYPED_LENGTH = 60
HOW_TO_TYPE = "must be a length, such as 1.6 mm, 16 ga, .065, 1/16 in or 1,6 mm"


class Length(Struct, frozen=True):
    """A length in mm, with the words it was typed in and, for a gauge, what other scales make of
    it.

    Attributes: mm; typed; scale (gauge scale or None); others, label and mm of each other scale.
    """

    mm: float
    typed: str
    scale: str | None = None
    others: tuple[tuple[str, float], ...] = ()


def scale_for(metal_kind: str, form: str, coating: str = "none") -> str:
    """The gauge scale that a member's "ga" means: tube wall, galvanised, stainless or carbon sheet.

    >>> (
    ...     scale_for("stainless", "sheet"),
    ...     scale_for("stainless", "tube"),
    ...     scale_for("carbon", "sheet"),
    ... )
    ('stainless', 'tube', 'carbon')
    """
    if form == "tube":
        return "tube"
    if metal_kind == "carbon":
        return "galvanised" if coating == "zinc" else "carbon"
    return "stainless"


def parse_length(
    text: str, name: str = "length", scale: str = "stainless", bare_unit: str = ""
) -> Length:
    """Read a length as people type it.

    Parameters: text; name, the field for the error; scale, the gauge scale a bare "16 ga" means;
    bare_unit, the unit of a bare number ("mm" or "in"); when empty, a number that begins with the
    decimal point or a fraction is inches (".065", "1/16"), any other is mm.
    Returns Length. Raises InputError where nothing sensible can be read.

    >>> parse_length("16 ga").mm, parse_length("16 ga carbon").mm
    (1.5875, 1.51892)
    >>> parse_length(".065").mm, parse_length("1/16 in").mm, parse_length("1,6 mm").mm
    (1.651, 1.5875, 1.6)
    """
    typed = _normalise_typed(text, name)
    low = typed.lower().replace("−", "-")
    if match := (_GAUGE.fullmatch(low) or _GAUGE_FIRST.fullmatch(low)):
        return _parse_gauge(match[1], match[2], typed, name, scale)
    if match := _FRACTION.fullmatch(low):
        whole, top, bottom, unit = match.groups()
        if int(bottom) == 0:
            raise InputError(
                name, typed, "cannot be a fraction with 0 below the line. " + HOW_TO_TYPE
            )
        value = float(int(whole or 0) + Fraction(int(top), int(bottom))) * _UNITS[unit or "in"]
        return Length(_length_mm(value, name, typed), typed)
    if match := _PLAIN.fullmatch(low):
        digits, unit = match[1].replace(",", "."), match[2]
        if not unit:
            unit = bare_unit or ("in" if digits.startswith(".") else "mm")
        return Length(_length_mm(float(digits) * _UNITS[unit], name, typed), typed)
    raise InputError(name, typed, HOW_TO_TYPE)


def _normalise_typed(text: str, name: str) -> str:
    """What was typed, its spaces evened. Raises InputError where it is too long to be a figure."""
    if len(text) > MAX_TYPED_LENGTH:
        raise InputError(name, text, f"is too long. Type at most {MAX_TYPED_LENGTH} characters")
    return " ".join(text.split())


def _length_mm(value: float, name: str, typed: str) -> float:
    if not math.isfinite(value) or value > 1e7:
        raise InputError(name, typed, "is more than this product can plan. " + HOW_TO_TYPE)
    return _round(value)


def _parse_gauge(number: str, word: str | None, typed: str, name: str, scale: str) -> Length:
    scales = load_gauge_scales()
    if word and word not in _SCALE_WORDS:
        raise InputError(
            name,
            typed,
            (
                "must name a gauge scale: stainless, carbon, tube or galvanised. Example: 16 "
                "ga carbon"
            ),
        )
    use = _SCALE_WORDS[word] if word else scale
    if number not in scales[use].inches:
        has = ", ".join(scales[use].inches)
        raise InputError(name, typed, f"is not a number of the {scales[use].label} gauge: {has}")
    others = tuple(
        (row.label, _round(row.inches[number] * MM_PER_INCH))
        for key, row in scales.items()
        if key != use and number in row.inches
    )
    return Length(_round(scales[use].inches[number] * MM_PER_INCH), typed, use, others)


_SPEED = re.compile(rf"({_NUMBER})\s*(mm/s|mm/min|cm/min|m/min|in/min|ipm|in/s)?")
_SPEED_UNITS = {
    "mm/s": 1.0,
    "mm/min": 1 / 60,
    "cm/min": 10 / 60,
    "m/min": 1000 / 60,
    "in/min": MM_PER_INCH / 60,
    "ipm": MM_PER_INCH / 60,
    "in/s": MM_PER_INCH,
}


def parse_speed(text: str, name: str = "travel", bare_unit: str = "mm/s") -> float:
    """Read a travel speed as people type it, in mm/s. Raises InputError.

    >>> parse_speed("3,4"), round(parse_speed("8 in/min"), 3), parse_speed("180 mm/min")
    (3.4, 3.387, 3.0)
    """
    match = _SPEED.fullmatch(_normalise_typed(text, name).lower())
    if not match:
        raise InputError(name, text, "must be a speed, such as 3.4 mm/s, 200 mm/min or 8 in/min")
    return round(float(match[1].replace(",", ".")) * _SPEED_UNITS[match[2] or bare_unit], 6)


_FLOW = re.compile(rf"({_NUMBER})\s*(l/min|lpm|l|cfh|ft³/h)?")


def parse_flow(text: str, name: str = "flow") -> float:
    """Read a gas flow as people type it, in L/min. Raises InputError.

    >>> parse_flow("9,5"), round(parse_flow("20 CFH"), 2)
    (9.5, 9.44)
    """
    match = _FLOW.fullmatch(_normalise_typed(text, name).lower())
    if not match:
        raise InputError(name, text, "must be a flow, such as 9.5 L/min or 20 CFH")
    value = float(match[1].replace(",", "."))
    return round(value * L_MIN_PER_CFH, 4) if match[2] in ("cfh", "ft³/h") else value


def parse_pressure(text: str, name: str = "pressure") -> float:
    """A pressure by the gauge as it is typed with its unit, bar. Raises InputError.

    >>> parse_pressure("140 bar"), parse_pressure("2000 psi")
    (140.0, 137.895)
    """
    match = re.fullmatch(rf"({_NUMBER})\s*(bar|psi)", _normalise_typed(text, name).lower())
    if match is None:
        raise InputError(name, text, "must be a pressure, such as 140 bar or 2000 psi")
    value = float(match[1].replace(",", "."))
    return value if match[2] == "bar" else round(value / PSI_PER_BAR, 3)


def add_typed_unit(text: str, quantity: str, habit: str) -> str:
    """A bare number as typed in a habit, with its unit, so that it means the same in the other
    habit.

    >>> (
    ...     add_typed_unit("15", "length", "in"),
    ...     add_typed_unit("1,6", "length", "mm"),
    ...     add_typed_unit(".065", "length", "mm"),
    ... )
    ('15 in', '1,6 mm', '.065 in')
    >>> (
    ...     add_typed_unit("20", "flow", "in"),
    ...     add_typed_unit("16 ga", "length", "in"),
    ...     add_typed_unit("9", "seconds", "in"),
    ... )
    ('20 CFH', '16 ga', '9')
    """
    stripped = text.strip()
    long = quantity in ("length", "stock")
    if (
        quantity not in TYPED_WITH_UNIT
        or not re.fullmatch(_NUMBER, stripped)
        or (long and stripped == "0")
    ):
        return text
    unit = get_typed_unit(quantity, "in" if long and stripped.startswith(".") else habit)
    return f"{stripped} {unit}"


def parse_bare_number(text: str) -> str:
    """A number that was typed without its unit, with a decimal point; "" where it is no such.

    >>> parse_bare_number(" 1,6 "), parse_bare_number("16 ga"), parse_bare_number(".2")
    ('1.6', '', '.2')
    """
    stripped = text.strip()
    return stripped.replace(",", ".") if re.fullmatch(_NUMBER, stripped) else ""


def parse_quantity(text: str, quantity: str, name: str, habit: str = "mm") -> float:
    """A figure of a kind of quantity as people type it; a bare number is in the habit's unit.
    Raises InputError.
    """
    if quantity in ("length", "stock"):
        return parse_length(text, name, bare_unit=get_typed_unit("length", habit)).mm
    if quantity == "flow":
        return parse_flow(add_typed_unit(text, quantity, habit), name)
    if quantity == "speed":
        return parse_speed(add_typed_unit(text, quantity, habit), name)
    if quantity == "pressure":
        return parse_pressure(add_typed_unit(text, quantity, habit), name)
    plainly = _normalise_typed(text, name).replace(",", ".").replace("−", "-").lower()
    for unit in _TYPED_UNITS.get(quantity, ()):
        if plainly.endswith(unit):
            plainly = plainly.removesuffix(unit).rstrip()
            break
    if not _SIGNED.fullmatch(plainly):
        raise InputError(name, text, "must be a number, such as 12 or 0.5")
    return float(plainly)


# units that may stand after a figure of a kind, as people type them, the longest first
_TYPED_UNITS = {
    "degrees": ("degrees", "degree", "deg", "°"),
    "percent": ("percent", "%"),
    "current": ("amps", "amp", "a"),
    "seconds": ("seconds", "sec", "s"),
    "rate": ("per second", "per second", "pps", "hz", "/s"),
    "ppm": ("ppm",),
    "mass": ("g",),
    "litres": ("litres", "liters", "l"),
}


def _round(mm: float) -> float:
    return round(mm, 6)


class Quantity(Struct, frozen=True):
    """A figure and its kind, for display in either unit system.

    Kinds with metric and inch units: length, size (a coarser length), stock (a nominal diameter),
    exact (a limit), speed, flow, temperature, heat (kJ/mm), volume. Kinds with one unit: current,
    rate, percent, ferrite, seconds, duration, degrees, ppm, mass, litres. Kinds without a unit:
    amps, number, count, plain.
    """

    value: float
    kind: str

    def text(self, habit: str = "mm") -> str:
        """The figure with its unit in the habit "mm" or "in".

        >>> (
        ...     Quantity(1.5875, "length").text(),
        ...     Quantity(1.5875, "length").text("in"),
        ...     Quantity(112, "duration").text(),
        ... )
        ('1.59 mm', '0.063 in', '1 min 52 s')
        """
        if self.kind == "duration":
            whole = round(self.value)
            return f"{whole // 60} min {whole % 60} s" if whole >= 60 else f"{whole} s"
        unit = _SHOWN[self.kind][habit](self.value)[1]
        return self.number(habit) + (unit if unit == "°" else f" {unit}" if unit else "")

    def number(self, habit: str = "mm") -> str:
        """The figure alone; amps as every sentence writes them."""
        value = round(self.value, _KEPT[self.kind]) if self.kind in _KEPT else self.value
        if self.kind in ("current", "amps"):
            return f"{value:.0f}"
        if self.kind == "stock" and habit == "in" and (sold := _format_sold_inch(value)):
            return sold
        if self.kind == "exact":
            return f"{value:g}" if habit == "mm" else f"{value / MM_PER_INCH:.4g}"
        shown, _, digits = _SHOWN[self.kind][habit](value)
        return format_plain(shown, digits)


def get_typed_unit(quantity: str, habit: str = "mm") -> str:
    """The unit a kind of quantity is typed in, "" where it has none.

    >>> get_typed_unit("flow", "in"), get_typed_unit("seconds", "in"), get_typed_unit("count")
    ('CFH', 's', '')
    """
    return _SHOWN[quantity][habit](1.0)[1] if quantity in _SHOWN else ""


def format_plain(value: float, digits: int = 2) -> str:
    """A number with at most so many decimals and no idle zeros; a true minus sign.

    >>> format_plain(1.50, 2), format_plain(-0.001, 2), format_plain(-12.5, 1)
    ('1.5', '0', '−12.5')
    """
    text = f"{value * (1 + 1e-12):.{digits}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    if text in ("-0", ""):
        text = "0"
    return text.replace("-", "−")


def _split_mm(v: float) -> tuple[float, str, int]:
    return v, "mm", 2 if v < 5 else 1 if v < 100 else 0


def _format_sold_inch(mm: float) -> str:
    """A diameter in inches as rods and tungstens are sold by it, "" for one that is not."""
    return next(
        (sold for size_mm, sold in SOLD_INCH.items() if abs(mm - size_mm) < SOLD_SLACK_MM), ""
    )


def _split_inch(v: float) -> tuple[float, str, int]:
    inches = v / MM_PER_INCH
    return inches, "in", 3 if inches < 0.995 else 2 if inches < 9.95 else 1


Shown = Callable[[float], tuple[float, str, int]]


def _build_same_units(unit: str, digits: int) -> dict[str, Shown]:
    """Shown alike in both habits."""
    return dict.fromkeys(HABITS, lambda v: (v, unit, digits))


_SHOWN: dict[str, dict[str, Shown]] = {
    "length": {"mm": _split_mm, "in": _split_inch},
    "stock": {"mm": _split_mm, "in": _split_inch},
    "exact": {"mm": _split_mm, "in": _split_inch},
    "size": {
        "mm": lambda v: (v, "mm", 1 if v < 100 else 0),
        "in": lambda v: (v / MM_PER_INCH, "in", 2 if v < 10 * MM_PER_INCH else 1),
    },
    "speed": {
        "mm": lambda v: (v, "mm/s", 2 if v < 1 else 1),
        "in": lambda v: (v * 60 / MM_PER_INCH, "in/min", 1),
    },
    "flow": {
        "mm": lambda v: (v, "L/min", 1),
        "in": lambda v: (v / L_MIN_PER_CFH, "CFH", 0 if v > 2 else 1),
    },
    "temperature": {
        "mm": lambda v: (v, "°C", 0),
        "in": lambda v: (COARSE_F * round((v * 1.8 + 32) / COARSE_F), "°F", 0),
    },
    "heat": {"mm": lambda v: (v, "kJ/mm", 3), "in": lambda v: (v * MM_PER_INCH, "kJ/in", 2)},
    "area": {
        "mm": lambda v: (v * 1e-6, "m²", 3),
        "in": lambda v: (v / (12 * MM_PER_INCH) ** 2, "ft²", 2),
    },
    "volume": {"mm": lambda v: (v, "L", 0), "in": lambda v: (v / L_PER_CUBIC_FOOT, "ft³", 1)},
    "pressure": {
        "mm": lambda v: (v, "bar", 3),
        "in": lambda v: (v * PSI_PER_BAR, "psi", 0),
    },
    "voltage": _build_same_units("V", 1),
    "energy": _build_same_units("kJ", 1),
    "current": _build_same_units("A", 0),
    "amps": _build_same_units("", 0),
    "rate": _build_same_units("/s", 1),
    "percent": _build_same_units("%", 0),
    "ferrite": _build_same_units("%", 1),
    "seconds": _build_same_units("s", 2),
    "duration": _build_same_units("s", 0),
    "degrees": _build_same_units("°", 2),
    "ppm": _build_same_units("ppm", 0),
    "mass": _build_same_units("g", 0),
    "litres": _build_same_units("L", 2),
    "number": _build_same_units("", 1),
    "count": _build_same_units("", 0),
    "plain": _build_same_units("", 2),
}
# decimals a figure is kept with: shown by those, so that a sentence and what was kept never differ
# by a second rounding
_KEPT = {"current": 1, "amps": 1, "speed": 2, "size": 2, "flow": 2}
TYPED_WITH_UNIT = ("length", "stock", "flow", "speed", "pressure")


# figures of each kind: mm, mm shown coarser, mm/s, L/min, °C, kJ/mm
length = partial(Quantity, kind="length")
size = partial(Quantity, kind="size")
stock = partial(Quantity, kind="stock")
exact = partial(Quantity, kind="exact")
speed = partial(Quantity, kind="speed")
flow = partial(Quantity, kind="flow")
temperature = partial(Quantity, kind="temperature")
heat = partial(Quantity, kind="heat")
# for sentences that contain the unit
amps_without_unit = partial(Quantity, kind="amps")


def format_amps(value: float) -> str:
    """Amps as every sentence and answer writes them, without the unit.

    >>> format_amps(36.546), format_amps(64.46), format_amps(64.54)
    ('36', '64', '64')
    """
    return amps_without_unit(value).number()


def format_count(count: int, thing: str) -> str:
    """So many of a thing.

    >>> format_count(1, "run"), format_count(0, "run")
    ('1 run', '0 runs')
    """
    return f"{count} {thing}{'' if count == 1 else 's'}"
