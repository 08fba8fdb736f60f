"""Manual answers together, and the approaches of the trade."""

import re
import unittest
from pathlib import Path

import wisearc
from tests.samples import codes, member, plan
from wisearc.core.errors import UnknownName
from wisearc.core.joint.data import make_joint
from wisearc.core.joint.joint import Joint
from wisearc.core.plan.approaches import BY_KEY, check_approach, get_preference_keys
from wisearc.core.plan.pins import PINS
from wisearc.core.plan.plan import list_choice_kinds
from wisearc.core.reasons import Choice
from wisearc.core.schema.entries import read_entries
from wisearc.core.schema.figures import list_figures

VALUES = {
    "rod_diameter_mm": 1.2,
    "current_a": 48.0,
    "rate_pps": 1.8,
    "on_pct": 40.0,
    "background_pct": 20.0,
    "peak_a": 95.0,
    "tungsten_type": "ceriated-2",
    "tungsten_mm": 2.4,
    "included_angle_deg": 40.0,
    "front_end": "plain",
    "cup": 6,
    "stickout_mm": 5.5,
    "flow_l_min": 8.0,
    "preflow_s": 0.8,
    "postflow_s": 9.0,
    "purge_l_min": 4.0,
    "tack_pitch_mm": 25.0,
    "tack_current_a": 90.0,
}


class Pins(unittest.TestCase):
    def test_each_pin_is_taken(self) -> None:
        self.assertEqual(set(VALUES), set(PINS))
        for name, value in VALUES.items():
            p = plan(
                "outside-corner",
                member("316L"),
                member("316L"),
                length="300 mm",
                gap_mm=0.1,
                pulse="slow-cold",
                pins={name: value},
            )
            taken = {
                "rod_diameter_mm": p.filler.diameter_mm,
                "current_a": p.current.steady_a,
                "rate_pps": p.pulse.rate_pps,
                "on_pct": p.pulse.on_pct,
                "background_pct": p.pulse.background_pct,
                "peak_a": p.pulse.peak_a,
                "tungsten_type": p.tungsten.type,
                "tungsten_mm": p.tungsten.diameter_mm,
                "included_angle_deg": p.tungsten.included_angle_deg,
                "front_end": p.torch.front_end,
                "cup": p.torch.cup,
                "stickout_mm": p.torch.stickout_mm,
                "flow_l_min": p.gas.flow_l_min,
                "preflow_s": p.gas.preflow_s,
                "postflow_s": p.gas.postflow_s,
                "purge_l_min": p.back.purge.weld_flow_l_min,
                "tack_current_a": p.tacks.current_a,
                "tack_pitch_mm": p.tacks.pitch_mm,
            }[name]
            with self.subTest(pin=name):
                self.assertEqual(taken, value)

    def test_every_pin_that_a_choice_asks_for_is_declared(self) -> None:
        called = set()
        for path in (Path(wisearc.__file__).parent / "core").rglob("*.py"):
            called |= set(re.findall(r"\.pins\.get\(\s*\"(\w+)\"", path.read_text("utf-8")))
        self.assertGreater(len(called), 10)
        self.assertEqual(called - set(PINS), set())

    def test_every_field_of_a_choice_is_a_declared_figure(self) -> None:
        for kind in list_choice_kinds():
            own = set(kind.__struct_fields__) - set(Choice.__struct_fields__)
            with self.subTest(choice=kind.__name__):
                self.assertEqual(set(list_figures(kind)), own)

    def test_the_rest_follows(self) -> None:
        small, large = (plan("butt", pins={"cup": cup}) for cup in (6, 12))
        self.assertLess(small.gas.flow_l_min, large.gas.flow_l_min)
        self.assertAlmostEqual(plan("butt", pins={"current_a": 40}).slopes.machine_a, 52)

    def test_post_flow_of_nothing_is_taken_and_judged(self) -> None:
        p = plan("butt", pins={"postflow_s": 0, "preflow_s": 0})
        self.assertEqual((p.gas.postflow_s, p.gas.preflow_s), (0, 0))
        self.assertIn("postflow-short", codes(p, "caution"))

    def test_idle_pins_offer_their_release(self) -> None:
        for pins, key in (
            ({"peak_a": 90}, "pins.peak_a"),
            ({"rod_diameter_mm": 1.2}, "pins.rod_diameter_mm"),
        ):
            p = plan("outside-corner", length="100 mm", pins=pins)
            idle = [c for c in p.cautions if c.code == "pin-idle"]
            self.assertEqual([c.sets for c in idle], [{key: None}])

    def test_contradiction(self) -> None:
        """A peak and a current that do not match: the seam needs 40 A, the peak gives 99."""
        p = plan("butt", gap_mm=0.2, pulse="fast", pins={"peak_a": 180, "current_a": 40})
        found = next(c for c in p.cautions if c.code == "pulse-off")
        self.assertEqual((found.level, found.sets), ("caution", {"pins.peak_a": None}))
        own = plan("butt", gap_mm=0.2, pulse="fast").current.steady_a
        agreeing = plan("butt", gap_mm=0.2, pulse="fast", pins={"peak_a": own / 0.5511})
        self.assertNotIn("pulse-off", codes(agreeing))


class Approaches(unittest.TestCase):
    def test_every_approach_is_an_accepted_value(self) -> None:
        sheet = {"joint": "butt", "members": [member(), member()]}
        for question in BY_KEY.values():
            for approach in question.schools:
                with self.subTest(question=question.key, school=approach.value):
                    make_joint({**sheet, **get_preference_keys({question.key: approach.value})})

    def test_the_default_is_the_joints_own(self) -> None:
        plain = make_joint({"joint": "butt", "members": [member(), member()]})
        for key in ("rod_school", "tip_school", "setting_school", "gas_school", "pulse"):
            self.assertEqual(BY_KEY[key].default, getattr(plain, key))
        self.assertEqual(
            set(read_entries(Joint)["rod_school"].allowed()),
            {s.value for s in BY_KEY["rod_school"].schools},
        )
        self.assertEqual(get_preference_keys({key: q.default for key, q in BY_KEY.items()}), {})

    def test_unknown(self) -> None:
        for key, value in (("hat_school", "x"), ("tip_school", "spoon")):
            with self.assertRaises(UnknownName):
                check_approach(key, value)

    def test_overlap_changes_travel_by_the_rule(self) -> None:
        """Common practice.

        Travel speed = frequency · pool length · (1 − overlap). At 2 a second the travel speed gives
        way, below it the frequency.
        """
        for t, o, gives_way in (
            (1.2, 35, True),
            (1.5, 50, True),
            (1.5, 35, False),
            (1.5, 30, False),
        ):
            p = plan("outside-corner", member(thickness=f"{t} mm"), length="300 mm", overlap_pct=o)
            self.assertAlmostEqual(p.travel.overlap_pct, o, delta=0.15)
            rate, pool = p.pulse.rate_pps or 0.0, p.heat.pool_length_mm or 0.0
            self.assertEqual(rate == 2.0, gives_way)
            self.assertAlmostEqual(
                p.travel.speed_mm_s / (rate * pool * (1 - o / 100)), 1, delta=0.005
            )
            self.assertAlmostEqual(p.travel.speed_mm_s, rate * (p.travel.pitch_mm or 0), delta=0.02)

    def test_overlap_sets_the_dabs(self) -> None:
        """Spacing = pool length · (1 − overlap), 0.95 × 4.2 mm on a fed butt, both approaches."""
        for o, other in ((35, 50.0), (50, 35.0)):
            p = plan("butt", overlap_pct=o)
            self.assertAlmostEqual(p.travel.dab_pitch_mm, 0.95 * 4.2 * (1 - o / 100), delta=0.02)
            self.assertEqual([a.sets for a in p.travel.others], [{"overlap_pct": other}])
        foot = plan("outside-corner", length="300 mm", pulse="pedal")
        # 0.7 to 1.2 dabs a second: 1.2 × 0.95 × 3.3 mm × 0.65
        self.assertAlmostEqual(foot.pulse.rate_pps, 1.2)
        self.assertAlmostEqual(foot.travel.speed_mm_s, 1.2 * 0.95 * 3.3 * 0.65, delta=0.02)


class Positions(unittest.TestCase):
    """Common practice, no source: less current, a thinner rod and a small pool against gravity."""

    def test_rod_stays_under_the_sheet(self) -> None:
        for position in ("vertical-up", "overhead"):
            p = plan("butt", position=position, rod_school="equals-sheet")
            self.assertEqual(p.filler.diameter_mm, 1.0)
            self.assertTrue(
                any("rod thinner than the sheet" in r.sentence.text() for r in p.filler.why)
            )
