"""Conductivity and specific heat by temperature against the formulas of EN 1993-1-2.

Annex C (stainless steel) and section 3.4 (carbon steel), from memory, valid to 1200 °C.
"""

import unittest

import numpy as np

from wisearc.core import catalogue


def find_stainless(t: float) -> tuple[float, float]:
    """Return k W/m·K and c J/kg·K of stainless steel at a temperature, °C."""
    return 14.6 + 1.27e-2 * t, 450 + 0.28 * t - 2.91e-4 * t**2 + 1.34e-7 * t**3


def find_carbon(t: float) -> tuple[float, float]:
    """Return k W/m·K and c J/kg·K of carbon steel at a temperature, °C."""
    k = 54 - 3.33e-2 * t if t < 800 else 27.3
    if t < 600:
        return k, 425 + 0.773 * t - 1.69e-3 * t**2 + 2.22e-6 * t**3
    if t < 735:
        return k, 666 + 13002 / (738 - t)
    return k, 545 + 17820 / (t - 731) if t < 900 else 650.0


class Curves(unittest.TestCase):
    def test_points(self) -> None:
        """Away from the change of structure of carbon steel, where c has a peak."""
        for group, find in (("austenitic", find_stainless), ("carbon", find_carbon)):
            curve = catalogue.load_thermal_curves()[group]
            for t in (20, 150, 300, 500, 650, 850, 1000, 1200):
                k, c = (float(np.interp(t, curve.at_c, row)) for row in (curve.k, curve.c))
                with self.subTest(group=group, t=t):
                    self.assertAlmostEqual(k / find(t)[0], 1, delta=0.03)
                    self.assertAlmostEqual(c / find(t)[1], 1, delta=0.07)

    def test_heat_through_the_change_of_structure(self) -> None:
        """From 20 to 1000 °C the stored heat agrees within 3 %."""
        at = np.linspace(20, 1000, 20001)
        for group, find in (("austenitic", find_stainless), ("carbon", find_carbon)):
            curve = catalogue.load_thermal_curves()[group]
            expected = float(np.mean([find(t)[1] for t in at]))
            got = float(np.mean(np.interp(at, curve.at_c, curve.c)))
            self.assertAlmostEqual(got / expected, 1, delta=0.03, msg=group)

    def test_points_rise_and_are_complete(self) -> None:
        for curve in catalogue.load_thermal_curves().values():
            self.assertEqual(len(curve.at_c), len(curve.k))
            self.assertEqual(len(curve.at_c), len(curve.c))
            self.assertTrue((np.diff(curve.at_c) > 0).all())
            self.assertLess(curve.solidus_c, catalogue.load_thermals()[curve.key].liquidus_c)
