"""AWS A5.9 / ISO 14343 and AWS A5.18: limits of rod analyses, wt%, from memory.

The typical analyses of the product must lie within the limits of their class.
"""

import unittest

from wisearc.core.catalogue import load_rods

LIMITS = {
    "ER308L": {
        "C": (0, 0.03),
        "Cr": (19.5, 22.0),
        "Ni": (9.0, 11.0),
        "Mo": (0, 0.75),
        "Mn": (1.0, 2.5),
        "Si": (0.3, 0.65),
    },
    "ER309L": {
        "C": (0, 0.03),
        "Cr": (23.0, 25.0),
        "Ni": (12.0, 14.0),
        "Mo": (0, 0.75),
        "Mn": (1.0, 2.5),
        "Si": (0.3, 0.65),
    },
    "ER309LMo": {
        "C": (0, 0.03),
        "Cr": (23.0, 25.0),
        "Ni": (12.0, 14.0),
        "Mo": (2.0, 3.0),
        "Mn": (1.0, 2.5),
        "Si": (0.3, 0.65),
    },
    "ER316L": {
        "C": (0, 0.03),
        "Cr": (18.0, 20.0),
        "Ni": (11.0, 14.0),
        "Mo": (2.0, 3.0),
        "Mn": (1.0, 2.5),
        "Si": (0.3, 0.65),
    },
    "ER347": {
        "C": (0, 0.08),
        "Cr": (19.0, 21.5),
        "Ni": (9.0, 11.0),
        "Mn": (1.0, 2.5),
        "Si": (0.3, 0.65),
        "Nb": (0.32, 1.0),
    },
    "ER310": {
        "C": (0.08, 0.15),
        "Cr": (25.0, 28.0),
        "Ni": (20.0, 22.5),
        "Mn": (1.0, 2.5),
        "Si": (0.3, 0.65),
    },
    "ER312": {
        "C": (0, 0.15),
        "Cr": (28.0, 32.0),
        "Ni": (8.0, 10.5),
        "Mn": (1.0, 2.5),
        "Si": (0.3, 0.65),
    },
    "ER2209": {
        "C": (0, 0.03),
        "Cr": (21.5, 23.5),
        "Ni": (7.5, 9.5),
        "Mo": (2.5, 3.5),
        "Mn": (0.5, 2.0),
        "N": (0.08, 0.2),
    },
    "ER385": {
        "C": (0, 0.025),
        "Cr": (19.5, 21.5),
        "Ni": (24.0, 26.0),
        "Mo": (4.2, 5.2),
        "Mn": (1.0, 2.5),
        "Cu": (1.2, 2.0),
    },
    "ER630": {
        "C": (0, 0.05),
        "Cr": (16.0, 16.75),
        "Ni": (4.5, 5.0),
        "Mn": (0.25, 0.75),
        "Cu": (3.25, 4.0),
        "Nb": (0.15, 0.3),
    },
    # AWS A5.14, from memory
    "ERNiCr-3": {
        "C": (0, 0.1),
        "Cr": (18.0, 22.0),
        "Ni": (67.0, 100.0),
        "Mn": (2.5, 3.5),
        "Fe": (0, 3.0),
        "Nb": (2.0, 3.0),
    },
    "ER430": {"C": (0, 0.1), "Cr": (15.5, 17.0), "Mn": (0, 0.6), "Si": (0, 0.5)},
    "ER70S-2": {"C": (0, 0.07), "Mn": (0.9, 1.4), "Si": (0.4, 0.7)},
    "ER80S-D2": {"C": (0.07, 0.12), "Mn": (1.6, 2.1), "Si": (0.5, 0.8), "Mo": (0.4, 0.6)},
}


class Limits(unittest.TestCase):
    def test_typical_within_limits(self) -> None:
        for rod, limits in LIMITS.items():
            for element, (low, high) in limits.items():
                with self.subTest(rod=rod, element=element):
                    self.assertTrue(low <= load_rods()[rod].analysis.get(element, 0.0) <= high)

    def test_every_welding_rod_is_checked(self) -> None:
        self.assertEqual(set(LIMITS) | {"ERCuSi-A"}, set(load_rods()))
