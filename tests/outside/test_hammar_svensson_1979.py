"""Hammar, O. and Svensson, U., 1979, with Suutala's boundary of 1.5: mode of solidification.

Known modes, from memory: ferrite first in 304 and its rod; austenite first in 310 and 904L; 2205
fully ferritic.
"""

import unittest

from wisearc.core.catalogue import load_metals, load_rods
from wisearc.core.physics.chemistry import calculate_solidification_ratio

FERRITE_FIRST = ("304", "304L", "316L", "321", "347")
AUSTENITE_FIRST = ("310S", "904L")


class Modes(unittest.TestCase):
    def test_sheets(self) -> None:
        for metal in FERRITE_FIRST:
            self.assertTrue(
                1.5 <= calculate_solidification_ratio(load_metals()[metal].analysis) < 2.3, metal
            )
        for metal in AUSTENITE_FIRST:
            self.assertLess(
                calculate_solidification_ratio(load_metals()[metal].analysis), 1.5, metal
            )
        self.assertGreater(calculate_solidification_ratio(load_metals()["2205"].analysis), 2.0)

    def test_rods(self) -> None:
        for rod in ("ER308L", "ER316L", "ER309L", "ER347"):
            self.assertGreater(calculate_solidification_ratio(load_rods()[rod].analysis), 1.5, rod)
        self.assertLess(calculate_solidification_ratio(load_rods()["ER310"].analysis), 1.5)
        self.assertGreater(calculate_solidification_ratio(load_rods()["ER312"].analysis), 2.0)

    def test_304l_calculated_manually(self) -> None:
        """Cr′ = 18.2 + 0.274 + 0.675 = 19.149; Ni′ = 8.1 + 0.465 + 0.44 + 0.994 = 9.999.

        Ratio 1.915.
        """
        self.assertAlmostEqual(
            calculate_solidification_ratio(load_metals()["304L"].analysis), 19.149 / 9.999, places=3
        )
