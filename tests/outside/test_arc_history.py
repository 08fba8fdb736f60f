"""The closed form of a complete seam: ends of the sheet, taper, restart, bars.

Against the handbook of the trade, K0 of scipy, and the field. The field solves the heat equation on
a grid, and `test_field_of_heat.py` compares it with a general-purpose solver.
"""

import itertools
import math
import unittest

import numpy as np
from msgspec.structs import replace
from scipy.special import kv

from tests.samples import member, plan
from wisearc.core.conduction.findings import find_answers
from wisearc.core.conduction.metal import build_constant_metal
from wisearc.core.conduction.problem import Problem, Strip
from wisearc.core.conduction.seam import build_problem
from wisearc.core.conduction.solver.field import run_field
from wisearc.core.physics.arc_history import (
    ArcHistory,
    Boundaries,
    Stretch,
    find_start_s,
    list_stretches,
)
from wisearc.core.physics.heat_field import (
    Field,
    glow_after_stop_s,
    stopped_c,
    tails_mm,
    wall_distance_mm,
)
from wisearc.core.physics.heat_in_time import STEADY_ARC, PulseTrain, Sheet, find_spot_pool_mm

STEEL = Sheet(0.035, 7600 * 650e-9, 1.2, 1530.0, 10.5)
COLD = PulseTrain(1.5, 0.30, 0.05)


def build_constant_problem(bars: bool = False) -> tuple[Problem, Sheet, float]:
    """Return a butt with constant properties and no losses, its sheet, and its current, A."""
    made = plan("butt", member(thickness="1.5 mm"), pulse="none", length="100 mm", back="purge")
    problem, heat = build_problem(made), made.section.heat
    amps = problem.arc.peak_a
    sheet = Sheet(heat.k, heat.rho_c, made.section.h_mm, heat.liquidus_c, 10.5)
    return (
        replace(
            problem,
            metal=build_constant_metal(heat),
            strips=(Strip(sheet.h_mm, 60.0, 2, 0, 1.0, 5.0 if bars else None),),
            contact_w_mm2k=2e-3 if bars else 0.0,
            arc=replace(problem.arc, max_start_s=0.0),
            jet_w_mm2k=0.0,
        ),
        sheet,
        amps,
    )


class AgainstTheHandbook(unittest.TestCase):
    def test_pool_of_a_pulse(self) -> None:
        """Handbook 5.5: 3.05 mm at the end of the peak, frozen before the next, within 3 %."""
        history = ArcHistory(STEEL, list_stretches(COLD, 110.0, 3.6, 120.0))
        ends = history.ends_s - 0.7 / 1.5
        self.assertAlmostEqual(history.find_width_mm(ends) / 3.05, 1.0, delta=0.03)
        self.assertEqual(history.find_width_mm(history.ends_s), 0.0)

    def test_spot(self) -> None:
        spot = ArcHistory(STEEL, (Stretch(0.0, 0.6, 90.0, 90.0, 0.0),))
        expected = find_spot_pool_mm(STEEL, 90.0, 0.6)
        self.assertAlmostEqual(spot.find_width_mm(0.6) / expected, 1.0, delta=3e-3)


class AgainstRosenthal(unittest.TestCase):
    def test_behind_a_long_seam(self) -> None:
        """T − T0 = q/(2πkh) · exp(−vξ/2a) · K0(vr/2a), far enough to forget the spread."""
        history = ArcHistory(STEEL, list_stretches(STEADY_ARC, 60.0, 3.6, 900.0))
        half, power = 3.6 / (2 * STEEL.a), 0.6 * 10.5 * 60.0
        for back, y in ((8.0, 0.0), (20.0, 3.0), (45.0, 6.0)):
            expected = power / (2 * math.pi * STEEL.k * STEEL.h_mm) * math.exp(half * back)
            expected *= kv(0, half * math.hypot(back, y))
            got = history.calculate_c(np.array([900.0 - back]), np.array([y]), history.ends_s)
            with self.subTest(back=back):
                self.assertAlmostEqual((got[0] - 20) / expected, 1.0, delta=0.01)


class AgainstTheField(unittest.TestCase):
    def test_free_end_and_taper(self) -> None:
        """The red heat at the free end of a sheet, with a taper: within 3 %."""
        problem, sheet, amps = build_constant_problem()
        found = find_answers(run_field(problem), 4.2)
        history = self.weld(problem, sheet, amps)
        self.assertAlmostEqual(
            history.find_glow_s(525.0) / found.glow_after_stop_s, 1.0, delta=0.03
        )
        stops = (problem.length_mm - 2 * problem.inset_mm) / problem.arc.travel_mm_s
        self.assertAlmostEqual(
            history.find_width_mm(stops / 2) / found.middle_width_mm, 1.0, delta=0.03
        )

    def test_bars_are_cold_walls(self) -> None:
        """The estimate of a wall one decay length inside the bar: red heat within 5 %."""
        problem, sheet, amps = build_constant_problem(bars=True)
        wall = wall_distance_mm(5.0, sheet.k, sheet.h_mm, 2e-3)
        found = find_answers(run_field(problem), 4.2)
        history = self.weld(problem, sheet, amps, wall)
        self.assertAlmostEqual(
            history.find_glow_s(525.0) / found.glow_after_stop_s, 1.0, delta=0.05
        )

    def test_narrow_sheet(self) -> None:
        """Free edges 20 mm beside the seam hold the heat: red heat within 3 %."""
        problem, sheet, amps = build_constant_problem()
        narrow = replace(problem, strips=(Strip(sheet.h_mm, 20.0, 2),))
        found = find_answers(run_field(narrow), 4.2)
        history = self.weld(narrow, sheet, amps)
        history.boundaries = replace(history.boundaries, edge_mm=20.0)
        glow = history.find_glow_s(525.0)
        self.assertAlmostEqual(glow / found.glow_after_stop_s, 1.0, delta=0.03)
        self.assertGreater(glow, 1.1 * self.weld(problem, sheet, amps).find_glow_s(525.0))

    def test_once_round(self) -> None:
        """A seam that closes on itself ends on its own heat."""
        problem, sheet, amps = build_constant_problem()
        ring = replace(problem, closed=True, inset_mm=0.0, arc=replace(problem.arc, taper_s=0.0))
        found = find_answers(run_field(ring), 4.2)
        seam = list_stretches(STEADY_ARC, amps, ring.arc.travel_mm_s, ring.length_mm)
        once = ArcHistory(sheet, seam, Boundaries(round_mm=ring.length_mm))
        self.assertAlmostEqual(once.find_glow_s(525.0) / found.glow_after_stop_s, 1.0, delta=0.03)
        self.assertGreater(
            once.find_glow_s(525.0), 1.1 * ArcHistory(sheet, seam).find_glow_s(525.0)
        )

    def weld(
        self, problem: Problem, sheet: Sheet, amps: float, wall: float | None = None
    ) -> ArcHistory:
        """Return the closed form of a seam."""
        length, inset = problem.length_mm, problem.inset_mm
        arc = problem.arc
        seam = list_stretches(STEADY_ARC, amps, arc.travel_mm_s, length - 2 * inset, arc.taper_s)
        return ArcHistory(sheet, seam, Boundaries((-inset, length - inset), None, wall))


class ShortForm(unittest.TestCase):
    def test_short_form_of_the_plan(self) -> None:
        """The sum of a few dozen terms against the complete one: open, barred, at an end."""
        power = 0.6 * 10.5 * 60.0
        for wall, end, taper, loss in (
            (None, None, 0.0, 0.0),
            (None, 1.5, 1.5, 0.0),
            (16.0, 2.2, 1.5, 0.0),
            (9.0, 1.0, 0.0, 0.0),
            (None, 2.0, 1.5, 0.02),
        ):
            field = Field(power, 3.6, 1.2, STEEL.k, STEEL.a, wall, loss, end, taper)
            (tail,) = tails_mm(field, (525.0,))
            seam = list_stretches(STEADY_ARC, 60.0, 3.6, 400.0, taper)
            ends = (-math.inf, math.inf if end is None else 400.0 + end)
            history = ArcHistory(STEEL, seam, Boundaries(ends, None, wall, loss))
            with self.subTest(wall=wall, end=end, taper=taper, loss=loss):
                short = glow_after_stop_s(field, 525.0, tail)
                self.assertAlmostEqual(short / history.find_glow_s(525.0), 1.0, delta=0.03)
                at = stopped_c(field, 4.0, 20.0)(6.0)
                full = history.calculate_c(
                    np.array([394.0]), np.array([0.0]), history.ends_s + 4.0
                )[0]
                self.assertAlmostEqual((at - 20) / (full - 20), 1.0, delta=0.02)

    def test_nothing_flows_through_a_free_end(self) -> None:
        seam = list_stretches(STEADY_ARC, 60.0, 3.6, 40.0, 1.0)
        history = ArcHistory(STEEL, seam, Boundaries((-1.0, 42.0)))
        for now in (4.0, 11.0, 25.0):
            inside, outside = (
                history.calculate_c(np.array([41.9, 42.1, -0.9, -1.1]), np.full(4, 2.0), now)
                .reshape(2, 2)
                .T
            )
            self.assertTrue(np.allclose(inside, outside, atol=1e-6))


class Restart(unittest.TestCase):
    def test_warm_sheet_melts_sooner(self) -> None:
        """Common practice, no source: a pool forms sooner where the sheet is still hot."""
        waits = []
        for gap in (3.0, 10.0, 60.0, 6000.0):
            before = list_stretches(
                STEADY_ARC, 60.0, 3.6, 90.0, 1.5, from_mm=-90.0, from_s=-gap - 1.5 - 25.0
            )
            waits.append(find_start_s(STEEL, 60.0, 3.0, 5.0, before))
        cold = find_start_s(STEEL, 60.0, 3.0, 5.0)
        self.assertEqual(waits, sorted(waits))
        self.assertLess(waits[1], 0.8 * cold)
        self.assertAlmostEqual(waits[3] / cold, 1.0, delta=0.01)
        self.assertAlmostEqual(find_spot_pool_mm(STEEL, 60.0, cold), 3.0, delta=0.01)
        self.assertEqual(find_start_s(STEEL, 5.0, 3.0, 5.0), 5.0)

    def test_wait_taper_and_pulse_are_stretches_without_gaps(self) -> None:
        seam = list_stretches(COLD, 100.0, 3.0, 20.0, 1.0, 0.5, 4.0, 2.0)
        self.assertEqual((seam[0].from_s, seam[0].travel_mm_s, seam[0].from_mm), (2.0, 0.0, 4.0))
        for first, second in itertools.pairwise(seam):
            self.assertAlmostEqual(first.to_s, second.from_s)
            moved = first.from_mm + first.travel_mm_s * (first.to_s - first.from_s)
            self.assertAlmostEqual(moved, second.from_mm)
        self.assertAlmostEqual(seam[-1].from_mm, 24.0)
        self.assertEqual(seam[-1].to_a, 0.0)
        charge = sum((s.from_a + s.to_a) / 2 * (s.to_s - s.from_s) for s in seam)
        weld_s = 20.0 / 3.0
        self.assertAlmostEqual(charge, 100.0 * COLD.mean * (0.5 + weld_s + 0.5), delta=0.5)
