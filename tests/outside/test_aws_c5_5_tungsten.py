"""AWS C5.5, tip shape and current range, electrode negative, from memory."""

import unittest

from wisearc.core.catalogue import tips
from wisearc.core.choices.tungsten import tip_for

ROWS = [
    (1.0, 12, 0.125, 15, 25), (1.0, 20, 0.25, 30, 60), (1.6, 25, 0.5, 50, 100), (1.6, 30, 0.8, 70, 140),
    (2.4, 35, 0.8, 90, 180), (2.4, 45, 1.1, 150, 250), (3.2, 60, 1.1, 200, 300), (3.2, 90, 1.5, 250, 350),
]  # fmt: skip


class Tips(unittest.TestCase):
    def test_table(self) -> None:
        self.assertEqual(
            [(t.diameter_mm, t.included_angle_deg, t.tip_flat_mm, t.steady_a[1], t.pulsed_a[1]) for t in tips()], ROWS
        )

    def test_choice(self) -> None:
        for steady, peak, expected in (
            (12, 12, (1.0, 12)),
            (40, 40, (1.6, 25)),
            (65, 65, (1.6, 30)),
            (41, 110, (1.6, 30)),
            (81, 81, (2.4, 35)),
            (120, 120, (2.4, 45)),
            (180, 180, (3.2, 60)),
        ):
            tip, fits = tip_for(steady, peak)
            with self.subTest(steady=steady, peak=peak):
                self.assertEqual((tip.diameter_mm, tip.included_angle_deg), expected)
                self.assertTrue(fits)

    def test_beyond_the_table(self) -> None:
        self.assertFalse(tip_for(300, 300)[1])
