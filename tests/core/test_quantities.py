"""Typed lengths and speeds, and figures in both unit systems."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from wisearc.core.errors import InputError
from wisearc.core.quantities import flow, heat, length, size, speed, stock, temperature
from wisearc.core.typed_quantities import add_typed_unit, parse_length, parse_speed, scale_for

SETTINGS = settings(deadline=None, database=None, derandomize=True, max_examples=150)


class Typed(unittest.TestCase):
    def test_typed_quantities(self) -> None:
        for text, mm in (
            ("16 ga", 1.5875),
            ("16ga", 1.5875),
            ("16 GA", 1.5875),
            ("gauge 16", 1.5875),
            ("16 ga carbon", 1.51892),
            ("16 ga tube", 1.651),
            (".065", 1.651),
            ("0.065 in", 1.651),
            ('1/16"', 1.5875),
            ("1/16", 1.5875),
            ("1-1/2 in", 38.1),
            ("1 1/2 in", 38.1),
            ("1,6 mm", 1.6),
            ("1.6", 1.6),
            ("  1.6   mm ", 1.6),
            ("65 thou", 1.651),
            ("38 cm", 380.0),
            ("15 in", 381.0),
            ("1 ft", 304.8),
        ):
            with self.subTest(text=text):
                self.assertAlmostEqual(parse_length(text).mm, mm, places=6)

    def test_number_without_unit_in_inch_units(self) -> None:
        self.assertEqual(parse_length("15", bare_unit="in").mm, 381.0)
        self.assertEqual(add_typed_unit("15", "length", "in"), "15 in")
        self.assertEqual(add_typed_unit("16 ga", "length", "in"), "16 ga")

    def test_meaning_of_a_gauge_without_scale(self) -> None:
        for metal, form, coating, scale in (
            ("stainless", "sheet", "none", "stainless"),
            ("carbon", "sheet", "none", "carbon"),
            ("carbon", "sheet", "zinc", "galvanised"),
            ("stainless", "tube", "none", "tube"),
        ):
            self.assertEqual(scale_for(metal, form, coating), scale)

    def test_gauge_answer_lists_the_other_scales(self) -> None:
        self.assertAlmostEqual(dict(parse_length("16 ga").others)["carbon sheet"], 1.51892)

    def test_refusals_state_the_action(self) -> None:
        for text in (
            "",
            "banana",
            "-1 mm",
            "1/0",
            "16 ga wood",
            "13 ga",
            "1.2.3",
            "1e99999",
            "nan",
            "inf mm",
            "1 mm mm",
            "٣ mm",
        ):
            with self.subTest(text=text), self.assertRaises(InputError) as caught:
                parse_length(text, "thickness")
            self.assertEqual(caught.exception.field, "thickness")
            self.assertGreater(len(caught.exception.rule), 20)

    def test_speeds(self) -> None:
        for text, mm_s in (
            ("3.4", 3.4),
            ("3,4 mm/s", 3.4),
            ("180 mm/min", 3.0),
            ("8 in/min", 3.386667),
            ("8 ipm", 3.386667),
        ):
            self.assertAlmostEqual(parse_speed(text), mm_s, places=5)
        with self.assertRaises(InputError):
            parse_speed("fast")

    @SETTINGS
    @given(st.text(max_size=30))
    def test_any_text_parses_or_is_refused(self, text: str) -> None:
        try:
            self.assertGreaterEqual(parse_length(text).mm, 0.0)
        except InputError as error:
            self.assertIn("length", str(error))

    @SETTINGS
    @given(
        st.decimals(min_value="0.01", max_value="900", places=2),
        st.sampled_from(["mm", "in", "cm", "thou"]),
    )
    def test_comma_and_point_are_alike(self, value, unit: str) -> None:
        self.assertEqual(
            parse_length(f"{value} {unit}").mm, parse_length(f"{value} {unit}".replace(".", ",")).mm
        )


class SoldByTheInch(unittest.TestCase):
    def test_each_size_in_mm_is_that_inch(self) -> None:
        """Rods and tungstens: common practice, no source. An inch is 25.4 mm."""
        sizes = (0.6, 0.8, 0.9, 1.0, 1.2, 1.6, 2.0, 2.4, 3.2, 4.0)
        for mm in sizes:
            sold = stock(mm).text("in").removesuffix(" in")
            over, _, under = sold.partition("/")
            self.assertTrue(under or sold in ("0.023", "0.030", "0.035", "0.040", "0.045"), sold)
            self.assertAlmostEqual(25.4 * float(over) / float(under or 1), mm, delta=0.06)
            self.assertEqual(stock(mm + 0.025).text("in"), f"{sold} in")
            self.assertNotEqual(stock(mm + 0.027).text("in"), f"{sold} in")


class Shown(unittest.TestCase):
    def test_both_unit_systems(self) -> None:
        for quantity, mm, inch in (
            (length(1.5875), "1.59 mm", "0.063 in"),
            (length(380), "380 mm", "15 in"),
            (size(3.4925), "3.5 mm", "0.14 in"),
            (speed(3.387), "3.4 mm/s", "8 in/min"),
            (flow(9.44), "9.4 L/min", "20 CFH"),
            (temperature(450), "450 °C", "840 °F"),
            (heat(0.126), "0.126 kJ/mm", "3.2 kJ/in"),
        ):
            self.assertEqual((quantity.text("mm"), quantity.text("in")), (mm, inch))
