"""Typed quantities: a text with or without unit, parsed to the unit of the core.

A gauge is a thickness by the scale of its member. Every error names what is wrong and what is
allowed.
"""

from __future__ import annotations

import math
import re
from fractions import Fraction

from msgspec import Struct

from .catalogue import load_gauge_scales
from .errors import InputError
from .quantities import L_MIN_PER_CFH, MM_PER_INCH, PSI_PER_BAR, get_typed_unit

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
_INCH = re.compile(r"\bin\b|inch|\"|″|”|thou|mil\b|ft\b|/|^\.")
_METRIC = re.compile(r"(?<![a-z])(?:[cm]?m|milli\w*)\b")
_GAUGE_FIRST = re.compile(r"(?:gauge|ga)\s*([0-9]+)(?:\s+([a-z]+))?")
_FRACTION = re.compile(rf"(?:([0-9]+)[\s-]+)?([0-9]+)\s*/\s*([0-9]+)\s*({_UNIT})?")
_PLAIN = re.compile(rf"({_NUMBER})\s*({_UNIT})?")
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
_FLOW = re.compile(rf"({_NUMBER})\s*(l/min|lpm|l|cfh|ft³/h)?")
_SCALE_NAMES = {
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
TYPED_WITH_UNIT = ("length", "stock", "flow", "speed", "pressure")
# The units that people type after each kind of figure, the longest first.
_TYPED_UNITS = {
    "degrees": ("degrees", "degree", "deg", "°"),
    "percent": ("percent", "%"),
    "current": ("amps", "amp", "a"),
    "seconds": ("seconds", "sec", "s"),
    "rate": ("per second", "pps", "hz", "/s"),
    "ppm": ("ppm",),
    "mass": ("g",),
    "litres": ("litres", "liters", "l"),
}
# A longer text is refused without parsing, because no figure needs it.
MAX_TYPED_LENGTH = 60
LENGTH_RULE = "must be a length, such as 1.6 mm, 16 ga, .065, 1/16 in or 1,6 mm"


class Length(Struct, frozen=True):
    """A length, with its typed text and, for a gauge, its value in other scales.

    Attributes:
        mm: Length, mm.
        typed: Text as typed.
        scale: Gauge scale, or None.
        others: Label and mm of each other scale.
    """

    mm: float
    typed: str
    scale: str | None = None
    others: tuple[tuple[str, float], ...] = ()


def scale_for(metal_kind: str, form: str, coating: str = "none") -> str:
    """Return the gauge scale of a member: tube wall, galvanised, stainless or carbon sheet.

    Args:
        metal_kind: Kind of the metal.
        form: "sheet", "tube" or another form.
        coating: Coating, or "none".

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


def split_sizes(text: str) -> list[str]:
    """Return the sizes of a list: separated by lines, semicolons, or commas with a space.

    >>> split_sizes("51, 25; 1 1/2 in")
    ['51', '25', '1 1/2 in']
    """
    return [part.strip() for part in re.split(r";|,\s+|\n", text) if part.strip()]


def is_typed_in_inches(text: str, units: str) -> bool:
    """Return whether a typed size is in inches.

    Args:
        text: The text.
        units: Unit system of numbers without unit.

    >>> is_typed_in_inches("1 1/2", "mm"), is_typed_in_inches("25 mm", "in")
    (True, False)
    >>> is_typed_in_inches("5 cm", "in"), is_typed_in_inches("60 thou", "mm")
    (False, True)
    """
    return bool(_INCH.search(text)) or (units == "in" and not _METRIC.search(text))


def find_nearest_gauge(mm: float, scale: str) -> tuple[int, float]:
    """Return the nearest number of a gauge scale, and its thickness, mm.

    Args:
        mm: The thickness.
        scale: The scale.

    >>> find_nearest_gauge(1.5, "carbon")[0], find_nearest_gauge(1.5, "stainless")[0]
    (16, 16)
    """
    sizes = {int(ga): size * MM_PER_INCH for ga, size in load_gauge_scales()[scale].inches.items()}
    number = min(sizes, key=lambda ga: abs(sizes[ga] - mm))
    return number, sizes[number]


def parse_length(
    text: str, name: str = "length", scale: str = "stainless", bare_unit: str = ""
) -> Length:
    """Parse a length as a person types it.

    Args:
        text: The text.
        name: Field name for the error.
        scale: Gauge scale of a plain "16 ga".
        bare_unit: Unit of a number without unit, "mm" or "in". If empty, a fraction or a number
            that starts with the decimal point is in inches (".065", "1/16"), and any other is in
            mm.

    Raises:
        InputError: The text is not a length.

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
        integer, top, bottom, unit = match.groups()
        if int(bottom) == 0:
            raise InputError(
                name, typed, "cannot be a fraction with 0 below the line. " + LENGTH_RULE
            )
        value = float(int(integer or 0) + Fraction(int(top), int(bottom))) * _UNITS[unit or "in"]
        return Length(_length_mm(value, name, typed), typed)
    if match := _PLAIN.fullmatch(low):
        digits, unit = match[1].replace(",", "."), match[2]
        if not unit:
            unit = bare_unit or ("in" if digits.startswith(".") else "mm")
        return Length(_length_mm(float(digits) * _UNITS[unit], name, typed), typed)
    raise InputError(name, typed, LENGTH_RULE)


def _normalise_typed(text: str, name: str) -> str:
    """Return the typed text with normal spaces.

    Raises:
        InputError: The text is too long for a figure.
    """
    if len(text) > MAX_TYPED_LENGTH:
        raise InputError(name, text, f"is too long. Type at most {MAX_TYPED_LENGTH} characters")
    return " ".join(text.split())


def _length_mm(value: float, name: str, typed: str) -> float:
    if not math.isfinite(value) or value > 1e7:
        raise InputError(name, typed, "is more than this product can plan. " + LENGTH_RULE)
    return _round(value)


def _parse_gauge(number: str, word: str | None, typed: str, name: str, scale: str) -> Length:
    scales = load_gauge_scales()
    if word and word not in _SCALE_NAMES:
        raise InputError(
            name,
            typed,
            (
                "must name a gauge scale: stainless, carbon, tube or galvanised. Example: 16 "
                "ga carbon"
            ),
        )
    use = _SCALE_NAMES[word] if word else scale
    if number not in scales[use].inches:
        has = ", ".join(scales[use].inches)
        raise InputError(name, typed, f"is not a number of the {scales[use].label} gauge: {has}")
    others = tuple(
        (row.label, _round(row.inches[number] * MM_PER_INCH))
        for key, row in scales.items()
        if key != use and number in row.inches
    )
    return Length(_round(scales[use].inches[number] * MM_PER_INCH), typed, use, others)


def parse_speed(text: str, name: str = "travel", bare_unit: str = "mm/s") -> float:
    """Parse a travel speed, mm/s.

    Args:
        text: The text.
        name: Field name for the error.
        bare_unit: Unit of a number without unit.

    Raises:
        InputError: The text is not a travel speed.

    >>> parse_speed("3,4"), round(parse_speed("8 in/min"), 3), parse_speed("180 mm/min")
    (3.4, 3.387, 3.0)
    """
    match = _SPEED.fullmatch(_normalise_typed(text, name).lower())
    if not match:
        raise InputError(name, text, "must be a speed, such as 3.4 mm/s, 200 mm/min or 8 in/min")
    return round(float(match[1].replace(",", ".")) * _SPEED_UNITS[match[2] or bare_unit], 6)


def parse_flow(text: str, name: str = "flow") -> float:
    """Parse a gas flow, L/min.

    Args:
        text: The text.
        name: Field name for the error.

    Raises:
        InputError: The text is not a flow.

    >>> parse_flow("9,5"), round(parse_flow("20 CFH"), 2)
    (9.5, 9.44)
    """
    match = _FLOW.fullmatch(_normalise_typed(text, name).lower())
    if not match:
        raise InputError(name, text, "must be a flow, such as 9.5 L/min or 20 CFH")
    value = float(match[1].replace(",", "."))
    return round(value * L_MIN_PER_CFH, 4) if match[2] in ("cfh", "ft³/h") else value


def parse_pressure(text: str, name: str = "pressure") -> float:
    """Parse a gauge pressure with its unit, bar.

    Args:
        text: The text.
        name: Field name for the error.

    Raises:
        InputError: The text is not a pressure.

    >>> parse_pressure("140 bar"), parse_pressure("2000 psi")
    (140.0, 137.895)
    """
    match = re.fullmatch(rf"({_NUMBER})\s*(bar|psi)", _normalise_typed(text, name).lower())
    if match is None:
        raise InputError(name, text, "must be a pressure, such as 140 bar or 2000 psi")
    value = float(match[1].replace(",", "."))
    return value if match[2] == "bar" else round(value / PSI_PER_BAR, 3)


def add_typed_unit(text: str, quantity: str, units: str) -> str:
    """Return a typed number with its unit, so that its meaning does not depend on the unit system.

    Args:
        text: The text.
        quantity: Kind of quantity.
        units: Unit system in which it was typed.

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
    unit = get_typed_unit(quantity, "in" if long and stripped.startswith(".") else units)
    return f"{stripped} {unit}"


def parse_bare_number(text: str) -> str:
    """Return a number typed without unit, with a decimal point, or "".

    >>> parse_bare_number(" 1,6 "), parse_bare_number("16 ga"), parse_bare_number(".2")
    ('1.6', '', '.2')
    """
    stripped = text.strip()
    return stripped.replace(",", ".") if re.fullmatch(_NUMBER, stripped) else ""


def parse_quantity(text: str, quantity: str, name: str, units: str = "mm") -> float:
    """Parse a figure of a kind of quantity.

    A number without unit is in the unit system. A diameter as sold that starts with the decimal
    point is always in inches.

    Args:
        text: The text.
        quantity: Kind of quantity.
        name: Field name for the error.
        units: Unit system, "mm" or "in".

    Raises:
        InputError: The text is not such a figure.

    >>> parse_quantity(".045", "stock", "rod"), parse_quantity("1/16", "stock", "rod")
    (1.143, 1.5875)
    """
    if quantity == "stock":
        return parse_length(add_typed_unit(text, quantity, units), name).mm
    if quantity == "length":
        return parse_length(text, name, bare_unit=get_typed_unit("length", units)).mm
    if quantity == "flow":
        return parse_flow(add_typed_unit(text, quantity, units), name)
    if quantity == "speed":
        return parse_speed(add_typed_unit(text, quantity, units), name)
    if quantity == "pressure":
        return parse_pressure(add_typed_unit(text, quantity, units), name)
    plainly = _normalise_typed(text, name).replace(",", ".").replace("−", "-").lower()
    for unit in _TYPED_UNITS.get(quantity, ()):
        if plainly.endswith(unit):
            plainly = plainly.removesuffix(unit).rstrip()
            break
    if not _SIGNED.fullmatch(plainly):
        raise InputError(name, text, "must be a number, such as 12 or 0.5")
    return float(plainly)


def _round(mm: float) -> float:
    return round(mm, 6)
