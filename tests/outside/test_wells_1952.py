"""Wells, A.

A., Heat flow in welding, 1952: power for a pool, against a numerically solved Rosenthal field.
Wells' formula is a linear fit to Rosenthal's thin plate: here it is correct to 6 % for v w / 4a of
0.45 or more, and to 13 % from 0.25, where slow travel bends the true line. The example of the
trade: 1.59 mm, pool 3.0 mm, 8 in/min, 10.5 V, η 0.6 gives about 49 A.
"""

import unittest

from scipy import optimize

from tests.rosenthal import rosenthal_c
from wisearc.core.joint.section import HeatProperties
from wisearc.core.physics.heat import current_for_pool_a, pool_width_mm, power_for_pool_w
from wisearc.core.physics.heat_field import Field

P = HeatProperties(
    k=24e-3, rho_c=7500 * 640e-9, a=24e-3 / (7500 * 640e-9), liquidus_c=1450.0, c_part=500.0
)


def numeric_pool_mm(power: float, h: float, v: float) -> float:
    """Return the width of the liquidus isotherm of the solved field."""
    field = Field(power, v, h, P.k, P.a)

    def over(y: float) -> float:
        peak = optimize.minimize_scalar(
            lambda x: -rosenthal_c(field, x, y), bounds=(-40, 5), method="bounded"
        )
        return -peak.fun - P.liquidus_c

    return 2 * float(optimize.brentq(over, 1e-3, 30))


class AgainstTheField(unittest.TestCase):
    def test_pool_width(self) -> None:
        for h in (0.8, 1.6, 2.5):
            for v in (1.5, 3.4, 5.0):
                for width in (2.0, 3.5, 5.0):
                    group = v * width / (4 * P.a)
                    if not 0.25 < group < 1.5:
                        continue
                    with self.subTest(h=h, v=v, width=width):
                        solved = numeric_pool_mm(power_for_pool_w(P, h, width, v), h, v)
                        self.assertAlmostEqual(
                            solved / width, 1.0, delta=0.06 if group >= 0.45 else 0.13
                        )

    def test_worked_example(self) -> None:
        self.assertAlmostEqual(
            current_for_pool_a(P, 1.59, 3.0, 8 * 25.4 / 60, 10.5), 49.0, delta=0.5
        )

    def test_turned_round(self) -> None:
        self.assertAlmostEqual(
            pool_width_mm(P, 1.6, power_for_pool_w(P, 1.6, 3.3, 3.0), 3.0), 3.3, places=9
        )
        self.assertEqual(pool_width_mm(P, 1.6, 1.0, 3.0), 0.0)
