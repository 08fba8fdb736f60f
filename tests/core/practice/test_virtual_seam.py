"""The virtual seam: the same bead live and later, dabs, pulse, gas and the end."""

import math
import unittest

import numpy as np
from msgspec.structs import replace

from tests.practised import lesson_piece, lesson_plan, pulsed_piece
from wisearc.core.practice.judge import HOLE_ON_BARS, list_holes_mm
from wisearc.core.practice.piece import Piece, build_piece
from wisearc.core.practice.sheet import STEP_S
from wisearc.core.practice.simulated_welder import Slip, simulate_weld
from wisearc.core.practice.virtual_seam import (
    DONE,
    HOLD,
    NEXT_MARK,
    RESTART,
    STRIKE,
    WELD,
    VirtualSeam,
)


def hold(piece: Piece, seconds: float, current_a: float | None = None) -> VirtualSeam:
    """Keep the arc on the middle of a piece."""
    seam = VirtualSeam(piece)
    for _ in range(round(seconds / STEP_S)):
        seam.step(15.0, 0.0, piece.peak_a if current_a is None else current_a)
    return seam


class Steps(unittest.TestCase):
    def test_in_parts_and_at_once_give_the_same_bead(self) -> None:
        piece = lesson_piece("rod")
        weld = simulate_weld(piece)
        at_once, in_parts = VirtualSeam(piece), VirtualSeam(piece)
        at_once.advance(weld.track.samples, weld.track.dabs_s)
        dabs, sent = list(weld.track.dabs_s), 0
        for rows in np.array_split(weld.track.samples, 37):
            new = [t for t in dabs[sent:] if t <= rows[-1, 0]]
            sent += len(new)
            in_parts.advance(rows, new)
        self.assertEqual(at_once.steps, in_parts.steps)
        for bead in (in_parts.bead, weld.seam.bead):
            np.testing.assert_array_equal(at_once.bead.list_widths_mm(), bead.list_widths_mm())
            np.testing.assert_array_equal(at_once.bead.front, bead.front)
        self.assertEqual(at_once.dabs, in_parts.dabs)
        self.assertGreater(len(at_once.dabs), 5)

    def test_a_step_waits_for_its_samples(self) -> None:
        seam = VirtualSeam(lesson_piece("flat"))
        self.assertEqual(seam.advance(np.array([[0.0, 5, 0, 0], [0.024, 5, 0, 50]])), 0)
        self.assertEqual(seam.advance(np.array([[0.0251, 5, 0, 50]])), 1)
        self.assertEqual(seam.advance(np.empty((0, 4))), 0)
        self.assertAlmostEqual(seam.steps[0].current_a, 50 * 0.5, delta=2)

    def test_arcs_are_counted(self) -> None:
        seam = VirtualSeam(lesson_piece("flat"))
        for current in (0, 50, 50, 0, 0, 50, 2):
            seam.step(5.0, 0.0, current)
        self.assertEqual((seam.struck, seam.broken), ([1, 5], [3, 6]))
        self.assertFalse(seam.is_burning)
        seam.step(5.0, 0.0, 50)
        seam.finish()
        self.assertEqual(seam.broken[-1], 8)


class Pool(unittest.TestCase):
    def test_forms_within_two_seconds(self) -> None:
        """Handbook 11.2, common practice: a pool within 2 s on stainless."""
        for key in ("flat", "rod", "lap", "tee", "butt"):
            piece = lesson_piece(key)
            self.assertGreater(hold(piece, 2.0).bead.width_mm, piece.start_width_mm, key)
            self.assertLess(hold(piece, 0.5).bead.width_mm, piece.start_width_mm, key)

    def test_a_dab_cools_it_and_adds_metal(self) -> None:
        piece = lesson_piece("rod")
        plain, dabbed = hold(piece, 2.0), hold(piece, 2.0)
        dabbed.add_dabs([2.01])
        for seam in (plain, dabbed):
            seam.step(15.0, 0.0, piece.peak_a)
        self.assertLess(dabbed.bead.width_mm, plain.bead.width_mm)
        self.assertLess(dabbed.sheet.count_stored_j(), plain.sheet.count_stored_j())
        laid = float(dabbed.bead.deposit_mm2.sum()) * dabbed.sheet.width_mm
        self.assertAlmostEqual(laid, piece.dab_mm3, places=6)
        self.assertAlmostEqual(dabbed.sheet.dabbed_j, piece.dab_j, places=6)

    def test_a_dab_without_a_pool_stays_a_lump(self) -> None:
        piece = lesson_piece("rod")
        seam = hold(piece, 0.3)
        seam.add_dabs([seam.now_s])
        seam.step(15.0, 0.0, piece.peak_a)
        self.assertEqual([dab.melted for dab in seam.dabs], [False])
        self.assertEqual(seam.bead.deposit_mm2.sum(), 0.0)

    def test_without_a_rod_a_dab_does_nothing(self) -> None:
        seam = hold(lesson_piece("flat"), 1.0)
        seam.add_dabs([1.0])
        seam.step(15.0, 0.0, 50)
        self.assertEqual(seam.dabs, [])

    def test_a_slow_pulse_breathes_and_a_fast_one_is_its_mean(self) -> None:
        piece = pulsed_piece()
        self.assertTrue(piece.slow_pulse)
        seam = hold(piece, 4.0)
        widths = [step.width_mm for step in seam.steps[-40:]]
        self.assertGreater(max(widths) - min(widths), 0.3)
        train = piece.problem.arc.train
        mean = sum(step.mean_a for step in seam.steps[:40]) / 40
        self.assertAlmostEqual(mean, piece.peak_a * train.mean, delta=0.02 * piece.peak_a)
        steady = hold(lesson_piece("flat"), 1.0, 50.0)
        self.assertEqual({step.mean_a for step in steady.steps}, {50.0})

    def test_a_fast_pulse_is_its_mean(self) -> None:
        """WCAG 2.2, 2.3.1: nothing flashes more than three times in a second."""
        piece = pulsed_piece()
        arc = piece.problem.arc
        for rate, is_slow in ((2.9, True), (3.0, False), (5.0, False)):
            train = replace(arc.train, rate_pps=rate)
            faster = Piece(piece.plan, replace(piece.problem, arc=replace(arc, train=train)))
            self.assertEqual(faster.slow_pulse, is_slow, rate)
            currents = {step.mean_a for step in hold(faster, 1.0).steps}
            if not is_slow:
                self.assertEqual(currents, {piece.peak_a * train.mean})
            else:
                self.assertGreater(len(currents), 2)

    def test_a_tack_has_no_pulse(self) -> None:
        """Handbook 5.1: tacks without a pulse."""
        piece = build_piece(pulsed_piece().plan, 60.0, has_tacks=True)
        self.assertTrue(piece.slow_pulse)
        currents = {step.mean_a for step in hold(piece, 1.0, piece.tack_a).steps}
        self.assertEqual(currents, {piece.tack_a})

    def test_a_weaving_torch_leaves_a_wide_bead_and_no_hole(self) -> None:
        piece = lesson_piece("flat")
        seam, x, time_s = hold(piece, 0.0), 8.0, 0.0
        while x < 22.0:
            time_s += STEP_S
            x += 0.4 * piece.travel_mm_s * STEP_S
            across = piece.target_mm * math.sin(2 * math.pi * 0.3 * time_s)
            seam.step(x, across, piece.peak_a)
        self.assertGreater(seam.bead.list_widths_mm().max(), HOLE_ON_BARS * piece.target_mm)
        self.assertEqual(list_holes_mm(seam), [])
        (place,) = list_holes_mm(hold(piece, 8.0, 1.3 * piece.peak_a))
        self.assertAlmostEqual(place, 15.0, delta=1.0)


class Due(unittest.TestCase):
    """What comes next in a weld."""

    def act(self, seam: VirtualSeam, x_mm: float, seconds: float, current_a: float) -> str:
        for _ in range(round(seconds / STEP_S)):
            seam.step(x_mm, 0.0, current_a)
        return seam.find_due()

    def test_a_plain_seam(self) -> None:
        piece = lesson_piece("flat")
        seam = VirtualSeam(piece)
        self.assertEqual(self.act(seam, 5.0, 0.2, 0.0), STRIKE)
        self.assertEqual(self.act(seam, 5.0, 0.2, 50.0), WELD)
        self.assertEqual(self.act(seam, 5.0, 0.2, 0.0), HOLD)
        self.assertEqual(self.act(seam, 5.0, piece.postflow_s, 0.0), DONE)

    def test_a_restart_is_due_also_after_the_gas(self) -> None:
        piece = lesson_piece("flat", 40.0, has_stop=True)
        seam = VirtualSeam(piece)
        assert piece.stop_mm is not None
        self.act(seam, piece.stop_mm, 0.5, 50.0)
        self.assertEqual(self.act(seam, piece.stop_mm, 0.5, 0.0), RESTART)
        self.assertEqual(self.act(seam, piece.stop_mm, piece.postflow_s + 1, 0.0), RESTART)
        self.assertFalse(seam.has_gas(seam.now_s))
        self.assertEqual(self.act(seam, piece.stop_mm, 0.5, 50.0), WELD)
        self.act(seam, piece.end_mm, 0.5, 50.0)
        self.assertEqual(self.act(seam, piece.end_mm, 0.5, 0.0), HOLD)

    def test_each_mark_is_due(self) -> None:
        piece = build_piece(lesson_plan("tacks"), 60.0, has_tacks=True)
        seam = VirtualSeam(piece)
        due = []
        for mark in piece.tack_marks_mm:
            self.act(seam, mark, 0.5, piece.tack_a)
            due.append(self.act(seam, mark, piece.postflow_s + 0.2, 0.0))
        self.assertEqual(due, [NEXT_MARK] * (len(due) - 1) + [DONE])


class Gas(unittest.TestCase):
    def test_flows_for_the_post_flow(self) -> None:
        piece = lesson_piece("flat")
        seam = hold(piece, 1.0)
        self.assertTrue(seam.has_gas(seam.now_s))
        for _ in range(round((piece.postflow_s + 1) / STEP_S)):
            seam.step(15.0, 0.0, 0.0)
        self.assertTrue(seam.has_gas(1.0 + piece.postflow_s - 0.1))
        self.assertFalse(seam.has_gas(1.0 + piece.postflow_s + 0.1))
        seam.gas_off_s = 1.5
        self.assertFalse(seam.has_gas(2.0))

    def test_a_covered_end_stays_bright_and_a_bare_one_turns_grey(self) -> None:
        """Common practice, no source: the torch stays over the end until the gas stops."""
        piece = lesson_piece("flat")
        held, early = (
            simulate_weld(piece, slip).seam.bead for slip in (Slip(), Slip("lifted-early", 1.0))
        )
        end = int(np.argmin(np.abs(held.sheet.middle_mm - piece.end_mm)))
        self.assertIn(held.list_tints(True)[end], ("silver", "pale-straw"))
        self.assertEqual(early.list_tints(True)[end], "grey")

    def test_a_covered_root_has_no_tint(self) -> None:
        seam = hold(lesson_piece("flat"), 3.0)
        self.assertEqual(set(seam.bead.list_tints(False)), {"silver"})
