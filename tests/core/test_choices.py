"""Each decision, one rule of the trade at a time."""

import unittest

from tests.samples import COPE, CORNER, FLANGE, codes, member, plan, tube
from wisearc.core import catalogue
from wisearc.core.choices.tacks import halving_order, opposite_order
from wisearc.core.choices.weld_metal import reckon
from wisearc.core.joint_data import make_joint
from wisearc.core.plan import make_plan
from wisearc.core.section import section_of
from wisearc.core.shop import ASSUMED, Shop


class Filler(unittest.TestCase):
    def test_bare_fit_where_sound(self) -> None:
        self.assertIsNone(plan("outside-corner").filler.rod)
        for more in ({"gap_mm": 0.2}, {"service": "structural"}):
            self.assertEqual(plan("outside-corner", **more).filler.rod, "ER308L")
        for a, b in (
            ("2205", "2205"),
            ("310S", "310S"),
            ("304L", "316L"),
            ("mild-steel", "mild-steel"),
            ("304L", "mild-steel"),
        ):
            self.assertIsNotNone(plan("outside-corner", member(a), member(b)).filler.rod, (a, b))
        self.assertIsNotNone(plan("butt").filler.rod)

    def test_reckoning_overrules_the_chart(self) -> None:
        fillet = plan("tee", member(), member("mild-steel"))
        self.assertEqual(fillet.filler.rod, "ER309L")
        diluted = plan("butt", member(), member("mild-steel"))
        self.assertEqual(diluted.filler.rod, "ER312")
        self.assertIn("stands it", diluted.filler.why[0].sentence.text())

    def test_users_own_choice_is_judged_the_same(self) -> None:
        self.assertIn("martensite", codes(plan("butt", member(), member("mild-steel"), filler="ER309L"), "caution"))
        carbon = plan("butt", filler="ER70S-2")
        self.assertIn("carbon-rod", codes(carbon, "stop"))
        self.assertIn("weld-metal-not-stainless", codes(plan("tee", filler="ER70S-2"), "stop"))

    def test_never_bare(self) -> None:
        self.assertIn("duplex-needs-filler", codes(plan("edge", member("2205"), filler="none"), "stop"))
        self.assertIn(
            "no-filler-dissimilar", codes(plan("edge", member(), member("mild-steel"), filler="none"), "stop")
        )
        self.assertIn("no-filler-dissimilar", codes(plan("edge", member(), member("316L"), filler="none"), "caution"))
        self.assertIn("no-ferrite", codes(plan("edge", member("310S"), filler="none"), "stop"))
        self.assertIn("porosity", codes(plan("edge", member("mild-steel"), filler="none"), "caution"))
        self.assertIn("bare-fit-joint", codes(plan("tee", filler="none"), "caution"))
        self.assertIn("gap-too-wide", codes(plan("edge", filler="none", gap_mm=0.1), "stop"))

    def test_303(self) -> None:
        self.assertIn("unweldable-303", codes(plan("butt", member("303")), "caution"))
        self.assertIn("unweldable-303", codes(plan("butt", member("303"), service="wet"), "stop"))

    def test_bronze_is_a_braze(self) -> None:
        self.assertIn("copper-penetration", codes(plan("butt", filler="ERCuSi-A"), "caution"))
        self.assertIn("braze-not-weld", codes(plan("butt", filler="ERCuSi-A", service="structural"), "stop"))
        self.assertTrue(any(o.value.text() == "ERCuSi-A" for o in plan("butt").filler.others))

    def test_not_reckoned_says_why(self) -> None:
        self.assertIn("not-reckoned", codes(plan("edge", member("201"), filler="none"), "note"))
        self.assertIsNone(plan("butt", member("2205")).weld_metal.ferrite_pct)

    def test_pitting_and_310(self) -> None:
        self.assertIn("pitting-below-base", codes(plan("butt", member("316L"), filler="ER308L"), "caution"))
        self.assertNotIn("pitting-below-base", codes(plan("butt", member("316L"))))
        self.assertIn("no-ferrite", codes(plan("butt", member("310S")), "caution"))

    def test_rod_schools(self) -> None:
        for t, under, equals in (
            ("0.5 mm", 0.6, 0.6),
            ("0.7 mm", 0.8, 0.8),
            ("1.5 mm", 1.0, 1.6),
            ("2.5 mm", 1.6, 2.4),
            ("4 mm", 2.4, 2.4),
        ):
            self.assertEqual(plan("butt", member(thickness=t)).filler.diameter_mm, under)
            self.assertEqual(plan("butt", member(thickness=t), rod_school="equals-sheet").filler.diameter_mm, equals)
        self.assertIn(
            "rod-too-thick", codes(plan("butt", member(thickness="0.6 mm"), pins={"rod_diameter_mm": 0.9}), "caution")
        )

    def test_feed_by_hand(self) -> None:
        """A 1.5 mm fillet 100 mm long: 1.5²/2 × 1.1 = 1.2375 mm²; over a 1.0 rod 157.6 mm, + 15 % = 181.2 mm."""
        filler = plan("tee", length="100 mm").filler
        self.assertAlmostEqual(filler.length_mm, 181.2, delta=0.1)
        self.assertEqual(filler.rods, 1)

    def test_unlike_thickness_is_judged_by_the_worst_share(self) -> None:
        for thick, shares in (("2.5 mm", 3), ("1.6 mm", 1)):
            data = {"joint": "butt", "members": [member(), member("mild-steel", thick)]}
            made = make_joint(data)
            self.assertEqual(len(reckon(made, section_of(made), catalogue.rods()["ER309L"]).spread), shares)


class CurrentAndPulse(unittest.TestCase):
    def test_factors(self) -> None:
        base = plan("butt").current.bench_rule_a
        self.assertAlmostEqual(base, 39.37 * 1.5 * 0.87, delta=0.05)
        for more, factor in (
            ({"position": "horizontal"}, 0.95),
            ({"position": "overhead"}, 0.9),
            ({"position": "vertical-up"}, 0.9),
        ):
            self.assertAlmostEqual(plan("butt", **more).current.bench_rule_a / base, factor, delta=0.0015)
        self.assertAlmostEqual(
            plan("butt", member(), member("mild-steel")).current.bench_rule_a / base, 1.07, delta=0.0015
        )
        self.assertAlmostEqual(plan("butt", member("mild-steel")).current.bench_rule_a / base, 1.15, delta=0.0015)
        self.assertAlmostEqual(
            plan("butt", member(thickness="3.2 mm")).current.bench_rule_a / (39.37 * 3.2 * 0.87), 0.85, delta=0.002
        )

    def test_thick_to_thin(self) -> None:
        p = plan("butt", member(thickness="1 mm"), member(thickness="1.8 mm"))
        self.assertAlmostEqual(p.section.reckoned_mm, 3.8 / 3, places=4)
        self.assertIn(
            "thick-to-thin",
            codes(
                plan("tube-plate", tube(wall="0.9 mm"), member("316L", "4 mm", form="flange"), length="all-round"),
                "caution",
            ),
        )

    def test_own_record_after_three_runs(self) -> None:
        self.assertEqual(plan("butt", shop=Shop(own_record_a=44.0, own_runs=3)).current.steady_a, 44.0)
        self.assertNotEqual(plan("butt", shop=Shop(own_record_a=44.0, own_runs=2)).current.steady_a, 44.0)
        self.assertEqual(plan("butt", shop=Shop(own_record_a=44.0, own_runs=3)).current.why[0].mark, "own-record")

    def test_default_school_first_that_fits(self) -> None:
        for kind, more, expected in (
            ("butt", {}, "none"), ("butt", {"gap_mm": 0.2}, "fast"), ("outside-corner", {"length": "200 mm"}, "slow-cold"), ("outside-corner", {"length": "100 mm"}, "none"),
            ("edge", {"a": member(thickness="2 mm")}, "focused"), ("outside-corner", {"a": member("2205"), "length": "300 mm"}, "none"),
        ):  # fmt: skip
            with self.subTest(joint=kind, more=more):
                self.assertEqual(plan(kind, **more).pulse.school, expected)
        self.assertEqual(make_plan(make_joint(COPE), ASSUMED).pulse.school, "fast")
        self.assertEqual(plan("tube-butt", tube(wall="0.9 mm"), length="all-round").pulse.school, "fast")

    def test_a_machine_that_cannot_pulse(self) -> None:
        plain = Shop(machine_pulses=False)
        self.assertEqual(plan("outside-corner", length="300 mm", shop=plain).pulse.school, "pedal")
        bare = plan("outside-corner", length="300 mm", control="none", shop=plain)
        self.assertEqual(bare.pulse.school, "none")
        self.assertAlmostEqual(
            bare.current.bench_rule_a / plan("outside-corner").current.bench_rule_a, 0.95, delta=0.002
        )
        self.assertIn("machine-no-pulse", codes(plan("butt", pulse="fast", shop=plain), "caution"))

    def test_background_is_raised_and_the_mean_kept(self) -> None:
        p = plan("edge", member(thickness="0.5 mm"), pulse="slow-cold")
        self.assertEqual(p.pulse.background_a, 5.0)
        wanted = 2.2 * p.current.steady_a * (0.3 + 0.1 * 0.7)
        self.assertAlmostEqual(p.pulse.average_a, wanted, delta=0.06)
        self.assertIn("background-too-low", codes(p, "note"))

    def test_peak_above_the_machine(self) -> None:
        self.assertIn("peak-too-high", codes(plan("tee", member(thickness="3.2 mm"), pulse="slow-cold"), "stop"))

    def test_typed_travel_raises_the_rate_or_drops_the_school(self) -> None:
        raised = plan("outside-corner", length="300 mm", travel_mm_s=4.5)
        self.assertEqual((raised.pulse.school, raised.pulse.rate_pps), ("slow-cold", 2.0))
        dropped = plan("outside-corner", length="300 mm", travel_mm_s=6.0)
        self.assertEqual(dropped.pulse.school, "none")
        self.assertTrue(any("dropped" in r.sentence.text() for r in dropped.pulse.why))

    def test_flicker(self) -> None:
        self.assertIn("pulse-flicker", codes(plan("butt", pulse="fast", pins={"rate_pps": 10}), "caution"))
        self.assertNotIn("pulse-flicker", codes(plan("butt", pulse="fast")))

    def test_setting(self) -> None:
        p = plan("butt")
        self.assertAlmostEqual(p.slopes.machine_a, p.current.steady_a + 15, delta=0.5)
        self.assertAlmostEqual(plan("butt", setting_school="ride").slopes.machine_a, 2 * p.current.steady_a)
        self.assertIn("ride-slip", codes(plan("butt", setting_school="ride"), "caution"))
        none = plan("butt", control="none").slopes
        self.assertEqual((none.machine_a, none.up_s, none.down_s), (p.current.steady_a, 0.5, 2.5))
        self.assertAlmostEqual(none.finish_a, 0.2 * none.machine_a, delta=0.06)
        self.assertEqual(plan("butt", member("310S"), control="none").slopes.down_s, 5.0)
        pulsed = plan("outside-corner", length="300 mm")
        self.assertEqual(pulsed.slopes.machine_a, pulsed.pulse.peak_a)

    def test_torch_overrun(self) -> None:
        small = Shop(torch="9")
        self.assertIn("torch-overrun", codes(plan("tee", member(thickness="6 mm"), shop=small), "stop"))
        self.assertIn("torch-overrun", codes(plan("tee", member(thickness="4 mm"), shop=small), "caution"))

    def test_vertical_down(self) -> None:
        self.assertIn(
            "vertical-down", codes(plan("butt", member(thickness="2 mm"), position="vertical-down"), "caution")
        )


class HeatAndGas(unittest.TestCase):
    def test_bars_shorten_the_tail(self) -> None:
        self.assertLess(plan("butt", back="copper-bar").heat.tail_mm, 0.8 * plan("butt", back="purge").heat.tail_mm)

    def test_small_part(self) -> None:
        self.assertIn("hot-part", codes(plan("butt", part_mass_g=40), "caution"))
        self.assertNotIn("hot-part", codes(plan("butt", part_mass_g=4000)))

    def test_part_rise_by_hand(self) -> None:
        """0.6 × 10.5 V × I × t / (m c), 304L: c 500."""
        p = plan("butt", part_mass_g=100)
        self.assertAlmostEqual(
            p.heat.part_mean_c - 20, 0.6 * 10.5 * p.current.steady_a * p.travel.arc_time_s / (0.1 * 500), delta=0.5
        )

    def test_interpass(self) -> None:
        self.assertEqual(plan("butt").heat.interpass_c, 150)
        self.assertEqual(plan("butt", member("904L")).heat.interpass_c, 100)

    def test_duplex(self) -> None:
        p = plan("outside-corner", member("2205"), length="300 mm", back="copper-bar", pulse="slow-cold")
        self.assertIn("chill-on-duplex", codes(p, "caution"))
        self.assertEqual(plan("butt", member("2205")).back.cover, "purge")
        self.assertIn("duplex-heat-low", codes(plan("butt", member("2205")), "caution"))

    def test_stick_out_limits(self) -> None:
        for front, cup, out, code, level in (
            ("plain", 8, 6.0, None, ""), ("plain", 8, 8.0, "stickout-caution", "caution"), ("plain", 8, 10.0, "stickout-too-long", "stop"),
            ("gas-lens", 8, 12.0, None, ""), ("gas-lens", 8, 15.0, "stickout-caution", "caution"), ("gas-lens", 8, 19.5, "stickout-too-long", "stop"),
            ("gas-lens", 16, 24.0, "stickout-caution", "caution"), ("gas-lens", 16, 26.0, "stickout-too-long", "stop"),
        ):  # fmt: skip
            found = codes(
                plan("butt", pins={"front_end": front, "cup": cup, "stickout_mm": out}), level or "stop", "caution"
            )
            with self.subTest(front=front, cup=cup, out=out):
                self.assertEqual({c for c in found if c.startswith("stickout")}, {code} if code else set())

    def test_cups(self) -> None:
        self.assertEqual(plan("butt", finish="sound").torch.cup, 8)
        self.assertEqual(plan("edge", member(thickness="1.2 mm")).torch.cup, 10)
        self.assertEqual(plan("butt", member("mild-steel"), finish="sound").torch.cup, 7)
        self.assertEqual(plan("butt", member("mild-steel"), finish="sound").torch.front_end, "plain")
        self.assertGreaterEqual(plan("butt", reach_mm=14.0).torch.cup, 10)

    def test_bigger_cup_more_flow(self) -> None:
        flows = [plan("butt", pins={"cup": cup}).gas.flow_l_min for cup in (5, 6, 8, 10, 12, 16)]
        self.assertEqual(flows, sorted(flows))
        self.assertLess(plan("butt", gas_school="frugal", pins={"cup": 12}).gas.flow_l_min, flows[4])

    def test_pinned_flow_is_judged(self) -> None:
        self.assertIn("gas-turbulent", codes(plan("butt", pins={"flow_l_min": 17.0, "cup": 8}), "caution"))
        self.assertIn("gas-turbulent", codes(plan("butt", pins={"flow_l_min": 25.0, "cup": 8}), "stop"))
        self.assertIn("gas-too-slow", codes(plan("butt", pins={"flow_l_min": 3.0, "cup": 8}), "caution"))

    def test_consumption_by_hand(self) -> None:
        g = make_plan(make_joint(CORNER), ASSUMED).gas
        p = make_plan(make_joint(CORNER), ASSUMED)
        self.assertEqual(g.starts, 1 + 3 + 13)
        self.assertAlmostEqual(g.torch_l, g.flow_l_min / 60 * (p.travel.arc_time_s + 17 * (0.5 + 6.0)), delta=0.06)


class BackAndFitUp(unittest.TestCase):
    def test_own_choice(self) -> None:
        self.assertEqual(plan("butt").back.cover, "copper-bar")
        self.assertEqual(make_plan(make_joint(FLANGE), ASSUMED).back.cover, "purge")
        self.assertEqual(plan("butt", member("mild-steel")).back.cover, "open")
        self.assertEqual(plan("butt", back_access="closed").back.cover, "purge")

    def test_judged(self) -> None:
        for back, more, level in (
            ("open", {"service": "food"}, "stop"),
            ("open", {}, "caution"),
            ("flux", {"service": "food"}, "stop"),
        ):
            self.assertIn("back-bare", codes(plan("butt", back=back, **more), level))
        self.assertIn("aluminium-under-root", codes(plan("butt", back="aluminium-bar"), "caution"))
        self.assertIn("back-bare", codes(make_plan(make_joint({**FLANGE, "back": "copper-bar"}), ASSUMED), "caution"))
        self.assertLessEqual(
            {"sealed-vessel", "closed-space-argon"}, codes(make_plan(make_joint(FLANGE), ASSUMED), "note")
        )

    def test_purge_flow_by_bore(self) -> None:
        for diameter, before in (("20 mm", 3.0), ("51 mm", 6.0), ("90 mm", 10.0)):
            self.assertEqual(
                plan("tube-butt", tube(diameter=diameter), length="all-round").back.purge.before_l_min, before
            )

    def test_gap(self) -> None:
        self.assertAlmostEqual(plan("butt").fit_up.max_gap_mm, 0.375)
        self.assertIn("gap-too-wide", codes(plan("butt", gap_mm=0.5), "stop"))
        self.assertNotIn("gap-too-wide", codes(plan("butt", gap_mm=0.3)))

    def test_coating(self) -> None:
        self.assertIn("coating", codes(plan("butt", member(), member("mild-steel", coating="zinc")), "stop"))

    def test_tack_orders(self) -> None:
        self.assertEqual(halving_order(9), (0, 8, 4, 2, 6, 1, 3, 5, 7))
        self.assertEqual(opposite_order(6), (0, 3, 2, 5, 1, 4))
        for n in range(2, 30):
            self.assertEqual(sorted(halving_order(n)), list(range(n)))
            self.assertEqual(sorted(opposite_order(n)), list(range(n)))

    def test_pinned_pitch_is_judged(self) -> None:
        self.assertIn("tacks-too-few", codes(plan("butt", length="400 mm", pins={"tack_pitch_mm": 100}), "caution"))

    def test_tungsten(self) -> None:
        self.assertIn("thoria", codes(plan("butt", pins={"tungsten_type": "thoriated-2"}), "caution"))
        self.assertIn("peak-too-high", codes(plan("butt", pins={"tungsten_mm": 1.0}), "stop"))
        self.assertIn(
            "tungsten-too-big",
            codes(plan("butt", member(thickness="0.5 mm"), control="none", pins={"tungsten_mm": 3.2}), "caution"),
        )
        self.assertEqual(plan("butt", tip_school="needle").tungsten.tip_flat_mm, 0.0)
        self.assertLessEqual(plan("butt", member(thickness="0.8 mm")).tungsten.tip_flat_mm, 0.2)

    def test_harm(self) -> None:
        self.assertLessEqual({"fume", "light", "hot-metal"}, codes(plan("butt"), "note"))
        self.assertNotIn("fume", codes(plan("butt", member("mild-steel"))))
        self.assertIn("code", codes(plan("butt", service="food"), "note"))
