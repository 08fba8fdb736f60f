"""Which rod, how thick, how much."""

import itertools
import unittest

from tests.core.rows import Rows, list_sets, said, thick
from tests.samples import codes, joint, member, plan, tube
from wisearc.core import catalogue
from wisearc.core.joint.section import build_section
from wisearc.core.physics.fillet import default_leg_mm
from wisearc.core.plan.filler_metal.feeding import usual_deposit_mm2
from wisearc.core.plan.filler_metal.rod_chart import pair_for
from wisearc.core.plan.filler_metal.rod_size import can_melt_rod, equals_sheet_mm, under_sheet_mm

METALS = catalogue.load_metals()


class Chosen(Rows):
    def test_autogenous_only_in_weldable_metals(self) -> None:
        """No gap worth the name (0.05 mm), like metals, and not where strength is asked."""
        for gap, rod in ((0.05, None), (0.053, "ER308L"), (0.2, "ER308L")):
            self.assertEqual(plan("outside-corner", gap_mm=gap).filler.rod, rod)
        self.assertEqual(plan("outside-corner", service="structural").filler.rod, "ER308L")
        for a, b in (
            ("2205", "2205"),
            ("310S", "310S"),
            ("304L", "316L"),
            ("mild-steel", "mild-steel"),
            ("304L", "mild-steel"),
        ):
            self.assertIsNotNone(plan("outside-corner", member(a), member(b)).filler.rod, (a, b))
        self.assertIsNotNone(plan("butt").filler.rod)

    def test_calculation_overrides_the_chart(self) -> None:
        """Only if no manual feed reduces the dilution to the limit of the chart's rod.

        The difference must exceed 0.1.
        """
        for kind, metal, form, rod in (
            ("tee", "304L", "sheet", "ER309L"),
            ("butt", "304L", "sheet", "ER309L"),
            ("lap", "316L", "sheet", "ER309L"),
            ("outside-corner", "304L", "bar", "ER309L"),
            ("edge", "304L", "bar", "ER309LMo"),
        ):
            p = plan(kind, member(metal), member("mild-steel", form=form))
            with self.subTest(kind=kind):
                self.assertEqual(p.filler.rod, rod)
        self.assertRegex(
            p.filler.why[0].sentence.text(),
            r"ER309L allows 37 % melted sheet, but manual feeding cannot get below \d+ % here\."
            r" ER309LMo allows 52 %",
        )

    def test_no_flip_for_a_hundredth_of_a_millimetre(self) -> None:
        for kind in ("tee", "lap", "butt", "outside-corner"):
            found = [
                plan(kind, member(), member("mild-steel", f"{t} mm"))
                for t in (1.6, 1.64, 1.65, 1.66, 1.67, 1.7)
            ]
            self.assertEqual(len({p.filler.rod for p in found}), 1, kind)
            d = [p.weld_metal.dilution for p in found]
            self.assertLess(max(d) - min(d), 0.02)

    def test_more_rod_is_fed_where_the_weld_metal_asks_for_it(self) -> None:
        """304L to a 1.5 mm tube of mild steel, a butt.

        0.65 usually, 0.4 by feeding; deposit by hand 0.25 × 4.2 × 1.5 × (0.6/0.4)/(0.35/0.65).
        """
        p = plan(
            "tube-butt", tube("304L", "1.5 mm"), tube("mild-steel", "1.5 mm"), length="all-round"
        )
        self.rows(
            (p.weld_metal.dilution, 0.4),
            (p.filler.deposit_mm2, 0.25 * 4.2 * 1.5 * 1.5 / (0.35 / 0.65)),
            (p.weld_metal.greatest_dilution, 0.373),
            ("below the minimum of 3 %" in p.weld_metal.state, True),
        )
        self.assertIn("2.8 times the usual amount to keep the weld metal sound", said(p, "filler"))
        tee = plan("tee", member(), member("mild-steel", form="bar"))
        self.rows(
            (tee.weld_metal.greatest_dilution, 0.373),
            # 1.6 × 1.5 mm at most: 2 × 0.375 × 2.8 / (2 × 0.375 × 2.8 + 1.1 × 2.4² / 2)
            (tee.filler.leg_mm, 2.4),
            (tee.weld_metal.dilution, 2.1 / (2.1 + 3.168)),
        )
        # A given leg is fed, and gives the dilution: 2 × 0.375 × 3.4 and 1.1 × 3² / 2 mm².
        big = plan("tee", leg="3 mm")
        self.rows(
            (big.filler.leg_mm, 3.0),
            (big.weld_metal.dilution, 2.55 / (2.55 + 4.95)),
            (big.technique.leg_mm, 3.0),
            (big.technique.throat_mm, 2.1),
        )

    def test_service_chooses(self) -> None:
        """Hot service: no rod that turns brittle; the nickel rod with 309L; duplex has none.

        Wet and food: for 430 a stabilised grade is advised.
        """
        hot = plan(
            "tube-plate",
            tube("304L", "1.5 mm"),
            member("mild-steel", "4 mm", form="flange"),
            length="all-round",
            service="hot",
        )
        # the flange is the thicker side: 0.40 melted, and ER309L allows 0.27 of it
        self.rows((hot.filler.rod, "ERNiCr-3"), (list_sets(hot, "filler", "filler"), ["ER309L"]))
        for a, b, rod in (
            ("304L", "mild-steel", "ER309L"),
            ("303", "304L", "ER309L"),
            ("4130", "304L", "ER309L"),
            ("310S", "mild-steel", "ERNiCr-3"),
            ("321", "321", "ER347"),
            ("4130", "4130", "ER80S-D2"),
        ):
            for kind in ("butt", "tee", "lap"):
                with self.subTest(a=a, b=b, kind=kind):
                    p = plan(kind, member(a), member(b), service="hot")
                    self.assertEqual(p.filler.rod, rod)
                    self.assertFalse(codes(p) & {"brittle-hot", "service-unmet"})
        self.assertIn(
            "brittle-hot",
            codes(plan("butt", b=member("mild-steel"), filler="ER312", service="hot"), "stop"),
        )
        unmet = plan("butt", member("2205"), member("304L"), service="hot")
        self.assertIn("service-unmet", codes(unmet, "stop"))
        self.assertIn("No rod suits this service", said(unmet, "filler"))
        self.assertEqual(
            [c.sets for c in unmet.cautions if c.code == "service-unmet"], [{"service": "dry"}]
        )
        for service, there in (("wet", True), ("food", True), ("dry", False)):
            found = [
                c
                for c in plan("butt", member("430"), service=service).cautions
                if c.code == "sensitises"
            ]
            self.assertEqual(
                [c.sets for c in found], [{"a.metal": "439", "b.metal": "439"}] if there else []
            )

    def test_text_of_the_answer(self) -> None:
        """Temperature limits from memory.

        ER312 400 °C, ER2209 and 2205 250 °C; preheat from 3 mm; a lap or fillet if no rod suits a
        corner.
        """
        hot = {
            m: plan("butt", member(m), member("mild-steel"), service="hot")
            for m in ("304L", "2205")
        }
        self.rows(
            (
                "Not ER312 for hot service: its weld metal turns brittle above 400 °C"
                in said(hot["304L"], "filler"),
                True,
            ),
            ("for hot service" in said(plan("butt", b=member("mild-steel")), "filler"), False),
            (
                "stays long at 400 °C to 550 °C"
                in said(plan("butt", member("439"), service="hot")),
                True,
            ),
            ("304L sensitises at 450 °C to 850 °C" in said(hot["304L"]), True),
            ("Aluminium melts at 660 °C" in said(plan("butt", back="aluminium-bar")), True),
            ("2205 turns brittle above 250 °C" in said(hot["2205"]), True),
            (
                "Not ER2209 for hot service: its weld metal turns brittle above 250 °C"
                in said(hot["2205"]),
                True,
            ),
            *(
                (
                    words.format(metal="4130 steel")
                    in said(plan("butt", member("4130", t), service="structural")),
                    True,
                )
                for t, words in (
                    ("3 mm", "Preheat {metal} from 3 mm up to 150 °C–200 °C"),
                    ("2.95 mm", "Thin {metal} below 15 °C hardens. Warm it to 50 °C–90 °C"),
                )
            ),
            (
                "Thin 4130 steel"
                in said(plan("butt", member("4130", "1.5 mm"), thick(4.0), service="structural")),
                True,
            ),
            *(
                (words in said(plan("tee", thick(t)), "filler"), there)
                for t, words, there in (
                    (0.9, "the thinnest that is sold", True),
                    (1.0, "the thinnest that is sold", False),
                    (1.0, "rod thinner than the sheet", True),
                )
            ),
            *(
                (words in said(plan(kind, b=member("mild-steel", form=form)), "weld_metal"), there)
                for kind, form, words, there in (
                    (
                        "tee",
                        "sheet",
                        (
                            "It allows 46 % melted sheet, and 33 % with the arc leaning to the "
                            "worse side. Feed well and do not dwell."
                        ),
                        True,
                    ),
                    ("tee", "bar", "It allows 37 %", True),
                )
            ),
            (
                "In that case the rod allows 33 % melted sheet. Feed well"
                in said(plan("tee", b=member("mild-steel", "3 mm")), "weld_metal"),
                True,
            ),
            ("It allows" in said(plan("tee"), "weld_metal"), False),
            (
                "leaves a margin"
                in said(plan("tee", leg="4 mm", b=member("mild-steel")), "weld_metal"),
                True,
            ),
        )
        corner = plan("outside-corner", member("4130"), member("904L"))
        self.assertEqual(
            [c.sets for c in corner.cautions if c.code == "dilution-too-high"], [{"joint": "lap"}]
        )
        self.rows(
            (pair_for(METALS["310S"], METALS["mild-steel"], "hot").sound, ("ER309L",)),
            (pair_for(METALS["310S"], METALS["mild-steel"]).sound, ()),
        )
        self.assertFalse(any("allows" in o.sentence.text() for o in plan("butt").filler.others))
        self.assertIsNotNone(
            plan("butt", member("2205"), filler="ER309LMo").weld_metal.not_reckoned
        )
        self.assertIsNotNone(
            plan("butt", member("2205"), member("304L"), filler="ER309LMo").weld_metal.ferrite_pct
        )

    def test_a_clean_tube_seam_is_offered_bare(self) -> None:
        """Sanitary tube is run without a rod, purged: offered, and not warned against."""
        for metal, gap, there in (("304L", 0, True), ("304L", 0.1, False), ("2205", 0, False)):
            p = plan("tube-butt", tube(metal), tube(metal), length="all-round", gap_mm=gap)
            self.assertEqual("none" in list_sets(p, "filler", "filler"), there, (metal, gap))
        bare = plan(
            "tube-butt",
            tube("304L"),
            tube("304L"),
            length="all-round",
            filler="none",
            finish="sound",
        )
        self.assertEqual(codes(bare, "caution", "stop"), set())
        self.assertNotIn("none", list_sets(plan("butt"), "filler", "filler"))

    def test_replacement_rod_is_the_first_suitable_of_the_chart(self) -> None:
        found = {
            c.code: c.sets
            for c in plan("tee", b=member("mild-steel"), filler="ER70S-2").cautions
            if c.level == "stop"
        }
        self.assertEqual(
            found,
            {"carbon-rod": {"filler": "auto"}, "weld-metal-not-stainless": {"filler": "ER309L"}},
        )

    def test_no_caution_advises_the_rod_it_warns_about(self) -> None:
        for a, b in itertools.combinations_with_replacement(METALS, 2):
            for kind in ("butt", "outside-corner"):
                p = plan(kind, member(a), member(b))
                for c in p.cautions:
                    self.assertNotEqual(
                        c.sets.get("filler", "–"), p.filler.rod, (a, b, kind, c.code)
                    )

    def test_alternatives_state_their_cost(self) -> None:
        costs = {
            o.value.text(): o.sentence.text() for o in plan("butt", filler="ER309L").filler.others
        }
        self.assertRegex(costs["ER308L"], r"^Ferrite \d+ %.*The lowest price of its kind\.")
        steel = plan("tee", b=member("mild-steel")).filler.others
        self.assertRegex(steel[0].sentence.text(), r"allows \d+ % melted sheet")
        self.assertRegex(costs["ER347"], r"About [0-9.]+ times the price of ER308L")
        for metal in ("304L", "mild-steel"):
            self.assertEqual(
                list_sets(plan("butt", member(metal)), "filler", "filler")[-1], "ERCuSi-A"
            )


class Chart(unittest.TestCase):
    """The usual filler charts, from memory.

    The product's own rows, so that a slip of the finger is seen.
    """

    CHART = (
        ("304", "304L", "ER308L"),
        ("316L", "316L", "ER316L"),
        ("304L", "316L", "ER316L"),
        ("321", "347", "ER347"),
        ("309S", "309S", "ER309L"),
        ("310S", "310S", "ER310"),
        ("201", "201", "ER308L"),
        ("409", "430", "ER309L"),
        ("316L", "mild-steel", "ER309L"),
        ("310S", "mild-steel", "ERNiCr-3"),
        ("2205", "2205", "ER2209"),
        ("2205", "304L", "ER2209"),
        ("2205", "mild-steel", "ER309LMo"),
        ("304L", "mild-steel", "ER309L"),
        ("4130", "4130", "ER80S-D2"),
        ("4130", "304L", "ER309L"),
        ("mild-steel", "mild-steel", "ER70S-2"),
        ("303", "304L", "ER312"),
        ("17-4PH", "17-4PH", "ER630"),
        ("904L", "904L", "ER385"),
        ("904L", "316L", "ER385"),
        ("904L", "mild-steel", "ER309LMo"),
        ("304L", "430", "ER309L"),
        ("2205", "430", "ER2209"),
        ("304L", "310S", "ER309L"),
        ("304L", "321", "ER308L"),
    )

    def test_first_choice_either_way_round(self) -> None:
        for a, b, rod in self.CHART:
            with self.subTest(a=a, b=b):
                self.assertEqual(
                    {pair_for(METALS[a], METALS[b]).first, pair_for(METALS[b], METALS[a]).first},
                    {rod},
                )

    def test_hot_service_of_stabilised_grades(self) -> None:
        """The niobium rod for 321 and 347 to the plain grades where it is hot, as in the charts."""
        for a, b, service, rod in (
            ("321", "304L", "hot", "ER347"),
            ("321", "304", "dry", "ER308L"),
            ("347", "316L", "hot", "ER347"),
            ("347", "316L", "wet", "ER316L"),
        ):
            with self.subTest(a=a, b=b, service=service):
                self.assertEqual(pair_for(METALS[a], METALS[b], service).first, rod)

    def test_order_of_richer_rods_for_steel(self) -> None:
        """ER309LMo before ER312, which turns brittle when hot."""
        for metal in ("304L", "316L", "321"):
            found = pair_for(METALS[metal], METALS["mild-steel"]).sound
            self.assertEqual(found, ("ER309LMo", "ER312"))


class Size(Rows):
    def test_rod_under_sheet_or_equal_to_it(self) -> None:
        under = (
            (0.64, 0.6),
            (0.65, 0.8),
            (0.79, 0.8),
            (0.8, 1.0),
            (2.0, 1.0),
            (2.01, 1.6),
            (3.5, 1.6),
            (3.51, 2.4),
        )
        # the stocked size nearest the sheet; half way between two, the thicker
        equal = ((1.5, 1.6), (1.0, 1.0), (2.0, 2.4), (1.9, 1.6), (0.55, 0.6))
        self.rows(
            *((under_sheet_mm(t), d) for t, d in under),
            *((equals_sheet_mm(t), d) for t, d in equal),
        )
        self.rows(
            *(
                (plan("butt", thick(1.5), rod_school=s).filler.diameter_mm, d)
                for s, d in (("under-sheet", 1.0), ("equals-sheet", 1.6))
            )
        )

    def test_sheet_melts_the_rod_of_each_rule(self) -> None:
        """The plan judges only a diameter that the user sets."""
        for rule in (under_sheet_mm, equals_sheet_mm):
            for thin in (0.01 * i for i in range(20, 700)):
                self.assertTrue(can_melt_rod(thin, rule(thin), 0.0), (rule, thin))

    def test_other_approach_is_listed_where_it_differs(self) -> None:
        self.rows(
            *(
                (list_sets(plan("butt", thick(t)), "filler", "rod_school"), other)
                for t, other in ((1.0, []), (1.5, ["equals-sheet"]))
            )
        )
        self.rows(
            *(
                ("wire of" in said(plan("butt", thick(t)), "filler"), wire)
                for t, wire in ((0.7, True), (0.8, False))
            )
        )

    def test_deposits(self) -> None:
        """Fillet 1.1 leg²/2, leg max(1.2, min(1.4 t, t + 0.8)); corner t²/2.

        Edge a quarter of the fed pool by t; butt that and the gap.
        """
        self.rows(
            *(
                (default_leg_mm(t), leg)
                for t, leg in (
                    (0.5, 1.2),
                    (0.8, 1.2),
                    (1.0, 1.4),
                    (1.5, 2.1),
                    (2.0, 2.8),
                    (3.0, 3.8),
                )
            )
        )
        for kind, t, gap, expected in (
            ("tee", 0.5, 0, 1.2**2 / 2 * 1.1),
            ("tee", 1.0, 0, 1.4**2 / 2 * 1.1),
            ("inside-corner", 1.0, 0, 1.4**2 / 2 * 1.1),
            ("tee", 2.0, 0, 2.8**2 / 2 * 1.1),
            ("outside-corner", 1.5, 0, 1.5**2 / 2),
            ("edge", 1.5, 0, 0.25 * 4.2 * 1.5),
            ("butt", 1.5, 0, 0.25 * 4.2 * 1.5),
            ("butt", 1.5, 0.2, 0.25 * 4.2 * 1.5 + 0.3),
        ):
            made = joint(kind, thick(t), gap_mm=gap)
            with self.subTest(kind=kind, gap=gap):
                self.assertAlmostEqual(
                    usual_deposit_mm2(made, build_section(made)), expected, places=6
                )

    def test_feed_against_a_manual_calculation(self) -> None:
        """A 1.5 mm fillet 100 mm long.

        2.1²/2 × 1.1 = 2.4255 mm²; over a 1.2 rod (1.131 mm²) 214.5 mm, + 15 % = 246.6 mm.
        """
        filler = plan("tee", length="100 mm").filler
        self.rows((filler.length_mm, 246.6), (filler.rods, 1))


if __name__ == "__main__":
    unittest.main()
