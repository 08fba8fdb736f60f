"""Pins: answers set by hand. The plan keeps them, lets the rest follow, and judges them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from . import catalogue, checks
from .errors import BadInput


@dataclass(frozen=True)
class PinKind:
    """What can be pinned: the answer it belongs to, its limits or allowed names, its kind of quantity."""

    answer: str
    label: str
    low: float = 0.0
    high: float = 0.0
    unit: str = ""
    quantity: str = "plain"
    allowed: tuple[Any, ...] = ()


@dataclass(frozen=True)
class Pin:
    """A value set by hand."""

    name: str
    value: Any


PINS: dict[str, PinKind] = {
    "rod_diameter_mm": PinKind("filler", "Rod diameter", 0.5, 3.2, "mm", "length"),
    "current_a": PinKind("current", "Welding current", 3, 400, "A"),
    "rate_pps": PinKind("pulse", "Pulses a second", 0.3, 500, "/s"),
    "on_pct": PinKind("pulse", "On time", 5, 95, "%"),
    "background_pct": PinKind("pulse", "Background", 1, 95, "%"),
    "peak_a": PinKind("pulse", "Peak", 5, 400, "A"),
    "tungsten_type": PinKind("tungsten", "Type", allowed=tuple(catalogue.tungsten_types())),
    "tungsten_mm": PinKind("tungsten", "Diameter", allowed=(1.0, 1.6, 2.4, 3.2), unit="mm", quantity="length"),
    "included_angle_deg": PinKind("tungsten", "Included angle", 8, 120, "°"),
    "front_end": PinKind("torch", "Front end", allowed=("gas-lens", "plain")),
    "cup": PinKind("torch", "Cup", allowed=tuple(catalogue.cups())),
    "stickout_mm": PinKind("torch", "Stick-out", 1, 40, "mm", "length"),
    "flow_l_min": PinKind("gas", "Flow", 1, 40, "L/min", "flow"),
    "preflow_s": PinKind("gas", "Pre-flow", 0, 30, "s"),
    "postflow_s": PinKind("gas", "Post-flow", 0, 60, "s"),
    "purge_l_min": PinKind("back", "Purge flow", 0.5, 30, "L/min", "flow"),
    "tack_pitch_mm": PinKind("tacks", "Tack pitch", 3, 500, "mm", "length"),
}


def make_pins(raw: Any) -> dict[str, Pin]:
    """Check pins. Parameters: raw, {name: value}. Raises BadInput by name.

    >>> make_pins({"cup": 6})["cup"].value
    6
    """
    if not isinstance(raw, Mapping):
        raise BadInput("pins", raw, 'must be an object of pinned answers, such as {"cup": 6}')
    pins: dict[str, Pin] = {}
    for key, value in raw.items():
        where = f"pins.{checks.name('pins', key, PINS)}"
        kind = PINS[key]
        if kind.allowed:
            if isinstance(value, bool) or value not in kind.allowed:
                allowed = ", ".join(str(v) for v in kind.allowed)
                raise BadInput(where, value, f"must be one of {allowed}")
            pins[key] = Pin(key, next(v for v in kind.allowed if v == value))
        else:
            pins[key] = Pin(key, checks.number(where, value, kind.low, kind.high, kind.unit))
    return pins
