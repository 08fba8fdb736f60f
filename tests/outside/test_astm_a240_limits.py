"""ASTM A240: limits of sheet analyses, wt%, from memory (4130, 303, 17-4PH: their usual limits)."""

import unittest

from wisearc.core.catalogue import load_metals

LIMITS = {
    "304": {"C": (0, 0.07), "Cr": (17.5, 19.5), "Ni": (8.0, 10.5)},
    "304L": {"C": (0, 0.03), "Cr": (17.5, 19.5), "Ni": (8.0, 12.0)},
    "316": {"C": (0, 0.08), "Cr": (16.0, 18.0), "Ni": (10.0, 14.0), "Mo": (2.0, 3.0)},
    "316L": {"C": (0, 0.03), "Cr": (16.0, 18.0), "Ni": (10.0, 14.0), "Mo": (2.0, 3.0)},
    "321": {"C": (0, 0.08), "Cr": (17.0, 19.0), "Ni": (9.0, 12.0), "Ti": (0.2, 0.7)},
    "347": {"C": (0, 0.08), "Cr": (17.0, 19.0), "Ni": (9.0, 13.0), "Nb": (0.4, 1.0)},
    "309S": {"C": (0, 0.08), "Cr": (22.0, 24.0), "Ni": (12.0, 15.0)},
    "310S": {"C": (0, 0.08), "Cr": (24.0, 26.0), "Ni": (19.0, 22.0)},
    "201": {"C": (0, 0.15), "Mn": (5.5, 7.5), "Cr": (16.0, 18.0), "Ni": (3.5, 5.5), "N": (0, 0.25)},
    "409": {"C": (0, 0.03), "Cr": (10.5, 11.7)},
    "430": {"C": (0, 0.12), "Cr": (16.0, 18.0)},
    "439": {"C": (0, 0.03), "Cr": (17.0, 19.0)},
    "2205": {
        "C": (0, 0.03),
        "Cr": (22.0, 23.0),
        "Ni": (4.5, 6.5),
        "Mo": (3.0, 3.5),
        "N": (0.14, 0.20),
    },
    "904L": {
        "C": (0, 0.02),
        "Cr": (19.0, 23.0),
        "Ni": (23.0, 28.0),
        "Mo": (4.0, 5.0),
        "Cu": (1.0, 2.0),
    },
    "303": {"C": (0, 0.15), "Cr": (17.0, 19.0), "Ni": (8.0, 10.0), "S": (0.15, 0.6)},
    "17-4PH": {
        "C": (0, 0.07),
        "Cr": (15.0, 17.5),
        "Ni": (3.0, 5.0),
        "Cu": (3.0, 5.0),
        "Nb": (0.15, 0.45),
    },
    "4130": {"C": (0.28, 0.33), "Mn": (0.4, 0.6), "Cr": (0.8, 1.1), "Mo": (0.15, 0.25)},
}


class Limits(unittest.TestCase):
    def test_typical_within_limits(self) -> None:
        for metal, limits in LIMITS.items():
            for element, (low, high) in limits.items():
                with self.subTest(metal=metal, element=element):
                    self.assertTrue(low <= load_metals()[metal].analysis.get(element, 0.0) <= high)

    def test_every_metal_is_checked(self) -> None:
        self.assertEqual(set(LIMITS) | {"mild-steel"}, set(load_metals()))
