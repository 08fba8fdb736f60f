"""An item of the shop in words."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from .. import catalogue
from ..quantities import stock
from .shop import CAPS

PSI_PER_BAR = 14.503774


def words_of(key: str, data: Mapping[str, Any], habit: str = "mm") -> str:
    """An item in words: "cup no. 8, for a lens (large)"."""
    return _WORDS[key](data, habit)


def _machine(data: Mapping[str, Any], _habit: str) -> str:
    pulse = data["pulse"]
    made = (
        "no pulse"
        if pulse is None
        else f"pulses {pulse['least_pps']:g} to {pulse['most_pps']:g} /s"
    )
    return f"{data['name']}: {data['least_a']:g} to {data['most_a']:g} A, {made}"


def _torch(data: Mapping[str, Any], _habit: str) -> str:
    row = catalogue.torches()[data["size"]]
    on = f", on {data['machine']}" if data["machine"] else ""
    return (
        f"{data['name']}: no. {data['size']}, {'water' if row.water else 'air'}-cooled,"
        f" {row.rating_a:g} A{on}"
    )


def _part(data: Mapping[str, Any], habit: str) -> str:
    kind = catalogue.part_kinds()[data["kind"]]
    words = kind.name
    if kind.has("caps"):
        words = f"{CAPS.get(data['length'] or 'long', '')} {words}"
    if kind.has("numbered"):
        words += f" no. {data['cup']}, for a {'plain body' if data['fits'] == 'plain' else 'lens'}"
    if kind.has("for_tungsten"):
        words += f" {stock(data['tungsten_mm']).text(habit)}"
    return f"{words} ({data['family']})"


def _tungsten(data: Mapping[str, Any], habit: str) -> str:
    kind = catalogue.tungsten_types()[data["type"]]
    return (
        f"tungsten {stock(data['diameter_mm']).text(habit)}, {kind.name} ({kind.colour}),"
        f" {_length(data['length_mm'], habit)}"
    )


def _rod(data: Mapping[str, Any], habit: str) -> str:
    return (
        f"{data['rod']} {stock(data['diameter_mm']).text(habit)},"
        f" {_length(data['length_mm'], habit)}"
    )


def _bar(data: Mapping[str, Any], habit: str) -> str:
    size = " × ".join(
        _length(data[key], habit) for key in ("length_mm", "width_mm", "thickness_mm")
    )
    return f"{data['metal']} bar {size}{', grooved' if data['grooved'] else ''}"


def _cylinder(data: Mapping[str, Any], habit: str) -> str:
    name = f"{data['name']}: " if data["name"] else ""
    pressure = " ".join(gauge(data["bar"], habit))
    return (
        f"{name}{data['gas']}, {data['water_l']:g} L of water, {pressure}, {data['purity_pct']:g} %"
    )


def _length(mm: float, habit: str) -> str:
    return f"{mm / 25.4:.3g} in" if habit == "in" else f"{mm:g} mm"


_WORDS = {
    "machines": _machine,
    "torches": _torch,
    "parts": _part,
    "tungstens": _tungsten,
    "rods": _rod,
    "bars": _bar,
    "cylinders": _cylinder,
}


def gauge(bar: float, habit: str) -> tuple[str, str]:
    """What a cylinder's gauge shows, and its unit."""
    return (f"{bar * PSI_PER_BAR:.0f}", "psi") if habit == "in" else (f"{bar:g}", "bar")
