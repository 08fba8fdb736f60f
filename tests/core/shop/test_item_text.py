"""Text of each item of the inventory in both unit systems."""

from __future__ import annotations

import unittest

from wisearc.core.shop.data import make_item
from wisearc.core.shop.words import format_item

ITEMS = (
    (
        "bars",
        {"metal": "copper", "length_mm": 127, "width_mm": 25.4, "thickness_mm": 6.35},
        "copper bar 127 mm × 25.4 mm × 6.35 mm",
        "copper bar 5 in × 1 in × 0.25 in",
    ),
    (
        "rods",
        {"rod": "ER308L", "diameter_mm": 1.6, "length_mm": 914.4},
        "ER308L 1.6 mm, 914.4 mm",
        "ER308L 1/16 in, 36 in",
    ),
    (
        "tungstens",
        {"type": "lanthanated-2", "diameter_mm": 2.4, "length_mm": 177.8},
        "tungsten 2.4 mm, 2 % lanthanated (blue), 177.8 mm",
        "tungsten 3/32 in, 2 % lanthanated (blue), 7 in",
    ),
    (
        "machines",
        {"name": "bench", "least_a": 5, "most_a": 200, "pulse": None},
        "bench: 5 to 200 A, no pulse",
        "bench: 5 to 200 A, no pulse",
    ),
    (
        "torches",
        {"name": "slim", "size": "9", "machine": "bench"},
        "slim: no. 9, air-cooled, 125 A, on bench",
        "slim: no. 9, air-cooled, 125 A, on bench",
    ),
    (
        "parts",
        {"kind": "cup", "family": "large", "cup": 8, "fits": "plain"},
        "cup no. 8, for a collet body (large)",
        "cup no. 8, for a collet body (large)",
    ),
    (
        "cylinders",
        {"name": "small", "gas": "argon", "water_l": 10, "bar": 150, "purity_pct": 99.998},
        "small: argon, 10 L of water, 150 bar, 99.998 %",
        "small: argon, 10 L of water, 2176 psi, 99.998 %",
    ),
)


class Texts(unittest.TestCase):
    def test_each_kind(self) -> None:
        for key, data, *texts in ITEMS:
            item = make_item(key, data)
            with self.subTest(key=key):
                self.assertEqual([format_item(item), format_item(item, "in")], texts)


if __name__ == "__main__":
    unittest.main()
