"""The pool of a practised weld against the field of a plan, Rosenthal's closed form, and the trade.

Rosenthal 1941 by integration; the field of a plan is compared with a general solver in
the benchmarks. Figures of the teaching order: common practice, no source.
"""

import unittest

from msgspec.structs import replace

from tests.practised import lesson_plan
from tests.samples import member, plan
from wisearc.core.conduction.findings import find_answers
from wisearc.core.conduction.seam import build_problem
from wisearc.core.conduction.solver.field import run_field
from wisearc.core.physics.heat_in_time import STEADY_ARC, find_pool
from wisearc.core.plan.plan import Plan
from wisearc.core.practice.piece import GRID_MM, Piece, build_piece
from wisearc.core.practice.sheet import STEP_S
from wisearc.core.practice.virtual_seam import VirtualSeam

WITHIN = 0.10


def travel(piece: Piece, speed_mm_s: float, current_a: float) -> VirtualSeam:
    """Weld at a constant travel speed, after a start of one second."""
    seam = VirtualSeam(piece)
    x = piece.start_mm
    for _ in range(40):
        seam.step(x, 0.0, current_a)
    while x < piece.end_mm:
        x += speed_mm_s * STEP_S
        seam.step(x, 0.0, current_a)
    return seam


class SteadyTrack(unittest.TestCase):
    def compare(self, made: Plan) -> None:
        """The pool at the middle of a long piece is that of the field of its plan."""
        piece = build_piece(made, 100.0)
        seam = travel(piece, piece.travel_mm_s, piece.peak_a)
        middle = [s for s in seam.steps if 55 < s.x_mm < 70]
        width = sum(s.width_mm for s in middle) / len(middle)
        length = sum(s.length_mm for s in middle) / len(middle)
        field = find_answers(run_field(build_problem(made)), made.travel.pool_width_mm)
        self.assertAlmostEqual(width / field.width_peak_mm, 1.0, delta=WITHIN)
        self.assertAlmostEqual(length / field.length_peak_mm, 1.0, delta=WITHIN)

    def test_flat(self) -> None:
        self.compare(lesson_plan("flat"))

    def test_corner(self) -> None:
        self.compare(lesson_plan("corner"))

    def test_tee(self) -> None:
        self.compare(lesson_plan("tee"))


class ClosedForm(unittest.TestCase):
    def test_pool_in_an_endless_plate(self) -> None:
        """Constant properties, no losses, a wide plate: the closed form of handbook 5.3."""
        made = plan("butt", member(thickness="1.6 mm"), length_mm=120, filler="none", pulse="none")
        problem = build_problem(made, GRID_MM, constant=True)
        problem = replace(problem, length_mm=100.0, before_mm=40.0, after_mm=40.0, inset_mm=5.0)
        piece = Piece(made, problem)
        sheet, speed = problem.sheet, problem.arc.travel_mm_s
        closed = find_pool(sheet, STEADY_ARC, problem.arc.peak_a, speed)
        seam = travel(piece, speed, problem.arc.peak_a)
        width = max(s.width_mm for s in seam.steps if 60 < s.x_mm < 80)
        self.assertAlmostEqual(width / closed.width_mm, 1.0, delta=WITHIN)


class TeachingOrder(unittest.TestCase):
    """Handbook 16, common practice: the figures of the lessons."""

    def test_currents_and_speeds(self) -> None:
        for key, current, speed in (
            ("flat", 55, 3.4),
            ("pace", 55, 3.4),
            ("corner", 50, 3.4),
            ("lap", 56, None),
            ("tee", 62, 2.5),
            ("butt", 51, None),
        ):
            made = lesson_plan(key)
            self.assertAlmostEqual(made.slopes.mean_a, current, delta=0.6, msg=key)
            if speed is not None:
                self.assertAlmostEqual(made.travel.speed_mm_s, speed, delta=0.05, msg=key)

    def test_time_of_a_seam(self) -> None:
        """100 mm in 30 s."""
        made = lesson_plan("pace")
        self.assertAlmostEqual(100 / made.travel.speed_mm_s, 30, delta=1)
