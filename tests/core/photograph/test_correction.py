"""The correction of a shop from compared beads, against hand calculation."""

import unittest

from tests.samples import member
from wisearc.core.errors import InputError
from wisearc.core.joint.data import make_joint
from wisearc.core.photograph.correction import (
    MIN_BEADS,
    Correction,
    WidthPair,
    calculate_correction,
)
from wisearc.core.photograph.suitability import check_suitable, find_half_length_mm


def compare(*differences_mm: float) -> Correction:
    """Return the correction of beads of 4 mm with these differences."""
    return calculate_correction([WidthPair(4.0, 4.0 + d) for d in differences_mm])


class Corrections(unittest.TestCase):
    def test_certain_difference_becomes_the_correction(self) -> None:
        """Mean 0.12; deviation of 0.10, 0.11, 0.12, 0.13, 0.14 is 0.0158 (hand calculation)."""
        correction = compare(0.10, 0.11, 0.12, 0.13, 0.14)
        self.assertEqual((correction.beads, correction.width_mm), (5, 0.12))
        self.assertAlmostEqual(correction.spread_mm, 0.0158, places=3)

    def test_without_enough_beads_nothing_is_corrected(self) -> None:
        self.assertEqual(compare(*[0.2] * (MIN_BEADS - 1)).width_mm, 0)
        self.assertEqual(compare(*[0.2] * MIN_BEADS).width_mm, 0.2)
        self.assertEqual(calculate_correction([]), Correction())

    def test_chance_corrects_nothing(self) -> None:
        """Mean 0.04, standard error 0.051: less than two standard errors (hand calculation)."""
        correction = compare(-0.1, 0.1, -0.05, 0.2, 0.05)
        self.assertEqual((correction.mean_mm, correction.width_mm), (0.04, 0))

    def test_less_than_callipers_show_corrects_nothing(self) -> None:
        self.assertEqual(compare(*[0.02] * 10).width_mm, 0)
        self.assertEqual(compare(*[-0.05] * 10).width_mm, -0.05)

    def test_obvious_mistake_is_left_out(self) -> None:
        correction = compare(0.1, 0.1, 0.1, 0.1, 0.1, 36.0)
        self.assertEqual((correction.beads, correction.left_out), (5, 1))
        self.assertEqual(correction.width_mm, 0.1)


class Joints(unittest.TestCase):
    """Which joints have bead and card in one plane: geometry."""

    def test_flat_beads_and_crowns(self) -> None:
        sheet = member(thickness="1.2 mm")
        tube = {**sheet, "form": "tube", "diameter": "50 mm"}
        for kind, members, half_mm in (
            ("butt", [sheet] * 2, None),
            ("lap", [sheet] * 2, None),
            ("edge", [sheet] * 2, None),
            ("outside-corner", [sheet] * 2, None),
            # Half the chord of 15° to each side of the crown: 25 mm × sin 15°.
            ("tube-butt", [tube] * 2, 6.47),
        ):
            joint = make_joint({"joint": kind, "members": members})
            check_suitable(joint)
            found = find_half_length_mm(joint)
            with self.subTest(kind):
                if half_mm is None:
                    self.assertIsNone(found)
                else:
                    self.assertAlmostEqual(found or 0, half_mm, places=2)

    def test_others_are_refused_by_name(self) -> None:
        sheet = member(thickness="1.2 mm")
        tube = {**sheet, "form": "tube", "diameter": "50 mm"}
        for kind, members in (
            ("tee", [sheet] * 2),
            ("inside-corner", [sheet] * 2),
            ("tube-plate", [tube, sheet]),
            ("tube-cope", [tube, tube]),
            ("tube-mitre", [tube, tube]),
        ):
            joint = make_joint({"joint": kind, "members": members, "angle_deg": 90})
            with self.subTest(kind), self.assertRaisesRegex(InputError, joint.kind.name):
                check_suitable(joint)


if __name__ == "__main__":
    unittest.main()
