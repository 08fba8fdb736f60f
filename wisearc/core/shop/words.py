"""Descriptions of shop items."""

from __future__ import annotations

from .. import catalogue
from ..quantities import Quantity, stock
from .shop import CAPS, Bar, Cylinder, Item, Machine, OwnTorch, Part, RodStock, TungstenStock


def format_item(item: Item, units: str = "mm") -> str:
    """Return the description of an item: "cup no. 8, for a gas lens (large)".

    Args:
        item: The item.
        units: Unit system.
    """
    match item:
        case Machine():
            pulse = item.pulse
            pulses = (
                f"pulses from {pulse.least_pps:g} to {pulse.most_pps:g} /s" if pulse else "no pulse"
            )
            return f"{item.name}: {item.least_a:g} to {item.most_a:g} A, {pulses}"
        case OwnTorch():
            on = f", on {item.machine}" if item.machine else ""
            cooled = "water" if item.row.water else "air"
            return f"{item.name}: no. {item.size}, {cooled}-cooled, {item.row.rating_a:g} A{on}"
        case Part():
            return _format_part(item, units)
        case TungstenStock():
            kind = catalogue.load_tungsten_types()[item.type]
            size = f"{stock(item.diameter_mm).text(units)}, {kind.name} ({kind.colour})"
            return f"tungsten {size}, {_format_length(item.length_mm, units)}"
        case RodStock():
            size = stock(item.diameter_mm).text(units)
            return f"{item.rod} {size}, {_format_length(item.length_mm, units)}"
        case Bar():
            sides = (item.length_mm, item.width_mm, item.thickness_mm)
            size = " × ".join(_format_length(mm, units) for mm in sides)
            return f"{item.metal} bar {size}{', grooved' if item.grooved else ''}"
        case Cylinder():
            name = f"{item.name}: " if item.name else ""
            held = f"{item.water_l:g} L of water, {Quantity(item.bar, 'pressure').text(units)}"
            return f"{name}{item.gas}, {held}, {item.purity_pct:g} %"


def _format_part(item: Part, units: str) -> str:
    kind = catalogue.load_part_kinds()[item.kind]
    text = kind.name
    if kind.has("caps"):
        text = f"{CAPS[item.length or 'long']} {text}"
    if kind.has("numbered"):
        text += f" no. {item.cup}, for a {'collet body' if item.fits == 'plain' else 'gas lens'}"
    if item.tungsten_mm is not None and kind.has("for_tungsten"):
        text += f" {stock(item.tungsten_mm).text(units)}"
    return f"{text} ({item.family})"


def _format_length(mm: float, units: str) -> str:
    return f"{mm / 25.4:.3g} in" if units == "in" else f"{mm:g} mm"
