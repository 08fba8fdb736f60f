"""From a plan to the strips, the arc and the checks of a seam."""

import math
import runpy
import unittest
from pathlib import Path
from typing import Any

from msgspec.structs import replace

from tests.samples import member, plan, tube
from wisearc.core.conduction.problem import Problem
from wisearc.core.conduction.seam import build_problem
from wisearc.core.conduction.solver.field import TooLong, run_field
from wisearc.core.conduction.trial import (
    LIMITS,
    NO_TRIAL,
    Trial,
    check_seam,
    find_bar_mm,
    find_free_width_mm,
)
from wisearc.core.errors import InputError


def strips(problem: Problem) -> list[tuple[float, int, int, float]]:
    """Return thickness, count, side and heat share of each strip."""
    return [(s.thickness_mm, s.count, s.side, round(s.heat_share, 3)) for s in problem.strips]


class Strips(unittest.TestCase):
    def test_equal_members_count_as_one(self) -> None:
        problem = build_problem(plan("butt", member(thickness="1.5 mm")))
        self.assertEqual(strips(problem), [(1.5, 2, 0, 1.0)])

    def test_through_member_has_two_arms(self) -> None:
        thin, thick = member(thickness="1.5 mm"), member(thickness="2 mm")
        problem = build_problem(plan("tee", thin, thick))
        expected = [(1.5, 1, 1, 0.333), (2.0, 1, -1, 0.667), (2.0, 1, -1, 0.0)]
        self.assertEqual(strips(problem), expected)

    def test_thick_member_counts_up_to_twice_the_thin_one(self) -> None:
        problem = build_problem(
            plan("butt", member(thickness="1 mm"), member(thickness="6 mm"), filler="ER308L")
        )
        self.assertEqual([s.thickness_mm for s in problem.strips], [1.0, 2.0])

    def test_tube_closes_on_itself(self) -> None:
        problem = build_problem(plan("tube-butt", tube(), tube(), length="all-round"))
        self.assertTrue(problem.closed)
        self.assertAlmostEqual(problem.length_mm, 25 * 3.14159, delta=0.1)
        self.assertEqual(problem.inset_mm, 0)

    def test_part_of_the_way_round_a_tube_has_no_free_end(self) -> None:
        """25 mm round is 78.5 mm: 24.3 mm of tube on each side of a seam of 30 mm."""
        part = build_problem(plan("tube-butt", tube(), length="30 mm", back="purge"))
        self.assertFalse(part.closed)
        self.assertAlmostEqual(part.before_mm, (math.pi * 25 - 30) / 2, delta=0.01)
        self.assertEqual((part.after_mm, part.inset_mm), (part.before_mm, 0.0))
        flat = build_problem(plan("butt"))
        self.assertEqual((flat.before_mm, flat.after_mm), (0.0, 0.0))
        self.assertGreater(flat.inset_mm, 1.0)

    def test_mass_gives_the_width(self) -> None:
        """100 g of two 1.5 mm strips along 100 mm: 100 / (7.9e-3 · 100 · 2 · 1.5) = 42 mm."""
        made = plan("butt", member(thickness="1.5 mm"), length="100 mm", part_mass_g=100)
        self.assertAlmostEqual(find_free_width_mm(made), 42.2, delta=0.1)
        self.assertEqual(find_free_width_mm(made, Trial(width_mm=20.0)), 20.0)
        for length, width in (("50 mm", 40.0), ("200 mm", 100.0), ("900 mm", 150.0)):
            made = plan("butt", member(thickness="1.5 mm"), length=length)
            self.assertEqual(find_free_width_mm(made), width)

    def test_bars(self) -> None:
        barred = plan("butt", back="copper-bar")
        self.assertEqual(find_bar_mm(barred), barred.back.bar_from_seam_mm)
        self.assertIsNone(find_bar_mm(barred, Trial(bar_from_mm=0.0)))
        bare = plan("butt", back="open")
        self.assertIsNone(find_bar_mm(bare))
        tried = build_problem(bare, trial=Trial(bar_from_mm=7.0))
        self.assertEqual((tried.strips[0].bar_from_mm, tried.contact_w_mm2k), (7.0, 2.0e-3))
        self.assertEqual(build_problem(bare).contact_w_mm2k, 0.0)

    def test_pulse_of_a_trial(self) -> None:
        made = plan("outside-corner", member(thickness="1.5 mm"), length="300 mm")
        self.assertFalse(build_problem(made).arc.train.is_steady)
        steady = build_problem(made, trial=Trial(pulsed=False)).arc
        self.assertTrue(steady.train.is_steady)
        self.assertAlmostEqual(steady.peak_a, made.pulse.average_a)
        tried = Trial(current_a=90.0, on_pct=40.0, background_pct=20.0, rate_pps=1.2)
        own = build_problem(made, trial=tried).arc
        self.assertEqual((own.peak_a, own.train.on), (90.0, 0.4))
        self.assertEqual((own.train.background, own.train.rate_pps), (0.2, 1.2))
        unpulsed = plan("butt", pulse="none")
        slow = build_problem(unpulsed, trial=Trial(pulsed=True)).arc
        self.assertAlmostEqual(slow.peak_a, 2.2 * unpulsed.pulse.peak_a)
        self.assertEqual(slow.train.on, 0.3)

    def test_metal_that_the_catalogue_has_no_longer(self) -> None:
        made = plan("butt")
        unknown = {**made.joint, "members": [{"metal": "unobtainium"}, {"metal": "unobtainium"}]}
        problem = build_problem(replace(made, joint=unknown))
        self.assertEqual(problem.metal.face_loss.max(), 0.0)


class BadInput(unittest.TestCase):
    """Refused with a sentence."""

    def refused(self, field: str, **more: Any) -> None:
        trial = Trial(**more.pop("trial", {}))
        with self.assertRaises(InputError) as raised:
            build_problem(plan("butt", **more.pop("joint", {})), trial=trial, **more)
        self.assertEqual(raised.exception.field, field)

    def test_part_smaller_than_the_pool(self) -> None:
        self.refused("length", joint={"length": "2 mm"})
        self.refused("width_mm", joint={"length": "300 mm", "part_mass_g": 5})

    def test_bars_wider_than_the_sheet(self) -> None:
        self.refused("bar_from_mm", trial={"bar_from_mm": 30.0, "width_mm": 20.0})

    def test_values_outside_their_limits(self) -> None:
        for key, (low, high) in LIMITS.items():
            for value in (low - 0.1, high + 0.1, float("nan")):
                with self.subTest(key=key, value=value):
                    self.refused(key, trial={key: value})
        for grid in (0.2, 2.1, 0.0):
            self.refused("grid_mm", grid_mm=grid)
        check_seam(plan("butt"), NO_TRIAL, 0.5)

    def test_long_and_slow_seams_are_bounded(self) -> None:
        made = plan("butt", length="10000 mm")
        problem = build_problem(made)
        self.assertEqual(problem.length_mm, 500.0)
        self.assertLess(build_problem(made, preview=True).length_mm, 200.0)
        with self.assertRaisesRegex(TooLong, "makes a weld of 24[0-9]+ s"):
            run_field(build_problem(made, grid_mm=0.25, trial=Trial(travel_mm_s=0.2)))

    def test_progress_can_stop_it(self) -> None:
        shares = []

        def stop(share: float) -> None:
            shares.append(share)
            if share > 0.3:
                raise KeyboardInterrupt

        with self.assertRaises(KeyboardInterrupt):
            run_field(build_problem(plan("butt"), grid_mm=1.0, preview=True), stop)
        self.assertEqual(shares, sorted(shares))
        self.assertGreater(len(shares), 5)


class Benchmark(unittest.TestCase):
    def test_the_measured_sheet_is_a_seam(self) -> None:
        """`benchmarks/heat.py` runs by hand, and fails here if its sheet does not fit any more."""
        path = Path(__file__).resolve().parents[3] / "benchmarks" / "heat.py"
        measured = runpy.run_path(str(path))["build"]
        short = measured(True, 2.0, length_mm=30.0, max_after_s=1.0)
        self.assertLess(abs(run_field(short).balance), 1e-6)
