"""Tracks with bad input, tacks at marks, and rhythm without a seam."""

import unittest

from tests.practised import DAY, lesson_plan
from wisearc.core.errors import InputError, OutOfRange
from wisearc.core.practice.judge import judge_track
from wisearc.core.practice.piece import TACK_MARKS, Piece, build_piece
from wisearc.core.practice.rhythm import MIN_TAPS, judge_taps
from wisearc.core.practice.sheet import STEP_S
from wisearc.core.practice.simulated_welder import simulate_weld
from wisearc.core.practice.track import MAX_SAMPLES, build_track
from wisearc.core.practice.virtual_seam import VirtualSeam
from wisearc.core.shop.shop import ASSUMED


class BadTracks(unittest.TestCase):
    def test_each_error_names_row_value_and_rule(self) -> None:
        good = [[0.0, 5, 0, 0], [0.1, 5, 0, 50]]
        cases = (
            ([good[0]], [], "must have 2 to 200000"),
            ([good[1], good[0]], [], "Times must rise"),
            ([good[0], good[0]], [], "Times must rise"),
            ([good[0], [0.1, 5, 0]], [], "time s, along mm, across mm and current A"),
            ([good[0], [0.1, 5, 0, True]], [], "must be a number"),
            ([good[0], [0.1, float("nan"), 0, 5]], [], "finite"),
            ([good[0], [0.1, 5, 0, 900]], [], "from 0 to 500 A"),
            ([good[0], [700, 5, 0, 50]], [], "from 0 to 600 s"),
            ([good[0], [0.1, 9e9, 0, 50]], [], "2000 mm"),
            (good, [0.2, 0.1], "Times must rise"),
            (good, [-1], "from 0 to 600 s"),
            (good, ["1"], "must be a number"),
        )
        for samples, dabs, words in cases:
            with self.assertRaises(InputError) as raised:
                build_track(samples, dabs)
            self.assertIn(words, str(raised.exception))

    def test_too_many_rows(self) -> None:
        rows = [[n / 1000, 5, 0, 0] for n in range(MAX_SAMPLES + 1)]
        with self.assertRaisesRegex(InputError, "200001 rows"):
            build_track(rows)

    def test_gas(self) -> None:
        with self.assertRaises(OutOfRange):
            build_track([[0, 5, 0, 0], [1, 5, 0, 0]], gas_off_s=-1)

    def test_pieces(self) -> None:
        plan = lesson_plan("flat")
        self.assertEqual(build_piece(plan, 500.0).length_mm, 100.0)
        self.assertEqual(build_piece(lesson_plan("tube"), 500.0).length_mm, 119.38)
        self.assertFalse(build_piece(lesson_plan("tube")).problem.closed)
        with self.assertRaisesRegex(InputError, "at least 20 mm"):
            build_piece(plan, 10.0)


def tack_piece() -> Piece:
    return build_piece(lesson_plan("tacks"), 60.0, has_tacks=True)


def tack(piece: Piece, seconds: float, current_a: float, off_mm: float = 0.0) -> VirtualSeam:
    """Return a piece with a tack of a time and a current at each mark."""
    seam = VirtualSeam(piece)
    for mark in piece.tack_marks_mm:
        for _ in range(round(seconds / STEP_S)):
            seam.step(mark + off_mm, 0.0, current_a)
        for _ in range(round((piece.postflow_s + 0.1) / STEP_S)):
            seam.step(mark + off_mm, 0.0, 0.0)
    return seam


class Tacks(unittest.TestCase):
    def setUp(self) -> None:
        self.piece = tack_piece()

    def judge(self, *welded: float) -> tuple[float, list[str], tuple[str, ...]]:
        from wisearc.core.practice.judge import judge_seam

        judged = judge_seam(tack(self.piece, *welded), ASSUMED, DAY)
        return judged.scores.total, [slip.key for slip in judged.slips], judged.faults

    def test_held_tacks_of_the_trade(self) -> None:
        """Handbook 16.8, common practice: 1.2–1.3 × the current of the seam for 0.3 to 1 s."""
        self.assertEqual(len(self.piece.tack_marks_mm), TACK_MARKS)
        self.assertAlmostEqual(self.piece.tack_a / self.piece.peak_a, 1.3, delta=0.05)
        total, slips, faults = self.judge(0.7, self.piece.tack_a)
        self.assertGreater(total, 95)
        self.assertEqual((slips, faults), ([], ()))

    def test_burst_tacks_of_the_trade(self) -> None:
        """Handbook 16.8, common practice: about twice the current melts in 0.1 to 0.3 s."""
        seam = tack(self.piece, 0.25, 2 * self.piece.peak_a)
        self.assertGreater(seam.bead.list_widths_mm().max(), 0.5 * self.piece.target_mm)

    def test_slips(self) -> None:
        amps = self.piece.tack_a
        self.assertEqual(self.judge(0.3, amps)[1:], (["tack-small"], ("crack-tack",)))
        self.assertIn("tack-wide", self.judge(2.2, amps)[1])
        self.assertIn("tack-hot", self.judge(0.45, 1.4 * amps)[1])
        self.assertIn("tack-cold", self.judge(1.6, 0.75 * amps)[1])
        self.assertIn("tack-off-mark", self.judge(0.7, amps, 5.0)[1])

    def test_a_missing_tack(self) -> None:
        track = simulate_weld(self.piece).track
        first = track.samples[track.samples[:, 1] < 20]
        judged = judge_track(build_track(first.tolist()), self.piece, ASSUMED, DAY)
        self.assertEqual(judged.slips[0].key, "tacks-missing")
        self.assertIn("tacks-cracked", judged.faults)
        self.assertLess(judged.scores.total, 30)


class Rhythm(unittest.TestCase):
    def test_on_the_beat(self) -> None:
        rhythm = judge_taps([n + 0.05 for n in range(10)], 1.0)
        self.assertEqual((rhythm.score, rhythm.missed), (100.0, 0))
        self.assertAlmostEqual(rhythm.late_s, 0.05)
        self.assertAlmostEqual(rhythm.spread_s, 0.0)

    def test_uneven_missed_and_early(self) -> None:
        uneven = judge_taps([n + 0.25 * (n % 2) for n in range(12)], 1.0)
        missed = judge_taps([n for n in range(14) if n not in (4, 9)], 1.0)
        early = judge_taps([n * 0.9 + 1.0 for n in range(12)], 0.9)
        self.assertLess(uneven.score, 40)
        self.assertEqual(missed.missed, 2)
        self.assertLess(missed.score, 90)
        self.assertGreater(early.score, 99)

    def test_bad_taps(self) -> None:
        for taps, words in (
            ([1.0] * 3, f"at least {MIN_TAPS}"),
            ([0, 1, 2, 2, 3, 4], "must rise"),
            ([0, 1, 2, 3, 4, 1e9], "from 0 to 600 s"),
        ):
            with self.assertRaisesRegex(InputError, words):
                judge_taps(taps, 1.0)
