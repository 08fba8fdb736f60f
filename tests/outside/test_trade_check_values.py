"""Check values of the trade. Common practice, no source, unless said."""

import unittest

from wisearc.core.catalogue import metals, rods
from wisearc.core.chemistry import ferrite_pct, martensite_start_c, mix
from wisearc.core.gas import bore_mm, flow_l_min, reynolds
from wisearc.core.joint_data import make_joint
from wisearc.core.plan import make_plan
from wisearc.core.pulse_train import average_a
from wisearc.core.quantities import L_MIN_PER_CFH
from wisearc.core.shop import ASSUMED

from tests.samples import COPE, member, plan, tube


class Currents(unittest.TestCase):
    """Steady current, to hold within 20 %."""

    def within(self, got: float, low: float, high: float) -> None:
        self.assertTrue(low * 0.8 <= got <= high * 1.2, got)

    def test_16_ga_outside_corner(self) -> None:
        p = plan("outside-corner", member(thickness="16 ga"), filler="none", travel_mm_s=8 * 25.4 / 60)
        self.within(p.current.steady_a, 50, 50)
        self.within(p.current.heat_flow_a, 50, 50)

    def test_18_ga_mild_steel_outside_corner(self) -> None:
        self.within(plan("outside-corner", member("mild-steel", "18 ga")).current.steady_a, 50, 50)

    def test_032_in_coped_tube(self) -> None:
        p = plan("tube-cope", tube(wall="0.032 in"), tube(wall="0.032 in", diameter="51 mm"), length="all-round")
        self.within(p.current.steady_a, 30, 35)

    def test_eighth_inch_stainless(self) -> None:
        for kind in ("butt", "tee", "lap", "outside-corner"):
            with self.subTest(joint=kind):
                self.within(plan(kind, member(thickness="1/8 in")).current.steady_a, 100, 120)

    def test_bench_rule_and_heat_flow_agree(self) -> None:
        """Estimate: within 0.78 to 1.29 over all joints and 0.5 to 3.2 mm at the travel not given."""
        for kind in ("butt", "lap", "tee", "outside-corner", "edge"):
            for t in (0.5, 0.8, 1.0, 1.2, 1.5, 2.0, 2.5, 3.2):
                p = plan(kind, member(thickness=f"{t} mm"), pulse="none")
                with self.subTest(joint=kind, t=t):
                    self.assertTrue(0.77 <= p.current.heat_flow_a / p.current.bench_rule_a <= 1.30, p.current.heat_flow_a / p.current.bench_rule_a)


class Pulses(unittest.TestCase):
    def test_slow_and_cold(self) -> None:
        self.assertAlmostEqual(average_a(110, 5.5, 0.30), 36.9, delta=0.06)

    def test_fast(self) -> None:
        for peak, low, high in ((60, 32.5, 33.5), (65, 35.5, 36.5)):
            self.assertTrue(low <= average_a(peak, 0.33 * peak, 0.33) <= high)

    def test_fast_peak_of_thin_cope(self) -> None:
        p = plan("tube-cope", tube(wall="0.032 in"), tube(wall="0.032 in", diameter="51 mm"), length="all-round")
        self.assertEqual(p.pulse.school, "fast")
        self.assertTrue(55 <= p.pulse.peak_a <= 68)


class Gas(unittest.TestCase):
    def cfh(self, cup: int, re: float) -> float:
        return flow_l_min(re, bore_mm(cup)) / L_MIN_PER_CFH

    def test_flows_of_cups(self) -> None:
        self.assertTrue(12 <= self.cfh(5, 1200) <= 15)
        for cup in (7, 8):
            self.assertAlmostEqual(self.cfh(cup, 1200), 20, delta=3)
        self.assertTrue(19 <= self.cfh(12, 800) <= 31 and 19 <= self.cfh(12, 1150) <= 31)
        self.assertAlmostEqual(self.cfh(15, 1150), 35, delta=2)

    def test_band_per_cup_number(self) -> None:
        self.assertAlmostEqual(self.cfh(8, 1100) / 8, 2.3, delta=0.06)
        self.assertAlmostEqual(self.cfh(8, 1300) / 8, 2.8, delta=0.06)

    def test_35_cfh_through_a_no_8_wobbles(self) -> None:
        self.assertAlmostEqual(reynolds(35 * L_MIN_PER_CFH, bore_mm(8)), 2100, delta=80)

    def test_plain_no_6_at_11_mm_oxidises_and_a_lens_8_is_clean(self) -> None:
        rough = plan("butt", pins={"front_end": "plain", "cup": 6, "stickout_mm": 11.0, "flow_l_min": 20 * L_MIN_PER_CFH})
        self.assertIn("stickout-too-long", {c.code for c in rough.cautions if c.level == "stop"})
        clean = plan("butt", pins={"front_end": "gas-lens", "cup": 8, "stickout_mm": 11.0, "flow_l_min": 20 * L_MIN_PER_CFH})
        self.assertFalse({"stickout-too-long", "stickout-caution", "gas-turbulent"} & {c.code for c in clean.cautions})


class WeldMetal(unittest.TestCase):
    def test_all_weld(self) -> None:
        for rod, expected in (("ER308L", 10), ("ER316L", 7), ("ER309L", 12), ("ER310", 0), ("ER312", 36)):
            self.assertAlmostEqual(ferrite_pct(rods()[rod].analysis), expected, delta=1.0)

    def mixed(self, rod: str, d: float) -> dict[str, float]:
        return mix(rods()[rod].analysis, (metals()["304L"].analysis, metals()["mild-steel"].analysis), d)

    def test_304l_to_mild_steel(self) -> None:
        self.assertAlmostEqual(ferrite_pct(self.mixed("ER309L", 0.30)), 5, delta=0.6)
        self.assertAlmostEqual(ferrite_pct(self.mixed("ER309L", 0.35)), 3.7, delta=0.1)
        self.assertAlmostEqual(ferrite_pct(self.mixed("ER309L", 0.50)), 0.3, delta=0.1)
        self.assertAlmostEqual(martensite_start_c(self.mixed("ER309L", 0.65)), 40, delta=1)
        self.assertAlmostEqual(martensite_start_c(self.mixed("ER308L", 0.40)), -20, delta=2)
        self.assertAlmostEqual(self.mixed("ER308L", 0.40)["Cr"], 15.6, delta=0.1)
        self.assertAlmostEqual(ferrite_pct(self.mixed("ER312", 0.60)), 8, delta=0.5)

    def test_carbon_rod_in_304l(self) -> None:
        both = (metals()["304L"].analysis, metals()["304L"].analysis)
        self.assertAlmostEqual(mix(rods()["ER70S-2"].analysis, both, 0.35)["Cr"], 6.4, delta=0.05)


class Tacks(unittest.TestCase):
    def test_round_a_tube(self) -> None:
        self.assertEqual(make_plan(make_joint(COPE), ASSUMED).tacks.count, 4)
        for diameter, expected in (("15 mm", 3), ("25 mm", 4), ("51 mm", 6), ("110 mm", 8)):
            p = plan("tube-butt", tube(diameter=diameter), length="all-round")
            self.assertEqual(p.tacks.count, expected)

    def test_pitch_on_sheet(self) -> None:
        for t, low, high in ((0.5, 10, 12.01), (1.2, 20, 24.01), (3.0, 40, 50.01)):
            self.assertTrue(low <= plan("butt", member(thickness=f"{t} mm"), length="600 mm").tacks.pitch_mm <= high)
