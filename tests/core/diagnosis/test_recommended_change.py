"""The recommended change, and the changes that the diagnosis refuses."""

import math
import unittest

from tests import samples
from tests.core.diagnosis.cases import make_case_plan, of, said
from tests.samples import member, plan, typed
from wisearc.core import catalogue
from wisearc.core.diagnosis.actual import Actual
from wisearc.core.diagnosis.changes import Refused, list_changes
from wisearc.core.diagnosis.diagnosis import Before, apply_change
from wisearc.core.diagnosis.signs import list_signs
from wisearc.core.shop.shop import ASSUMED


class TheChange(unittest.TestCase):
    def test_in_figures_and_made_in_the_plan(self) -> None:
        butt = of(pulse="none")
        for faults, more, key, by in (
            (("cold",), {}, "current", lambda m: 1.04 < m.after / m.before < 1.11),
            (("too-hot",), {}, "current", lambda m: abs(m.after / m.before - 0.9) < 0.02),
            (
                ("grey",),
                {"seen": {"where": {"grey": "stops"}}},
                "postflow_s",
                lambda m: m.after == m.before + 2,
            ),
            (
                ("wobble",),
                {"set": {"flow_l_min": None}},
                "flow_l_min",
                lambda m: m.after < 0.9 * m.before,
            ),
        ):
            with self.subTest(faults=faults):
                change = said(butt, faults, **more).change
                assert change is not None and change.plan is not None
                self.assertEqual(change.key, key)
                self.assertTrue(by(change.move), change.move)
                made = make_case_plan(apply_change(change, butt))
                self.assertEqual(made.slopes.machine_a, change.plan.slopes.machine_a)
                shown = {
                    "current": made.current.steady_a,
                    "postflow_s": made.gas.postflow_s,
                    "flow_l_min": made.gas.flow_l_min,
                }
                self.assertAlmostEqual(shown[key], change.move.after, delta=0.012)
                self.assertTrue(change.watch)

    def test_setting_that_differs_from_the_plan_is_corrected_first(self) -> None:
        butt = of(pulse="none")
        low = said(butt, ("cold",), set={"current_a": round(0.8 * butt.slopes.machine_a)})
        self.assertEqual(low.change and low.change.code, "set-as-planned")
        fast = said(
            butt, ("cold",), measured={"length_mm": 100, "arc_time_s": 70 / butt.travel.speed_mm_s}
        )
        self.assertEqual(fast.change and fast.change.code, "pace-as-planned")
        short = said(butt, ("grey",), set={"postflow_s": 1.0}, seen={"where": {"grey": "stops"}})
        self.assertEqual(
            (short.causes[0].cause.key, short.change and short.change.code),
            ("left-early", "postflow-as-planned"),
        )

    def test_one_cause_and_its_consequences(self) -> None:
        found = said(of(), ("grey", "cold"))
        assert found.change is not None
        self.assertNotIn(found.change.code, [one.code for one in found.also])
        self.assertTrue(found.also)

    def test_never_one_that_a_caution_forbids(self) -> None:
        for name, joint in samples.EVERY.items():
            made = make_case_plan(joint)
            actual = Actual(made, typed({}), ASSUMED)
            codes = {c.code for c in made.cautions if c.level != "note"}
            for cause in catalogue.load_causes().values():
                for one in list_changes(cause.key, actual, list_signs(actual)):
                    if isinstance(one, Refused) or one.plan is None:
                        continue
                    new = {c.code for c in one.plan.cautions if c.level != "note"} - codes
                    despite = set(catalogue.read_changes()[one.code].despite)
                    with self.subTest(name, change=one.code):
                        self.assertLessEqual(new, despite)
                        self.assertFalse(
                            {c.code for c in one.plan.cautions if c.level == "stop"} - codes
                        )

    def test_forbidden_change_is_reported_and_skipped(self) -> None:
        # An almost turbulent jet: a caution forbids more gas.
        made = plan(
            "butt", member(thickness="1.5 mm"), length="100 mm", pins={"cup": 8, "flow_l_min": 19}
        )
        found = said(
            made,
            ("grey",),
            seen={"told": {"draught": True}, "where": {"grey": [0, 1]}},
            set={"flow_l_min": None},
        )
        repeated = (Before("gas-low", "shut-the-door", "hand", None, None, True),)
        after = said(
            made,
            ("grey",),
            repeated,
            seen={"told": {"draught": True}, "where": {"grey": [0, 1]}},
            set={"flow_l_min": None},
        )
        self.assertEqual(found.change and found.change.code, "shut-the-door")
        self.assertNotEqual(after.change and after.change.code, "flow-up")
        self.assertIn(
            "change-forbidden", {c.code for c in after.cautions} | {c.code for c in found.cautions}
        )

    def test_never_straight_back(self) -> None:
        butt = of(pulse="none", pins={"current_a": 60})
        up = Before("heat-low", "amps-up", "current", 54.0, 60.0, False)
        change = said(butt, ("too-hot",), (up,)).change
        assert change is not None and change.plan is not None
        self.assertEqual((change.key, change.move.after), ("current", 57.0))
        self.assertIn("reverses the last change", change.said)
        self.assertAlmostEqual(change.plan.current.steady_a, 57, delta=0.02)
        long_ago = Before("heat-low", "amps-up", "current", 54.0, 60.0, False, just=False)
        self.assertEqual(
            said(butt, ("too-hot",), (long_ago,)).change, said(butt, ("too-hot",)).change
        )
        slower = Before("heat-low", "slower", "travel_mm_s", 2.7, 2.4, False)
        other = said(butt, ("too-hot",), (slower,)).change
        self.assertEqual(
            other and (other.key, other.said), ("current", "This reverses the last change.")
        )
        same = Before("heat-high", "faster", "travel_mm_s", 2.7, 3.0, False)
        self.assertEqual(said(butt, ("too-hot",), (same,)).change, said(butt, ("too-hot",)).change)
        fresh = said(butt, ("too-hot",)).change
        self.assertEqual(fresh and (fresh.said, fresh.move.after), ("", 54.0))

    def test_order_of_failed_advice(self) -> None:
        butt = of(pulse="none", pins={"current_a": 60})
        for faults, code, key, repeated, first, after in (
            ("restart", "restart-warm", "hand", True, None, ["restart-warm"]),
            ("restart", "restart-warm", "hand", False, "restart-warm", []),
            ("cold", "amps-up", "current", True, "amps-up", ["slower"]),
        ):
            tried = Before("heat-low", code, key, 54.0, 60.0, repeated)
            found = said(butt, (faults,), (tried,))
            self.assertEqual(
                (found.change and found.change.code, [one.code for one in found.also[:1]]),
                (first, after),
            )

    def test_failed_change_counts_against_its_cause(self) -> None:
        tried = tuple(
            Before("left-early", "postflow-longer", "postflow_s", 6.0, 8.0, True) for _ in range(2)
        )
        first, later = said(of(), ("grey",)), said(of(), ("grey",), tried)
        self.assertEqual(first.causes[0].cause.key, "left-early")
        self.assertNotEqual(later.causes[0].cause.key, "left-early")
        once = said(of(), ("grey",), tried[:1])
        odds = [
            next(r.weight for r in one.causes if r.cause.key == "left-early")
            / next(r.weight for r in one.causes if r.cause.key == "gas-low")
            for one in (first, once, later)
        ]
        self.assertAlmostEqual(odds[0] / odds[1], math.exp(1.6), delta=0.002)
        self.assertAlmostEqual(odds[1] / odds[2], math.exp(1.6), delta=0.002)
