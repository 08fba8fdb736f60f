"""Séférian, D., Métallurgie de la soudure, 1959, with Schaeffler's equivalents.

The common fillers: ferrite of undiluted weld metal as in data sheets and standards, as ranges, from
memory. The formula and the diagram agree within a few per cent, so the ranges have that width.
"""

import unittest

from wisearc.core.catalogue import load_rods
from wisearc.core.physics.chemistry import calculate_cr_eq, calculate_ni_eq, ferrite_pct

RANGES = {
    "ER308L": (7, 13),
    "ER316L": (4, 10),
    "ER309L": (8, 16),
    "ER309LMo": (12, 22),
    "ER347": (5, 12),
    "ER310": (0, 0),
    "ER385": (0, 0),
    "ER312": (25, 45),
}


class Fillers(unittest.TestCase):
    def test_ranges(self) -> None:
        for rod, (low, high) in RANGES.items():
            with self.subTest(rod=rod):
                self.assertTrue(low <= ferrite_pct(load_rods()[rod].analysis) <= high)

    def test_er308l_calculated_manually(self) -> None:
        """Creq = 20 + 0.1 + 1.5 × 0.4 = 20.7; Nieq = 10 + 30 × 0.015 + 0.5 × 1.8 = 11.35.

        δ = 3 × 3.4445 = 10.3.
        """
        rod = load_rods()["ER308L"].analysis
        self.assertAlmostEqual(calculate_cr_eq(rod), 20.7, places=9)
        self.assertAlmostEqual(calculate_ni_eq(rod), 11.35, places=9)
        self.assertAlmostEqual(ferrite_pct(rod), 10.33, delta=0.01)

    def test_schaeffler_fully_austenitic_corner(self) -> None:
        """Schaeffler's diagram, from memory.

        Creq 25, Nieq 25 is austenite; Creq 30, Nieq 12 is deep in A+F.
        """
        self.assertEqual(ferrite_pct({"Cr": 25.0, "Ni": 25.0}), 0.0)
        self.assertGreater(ferrite_pct({"Cr": 30.0, "Ni": 12.0}), 30.0)
