"""Limits and amounts of each recommended change.

Current 5 to 10 %, travel speed 10 %, post-flow 2 s: common practice, no source. The other amounts
are estimates of `core/diagnosis/changes.py`.
"""

from __future__ import annotations

import unittest
from typing import Any

from tests import samples
from tests.samples import member, plan, typed
from wisearc.core.diagnosis.actual import Actual
from wisearc.core.diagnosis.changes import Change, changes_for
from wisearc.core.diagnosis.signs import signs_of
from wisearc.core.plan.plan import Plan
from wisearc.core.shop.shop import ASSUMED


def list_changes(made: Plan, cause: str, **more: Any) -> dict[str, Change]:
    """Return the changes for a cause. The run is as planned, apart from `more`."""
    run = samples.run(dict(made.joint), good=False)
    for key, value in more.items():
        run[key] = {**run.get(key, {}), **value} if isinstance(value, dict) else value
    actual = Actual(made, typed(run), ASSUMED)
    found = changes_for(cause, actual, signs_of(actual))
    return {one.code: one for one in found if isinstance(one, Change)}


class Edges(unittest.TestCase):
    def setUp(self) -> None:
        self.plan = plan("butt", member(thickness="1.5 mm"), length="200 mm", pulse="none")

    def proposed(self, code: str, cause: str, **more: Any) -> bool:
        return code in list_changes(self.plan, cause, **more)

    def test_short_post_flow(self) -> None:
        planned = self.plan.gas.postflow_s
        for short_s, found in ((0.24, False), (0.26, True)):
            with self.subTest(short_s=short_s):
                set_ = {"postflow_s": planned - short_s}
                self.assertEqual(
                    self.proposed("postflow-as-planned", "left-early", set=set_), found
                )

    def test_short_hold(self) -> None:
        planned = self.plan.gas.postflow_s
        for key in ("held_s", "postflow_s"):
            for short_s, found in ((0.49, False), (0.51, True)):
                arc = {"by": "log", key: round(planned - short_s, 3)}
                with self.subTest(key=key, short_s=short_s):
                    self.assertEqual(self.proposed("hold-still", "left-early", arc=arc), found)

    def test_wrong_flow(self) -> None:
        planned = self.plan.gas.flow_l_min
        for share, found in ((1.09, False), (1.11, True), (0.91, False), (0.89, True)):
            set_ = {"flow_l_min": planned * share}
            with self.subTest(share=share):
                self.assertEqual(self.proposed("flow-as-planned", "gas-low", set=set_), found)

    def test_smaller_cup(self) -> None:
        cup = self.plan.torch.cup
        for used, found in ((cup, False), (cup - 1, True), (cup + 2, False)):
            with self.subTest(used=used):
                used_ = {"cup": used}
                self.assertEqual(self.proposed("cup-as-planned", "cover-small", used=used_), found)

    def test_missing_tacks(self) -> None:
        count = self.plan.tacks.count
        for tacks, found in ((count, False), (count - 1, True), (0, False)):
            arc = {"by": "log", "tacks": tacks}
            with self.subTest(tacks=tacks):
                self.assertEqual(self.proposed("tacks-as-planned", "tacks-few", arc=arc), found)

    def test_short_taper(self) -> None:
        wanted = list_changes(self.plan, "taper-short")["taper-longer"].move.after
        for share, after in ((0.88, wanted), (0.92, round(1.5 * 0.92 * wanted, 1))):
            arc = {"by": "log", "taper_s": share * wanted}
            with self.subTest(share=share):
                move = list_changes(self.plan, "taper-short", arc=arc)["taper-longer"].move
                self.assertAlmostEqual(move.after, after, delta=0.051)

    def test_amounts(self) -> None:
        amps, pace = self.plan.current.steady_a, self.plan.travel.speed_mm_s
        for cause, code, after in (
            ("heat-high", "amps-down", 0.90 * amps),
            ("heat-low", "slower", 0.90 * pace),
            ("heat-high", "faster", 1.10 * pace),
            ("left-early", "postflow-longer", self.plan.gas.postflow_s + 2),
            ("tacks-few", "tacks-closer", 0.7 * self.plan.tacks.pitch_mm),
            ("gap", "refit", 0.5 * self.plan.fit_up.max_gap_mm),
        ):
            found = list_changes(self.plan, cause)
            with self.subTest(code=code):
                self.assertIn(code, found)
                self.assertAlmostEqual(
                    found[code].move.after, after, delta=0.51 if "amps" in code else 0.051
                )

    def test_current_of_a_cold_weld(self) -> None:
        amps = self.plan.current.steady_a
        least = list_changes(self.plan, "heat-low")["amps-up"].move.after
        most = list_changes(self.plan, "heat-low", faults=["cold"])["amps-up"].move.after
        self.assertAlmostEqual(least, 1.05 * amps, delta=0.51)
        self.assertAlmostEqual(most, 1.10 * amps, delta=0.51)

    def test_minimum_leg(self) -> None:
        for leg, after in (("2 mm", 1.7), ("0.7 mm", 0.5), ("0.5 mm", None)):
            made = plan("tee", member(thickness="1.5 mm"), length="100 mm", leg=leg)
            found = list_changes(made, "bead-heavy").get("smaller-bead")
            with self.subTest(leg=leg):
                self.assertEqual(found and found.move.after, after)

    def test_oxygen_target(self) -> None:
        for target, after in ((100, 50), (70, 35), (30, 20)):
            made = plan(
                "tube-butt",
                samples.tube(),
                length="all-round",
                back="purge",
                purge_target_ppm=target,
            )
            with self.subTest(target=target):
                self.assertEqual(list_changes(made, "back-bare")["purge-longer"].move.after, after)
        made = plan(
            "tube-butt", samples.tube(), length="all-round", back="purge", purge_target_ppm=20
        )
        self.assertNotIn("purge-longer", list_changes(made, "back-bare"))


if __name__ == "__main__":
    unittest.main()
