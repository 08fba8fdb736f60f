"""The sheet under the torch: energy, symmetry, places of the arc, stability."""

import unittest

import numpy as np

from tests.practised import lesson_piece, pulsed_piece
from tests.samples import member, plan
from wisearc.core.practice.piece import build_piece
from wisearc.core.practice.sheet import LOSS_EVERY, STEP_S, Sheet, divide_strips

ARC_J = 0.6 * 10.5 * 55 * STEP_S


def heat(sheet: Sheet, steps: int, y_mm: float = 0.0, x_mm: float = 15.0) -> None:
    """Keep an arc of 55 A on one place."""
    for n in range(steps):
        sheet.step(x_mm, y_mm, ARC_J)
        if n % LOSS_EVERY == LOSS_EVERY - 1:
            sheet.lose(LOSS_EVERY * STEP_S, x_mm)


class Energy(unittest.TestCase):
    def test_input_is_stored_lost_or_taken_by_the_rod(self) -> None:
        """Within 2 %: the energy that the arc gives is in the sheet, its losses or the rod."""
        for key in ("flat", "tee", "tube"):
            sheet = Sheet(lesson_piece(key).problem)
            heat(sheet, 200)
            sheet.step(15.0, 0.0, ARC_J, dab_j=20.0)
            self.assertLess(abs(sheet.balance), 0.02, key)
            gained = sheet.count_stored_j() + sheet.losses.lost_j
            self.assertAlmostEqual(gained / (201 * ARC_J - 20.0), 1.0, places=6)
            self.assertGreater(sheet.losses.lost_j, 0.0)

    def test_an_arc_off_the_coupon_heats_nothing(self) -> None:
        sheet = Sheet(lesson_piece("flat").problem)
        heat(sheet, 10, x_mm=400.0)
        self.assertAlmostEqual(sheet.count_stored_j(), 0.0, places=6)
        self.assertEqual(sheet.input_j, 0.0)

    def test_a_metal_that_conducts_well_is_stepped_more_often(self) -> None:
        steel = plan("butt", member(metal="mild-steel", thickness="1.2 mm"), length_mm=60)
        sheet = Sheet(build_piece(steel, 30.0).problem)
        self.assertGreater(sheet.substeps, 1)
        heat(sheet, 80)
        self.assertLess(abs(sheet.balance), 0.02)
        self.assertLess(sheet.read_c(slice(0, None)).max(), 3000.0)


class Places(unittest.TestCase):
    def test_equal_sides_are_two_strips(self) -> None:
        strips = divide_strips(lesson_piece("flat").problem.strips)
        self.assertEqual([strip.side for strip in strips], [1, -1])
        self.assertEqual([strip.heat_share for strip in strips], [0.5, 0.5])

    def test_on_the_seam_both_sides_are_alike(self) -> None:
        sheet = Sheet(lesson_piece("flat").problem)
        heat(sheet, 60)
        profile = sheet.read_c(slice(25, 26))[0]
        np.testing.assert_allclose(profile, profile[::-1], rtol=1e-9)
        at_mm = sheet.across_mm[int(profile.argmax())]
        self.assertAlmostEqual(float(at_mm), 0.0)

    def test_off_the_seam_the_hot_place_moves_along(self) -> None:
        for y_mm in (2.4, -2.4):
            sheet = Sheet(lesson_piece("flat").problem)
            heat(sheet, 60, y_mm=y_mm)
            profile = sheet.read_c(slice(25, 26))[0]
            at = float(sheet.across_mm[int(profile.argmax())])
            self.assertAlmostEqual(at, y_mm, delta=0.6)
            self.assertAlmostEqual(sheet.balance, 0.0, places=9)

    def test_the_source_is_spread_like_that_of_the_field(self) -> None:
        """At the seam the shares are those of the field of a plan, also for unequal sides."""
        for key in ("flat", "tee", "corner"):
            sheet = Sheet(lesson_piece(key).problem)
            spread = sheet.problem.arc.spread_mm
            np.testing.assert_allclose(
                sheet.spread(0.0, spread), sheet.across.loads, atol=1e-3, err_msg=key
            )

    def test_a_strip_behind_the_joint_gets_no_arc(self) -> None:
        sheet = Sheet(lesson_piece("tee").problem)
        cold = [n for n, strip in enumerate(sheet.problem.strips, 1) if strip.heat_share == 0]
        self.assertTrue(cold)
        loads = sheet.spread(1.0, 0.8)
        self.assertEqual(loads[np.isin(sheet.across.strip, cold)].sum(), 0.0)

    def test_bars_take_heat(self) -> None:
        bare = Sheet(lesson_piece("tube").problem)
        barred = Sheet(pulsed_piece().problem)
        for sheet in (bare, barred):
            heat(sheet, 80)
        self.assertEqual(bare.losses.barred_j, 0.0)
        self.assertGreater(barred.losses.barred_j, 0.0)
