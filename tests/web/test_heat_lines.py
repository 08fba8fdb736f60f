"""The answers of a field as lines of a page, in both unit systems."""

import math
import unittest

from msgspec.structs import replace

from tests.samples import member, plan
from wisearc.core.conduction.differences import Difference
from wisearc.core.conduction.findings import find_answers
from wisearc.core.conduction.seam import build_problem
from wisearc.core.conduction.solver.field import run_field
from wisearc.core.quantities import size
from wisearc.presenters.heat import build_texts, describe_field

BUTT = plan("butt", member(thickness="1.5 mm"), pulse="none", length="300 mm")


class Lines(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.outcome = run_field(build_problem(BUTT, 1.0, preview=True))
        cls.answers = find_answers(cls.outcome, BUTT.travel.pool_width_mm)

    def lines(self, **changed: object) -> dict[str, tuple[str, str, str]]:
        """Return the lines by label: metric, inch, level."""
        answers = replace(self.answers, **changed)
        return {
            line.label: (line.words.mm, line.words.inch, line.level)
            for line in describe_field(BUTT, self.outcome, answers)
        }

    def test_plain(self) -> None:
        lines = self.lines()
        self.assertIn("mm wide", lines["Pool"][0])
        self.assertIn(" in wide", lines["Pool"][1])
        self.assertRegex(lines["Start and restart"][0], "forms in [0-9.]+ s on cold sheet")
        self.assertIn("first 120 mm of 300 mm", lines["Calculated"][0])
        self.assertNotIn("Burn-through", lines)
        self.assertNotIn("Fusion", lines)
        for words in lines.values():
            self.assertTrue(words[0].endswith(".") and words[1].endswith("."))

    def test_stops_are_first(self) -> None:
        lines = self.lines(burnt_mm=((100.0, 118.0),), unfused_mm=((1.0, 3.0), (9.0, 11.0)))
        self.assertEqual(list(lines)[:2], ["Burn-through", "Fusion"])
        self.assertIn("from 100 to 118 mm", lines["Burn-through"][0])
        self.assertIn("from 1 to 3 mm and from 9 to 11 mm", lines["Fusion"][0])
        many = tuple((float(i), i + 1.0) for i in range(0, 60, 10))
        self.assertIn("at 6 places from 0 to 51 mm", self.lines(unfused_mm=many)["Fusion"][0])

    def test_gas_that_ends_too_early(self) -> None:
        longer = BUTT.gas.postflow_s + 4.3
        words, _, level = self.lines(glow_after_stop_s=longer)["After the arc"]
        self.assertEqual(level, "caution")
        self.assertEqual(next(iter(self.lines(glow_after_stop_s=longer))), "After the arc")
        self.assertIn(f"Set a post-flow of {math.ceil(2 * longer) / 2:g} s", words)

    def test_a_little_longer_is_no_caution(self) -> None:
        """Two estimates of red heat differ by 15 % at least."""
        post = BUTT.gas.postflow_s
        for share, words, level in (
            (0.99, "within the", ""),
            (1.14, "about as long as", ""),
            (1.16, "longer than", "caution"),
        ):
            line = self.lines(glow_after_stop_s=share * post)["After the arc"]
            self.assertIn(words, line[0])
            self.assertEqual(line[2], level)

    def test_wait(self) -> None:
        for wait, text in (
            (None, "does not fall below"),
            (0.4, "can start at once"),
            (95.0, "can start after 1 min 35 s"),
        ):
            self.assertIn(text, self.lines(wait_s=wait)["Next seam"][0])

    def test_tack_and_restart(self) -> None:
        lines = self.lines(tack_width_mm=2.9, middle_width_mm=3.4, restart_s=0.84)
        self.assertIn("falls from 3.4 mm to 2.9 mm", lines["Over a tack"][0])
        self.assertIn("After a stop of 10 s it forms in 0.8 s.", lines["Start and restart"][0])
        without = self.lines(tack_width_mm=None, restart_s=None)
        self.assertNotIn("Over a tack", without)
        self.assertNotIn("After a stop", without["Start and restart"][0])

    def test_growing_pool(self) -> None:
        wide = 2 * self.answers.middle_width_mm
        self.assertIn("grows from", self.lines(end_width_mm=wide)["End of the seam"][0])
        same = self.lines(end_width_mm=self.answers.middle_width_mm)
        self.assertIn("stays about", same["End of the seam"][0])

    def test_difference_names_both_values(self) -> None:
        difference = Difference("Red heat", size(2.0), size(4.0), "The sheet ends.")
        (line,) = build_texts((), (difference,)).differences
        self.assertEqual(line.label, "Red heat")
        self.assertEqual(line.words.mm, "2 mm in the plan, 4 mm in the field. The sheet ends.")
        self.assertIn("0.16 in in the field", line.words.inch)
