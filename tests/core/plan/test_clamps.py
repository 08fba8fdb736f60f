"""Clamps: on tube none, on bars near their ends, on sheet by the tacks. Common practice."""

import unittest
from itertools import pairwise

from tests.core.weld_session.test_steps import TUBE, make_case_plan
from wisearc.core.plan.plan import Plan
from wisearc.core.plan.preparation.bar_runs import list_bar_faces, split_by_bars
from wisearc.core.plan.preparation.clamps import ClampPlan, plan_clamps


def clamp(plan: Plan, bar_mm: float = 150, free_mm: float | None = None) -> ClampPlan:
    at_once = len(list_bar_faces(plan))
    runs = split_by_bars(plan.section.length_mm, at_once, None, bar_mm) if at_once else []
    return plan_clamps(plan, runs, free_mm)


class Clamps(unittest.TestCase):
    def test_no_clamps_on_tube(self) -> None:
        tube = clamp(make_case_plan(joint="tube-butt", members=[TUBE, TUBE], length="all-round"))
        self.assertEqual(tube.count, 0)
        self.assertIn("no clamps on the tube", tube.text[0].text())

    def test_each_bar_is_held_near_both_ends(self) -> None:
        for bar_mm, count in ((60, 2), (100, 2), (150, 3), (300, 4)):
            corner = clamp(make_case_plan(length_mm=bar_mm), bar_mm)
            self.assertEqual(corner.count, count, bar_mm)
            self.assertLessEqual(corner.places_mm[0], bar_mm / 4)
            self.assertGreaterEqual(corner.places_mm[-1], 3 * bar_mm / 4)
            for a, b in pairwise(corner.places_mm):
                self.assertLessEqual(b - a, 75.1)
            self.assertEqual(corner.faces, 2)

    def test_reach_at_a_corner_and_across_a_sheet(self) -> None:
        plan = make_case_plan()
        # The bar is 25 mm wide: to its middle, and 10 mm more for the jaw.
        self.assertEqual(clamp(plan).reach_mm, plan.back.bar_from_seam_mm + 12.5 + 10)
        butt = make_case_plan(joint="butt", back="open")
        self.assertEqual(clamp(butt, free_mm=50.0).reach_mm, 50.0)
        for free_mm in (None, 200.0):
            wide = clamp(butt, free_mm=free_mm)
            self.assertIsNone(wide.reach_mm)
            self.assertIn("bridge bar or weights", " ".join(s.text() for s in wide.text))

    def test_sheet_without_bars(self) -> None:
        butt = make_case_plan(joint="butt", back="open", length_mm=380)
        found = clamp(butt)
        self.assertEqual((found.places_mm[0], found.places_mm[-1]), (10.0, 370.0))
        gaps = [b - a for a, b in pairwise(found.places_mm)]
        self.assertLessEqual(max(gaps), 2 * butt.tacks.pitch_mm + 0.1)
        short = clamp(make_case_plan(joint="butt", back="open", length_mm=20))
        self.assertEqual(short.places_mm, (5.0, 15.0))
