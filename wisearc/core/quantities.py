"""Quantities: conversions, and figures in both unit systems.

The core calculates in mm, s, A, V, °C, L/min, kJ/mm and wt%. The unit system ("mm" or "in") changes
the display and never the calculation. Conversions are exact by definition (1 in = 25.4 mm) or use
the standard factors: 1 CFH = 0.4719 L/min (1 ft³ = 28.316 846 592 L).
"""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from msgspec import Struct

MM_PER_INCH = 25.4
L_PER_CUBIC_FOOT = 28.316846592
L_MIN_PER_CFH = L_PER_CUBIC_FOOT / 60
# By the definitions of the pound, the inch and standard gravity.
PSI_PER_BAR = 14.503774
UNIT_SYSTEMS = ("mm", "in")

# Diameters of rods and tungstens sold by the inch, mm: common practice.
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
# A temperature in °F is rounded to this step. A difference of 2 °F has no meaning at 842 °F.
COARSE_F = 10


class Quantity(Struct, frozen=True):
    """A figure and its kind, for display in either unit system.

    Kinds with metric and inch units: length, size (a coarser length), stock (a nominal diameter),
    exact (a limit), speed, flow, temperature, heat (kJ/mm), volume. Kinds with one unit: current,
    rate, percent, ferrite, seconds, duration, degrees, ppm, mass, litres. Kinds without a unit:
    amps, number, count, plain.
    """

    value: float
    kind: str

    def text(self, units: str = "mm") -> str:
        """Return the figure with its unit.

        Args:
            units: Unit system, "mm" or "in".

        >>> (
        ...     Quantity(1.5875, "length").text(),
        ...     Quantity(1.5875, "length").text("in"),
        ...     Quantity(112, "duration").text(),
        ... )
        ('1.59 mm', '0.063 in', '1 min 52 s')
        """
        if self.kind == "duration":
            integer = round(self.value)
            return f"{integer // 60} min {integer % 60} s" if integer >= 60 else f"{integer} s"
        unit = _DISPLAYS[self.kind][units](self.value)[1]
        return self.number(units) + (unit if unit == "°" else f" {unit}" if unit else "")

    def number(self, units: str = "mm") -> str:
        """Return the figure without unit.

        Amps are rounded as in every sentence.
        """
        value = round(self.value, _KEPT[self.kind]) if self.kind in _KEPT else self.value
        if self.kind in ("current", "amps"):
            return f"{value:.0f}"
        if self.kind == "stock" and units == "in" and (sold := _format_sold_inch(value)):
            return sold
        if self.kind == "exact":
            return f"{value:g}" if units == "mm" else f"{value / MM_PER_INCH:.4g}"
        displayed, _, digits = _DISPLAYS[self.kind][units](value)
        return format_plain(displayed, digits)


def get_typed_unit(quantity: str, units: str = "mm") -> str:
    """Return the unit in which a kind of quantity is typed, or "".

    Args:
        quantity: Kind of quantity.
        units: Unit system.

    >>> get_typed_unit("flow", "in"), get_typed_unit("seconds", "in"), get_typed_unit("count")
    ('CFH', 's', '')
    """
    return _DISPLAYS[quantity][units](1.0)[1] if quantity in _DISPLAYS else ""


def format_plain(value: float, digits: int = 2) -> str:
    """Return a number without trailing zeros, with a true minus sign.

    Args:
        value: The number.
        digits: Maximum number of decimals.

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
    """Return a diameter in inches if rods and tungstens are sold in it, or ""."""
    return next(
        (sold for size_mm, sold in SOLD_INCH.items() if abs(mm - size_mm) < SOLD_SLACK_MM), ""
    )


def _split_inch(v: float) -> tuple[float, str, int]:
    inches = v / MM_PER_INCH
    return inches, "in", 3 if inches < 0.995 else 2 if inches < 9.95 else 1


Display = Callable[[float], tuple[float, str, int]]


def _build_same_units(unit: str, digits: int) -> dict[str, Display]:
    """Return the display of a kind with the same unit in both unit systems."""
    return dict.fromkeys(UNIT_SYSTEMS, lambda v: (v, unit, digits))


_DISPLAYS: dict[str, dict[str, Display]] = {
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
# Saved figures have these decimals. The display uses them too, so that a sentence and the saved
# value never differ by a second rounding.
_KEPT = {"current": 1, "amps": 1, "speed": 2, "size": 2, "flow": 2}


# Figures of each kind: mm, coarser mm, mm/s, L/min, °C, kJ/mm.
length = partial(Quantity, kind="length")
size = partial(Quantity, kind="size")
stock = partial(Quantity, kind="stock")
exact = partial(Quantity, kind="exact")
speed = partial(Quantity, kind="speed")
flow = partial(Quantity, kind="flow")
temperature = partial(Quantity, kind="temperature")
heat = partial(Quantity, kind="heat")
# For sentences that contain the unit.
amps_without_unit = partial(Quantity, kind="amps")


def format_amps(value: float) -> str:
    """Return amps as in every sentence and answer, without the unit.

    >>> format_amps(36.546), format_amps(64.46), format_amps(64.54)
    ('36', '64', '64')
    """
    return amps_without_unit(value).number()


def format_count(count: int, thing: str) -> str:
    """Return a count with its noun.

    Args:
        count: The number.
        thing: The noun in the singular.

    >>> format_count(1, "run"), format_count(0, "run")
    ('1 run', '0 runs')
    """
    return f"{count} {thing}{'' if count == 1 else 's'}"
