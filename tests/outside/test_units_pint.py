"""Unit conversions against pint, over generated values."""

import unittest

import pint
from hypothesis import given, settings
from hypothesis import strategies as st

from wisearc.core.quantities import L_MIN_PER_CFH, MM_PER_INCH
from wisearc.core.typed_quantities import parse_length, parse_speed

U = pint.UnitRegistry()
SETTINGS = settings(deadline=None, database=None, derandomize=True, max_examples=60)
VALUES = st.decimals(min_value="0.001", max_value="999", places=3)


class Conversions(unittest.TestCase):
    @SETTINGS
    @given(VALUES)
    def test_lengths(self, value) -> None:
        for unit, pint_unit in (
            ("mm", "mm"),
            ("cm", "cm"),
            ("in", "inch"),
            ("thou", "thou"),
            ("ft", "foot"),
        ):
            expected = (float(value) * U(pint_unit)).to("mm").magnitude
            self.assertAlmostEqual(
                parse_length(f"{value} {unit}").mm, expected, delta=1e-6 + 1e-9 * expected
            )

    @SETTINGS
    @given(VALUES)
    def test_speeds(self, value) -> None:
        for unit, pint_unit in (
            ("mm/s", "mm/s"),
            ("mm/min", "mm/min"),
            ("in/min", "inch/min"),
            ("cm/min", "cm/min"),
        ):
            expected = (float(value) * U(pint_unit)).to("mm/s").magnitude
            self.assertAlmostEqual(parse_speed(f"{value} {unit}"), expected, delta=1e-6)

    def test_every_name_of_a_unit(self) -> None:
        for unit, like in (
            ("millimetre", "mm"),
            ("millimetres", "mm"),
            ("millimeter", "mm"),
            ("millimeters", "mm"),
            ("m", "m"),
            ("inch", "inch"),
            ("inches", "inch"),
            ('"', "inch"),
            ("″", "inch"),
            ("”", "inch"),
            ("mil", "thou"),
            ("'", "foot"),
            ("′", "foot"),
        ):
            with self.subTest(unit=unit):
                self.assertAlmostEqual(
                    parse_length(f"2 {unit}").mm, (2 * U(like)).to("mm").magnitude, places=6
                )
        for unit, like in (("m/min", "m/min"), ("ipm", "inch/min"), ("in/s", "inch/s")):
            with self.subTest(unit=unit):
                self.assertAlmostEqual(
                    parse_speed(f"2 {unit}"), (2 * U(like)).to("mm/s").magnitude, places=6
                )

    def test_flow(self) -> None:
        self.assertAlmostEqual(
            L_MIN_PER_CFH, (1 * U("foot**3/hour")).to("liter/minute").magnitude, places=9
        )
        self.assertAlmostEqual(L_MIN_PER_CFH, 0.4719, places=4)

    def test_inch(self) -> None:
        self.assertEqual(MM_PER_INCH, U("inch").to("mm").magnitude)
