"""Exercises: different each time, the same for a number, and scored."""

import unittest

from wisearc.core import catalogue
from wisearc.core.practice.exercises import (
    BEADS,
    CHOICES,
    NO_FLAW,
    RIGHT_GRIND,
    build_assembly,
    build_beads,
    build_grinds,
    find_likeliest_cause,
    score_assembly,
    score_choices,
)

NUMBERS = range(60)


class Assembly(unittest.TestCase):
    def test_order_of_the_trade(self) -> None:
        """Handbook 7.1, common practice: ring, lens or body, cup, collet, tungsten, back cap."""
        for number in NUMBERS:
            assembly = build_assembly(number)
            placed = sorted((n, key) for key, n in assembly.places.items() if n)
            keys = [key for _, key in placed]
            self.assertEqual(keys[0], "heat-shield")
            self.assertIn(keys[1], ("gas-lens", "collet-body"))
            self.assertEqual(keys[2:], ["cup", "collet", "tungsten", "back-cap"])
            self.assertEqual(set(dict(assembly.parts)), set(assembly.places))

    def test_the_odd_parts_do_not_fit(self) -> None:
        for number in NUMBERS:
            assembly = build_assembly(number)
            texts = dict(assembly.parts)
            self.assertNotIn(f"{assembly.tungsten_mm:g} mm", texts["odd"])
            self.assertNotEqual(texts["cup-odd"], texts["cup"])

    def test_differs_and_repeats(self) -> None:
        self.assertEqual(build_assembly(5), build_assembly(5))
        self.assertGreater(len({build_assembly(n).parts for n in NUMBERS}), 40)

    def test_score(self) -> None:
        assembly = build_assembly(1)
        self.assertEqual(score_assembly(assembly, assembly.places), (100.0, []))
        swapped = {**assembly.places, "cup": 4, "collet": 3}
        self.assertEqual(score_assembly(assembly, swapped), (75.0, ["cup", "collet"]))
        self.assertEqual(score_assembly(assembly, {})[0], 0.0)


class Grinds(unittest.TestCase):
    def test_each_round_has_one_right_tip(self) -> None:
        for number in NUMBERS:
            for row in build_grinds(number):
                self.assertEqual(len(set(row.grinds)), CHOICES)
                self.assertEqual(row.grinds.count(RIGHT_GRIND), 1)
                self.assertEqual(row.question.right, RIGHT_GRIND)


class Beads(unittest.TestCase):
    def test_questions_have_their_answer(self) -> None:
        for number in NUMBERS:
            for bead in build_beads(number):
                self.assertIn(bead.tint, BEADS[bead.flaw])
                for choice in bead.questions:
                    keys = [key for key, _ in choice.answers]
                    self.assertEqual(len(keys), len(set(keys)))
                    self.assertIn(choice.right, keys)
                    self.assertEqual(len(keys), CHOICES)
                right = {choice.key: choice.right for choice in bead.questions}
                self.assertEqual(right["flaw"], bead.flaw or NO_FLAW)

    def test_tints_differ_by_two_steps(self) -> None:
        order = list(catalogue.load_tints())
        for number in NUMBERS:
            for bead in build_beads(number):
                ranks = [order.index(key) for key, _ in bead.questions[0].answers]
                right = order.index(bead.tint)
                self.assertTrue(all(n == right or abs(n - right) >= 2 for n in ranks))

    def test_causes_of_the_trade(self) -> None:
        """Handbook 12.3, common practice: the likeliest cause of each flaw."""
        for flaw, cause in (
            ("too-hot", "heat-high"),
            ("cold", "heat-low"),
            ("crater-crack", "taper-short"),
            ("restart", "restart-late"),
            ("uneven", "hand-uneven"),
        ):
            self.assertEqual(find_likeliest_cause(flaw), cause)

    def test_score(self) -> None:
        asked = [(choice, choice.right) for choice in build_beads(3)[0].questions]
        self.assertEqual(score_choices(asked), 100.0)
        self.assertAlmostEqual(score_choices([*asked[:2], (asked[2][0], "")]), 200 / 3)
