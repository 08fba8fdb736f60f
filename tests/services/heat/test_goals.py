"""Goals, and the changes that may reach them."""

import unittest

from msgspec.structs import replace

from tests.core.conduction.test_findings import answer
from tests.samples import joint, member, plan
from wisearc.core.conduction.reached import is_reached
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.heat.goals import GOALS, list_changed_plans

SHEET = member(thickness="1.5 mm")


class Goals(unittest.TestCase):
    def test_each(self) -> None:
        made = plan("butt", SHEET, pulse="none")
        good = answer(made)
        bright = replace(good, tint_front="straw")
        dark = replace(good, tint_front="blue")
        flat = replace(good, tendon_kn=0.7 * good.tendon_kn)
        wide = replace(good, width_along_mm=((1.0, 3 * made.travel.pool_width_mm),))
        narrow = replace(bright, width_peak_mm=0.5 * good.width_peak_mm)
        unfused = replace(bright, unfused_mm=((0.0, 5.0),))
        for goal, after, reached in (
            ("silver", bright, True),
            ("silver", dark, False),
            ("silver", narrow, False),
            ("silver", unfused, False),
            ("flat", flat, True),
            ("flat", good, False),
            ("through", good, True),
            ("through", wide, False),
        ):
            with self.subTest(goal=goal, reached=reached):
                self.assertEqual(is_reached(goal, good, after, made.travel.pool_width_mm), reached)
        self.assertEqual(set(GOALS), {"silver", "flat", "through"})

    def test_changes_are_plans_without_a_stop(self) -> None:
        asked = joint("outside-corner", SHEET, length="300 mm", back="open", finish="sound")
        made = plan("outside-corner", SHEET, length="300 mm", back="open", finish="sound")
        changed = list_changed_plans(made, asked, ASSUMED)
        words = [change.words for change, _ in changed]
        self.assertIn("Use 5 % less peak.", words)
        self.assertIn("Clamp copper bars.", words)
        for change, tried in changed:
            with self.subTest(change=change.words):
                self.assertFalse(tried.stopped)
                if "back" in change.sets:
                    self.assertTrue(tried.back.barred)
                if "pins.peak_a" in change.sets:
                    self.assertLess(tried.pulse.peak_a, made.pulse.peak_a)
        self.assertLess(len(changed[0][0].sets), len(changed[-1][0].sets) + 1)
