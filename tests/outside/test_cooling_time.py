"""Cooling of the seam in thin plate against the line source of Rosenthal's far field.

An instantaneous line source q/v across a plate of thickness h: T − T0 = (q/v) / (h √(4π k ρc t)) on
the seam (Carslaw and Jaeger, Conduction of heat in solids, from memory). A general-purpose solver
finds the times at 1200 and 800 °C.
"""

import math
import unittest

from scipy.optimize import brentq

from tests.samples import member, plan
from wisearc.core.physics.heat import cooling_time_s


class Cooling(unittest.TestCase):
    def test_against_the_line_of_heat(self) -> None:
        p = plan("butt", member("2205"))
        heat = p.section.heat
        for power, v, h in ((210.0, 3.0, 1.0), (324.0, 2.667, 1.5), (50.0, 1.0, 0.5)):

            def seam_c(t: float, power: float = power, v: float = v, h: float = h) -> float:
                return 20 + power / v / (h * math.sqrt(4 * math.pi * heat.k * heat.rho_c * t))

            hot, cool = (brentq(lambda t, c=c: seam_c(t) - c, 1e-6, 1e4) for c in (1200.0, 800.0))
            with self.subTest(power=power, v=v, h=h):
                self.assertAlmostEqual(
                    cooling_time_s(heat, h, power, v, 1200.0, 800.0) / (cool - hot), 1, delta=1e-6
                )

    def test_duplex_of_the_trade(self) -> None:
        """Estimates of the trade.

        Butt and tee with filler about 4.3 and 3.5 s at 1 mm, 8 and 6 s at 2.
        """
        for kind, t, seconds in (
            ("butt", 1, 4.3),
            ("tee", 1, 3.5),
            ("butt", 2, 8.0),
            ("tee", 2, 6.0),
        ):
            self.assertAlmostEqual(
                plan(kind, member("2205", f"{t} mm")).heat.cooling_s, seconds, delta=0.15 * seconds
            )


if __name__ == "__main__":
    unittest.main()
