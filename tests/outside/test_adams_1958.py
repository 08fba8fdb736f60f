"""Adams, C.

M., Cooling rates and peak temperatures in fusion welding, Welding Journal 1958. The worked case is
that of the American welding handbooks for a 5 mm steel plate, from memory: ρC 0.0044 J/mm³·K, net
heat 720 J/mm, T0 25 °C, Tm 1510 °C: 1184 °C at 1.5 mm, 976 °C at 3.0 mm from the pool edge, 730 °C
at 5.9 mm. The product calculates from 20 °C, so the case is shifted by 5 °C.
"""

import math
import unittest

from wisearc.core.joint.section import HeatProperties
from wisearc.core.physics.heat import AMBIENT_C, distance_to_peak_mm, peak_temperatures_c

SHIFT = 25.0 - AMBIENT_C
STEEL = HeatProperties(
    k=0.03, rho_c=0.0044, a=0.03 / 0.0044, liquidus_c=1510.0 - SHIFT, c_part=480.0
)
NET_J_MM, THICKNESS_MM, TRAVEL_MM_S = 720.0, 5.0, 4.0
POWER_W = NET_J_MM * TRAVEL_MM_S


class WorkedCase(unittest.TestCase):
    def test_peak_temperatures(self) -> None:
        for y, expected in ((1.5, 1184.0), (3.0, 976.0)):
            got = peak_temperatures_c(STEEL, THICKNESS_MM, POWER_W, TRAVEL_MM_S, [y])[0] + SHIFT
            self.assertAlmostEqual(got, expected, delta=1.0)

    def test_width_of_the_heated_zone(self) -> None:
        got = distance_to_peak_mm(STEEL, THICKNESS_MM, POWER_W, TRAVEL_MM_S, 730.0 - SHIFT)
        self.assertAlmostEqual(got, 5.9, delta=0.05)

    def test_case_calculated_manually(self) -> None:
        """1/(Tp−25) = 4.13 × 0.0044 × 5 × 1.5 / 720 + 1/1485 (4.13 for √(2πe) in the handbooks)."""
        by_hand = 25 + 1 / (4.13 * 0.0044 * 5 * 1.5 / 720 + 1 / 1485)
        got = peak_temperatures_c(STEEL, THICKNESS_MM, POWER_W, TRAVEL_MM_S, [1.5])[0] + SHIFT
        self.assertAlmostEqual(got, by_hand, delta=0.5)
        self.assertAlmostEqual(math.sqrt(2 * math.pi * math.e), 4.13, delta=0.005)
