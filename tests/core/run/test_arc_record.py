"""The arc and coupon of a run: refused if impossible, and compared with each range."""

import unittest
from typing import Any

from tests.samples import run, typed
from wisearc.core.errors import InputError
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.core.run.range_check import judge_ranges
from wisearc.core.run.run import (
    ENDS,
    Coupon,
    RustTest,
    explain_coupon_failure,
    explain_rust_test,
    read_run,
)
from wisearc.core.run.verification import build_ranges
from wisearc.core.shop.shop import ASSUMED

SHEET = {"metal": "304L", "form": "sheet", "thickness_mm": 1.59}


class Refused(unittest.TestCase):
    def refused(self, field: str, **more: Any) -> None:
        with self.assertRaises(InputError) as caught:
            read_run(run(**more))
        self.assertEqual(caught.exception.field, field)

    def test_impossible_values_are_refused(self) -> None:
        read_run(
            run(
                arc={"by": "log", "arc_s": 12.0},
                look="even",
                coupon={"bend": "sheet"},
                left_band=[],
                arc_log=None,
            )
        )
        self.refused("arc.by", arc={"by": "guess"})
        self.refused("arc.arc_s", arc={"by": "log", "arc_s": -1})
        self.refused("arc.volts", arc={"by": "log", "volts": 1})
        self.refused("arc_log.sha256", arc_log={"file": "a.csv", "sha256": "zz"})
        self.refused("look", look="pretty")
        self.refused(
            "left_band[0].worst",
            left_band=[{"what": "peak_a", "start_s": 1, "end_s": 2, "worst": "much"}],
        )
        self.refused("coupon.bend", coupon={"bend": "somewhere"})
        self.refused(
            "coupon.rust.test", coupon={"rust": {"test": "tea", "minutes": 1, "shows": False}}
        )
        self.refused(
            "coupon.rust.shows", coupon={"rust": {"test": "kitchen", "minutes": 1, "shows": "no"}}
        )

    def test_a_coupon_that_gave_way_in_the_weld_proves_nothing(self) -> None:
        # in the sheet is good: common practice, no source
        good = {"sheet", "held"}
        for key in ("bend", "hammer"):
            for end in ENDS:
                self.assertEqual(
                    explain_coupon_failure(Coupon(**{key: end})) is None, end in good, (key, end)
                )
        for shows, words in ((True, "rusts"), (False, "")):
            coupon = Coupon(rust=RustTest("kitchen", 9, shows))
            self.assertIn(words, explain_coupon_failure(coupon) or "")
            self.assertEqual(explain_coupon_failure(coupon) is None, not shows)

    def test_shortened_rust_test_proves_little(self) -> None:
        # nothing after 8 minutes on good metal: common practice, no source
        for minutes, told in ((7.9, True), (8.0, False)):
            self.assertEqual(
                explain_rust_test(RustTest("kitchen", minutes, False)) is not None, told
            )
        self.assertIsNone(explain_rust_test(RustTest("kitchen", 3, True)))
        self.assertIsNone(explain_rust_test(RustTest("ferroxyl", 1, False)))


class JudgedByBands(unittest.TestCase):
    def setUp(self) -> None:
        self.plan = make_plan(
            make_joint({"joint": "outside-corner", "length_mm": 380, "members": [SHEET, SHEET]}),
            ASSUMED,
        )
        self.bands = build_ranges(self.plan)

    def how(self, record: dict[str, Any]) -> dict[str, str]:
        return {one.key: one.how for one in judge_ranges(typed(record), self.bands, self.plan)}

    def record(self, **more: Any) -> dict[str, Any]:
        plan = self.plan
        told = {
            "current_a": plan.slopes.machine_a,
            "flow_l_min": plan.gas.flow_l_min,
            "postflow_s": plan.gas.postflow_s,
            "rate_pps": plan.pulse.rate_pps,
            "on_pct": 30,
            "background_pct": 10,
        }
        measured = {"length_mm": 340, "arc_time_s": 100}
        return {"set": told, "used": {"gap_mm": 0.0}, "measured": measured, **more}

    def test_each_value_in_range_out_of_range_or_missing(self) -> None:
        self.assertEqual(set(self.how(self.record()).values()), {"kept"})
        off = self.record()
        off["set"] = {**off["set"], "flow_l_min": 2.0}
        self.assertEqual({k for k, v in self.how(off).items() if v == "left"}, {"flow_l_min"})
        bare = self.how({"set": {}, "measured": {}})
        self.assertEqual(set(bare.values()), {"not reported"})

    def test_a_log_is_judged_by_when(self) -> None:
        spell = {
            "what": "peak_a",
            "start_s": 20.0,
            "end_s": 24.0,
            "worst": 140.0,
            "low": 99.0,
            "high": 121.0,
        }
        found = {
            one.key: one
            for one in judge_ranges(
                typed(self.record(arc={"by": "log"}, left_band=[spell])), self.bands, self.plan
            )
        }
        self.assertEqual(found["machine_a"].how, "left")
        self.assertIn("20.0 to 24.0 s", found["machine_a"].text("mm"))
        self.assertEqual((found["rate_pps"].how, found["postflow_s"].how), ("kept", "kept"))
        # The log overrides the record.
        wrong = self.record(arc={"by": "log"}, left_band=[])
        wrong["set"] = {**wrong["set"], "rate_pps": 9}
        self.assertEqual(self.how(wrong)["rate_pps"], "kept")
        self.assertEqual(self.how({**wrong, "arc": {"by": "timer"}})["rate_pps"], "left")
