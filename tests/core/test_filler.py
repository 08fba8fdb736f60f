"""Which rod, how thick, how much."""

import dataclasses
import unittest

from wisearc.core import catalogue
from wisearc.core.choices.filler import pair_for
from wisearc.core.choices.rod_size import deposit_mm2, equals_sheet_mm, under_sheet_mm
from wisearc.core.section import section_of

from tests.core.rows import Rows, said, sets_of, thick
from tests.samples import joint, member, plan

METALS = catalogue.metals()


class Chosen(unittest.TestCase):
    def test_bare_fit_where_sound(self) -> None:
        """No gap worth the name (0.05 mm), like metals, and not where strength is asked."""
        for gap, rod in ((0.05, None), (0.053, "ER308L"), (0.2, "ER308L")):
            self.assertEqual(plan("outside-corner", gap_mm=gap).filler.rod, rod)
        self.assertEqual(plan("outside-corner", service="structural").filler.rod, "ER308L")
        for a, b in (("2205", "2205"), ("310S", "310S"), ("304L", "316L"), ("mild-steel", "mild-steel"), ("304L", "mild-steel")):  # fmt: skip
            self.assertIsNotNone(plan("outside-corner", member(a), member(b)).filler.rod, (a, b))
        self.assertIsNotNone(plan("butt").filler.rod)

    def test_reckoning_overrules_the_chart(self) -> None:
        self.assertEqual(plan("tee", member(), member("mild-steel")).filler.rod, "ER309L")
        diluted = plan("butt", member(), member("mild-steel"))
        self.assertEqual(diluted.filler.rod, "ER312")
        self.assertIn("stands it", diluted.filler.why[0].sentence.text())

    def test_others_say_what_they_cost(self) -> None:
        costs = {o.value.text(): o.sentence.text() for o in plan("butt", filler="ER309L").filler.others}
        self.assertRegex(costs["ER308L"], r"^Ferrite \d+ %.*The cheapest of its kind\.")
        self.assertRegex(costs["ER347"], r"About [0-9.]+ times the price of ER308L")
        for metal in ("304L", "mild-steel"):
            self.assertEqual(sets_of(plan("butt", member(metal)), "filler", "filler")[-1], "ERCuSi-A")


class Chart(unittest.TestCase):
    """The usual filler charts, from memory: the product's own rows, so that a slip of the finger is seen."""

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
                self.assertEqual({pair_for(METALS[a], METALS[b]).first, pair_for(METALS[b], METALS[a]).first}, {rod})

    def test_molybdenum_in_a_pair_the_chart_has_not(self) -> None:
        """Over 1 % on the stainless side the rod that keeps it is offered first."""
        for molybdenum, first in ((1.0, "ER312"), (1.05, "ER309LMo")):
            new = dataclasses.replace(METALS["316L"], key="new", analysis={**METALS["316L"].analysis, "Mo": molybdenum})
            self.assertEqual(pair_for(new, METALS["mild-steel"]).sound[0], first)


class Size(Rows):
    def test_rod_under_sheet_or_equal_to_it(self) -> None:
        under = ((0.64, 0.6), (0.65, 0.8), (0.79, 0.8), (0.8, 1.0), (2.0, 1.0), (2.01, 1.6), (3.5, 1.6), (3.51, 2.4))
        # the stocked size nearest the sheet; half way between two, the thicker
        equal = ((1.5, 1.6), (1.0, 1.0), (2.0, 2.4), (1.9, 1.6), (0.55, 0.6))
        self.rows(*((under_sheet_mm(t), d) for t, d in under), *((equals_sheet_mm(t), d) for t, d in equal))
        self.rows(*((plan("butt", thick(1.5), rod_school=s).filler.diameter_mm, d) for s, d in (("under-sheet", 1.0), ("equals-sheet", 1.6))))  # fmt: skip

    def test_the_other_school_where_it_differs(self) -> None:
        self.rows(*((sets_of(plan("butt", thick(t)), "filler", "rod_school"), other) for t, other in ((1.0, []), (1.5, ["equals-sheet"]))))  # fmt: skip
        self.rows(*(("wire of" in said(plan("butt", thick(t)), "filler"), wire) for t, wire in ((0.7, True), (0.8, False))))  # fmt: skip

    def test_deposits(self) -> None:
        """Fillet 1.1 leg²/2, leg 1.5 at least; corner t²/2; edge a quarter of pool by t; butt that and the gap."""
        for kind, t, gap, expected in (
            ("tee", 1.0, 0, 1.5**2 / 2 * 1.1), ("tee", 2.0, 0, 4 / 2 * 1.1), ("outside-corner", 1.5, 0, 1.5**2 / 2), ("edge", 1.5, 0, 0.25 * 3.3 * 1.5),
            ("butt", 1.5, 0, 0.25 * 3.3 * 1.5), ("butt", 1.5, 0.2, 0.25 * 3.3 * 1.5 + 0.3),
        ):  # fmt: skip
            made = joint(kind, thick(t), gap_mm=gap)
            with self.subTest(kind=kind, gap=gap):
                self.assertAlmostEqual(deposit_mm2(made, section_of(made)), expected, places=6)

    def test_feed_by_hand(self) -> None:
        """A 1.5 mm fillet 100 mm long: 1.5²/2 × 1.1 = 1.2375 mm²; over a 1.0 rod 157.6 mm, + 15 % = 181.2 mm."""
        filler = plan("tee", length="100 mm").filler
        self.rows((filler.length_mm, 181.2), (filler.rods, 1))


if __name__ == "__main__":
    unittest.main()
