"""The plan as text: sentence, lines, evidence levels, in both unit systems."""

import unittest

from tests.samples import COPE, CORNER, EVERY, TEE
from wisearc.core.joint.data import make_joint
from wisearc.core.joint.words import build_sentence, format_short_title, sentence_text
from wisearc.core.plan.plan import Plan, make_plan
from wisearc.core.shop.shop import ASSUMED
from wisearc.formats.plan_lines import build_summary, plan_lines
from wisearc.formats.plan_text import plan_text


def planned(data: dict) -> Plan:
    """Return the plan of joint data."""
    return make_plan(make_joint(data), ASSUMED)


class Sentence(unittest.TestCase):
    def test_reads(self) -> None:
        text = sentence_text(build_sentence(make_joint(CORNER)))
        self.assertTrue(
            text.startswith(
                "Join 16 ga (1.59 mm) 304L sheet to the same metal as an outside corner, 380 "
                "mm long, flat, with no gap, for show"
            )
        )

    def test_in_inches(self) -> None:
        self.assertIn(
            "0.984 × 0.047 in 316L tube", sentence_text(build_sentence(make_joint(COPE)), "in")
        )

    def test_a_stop_clings_to_its_word(self) -> None:
        for part in build_sentence(make_joint({**TEE, "travel_mm_s": 3.0})):
            self.assertFalse(part.text().startswith((",", ";")) or part.text() == ".")

    def test_titles(self) -> None:
        self.assertEqual(format_short_title(make_joint(TEE)), "1.5 mm 304L to mild steel, tee")
        self.assertEqual(format_short_title(make_joint({**TEE, "title": "Foot"})), "Foot")


class Lines(unittest.TestCase):
    def test_bench_order(self) -> None:
        keys = [line.key for line in plan_lines(planned(CORNER))]
        self.assertEqual(
            keys[:9],
            ["filler", "current", "pulse", "travel", "tungsten", "torch", "gas", "back", "fit-up"],
        )

    def test_every_line_in_both_unit_systems(self) -> None:
        for data in EVERY.values():
            plan = planned(data)
            for habit in ("mm", "in"):
                for line in plan_lines(plan, habit):
                    self.assertTrue(line.what and line.why, (line.key, habit))
            self.assertTrue(
                all(" mm" not in line.what + line.detail for line in plan_lines(plan, "in"))
            )

    def test_pins_are_marked(self) -> None:
        plan = planned({**CORNER, "back": "purge", "pins": {"cup": 6, "stickout_mm": 5.0}})
        pinned = {line.key: dict(line.by_hand) for line in plan_lines(plan) if line.by_hand}
        self.assertEqual(
            pinned["torch"], {"pins.cup": "cup 6", "pins.stickout_mm": "stick-out 5 mm"}
        )
        self.assertEqual(set(pinned), {"torch", "back"})

    def test_summary(self) -> None:
        self.assertEqual(
            [name for name, _ in build_summary(planned(TEE))], ["Arc time", "Heat", "Argon", "Rod"]
        )

    def test_cautions_are_listed_with_their_answer(self) -> None:
        keys = {line.key for line in plan_lines(planned(CORNER))} | {"harm"}
        for data in (*EVERY.values(), {**TEE, "gap_mm": 3.0, "filler": "ER70S-2", "back": "open"}):
            for c in planned(data).cautions:
                self.assertIn(c.at, keys)

    def test_text(self) -> None:
        text = plan_text(planned({**TEE, "filler": "ER70S-2"}))
        self.assertIn("STOP", text)
        self.assertIn("[practice]", text)
        self.assertLessEqual(max(len(line) for line in text.splitlines()), 110)
