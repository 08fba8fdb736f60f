"""Verification of a procedure: ranges, required values, and a draft from the run.

The ranges are common practice, no source, as tolerances for another welder; their widths are
estimates.
"""

import unittest
from functools import partial
from typing import Any

from tests.samples import CORNER, FLANGE, TEE, plan, run, typed
from wisearc.core.errors import InputError
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import Plan, make_plan
from wisearc.core.run.run import get_planned_values, read_run
from wisearc.core.run.verification import (
    LATER,
    OutsideBands,
    build_joint_as_done,
    build_ranges,
    check_bands,
    check_good,
    find_outside,
)
from wisearc.core.shop.shop import ASSUMED

# Each range as factors of the plan: the last value inside, the first outside, in both directions
# (None: open).
BANDS = {
    ("set", "current_a"): ((0.905, 0.88), (1.095, 1.12)),
    ("set", "rate_pps"): ((0.81, 0.78), (1.24, 1.28)),
    ("set", "on_pct"): ((0.91, 0.88), (1.09, 1.12)),
    ("set", "background_pct"): ((0.82, 0.76), (1.22, 1.3)),
    ("set", "flow_l_min"): ((0.91, 0.88), (1.09, 1.12)),
    ("set", "postflow_s"): ((1.0, 0.97), None),
    # Arc time against travel speed: slower is longer.
    ("measured", "arc_time_s"): ((0.92, 0.88), (1.1, 1.14)),
}


def of(joint: dict) -> Plan:
    return make_plan(make_joint(joint), ASSUMED)


class Bands(unittest.TestCase):
    def off(self, joint: dict, part: str, key: str, value: Any) -> list[str]:
        """Return the labels of the deviations if one figure of a run differs from the plan."""
        made = run(joint)
        made[part] = {**made[part], key: value}
        return [one.label for one in find_outside(typed(made), build_ranges(of(joint)), of(joint))]

    def test_each_end(self) -> None:
        self.assertEqual(find_outside(typed(run()), build_ranges(of(CORNER)), of(CORNER)), [])
        for (part, key), ends in BANDS.items():
            planned = run()[part][key]
            for inside, out in filter(None, ends):
                with self.subTest(key=key, factor=out):
                    self.assertEqual(self.off(CORNER, part, key, planned * inside), [])
                    self.assertEqual(len(self.off(CORNER, part, key, planned * out)), 1)
        self.assertEqual(self.off(CORNER, "set", "postflow_s", 60), [])

    def test_each_figure_is_rounded_by_itself(self) -> None:
        """A hundredth is let pass; of figures over 1 a hundredth of them: estimate."""
        for low, value, out in ((1.0, 0.991, False), (1.0, 0.9895, True), (10.1, 10.0, False)):
            made = run()
            made["set"]["postflow_s"] = value
            found = find_outside(typed(made), {"postflow_s": (low, None)}, of(CORNER))
            with self.subTest(value=value):
                self.assertEqual([one.key for one in found], ["postflow_s"] if out else [])
        made["set"]["postflow_s"] = 10.0
        found = find_outside(typed(made), {"postflow_s": (10.105, None)}, of(CORNER))
        self.assertEqual(len(found), 1)

    def test_a_band_goes_from_low_to_high(self) -> None:
        plan = of(CORNER)
        flow = plan.gas.flow_l_min
        for ends, words in (
            ([flow, flow], ""),
            ([flow + 0.1, flow], "must run from the lower limit to the upper"),
        ):
            bands = {**build_ranges(plan), "flow_l_min": ends}
            if words:
                with self.assertRaisesRegex(InputError, words):
                    check_bands(bands, plan)
            else:
                check_bands(bands, plan)

    def test_gap_and_rod(self) -> None:
        """A gap to a quarter of 1.5 mm with filler, 0.375 mm.

        Handbook; none but the planned rod is the same weld metal.
        """
        self.assertEqual(self.off(TEE, "used", "gap_mm", 0.375), [])
        self.assertEqual(self.off(TEE, "used", "gap_mm", 0.39), ["Measured gap"])
        self.assertEqual(self.off(TEE, "used", "rod", "ER308L"), ["Rod"])
        self.assertEqual(self.off(CORNER, "used", "rod", "ER308L"), ["Rod"])
        self.assertEqual(self.off(CORNER, "used", "rod", "none"), [])

    def test_missing_values_of_a_run_are_not_judged(self) -> None:
        self.assertEqual(
            find_outside(
                typed({"set": {}, "used": {}, "measured": {"length_mm": 100}}),
                build_ranges(of(CORNER)),
                of(CORNER),
            ),
            [],
        )
        self.assertIsNone(typed(run(measured={"length_mm": 100})).travel_mm_s)
        self.assertEqual(typed(run(measured={"length_mm": 100, "arc_time_s": 40})).travel_mm_s, 2.5)

    def test_bands_kept_before_there_were_more(self) -> None:
        """A record without a later range is compared with its figure, and stays readable."""
        older = {key: ends for key, ends in build_ranges(of(CORNER)).items() if key not in LATER}
        self.assertEqual(
            set(older), {"current_a", "travel_mm_s", "flow_l_min", "postflow_s", "gap_mm"}
        )
        check_bands(older, of(CORNER))
        made = run()
        made["set"]["current_a"] *= 1.2
        self.assertEqual(
            [one.label for one in find_outside(typed(made), older, of(CORNER))], ["Current setting"]
        )
        for key in older:
            with self.subTest(key=key), self.assertRaises(InputError):
                check_bands({k: v for k, v in older.items() if k != key}, of(CORNER))

    def test_an_unpulsed_plan_has_no_bands_of_a_pulse(self) -> None:
        for joint in (FLANGE, {**CORNER, "pulse": "pedal"}):
            self.assertEqual(
                {"rate_pps", "on_pct", "background_pct"} & set(build_ranges(of(joint))), set()
            )

    def test_texts_of_the_result(self) -> None:
        made = run()
        made["set"] |= {"flow_l_min": 2.0, "postflow_s": 1.0}
        told = [
            one.text("in")
            for one in find_outside(typed(made), build_ranges(of(CORNER)), of(CORNER))
        ]
        self.assertEqual(
            told, ["Argon 4.2 CFH, allowed 18 CFH to 22 CFH", "Post-flow 1 s, allowed at least 6 s"]
        )


class Good(unittest.TestCase):
    def refused(self, **more: Any) -> str:
        made = run()
        for key, value in more.items():
            made[key] = {**made[key], **value} if isinstance(value, dict) else value
        try:
            check_good(typed(made), of(CORNER), build_ranges(of(CORNER)))
        except InputError as error:
            return error.rule
        return ""

    def test_required_entries_and_observations(self) -> None:
        self.assertEqual(self.refused(), "")
        for more, words in (
            ({"measured": {"length_mm": None}}, "Missing: welded length"),
            ({"measured": {"arc_time_s": None}}, "Missing: arc time"),
            ({"set": {"current_a": None}}, "Missing: current setting"),
            ({"set": {"flow_l_min": None, "postflow_s": None}}, "Missing: argon, post-flow"),
            ({"back": {"colour": "not-seen"}}, "Nobody checked the root"),
            (
                {"set": {"current_a": 20.0, "flow_l_min": 2.0, "postflow_s": 0.0}},
                "Current setting 20 A, allowed 99 A to 121 A; Argon 2 L/min",
            ),
        ):
            with self.subTest(more=more):
                self.assertIn(words, self.refused(**more))

    def test_good_and_not_as_planned_at_once(self) -> None:
        for good, refused in ((True, True), (False, False)):
            data = run(good=good, as_done=True)
            if refused:
                with self.assertRaisesRegex(InputError, "was not made as planned"):
                    read_run(data)
            else:
                self.assertTrue(read_run(data).as_done)

    def test_older_run_stays_valid(self) -> None:
        older = typed(run(set={}, measured={}))
        check_good(older, of(CORNER), build_ranges(of(CORNER)), 1)
        # figures are asked for since minor 2
        with self.assertRaises(InputError):
            check_good(older, of(CORNER), build_ranges(of(CORNER)), 2)


class PlanFromRun(unittest.TestCase):
    def test_plan_from_the_run_contains_its_values(self) -> None:
        for joint, set_to in (
            (CORNER, {"current_a": 150.0, "rate_pps": 1.2, "on_pct": 40.0, "flow_l_min": 12.0}),
            (TEE, {"current_a": 60.0, "flow_l_min": 7.0}),
        ):
            made = run(joint)
            made["set"] |= set_to
            made["measured"]["arc_time_s"] *= 1.5
            made["used"] |= {"gap_mm": 0.02 if joint is CORNER else 0.3}
            if joint is TEE:
                made["used"]["rod"] = "ER308L"
            before = of(joint)
            off = find_outside(typed(made), build_ranges(before), before)
            planned = partial(make_plan, shop=ASSUMED)
            after = planned(build_joint_as_done(before, build_ranges(before), typed(made), planned))
            with self.subTest(joint=joint["joint"]):
                self.assertGreater(len(off), 3)
                self.assertEqual(find_outside(typed(made), build_ranges(after), after), [])

    def test_raised(self) -> None:
        made = run()
        made["set"]["current_a"] = 20.0
        with self.assertRaises(OutsideBands) as caught:
            check_good(typed(made), of(CORNER), build_ranges(plan()))
        self.assertIn("current_a", [one.key for one in caught.exception.off])

    def test_as_planned_is_within(self) -> None:
        self.assertEqual(get_planned_values(of(CORNER))["used.rod"], ("none", "word"))
        self.assertEqual(get_planned_values(of(TEE))["used.rod"], ("ER309L", "word"))


if __name__ == "__main__":
    unittest.main()
