"""The answers of a field: places, tints, wait, probes."""

import unittest
from typing import Any

import numpy as np
from msgspec.structs import replace

from tests.samples import member, plan, tube
from wisearc.core.conduction.closed_form import estimate_restart
from wisearc.core.conduction.differences import list_differences
from wisearc.core.conduction.findings import Findings, find_answers, read_peak_c
from wisearc.core.conduction.grid import build_across, build_along
from wisearc.core.conduction.metal import build_metal
from wisearc.core.conduction.seam import build_problem
from wisearc.core.conduction.solver.cells import CellTables, Losses
from wisearc.core.conduction.solver.field import run_field
from wisearc.core.conduction.solver.tack_metal import TackMetal
from wisearc.core.conduction.tint import (
    TABLE_S,
    calculate_oxide_growth,
    find_tint,
    find_tint_temperature_c,
)
from wisearc.core.conduction.trial import NO_TRIAL, Trial
from wisearc.core.plan.plan import Plan


def answer(made: Plan, trial: Trial = NO_TRIAL, **more: Any) -> Findings:
    """Return the answers of a plan on a coarse grid."""
    more = {"grid_mm": 1.0, "preview": True, **more}
    return find_answers(
        run_field(build_problem(made, trial=trial, **more)), made.travel.pool_width_mm
    )


class Answers(unittest.TestCase):
    def test_current_decides_fusion_and_burn_through(self) -> None:
        made = plan("butt", member(thickness="1.5 mm"), pulse="none")
        amps = made.current.steady_a
        good, cold, hot = (
            answer(made, Trial(current_a=share * amps)) for share in (1.0, 0.55, 1.6)
        )
        self.assertTrue(good.fuses)
        self.assertFalse(good.burns_through)
        self.assertFalse(cold.fuses)
        self.assertTrue(hot.burns_through)
        low, high = hot.burnt_mm[0]
        self.assertTrue(0 <= low <= high <= 120)
        self.assertLess(cold.width_peak_mm, good.width_peak_mm)
        self.assertLess(cold.tendon_kn, hot.tendon_kn)

    def test_narrow_pool_does_not_fuse(self) -> None:
        """Below half of the target pool the edges do not join, though a spot melts."""
        made = plan("butt", member(thickness="1.5 mm"), pulse="none")
        target, amps = made.travel.pool_width_mm, made.current.steady_a
        found = {share: answer(made, Trial(current_a=share * amps)) for share in (0.72, 0.9)}
        self.assertTrue(0.2 < found[0.72].middle_width_mm / target < 0.5)
        self.assertFalse(found[0.72].fuses)
        self.assertTrue(found[0.9].middle_width_mm / target > 0.5)
        self.assertTrue(found[0.9].fuses)

    def test_arc_waits_for_its_pool(self) -> None:
        """Common practice: the torch moves when the pool is 0.8 of its width, after 3 s at most."""
        made = plan("butt", member(thickness="1.5 mm"), pulse="none")
        outcome = run_field(build_problem(made, 1.0, preview=True))
        self.assertTrue(0.5 < outcome.moving_from_s < 3.0, outcome.moving_from_s)
        first = find_answers(outcome, made.travel.pool_width_mm).width_along_mm[0][1]
        self.assertGreater(first, 0.7 * made.travel.pool_width_mm)
        weak = run_field(build_problem(made, 1.0, trial=Trial(current_a=20.0), preview=True))
        self.assertTrue(3.0 <= weak.moving_from_s < 3.8, weak.moving_from_s)

    def test_tube_gets_hotter_to_its_end(self) -> None:
        small = plan("tube-butt", tube(), tube(), length="all-round")
        found = answer(small)
        self.assertGreater(found.mean_end_c, 100)
        self.assertGreater(found.end_width_mm, found.width_along_mm[6][1])

    def test_back(self) -> None:
        self.assertEqual(answer(plan("butt", back="copper-bar")).tint_back, "silver")
        bare = answer(plan("butt", back="open"))
        self.assertEqual(bare.tint_back, "grey")

    def test_bigger_cup_tints_less(self) -> None:
        order = ["silver", "pale-straw", "straw", "dark-straw", "brown", "purple-brown"]
        order += ["dark-purple", "blue", "dark-blue", "grey"]
        tints = [order.index(answer(plan("butt", pins={"cup": cup})).tint_front) for cup in (6, 12)]
        self.assertLess(tints[1], tints[0])

    def test_probe(self) -> None:
        made = plan("butt", pulse="none")
        problem = build_problem(made, 1.0, preview=True, probes_mm=((50.0, 0.0), (50.0, 20.0)))
        outcome = run_field(problem)
        near, beside = find_answers(outcome, 4.0).probes
        self.assertGreater(near.max_c, problem.metal.liquidus_c)
        self.assertLess(beside.max_c, 400)
        self.assertGreater(near.over_600_s, 1)
        self.assertEqual(beside.over_600_s, 0)
        self.assertAlmostEqual(read_peak_c(outcome, 50.0, 0.0) / near.max_c, 1, delta=0.1)
        # Time, both probes, and the middle of the seam.
        self.assertEqual(outcome.history.shape[1], 4)

    def test_wait_follows_the_limit(self) -> None:
        cool = answer(plan("butt", member("310S", "1.5 mm"), back="open"))
        usual = answer(plan("butt", member("304L", "1.5 mm"), back="open"))
        # 310S waits for 100 °C, 304L for 150 °C.
        self.assertTrue(cool.wait_s is None or cool.wait_s > (usual.wait_s or 0))

    def test_gas_cools_only_the_sheet_under_the_cup(self) -> None:
        """And only while it flows: a wider cover and a longer post-flow shorten the red heat."""
        made = plan("butt", member(thickness="1.5 mm"), back="purge", pulse="none")
        problem = build_problem(made, 1.0, preview=True)
        self.assertLess(problem.cover_mm, 12.0)

        def measure(**changed: float) -> float:
            return find_answers(run_field(replace(problem, **changed)), 4.0).glow_after_stop_s

        usual, cut = measure(), measure(postflow_s=0.0)
        self.assertLess(measure(cover_mm=60.0), 0.95 * usual)
        self.assertGreater(cut, 1.1 * usual)
        across, tables = build_across(problem), CellTables(problem.metal)
        losses = Losses(problem, across, tables)
        hot = np.full((2, len(across.section_mm2)), problem.metal.find_enthalpy(800.0))
        under, beside = losses.calculate(hot, np.array([20.0, 45.0]), 1.0, 1.0, 20.0)
        self.assertGreater(under[0], 1.5 * beside[0])
        self.assertEqual(under[-1], beside[-1])

    def test_late_peaks(self) -> None:
        """They come long after the arc has passed, when the place is wide again."""
        made = plan("butt", member(thickness="1.5 mm"), back="purge", pulse="none")
        problem = replace(build_problem(made, 1.0), probes_mm=((60.0, 14.0), (60.0, 22.0)))
        outcome = run_field(problem)
        for i, (x, y) in enumerate(problem.probes_mm, start=1):
            probe = float(outcome.history[:, i].max()) - 20
            self.assertAlmostEqual((read_peak_c(outcome, x, y) - 20) / probe, 1.0, delta=0.02)

    def test_red_heat_that_outlasts_the_calculation(self) -> None:
        """It is at least the calculated time, and never nothing."""
        made = plan("butt", member(thickness="1.5 mm"), back="purge", pulse="none")
        problem = replace(build_problem(made, 1.0, preview=True), max_after_s=4.0)
        outcome = run_field(problem)
        found = find_answers(outcome, made.travel.pool_width_mm).glow_after_stop_s
        self.assertAlmostEqual(found, outcome.end_s - outcome.stopped_s - 1.5, delta=1e-6)
        self.assertGreater(found, 1.0)

    def test_pool_is_narrower_over_a_tack(self) -> None:
        """A tack with rod carries the metal of a bead. Energy is conserved, common physics."""
        made = plan("butt", member(thickness="1.5 mm"), back="purge", pulse="none")
        problem = build_problem(made, 1.0, preview=True)
        self.assertEqual(problem.tack_mm2, made.filler.deposit_mm2)
        outcome = run_field(problem)
        self.assertLess(abs(outcome.balance), 1e-9)
        found = find_answers(outcome, made.travel.pool_width_mm)
        tack = found.tack_width_mm or 0.0
        self.assertTrue(0.8 < tack / found.middle_width_mm < 0.95, tack)
        off = [w for at, w in found.width_along_mm if 50 < at < 88 and not problem.is_on_tack(at)]
        self.assertAlmostEqual(found.middle_width_mm, sum(off) / len(off), delta=0.01)
        self.assertGreater(found.width_between_mm, 1.03 * tack)
        middles = [at for at in made.tacks.positions_mm if 20 < at < 100]
        for at in middles:
            places = [width for place, width in found.width_along_mm if abs(place - at) < 1.1]
            self.assertLess(min(places), 0.97 * found.middle_width_mm)
        heavy = find_answers(run_field(replace(problem, tack_mm2=2 * problem.tack_mm2)), 4.0)
        self.assertLess(heavy.tack_width_mm or 0.0, tack)
        bare = find_answers(run_field(replace(problem, tacks_mm=())), 4.0)
        self.assertAlmostEqual(bare.middle_width_mm / found.middle_width_mm, 1, delta=0.03)
        self.assertIsNone(bare.tack_width_mm)

    def test_tack_metal_lies_on_the_heated_members(self) -> None:
        """All of it, over the width of the pool, and nothing on the far arm of a tee."""
        made = plan("tee", member(thickness="1.5 mm"), filler="ER308L")
        problem = replace(build_problem(made), tack_mm2=2.0, tack_width_mm=5.0)
        across, along = build_across(problem), build_along(problem)
        laid = TackMetal(problem, across, along)
        added = laid.narrow * across.section_mm2
        length = sum(min(high, problem.length_mm) - max(low, 0) for low, high in problem.tacks_mm)
        self.assertAlmostEqual(added.sum() * along.narrow_mm / (2.0 * length), 1.0, delta=0.01)
        behind = [n for n, strip in enumerate(problem.strips, 1) if strip.heat_share == 0]
        self.assertTrue(behind)
        self.assertEqual(added[:, np.isin(across.strip, behind)].sum(), 0.0)
        self.assertEqual(added[:, across.distance_mm > 2.5].sum(), 0.0)

    def test_tack_without_rod_has_no_metal(self) -> None:
        for more in ({"filler": "none"}, {"tack_school": "burst"}):
            made = plan("butt", member(thickness="1.5 mm"), back="purge", **more)
            with self.subTest(more=more):
                self.assertEqual(build_problem(made).tack_mm2, 0.0)
                self.assertIsNone(answer(made).tack_width_mm)

    def test_tack_on_the_start_of_a_closed_seam(self) -> None:
        """It lies on both ends of the seam, and no energy is lost where the columns meet."""
        ring = plan("tube-butt", tube(), length="all-round", back="purge", pulse="none")
        problem = build_problem(ring, 1.0)
        self.assertLess(problem.tacks_mm[0][0], 0.0)
        ends = []
        for tacks in (((-4.0, 4.0),), ()):
            outcome = run_field(replace(problem, tacks_mm=tacks))
            self.assertLess(abs(outcome.balance), 1e-9)
            widths = find_answers(outcome, ring.travel.pool_width_mm).width_along_mm
            ends.append([widths[0][1], widths[-1][1]])
        for tacked, bare in zip(*ends, strict=True):
            self.assertLess(tacked, 0.99 * bare)

    def test_restart_on_warm_sheet(self) -> None:
        made = plan("butt", member(thickness="1.5 mm"), pulse="none", back="purge")
        outcome = run_field(build_problem(made, 1.0, preview=True))
        share = (answer(made).restart_s or 0.0) / outcome.moving_from_s
        self.assertTrue(0.5 < share < 0.7, share)
        # Bars cool the sheet during the stop.
        barred = build_problem(replace(made, back=plan("butt", back="copper-bar").back))
        self.assertGreater(estimate_restart(barred) or 0.0, 0.8)
        pulsed = plan("outside-corner", member(thickness="1.2 mm"), pulse="slow-cold")
        self.assertIsNone(answer(pulsed).restart_s)

    def test_closed_seam_ends_on_its_own_heat(self) -> None:
        """A small tube is still hot where the seam ends: the reason is calculated, not assumed."""
        small, large = (
            plan("tube-butt", tube(diameter=size), length="all-round", back="purge")
            for size in ("25 mm", "120 mm")
        )
        reasons = []
        for made in (small, large):
            problem = build_problem(made, 1.0)
            listed = list_differences(made, problem, find_answers(run_field(problem), 4.0))
            reasons.append(" ".join(d.why for d in listed if d.label.startswith("Red heat")))
        self.assertIn("ends where it started", reasons[0])
        self.assertNotIn("ends where it started", reasons[1])

    def test_differences_have_reasons(self) -> None:
        made = plan("butt", pulse="none", length="60 mm")
        problem = build_problem(made)
        listed = list_differences(made, problem, find_answers(run_field(problem), 4.0))
        self.assertTrue(listed)
        for difference in listed:
            ratio = difference.field.value / difference.planned.value
            self.assertGreater(abs(ratio - 1), 0.15)
            self.assertTrue(difference.why.endswith("."))


class Tint(unittest.TestCase):
    def test_longer_at_a_temperature_tints_more(self) -> None:
        """An hour at a temperature looks like the table, a second like a colder sheet."""
        for hot in (400.0, 600.0, 700.0):
            growth = float(calculate_oxide_growth(np.array([hot]))[0])
            table, second = find_tint_temperature_c(np.array([growth * TABLE_S, growth]))
            self.assertAlmostEqual(float(table), hot, delta=0.01)
            self.assertTrue(80 < hot - float(second) < 260, (hot, second))
        self.assertEqual(float(find_tint_temperature_c(np.array([0.0]))[0]), 20.0)
        self.assertEqual(float(calculate_oxide_growth(np.array([150.0]))[0]), 0.0)

    def test_names(self) -> None:
        rows = ((289, "silver"), (290, "pale-straw"), (390, "brown"), (599, "blue"))
        for at, name in (*rows, (600, "dark-blue"), (749, "dark-blue"), (750, "grey")):
            self.assertEqual(find_tint(at), name)


class Metals(unittest.TestCase):
    def test_tables_rise(self) -> None:
        for groups in (("austenitic",), ("ferritic",), ("duplex",), ("austenitic", "carbon")):
            metal = build_metal(groups)
            for table in (metal.temperature_c, metal.theta, metal.face_loss):
                self.assertTrue((np.diff(table) >= 0).all(), groups)
            self.assertEqual(metal.find_enthalpy(20.0), 0.0)
            at = metal.find_temperature_c(np.array([metal.find_enthalpy(1000.0)]))
            self.assertAlmostEqual(float(at[0]), 1000.0, delta=0.5)

    def test_heat_to_liquid(self) -> None:
        """About 8 to 10 J/mm³ from cold to liquid (handbook 2.4: 9.2 for steel)."""
        for group in ("austenitic", "ferritic", "duplex", "carbon"):
            metal = build_metal((group,))
            self.assertTrue(8.0 < metal.find_enthalpy(metal.liquidus_c) < 11.0, group)
