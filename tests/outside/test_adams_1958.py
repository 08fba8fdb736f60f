"""Adams, C.

M., Cooling rates and peak temperatures in fusion welding, Welding Journal 1958. The worked case is
that of the American welding handbooks for a 5 mm steel plate, from memory: ρC 0.0044 J/mm³·K, net
heat 720 J/mm, T0 25 °C, Tm 1510 °C: 1184 °C at 1.5 mm, 976 °C at 3.0 mm from the pool edge, 730 °C
at 5.9 mm. The product calculates from 20 °C, so the case is shifted by 5 °C.
"""

import math
import unittest

from scipy.optimize import minimize_scalar

from wisearc.core.joint.section import HeatProperties
from wisearc.core.physics.heat import AMBIENT_C
from wisearc.core.physics.peak_profile import build_peak_profile, calculate_share_left

SHIFT = 25.0 - AMBIENT_C
STEEL = HeatProperties(
    k=0.03, rho_c=0.0044, a=0.03 / 0.0044, liquidus_c=1510.0 - SHIFT, c_part=480.0
)
NET_J_MM, THICKNESS_MM, TRAVEL_MM_S = 720.0, 5.0, 4.0
POWER_W = NET_J_MM * TRAVEL_MM_S
PROFILE = build_peak_profile(STEEL, THICKNESS_MM, POWER_W, TRAVEL_MM_S)


class WorkedCase(unittest.TestCase):
    def test_peak_temperatures(self) -> None:
        for y, expected in ((1.5, 1184.0), (3.0, 976.0)):
            got = PROFILE.calculate_c(y) + SHIFT
            self.assertAlmostEqual(got, expected, delta=1.0)

    def test_width_of_the_heated_zone(self) -> None:
        got = PROFILE.find_distance_mm(730.0 - SHIFT)
        self.assertAlmostEqual(got, 5.9, delta=0.05)

    def test_case_calculated_manually(self) -> None:
        """1/(Tp−25) = 4.13 × 0.0044 × 5 × 1.5 / 720 + 1/1485 (4.13 for √(2πe) in the handbooks)."""
        by_hand = 25 + 1 / (4.13 * 0.0044 * 5 * 1.5 / 720 + 1 / 1485)
        got = PROFILE.calculate_c(1.5) + SHIFT
        self.assertAlmostEqual(got, by_hand, delta=0.5)
        self.assertAlmostEqual(math.sqrt(2 * math.pi * math.e), 4.13, delta=0.005)


class BetweenColdWalls(unittest.TestCase):
    """A line of heat between cold walls: mirrors, and a peak found by a library."""

    def test_share_that_the_walls_leave(self) -> None:
        for distance in (0.2, 0.375, 0.5, 0.62, 0.71, 0.83, 0.94, 0.99):

            def cold(log_time: float, y: float = distance) -> float:
                time = math.exp(log_time)
                mirrors = ((-1) ** n * math.exp(-((y - 2 * n) ** 2) / time) for n in range(-9, 10))
                return -sum(mirrors) / math.sqrt(time)

            latest = math.log(2 * distance**2)
            found = minimize_scalar(cold, bounds=(latest - 4, latest), method="bounded")
            share = -found.fun / (math.exp(-0.5) / math.sqrt(2 * distance**2))
            with self.subTest(distance=distance):
                self.assertAlmostEqual(calculate_share_left(distance), share, delta=0.003)
        self.assertEqual((calculate_share_left(0.0), calculate_share_left(1.2)), (1.0, 0.0))

    def test_distance_with_walls(self) -> None:
        """Found and calculated temperatures agree, and nothing is hot beyond a wall."""
        for pool, wall in ((4.0, 9.0), (3.0, 30.0), (6.0, 3.5), (8.0, 3.0)):
            walled = build_peak_profile(STEEL, 1.5, 300.0, 3.0, pool, wall)
            with self.subTest(pool=pool, wall=wall):
                found = walled.find_distance_mm(450.0)
                self.assertLessEqual(found, max(0.0, wall - pool / 2))
                if wall > pool / 2:
                    self.assertAlmostEqual(walled.calculate_c(found), 450.0, delta=0.2)
                self.assertAlmostEqual(walled.calculate_c(wall), AMBIENT_C, delta=1e-6)
