"""The product's tables, row by row as they are meant to stand: a slip of the finger in one is seen here.

They say what the tables say, and are no check of it from outside; those stand in tests/outside.
"""

import unittest

from wisearc.core.catalogue import metals, tips
from wisearc.core.chemistry import STAINLESS_CR_PCT
from wisearc.core.choices.filler import pair_for
from wisearc.core.choices.gas import postflow_rule_s
from wisearc.core.choices.harm import shade_for
from wisearc.core.choices.tungsten import tip_for
from wisearc.core.quantities import parse_length, scale_for

STAINLESS = {
    10: 0.1406,
    11: 0.125,
    12: 0.1094,
    14: 0.0781,
    16: 0.0625,
    18: 0.05,
    20: 0.0375,
    22: 0.0313,
    24: 0.025,
    26: 0.0188,
}
CARBON = {
    10: 0.1345,
    11: 0.1196,
    12: 0.1046,
    14: 0.0747,
    16: 0.0598,
    18: 0.0478,
    20: 0.0359,
    22: 0.0299,
    24: 0.0239,
    26: 0.0179,
}
TUBE = {
    10: 0.134,
    11: 0.12,
    12: 0.109,
    13: 0.095,
    14: 0.083,
    15: 0.072,
    16: 0.065,
    17: 0.058,
    18: 0.049,
    20: 0.035,
    22: 0.028,
}
GALVANISED = {16: 0.0635, 18: 0.0516, 20: 0.0396, 22: 0.0336}


ROWS = [
    (1.0, 12, 0.125, 15, 25), (1.0, 20, 0.25, 30, 60), (1.6, 25, 0.5, 50, 100), (1.6, 30, 0.8, 70, 140),
    (2.4, 35, 0.8, 90, 180), (2.4, 45, 1.1, 150, 250), (3.2, 60, 1.1, 200, 300), (3.2, 90, 1.5, 250, 350),
]  # fmt: skip


class Gauges(unittest.TestCase):
    def test_scales(self) -> None:
        for scale, table in (("stainless", STAINLESS), ("carbon", CARBON), ("tube", TUBE), ("galvanised", GALVANISED)):
            for number, inches in table.items():
                with self.subTest(scale=scale, gauge=number):
                    self.assertAlmostEqual(parse_length(f"{number} ga", scale=scale).mm, inches * 25.4, places=5)

    def test_what_a_bare_gauge_means(self) -> None:
        self.assertEqual(scale_for("stainless", "sheet"), "stainless")
        self.assertEqual(scale_for("carbon", "sheet"), "carbon")
        self.assertEqual(scale_for("carbon", "sheet", "zinc"), "galvanised")
        self.assertEqual(scale_for("stainless", "tube"), "tube")


class Tips(unittest.TestCase):
    def test_table(self) -> None:
        got = [(t.diameter_mm, t.included_angle_deg, t.tip_flat_mm, t.steady_a[1], t.pulsed_a[1]) for t in tips()]
        self.assertEqual(got, ROWS)

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


class Rules(unittest.TestCase):
    def test_shades(self) -> None:
        self.assertEqual(
            [shade_for(a) for a in (15, 40, 41, 100, 150, 175, 176, 250, 300)], [9, 9, 10, 10, 11, 11, 12, 12, 13]
        )

    def test_post_flow(self) -> None:
        self.assertEqual([postflow_rule_s(a, True) for a in (30, 60, 80, 120, 200)], [6, 6, 8, 12, 15])
        self.assertEqual(postflow_rule_s(30, False), 5)

    def test_stainless_from(self) -> None:
        self.assertEqual(STAINLESS_CR_PCT, 10.5)


class FillerChart(unittest.TestCase):
    """The usual filler charts, from memory."""

    CHART = (
        ("304", "304L", "ER308L"), ("316L", "316L", "ER316L"), ("304L", "316L", "ER316L"), ("321", "347", "ER347"),
        ("309S", "309S", "ER309L"), ("310S", "310S", "ER310"), ("201", "201", "ER308L"), ("409", "430", "ER308L"),
        ("2205", "2205", "ER2209"), ("2205", "304L", "ER2209"), ("2205", "mild-steel", "ER309LMo"), ("304L", "mild-steel", "ER309L"),
        ("4130", "4130", "ER80S-D2"), ("4130", "304L", "ER309L"), ("mild-steel", "mild-steel", "ER70S-2"), ("303", "304L", "ER312"),
        ("17-4PH", "17-4PH", "ER630"), ("904L", "904L", "ER385"), ("904L", "316L", "ER385"), ("904L", "mild-steel", "ER309LMo"),
        ("304L", "430", "ER309L"), ("2205", "430", "ER2209"), ("304L", "310S", "ER309L"), ("304L", "321", "ER308L"),
    )  # fmt: skip

    def test_first_choice_either_way_round(self) -> None:
        for a, b, rod in self.CHART:
            with self.subTest(a=a, b=b):
                self.assertEqual(pair_for(metals()[a], metals()[b]).first, rod)
                self.assertEqual(pair_for(metals()[b], metals()[a]).first, rod)
