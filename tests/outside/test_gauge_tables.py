"""Gauge tables, in: US Standard Gauge (stainless), Manufacturers' Standard Gauge (carbon sheet), Birmingham
wire gauge (tube), galvanised sheet gauge. From memory."""

import unittest

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


class Gauges(unittest.TestCase):
    def test_scales(self) -> None:
        for scale, table in (("stainless", STAINLESS), ("carbon", CARBON), ("tube", TUBE), ("galvanised", GALVANISED)):
            for number, inches in table.items():
                with self.subTest(scale=scale, gauge=number):
                    self.assertAlmostEqual(parse_length(f"{number} ga", scale=scale).mm, inches * 25.4, places=5)

    def test_us_standard_gauge_goes_by_weight(self) -> None:
        """The US Standard Gauge is a scale of weight: 16 gauge iron is 2.5 lb/ft², 1/16 in (from memory)."""
        self.assertAlmostEqual(parse_length("16 ga").mm, parse_length("1/16 in").mm, places=9)
        self.assertAlmostEqual(parse_length("11 ga").mm, parse_length("1/8 in").mm, places=9)

    def test_what_a_bare_gauge_means(self) -> None:
        self.assertEqual(scale_for("stainless", "sheet"), "stainless")
        self.assertEqual(scale_for("carbon", "sheet"), "carbon")
        self.assertEqual(scale_for("carbon", "sheet", "zinc"), "galvanised")
        self.assertEqual(scale_for("stainless", "tube"), "tube")
