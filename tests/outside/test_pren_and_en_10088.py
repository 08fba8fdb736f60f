"""Pitting number, usual form, and the 10.5 % chromium of EN 10088.

Usual values of grades, from memory: 304 about 18 to 20, 316L 23 to 26, 2205 at least 34, 904L 32 to
38.
"""

import unittest

from wisearc.core.catalogue import load_metals
from wisearc.core.physics.chemistry import calculate_pren

RANGES = {"304": (18, 21), "316L": (23, 26), "2205": (34, 37), "904L": (32, 38), "430": (16, 18)}


class Pitting(unittest.TestCase):
    def test_grades(self) -> None:
        for metal, (low, high) in RANGES.items():
            with self.subTest(metal=metal):
                self.assertTrue(low <= calculate_pren(load_metals()[metal].analysis) <= high)

    def test_every_stainless_metal_has_its_chromium(self) -> None:
        for metal in load_metals().values():
            self.assertEqual(metal.stainless, metal.analysis.get("Cr", 0) >= 10.5, metal.key)
