"""Argon at 20 °C and 1 atm, and in a cylinder.

Viscosity and density come from CoolProp, the Reynolds number from fluids.
"""

import math
import unittest

import fluids
from CoolProp.CoolProp import PropsSI

from wisearc.core.physics.gas import (
    ARGON_NU_M2_S,
    calculate_reynolds,
    contents_l,
    exit_speed_m_s,
    flow_l_min,
)
from wisearc.core.plan.torch.front_end import MM_PER_CUP_NUMBER, bore_mm

T, P = 293.15, 101325.0


class Argon(unittest.TestCase):
    def test_kinematic_viscosity(self) -> None:
        nu = PropsSI("V", "T", T, "P", P, "Argon") / PropsSI("D", "T", T, "P", P, "Argon")
        self.assertAlmostEqual(ARGON_NU_M2_S / nu, 1.0, delta=0.01)

    def test_reynolds(self) -> None:
        for cup in (4, 6, 8, 10, 12, 16):
            for q in (5.0, 10.0, 15.0):
                d = bore_mm(cup) * 1e-3
                v = q / 60000 / (math.pi * d**2 / 4)
                expected = fluids.Reynolds(V=v, D=d, nu=ARGON_NU_M2_S)
                self.assertAlmostEqual(calculate_reynolds(q, bore_mm(cup)), expected, places=6)
                self.assertAlmostEqual(exit_speed_m_s(q, bore_mm(cup)), v, places=9)

    def test_flow_turned_round(self) -> None:
        for cup in (5, 8, 12):
            self.assertAlmostEqual(
                calculate_reynolds(flow_l_min(1200, bore_mm(cup)), bore_mm(cup)), 1200, places=6
            )

    def test_cup_number_is_sixteenths(self) -> None:
        """Common practice, no source: cup number = bore in sixteenths of an inch."""
        self.assertEqual(MM_PER_CUP_NUMBER * 16, 25.4)
        self.assertEqual(bore_mm(8), 12.7)

    def test_cylinder_contents(self) -> None:
        """By the density of the library at the cylinder pressure relative to 1 atm.

        The contents at 1 atm do not count.
        """
        for water in (5.0, 20.0, 50.0):
            for gauge in (0.0, 1.0, 20.0, 84.0, 150.0, 200.0, 230.0, 300.0, 350.0):
                held = (
                    PropsSI("D", "T", T, "P", gauge * 1e5 + P, "Argon")
                    / PropsSI("D", "T", T, "P", P, "Argon")
                    - 1
                )
                self.assertAlmostEqual(
                    contents_l(water, gauge), water * held, delta=max(0.01, 5e-4 * water * held)
                )
