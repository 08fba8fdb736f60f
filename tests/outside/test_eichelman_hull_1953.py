"""Eichelman, G.

H. and Hull, F. C., 1953: martensite start of austenitic stainless. Their reference steel (14.6 Cr,
8.9 Ni, 1.33 Mn, 0.47 Si, 0.068 C+N) starts at 0 °F by the form of the equation. Known of standard
steels, from memory: 304 stays austenitic at room temperature and far below; a lean low-carbon 17-7
steel is near room temperature.
"""

import unittest

from wisearc.core.catalogue import load_metals
from wisearc.core.physics.chemistry import has_martensite_start, martensite_start_c

REFERENCE = {"Cr": 14.6, "Ni": 8.9, "Mn": 1.33, "Si": 0.47, "C": 0.06, "N": 0.008}


class Start(unittest.TestCase):
    def test_reference_steel(self) -> None:
        self.assertAlmostEqual(martensite_start_c(REFERENCE), (0 - 32) / 1.8, places=6)

    def test_coefficients_by_element(self) -> None:
        """One per cent of each element lowers the start in °F.

        Cr 75, Ni 110, Mn 60, Si 50; C or N 0.01 by 30.
        """
        for element, step, fall in (
            ("Cr", 1, 75),
            ("Ni", 1, 110),
            ("Mn", 1, 60),
            ("Si", 1, 50),
            ("C", 0.01, 30),
            ("N", 0.01, 30),
        ):
            more = {**REFERENCE, element: REFERENCE[element] + step}
            self.assertAlmostEqual(
                (martensite_start_c(REFERENCE) - martensite_start_c(more)) * 1.8, fall, places=6
            )

    def test_304_stays_austenite(self) -> None:
        self.assertLess(martensite_start_c({**load_metals()["304"].analysis, "Cr": 18.0}), -100)

    def test_lean_steel_near_room_temperature(self) -> None:
        lean = {"Cr": 17.0, "Ni": 7.0, "Mn": 1.0, "Si": 0.5, "C": 0.03, "N": 0.02}
        self.assertTrue(-60 < martensite_start_c(lean) < 80)

    def test_range(self) -> None:
        self.assertTrue(has_martensite_start(REFERENCE))
        self.assertFalse(has_martensite_start(load_metals()["430"].analysis))
