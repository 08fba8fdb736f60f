"""Rosenthal, D., Mathematical theory of heat distribution during welding and cutting, 1941.

Thin plate. Checked two ways: the field of the product against the closed form with scipy's Bessel
function and an adaptive quadrature, and the worked example of the trade (50 A, 10.5 V, η 0.6, 8
in/min, 1.59 mm austenitic; an estimate): pool 2.9 mm wide, 600 °C out to 4.7 mm, glow ends 9 s
behind the arc.
"""

import math
import unittest

from scipy import integrate, optimize

from tests.rosenthal import rosenthal_c, stopped_by_sum_c
from wisearc.core.physics.heat import AMBIENT_C, net_power_w
from wisearc.core.physics.heat_field import Field, glow_after_stop_s, running_c, stopped_c, tails_mm

K, RHO, C = 24e-3, 7500e-9, 640.0
V = 8 * 25.4 / 60
FIELD = Field(net_power_w(10.5, 50.0), V, 1.59, K, K / (RHO * C))


def half_width_mm(limit_c: float) -> float:
    """Return half the width of the isotherm, from the closed form alone."""

    def find_peak_c(y: float) -> float:
        found = optimize.minimize_scalar(
            lambda x: -rosenthal_c(FIELD, x, y), bounds=(-60, 5), method="bounded"
        )
        return -found.fun - limit_c

    return float(optimize.brentq(find_peak_c, 0.05, 40))


class ClosedForm(unittest.TestCase):
    def test_worked_example(self) -> None:
        self.assertAlmostEqual(2 * half_width_mm(1450), 2.9, delta=0.1)
        self.assertAlmostEqual(half_width_mm(600), 4.7, delta=0.1)
        self.assertAlmostEqual(tails_mm(FIELD, (525,))[0] / V, 9.0, delta=0.2)


class Quadrature(unittest.TestCase):
    def test_equals_the_closed_form(self) -> None:
        for field in (FIELD, Field(700.0, 6.0, 0.5, K, FIELD.a), Field(60.0, 0.8, 2.0, K, 9.0)):
            for back in (0.5, 2.0, 10.0, 40.0, 200.0, 1500.0):
                with self.subTest(v=field.travel_mm_s, back=back):
                    expected = rosenthal_c(field, -back, 0.0) - AMBIENT_C
                    self.assertAlmostEqual(
                        (running_c(field, back) - AMBIENT_C) / expected, 1.0, delta=1e-5
                    )

    def test_tail_root(self) -> None:
        exact = optimize.brentq(lambda back: rosenthal_c(FIELD, -back, 0.0) - 450, 1, 500)
        self.assertAlmostEqual(tails_mm(FIELD, (450,))[0], exact, delta=0.001 * exact)

    def test_seam_that_never_reaches_or_leaves_the_temperature(self) -> None:
        never, ever = tails_mm(FIELD, (1e6, 20.0))
        self.assertEqual(never, 0.0)
        self.assertAlmostEqual(ever, 2000.0)
        self.assertEqual(glow_after_stop_s(FIELD, 525, 0.0), 0.0)
        self.assertEqual(
            [glow_after_stop_s(FIELD, 20.0, tail) for tail in (30.0, 3000.0)], [30.0 / V, 60.0]
        )

    def test_after_the_arc_stops(self) -> None:
        """T(x,0,t) = T0 + q/(4πkh)·∫ exp(−(x+vs)²/(4a(s+t)))/(s+t) ds, by adaptive quadrature."""
        for x, t in ((0.0, 1.0), (-8.0, 3.0), (-20.0, 6.0), (-60.0, 0.2)):
            value, _ = integrate.quad(
                lambda s, x=x, t=t: (
                    math.exp(-((x + V * s) ** 2) / (4 * FIELD.a * (s + t))) / (s + t)
                ),
                0,
                2000,
                limit=800,
                points=[1, 10, 100],
            )
            expected = AMBIENT_C + FIELD.power_w / (4 * math.pi * K * 1.59) * value
            self.assertAlmostEqual(stopped_c(FIELD, t, -x)(-x), expected, delta=0.004 * expected)

    def test_glow_over_the_full_range(self) -> None:
        """At minimum and maximum travel speed, thin and thick, between bars.

        By a fine sum at every fortieth of the tail.
        """
        for power, v, h, a, wall in (
            (252.0, 0.3, 9.0, 5.0, None),
            (315.0, 3.4, 1.6, 5.0, None),
            (2205.0, 20.0, 0.8, 4.73, None),
            (945.0, 20.0, 0.5, 7.09, None),
            (41.0, 0.3, 0.5, 7.09, 6.96),
            (250.0, 3.0, 1.5, 4.73, 8.0),
            (2205.0, 20.0, 3.0, 5.29, 11.6),
        ):
            field = Field(power, v, h, K, a, wall)
            tail = tails_mm(field, (525.0,))[0]

            def find_peak_c(after: float, field: Field = field, tail: float = tail) -> float:
                return max(stopped_by_sum_c(field, tail * i / 40, after) for i in range(41)) - 525

            exact = optimize.brentq(find_peak_c, 1e-3 * tail / v, tail / v, xtol=1e-3)
            with self.subTest(v=v, wall=wall, tail=tail):
                self.assertAlmostEqual(glow_after_stop_s(field, 525, tail) / exact, 1.0, delta=0.02)

    def test_glow_after_stop(self) -> None:
        self.assertAlmostEqual(
            glow_after_stop_s(FIELD, 525, tails_mm(FIELD, (525,))[0]), 5.0, delta=0.4
        )
        self.assertAlmostEqual(
            glow_after_stop_s(FIELD, 450, tails_mm(FIELD, (450,))[0]), 7.0, delta=0.4
        )
