"""Heat tints against the published table for 304-type stainless in air; from memory."""

import unittest

from tests.samples import member, plan
from wisearc.core import catalogue
from wisearc.core.diagnosis.diagnosis import has_tint_table

# Published heat-tint tables for 304-type stainless, from memory, °C.
TABLE = (
    ("pale straw", 290),
    ("straw", 340),
    ("dark straw", 370),
    ("brown", 390),
    ("purple-brown", 420),
    ("dark purple", 450),
    ("blue", 540),
    ("dark blue", 600),
)


class Tints(unittest.TestCase):
    def test_every_tint_at_its_temperature_and_in_order(self) -> None:
        rows = list(catalogue.load_tints().values())
        self.assertEqual(
            [(one.name, one.from_c) for one in rows if one.from_c is not None], list(TABLE)
        )
        self.assertEqual((rows[0].name, rows[0].from_c), ("silver", None))
        self.assertTrue(rows[-1].above and rows[-1].colour == "grey")

    def test_colours_go_by_the_order_of_heat(self) -> None:
        order = ["silver", "straw", "brown", "purple", "blue", "grey"]
        found = [order.index(one.colour) for one in catalogue.load_tints().values()]
        self.assertEqual(found, sorted(found))

    def test_for_304_type_alone(self) -> None:
        for metal, tabled in (
            ("304L", True),
            ("316L", True),
            ("321", True),
            ("430", False),
            ("310S", False),
            ("2205", False),
            ("mild-steel", False),
        ):
            with self.subTest(metal):
                self.assertEqual(
                    has_tint_table(plan("butt", member(metal), length="100 mm")), tabled
                )
