"""An item of the shop in words."""

from __future__ import annotations

from .. import catalogue
from ..quantities import Quantity, stock
from .shop import CAPS, Bar, Cylinder, Item, Machine, OwnTorch, Part, RodStock, TungstenStock


def format_item(item: Item, habit: str = "mm") -> str:
    """An item in words: "cup no. 8, for a gas lens (large)"."""
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
            return _format_part(item, habit)
        case TungstenStock():
            kind = catalogue.load_tungsten_types()[item.type]
            size = f"{stock(item.diameter_mm).text(habit)}, {kind.name} ({kind.colour})"
            return f"tungsten {size}, {_format_length(item.length_mm, habit)}"
        case RodStock():
            size = stock(item.diameter_mm).text(habit)
            return f"{item.rod} {size}, {_format_length(item.length_mm, habit)}"
        case Bar():
            sides = (item.length_mm, item.width_mm, item.thickness_mm)
            size = " × ".join(_format_length(mm, habit) for mm in sides)
            return f"{item.metal} bar {size}{', grooved' if item.grooved else ''}"
        case Cylinder():
            name = f"{item.name}: " if item.name else ""
            held = f"{item.water_l:g} L of water, {Quantity(item.bar, 'pressure').text(habit)}"
            return f"{name}{item.gas}, {held}, {item.purity_pct:g} %"


def _format_part(item: Part, habit: str) -> str:
    kind = catalogue.load_part_kinds()[item.kind]
    words = kind.name
    if kind.has("caps"):
        words = f"{CAPS[item.length or 'long']} {words}"
    if kind.has("numbered"):
        words += f" no. {item.cup}, for a {'collet body' if item.fits == 'plain' else 'gas lens'}"
    if item.tungsten_mm is not None and kind.has("for_tungsten"):
        words += f" {stock(item.tungsten_mm).text(habit)}"
    return f"{words} ({item.family})"


def _format_length(mm: float, habit: str) -> str:
    return f"{mm / 25.4:.3g} in" if habit == "in" else f"{mm:g} mm"
