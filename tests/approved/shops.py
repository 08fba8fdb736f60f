"""Invented shops for the cases."""

from __future__ import annotations

from wisearc.core.shop.data import make_shop
from wisearc.core.shop.shop import ASSUMED

_STOCK = {
    "has": ["oxygen-meter", "foil"],
    "rods": [
        {"rod": "ER316L", "diameter_mm": 1.6, "count": 22, "price": 1.9},
        {"rod": "ER308L", "diameter_mm": 1.0, "count": 30},
        {"rod": "ER347", "diameter_mm": 1.0, "count": 3},
        {"rod": "ER309L", "diameter_mm": 1.6, "count": 1},
    ],
    "tungstens": [
        {"type": "lanthanated-2", "diameter_mm": 1.6, "count": 6, "price": 4.4},
        {"type": "ceriated-2", "diameter_mm": 2.4, "length_mm": 150, "count": 2},
        {"type": "thoriated-2", "diameter_mm": 1.6, "count": 1},
    ],
    "bars": [
        {"metal": "copper", "length_mm": 150, "grooved": True, "count": 6},
        {"metal": "aluminium", "length_mm": 200, "width_mm": 40, "thickness_mm": 10, "count": 2},
    ],
    "cylinders": [
        {"name": "large", "gas": "argon", "water_l": 50, "bar": 84, "price": 68},
        {"name": "small", "gas": "argon", "water_l": 10, "bar": 30},
    ],
    "machines": [
        {
            "name": "pulsed",
            "least_a": 5,
            "most_a": 200,
            "pulse": {"least_pps": 0.5, "most_pps": 250},
        },
        {
            "name": "plain",
            "least_a": 10,
            "most_a": 160,
            "pulse": None,
            "preflow_most_s": 2,
            "postflow_most_s": 8,
            "starts": ["lift"],
            "controls": ["slide"],
        },
    ],
    "torches": [
        {"name": "large", "size": "17", "machine": "pulsed"},
        {"name": "small", "size": "9"},
    ],
    "parts": [
        {"kind": "heat-shield", "family": "large", "count": 2},
        {"kind": "gas-lens", "family": "large", "tungsten_mm": 1.6, "count": 2},
        {"kind": "gas-lens", "family": "large", "tungsten_mm": 2.4, "count": 1},
        {"kind": "collet-body", "family": "large", "tungsten_mm": 1.6, "count": 1},
        {"kind": "collet", "family": "large", "tungsten_mm": 1.6, "count": 3},
        {"kind": "cup", "family": "large", "cup": 6, "fits": "gas-lens", "count": 1},
        {"kind": "cup", "family": "large", "cup": 7, "fits": "gas-lens", "count": 2},
        {"kind": "cup", "family": "large", "cup": 12, "fits": "gas-lens", "count": 1},
        {"kind": "cup", "family": "large", "cup": 6, "fits": "plain", "count": 2},
        {"kind": "back-cap", "family": "large", "length": "long", "count": 1},
        {"kind": "heat-shield", "family": "small", "count": 1},
        {"kind": "gas-lens", "family": "small", "tungsten_mm": 1.6, "count": 1},
        {"kind": "collet", "family": "small", "tungsten_mm": 1.6, "count": 2},
        {"kind": "cup", "family": "small", "cup": 8, "fits": "gas-lens", "count": 1},
        {"kind": "back-cap", "family": "small", "length": "short", "count": 1},
    ],
}
SHOPS = {
    "none": ASSUMED,
    "pulsed": make_shop({**_STOCK, "bench_machine": "pulsed", "bench_torch": "large"}),
    "plain": make_shop({**_STOCK, "bench_machine": "plain", "bench_torch": "small"}),
}
