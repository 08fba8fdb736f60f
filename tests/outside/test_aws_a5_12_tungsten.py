"""AWS A5.12 / ISO 6848.

Typical current ranges of an electrode by diameter, electrode negative, argon; from memory. The tips
of the product (AWS C5.5) are another table. No tip may exceed the capacity of its diameter, and no
plan may have a mean current outside the range of its electrode.
"""

import unittest

from tests.samples import member, plan
from wisearc.core.catalogue import load_tips

CARRIES_A = {1.0: (15, 80), 1.6: (70, 150), 2.4: (150, 250), 3.2: (250, 400)}


class Tungsten(unittest.TestCase):
    def test_no_tip_is_run_past_its_diameter(self) -> None:
        for tip in load_tips():
            with self.subTest(tip=tip):
                self.assertLessEqual(
                    max(tip.steady_a[1], tip.pulsed_a[1]), CARRIES_A[tip.diameter_mm][1]
                )

    def test_plans(self) -> None:
        for kind in ("butt", "tee", "outside-corner", "lap"):
            for t in (0.5, 0.8, 1.2, 1.6, 2.0, 3.0, 4.0):
                p = plan(kind, member(thickness=f"{t} mm"))
                with self.subTest(kind=kind, t=t):
                    self.assertLessEqual(p.pulse.average_a, CARRIES_A[p.tungsten.diameter_mm][1])
                    smaller = [d for d in CARRIES_A if d < p.tungsten.diameter_mm]
                    # The arc wanders on an electrode two sizes too large: the next smaller but one
                    # would not carry the current.
                    self.assertTrue(len(smaller) < 2 or p.pulse.peak_a > CARRIES_A[smaller[-2]][0])
