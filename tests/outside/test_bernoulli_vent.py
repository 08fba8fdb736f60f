"""The vent of a purge against Bernoulli: dynamic pressure and the losses of a hole.

Density of argon at 20 °C and 1 atm from a general-purpose reference library; 0.36 = 0.6², the
contraction of a jet through a sharp hole (textbook value of the discharge coefficient, from
memory).
"""

import math
import unittest

from CoolProp.CoolProp import PropsSI

from tests.samples import plan, tube
from wisearc.core.physics.purge import vent_mm, vent_speed_m_s

RHO = PropsSI("D", "T", 293.15, "P", 101325, "Argon")


class Vent(unittest.TestCase):
    def test_speed_at_100_pa(self) -> None:
        """Δp = ρ v² / (2 · 0.36)."""
        self.assertAlmostEqual(RHO * vent_speed_m_s() ** 2 / (2 * 0.36), 100, delta=0.5)

    def test_no_more_than_100_pa_inside(self) -> None:
        for flow in (1.0, 2.8, 3.0, 6.0, 10.0, 25.0):
            speed = flow / 60000 / (math.pi * (vent_mm(flow) / 1000) ** 2 / 4)
            with self.subTest(flow=flow):
                self.assertLessEqual(RHO * speed**2 / (2 * 0.36), 100.5)
                self.assertTrue(vent_mm(flow) == 3.0 or RHO * speed**2 / (2 * 0.36) > 99)

    def test_of_a_plan(self) -> None:
        for across in (20, 40, 60, 120):
            purge = plan("tube-butt", tube(diameter=f"{across} mm"), length="all-round").back.purge
            speed = (
                max(purge.preflow_l_min, purge.weld_flow_l_min)
                / 60000
                / (math.pi * (purge.vent_mm / 1000) ** 2 / 4)
            )
            self.assertLessEqual(RHO * speed**2 / (2 * 0.36), 104)


if __name__ == "__main__":
    unittest.main()
