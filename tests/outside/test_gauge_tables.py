"""Gauges from their definitions, not from their tables.

The US Standard Gauge (stainless) and the Manufacturers' Standard Gauge (carbon sheet) are scales of
weight: ounces per square foot (US law of 1893; from memory). Thickness is weight over density: 480
lb/ft³ of wrought iron for the first, 41.82 lb/ft² per inch for the second. Galvanised sheet is the
carbon sheet plus 0.0037 in of zinc. Birmingham gauge has no formula: its usual metric walls (ASTM
A269 tube as sold, from memory).
"""

import unittest

from wisearc.core.typed_quantities import parse_length

OUNCES = {10: 90, 11: 80, 12: 70, 14: 50, 16: 40, 18: 32, 20: 24, 22: 20, 24: 16, 26: 12}
METRIC_WALLS = {
    10: 3.40,
    11: 3.05,
    12: 2.77,
    13: 2.41,
    14: 2.11,
    15: 1.83,
    16: 1.65,
    17: 1.47,
    18: 1.24,
    20: 0.89,
    22: 0.71,
}
# The tables are rounded to a ten-thousandth of an inch.
SLACK_IN = 0.00011


class Gauges(unittest.TestCase):
    def inches(self, gauge: int, scale: str) -> float:
        return parse_length(f"{gauge} ga", scale=scale).mm / 25.4

    def test_stainless_by_weight_of_iron(self) -> None:
        for gauge, ounces in OUNCES.items():
            with self.subTest(gauge=gauge):
                self.assertAlmostEqual(
                    self.inches(gauge, "stainless"), ounces / 16 / 480 * 12, delta=SLACK_IN
                )

    def test_carbon_by_weight_of_steel(self) -> None:
        for gauge, ounces in OUNCES.items():
            with self.subTest(gauge=gauge):
                self.assertAlmostEqual(
                    self.inches(gauge, "carbon"), ounces / 16 / 41.82, delta=SLACK_IN
                )

    def test_galvanised_by_its_zinc(self) -> None:
        for gauge in (16, 18, 20, 22):
            with self.subTest(gauge=gauge):
                self.assertAlmostEqual(
                    self.inches(gauge, "galvanised"),
                    OUNCES[gauge] / 16 / 41.82 + 0.0037,
                    delta=SLACK_IN,
                )

    def test_tube_by_its_metric_walls(self) -> None:
        for gauge, mm in METRIC_WALLS.items():
            with self.subTest(gauge=gauge):
                self.assertAlmostEqual(
                    parse_length(f"{gauge} ga", scale="tube").mm, mm, delta=0.006
                )
