"""Distortion of the seams of a job."""

import unittest

from tests.jobs import CORNER, STAY, job, plan_job, seam
from wisearc.core.jobs.warp import (
    BOW,
    FLAT,
    WATCH,
    calculate_warp,
    list_counters,
    list_warp_levers,
)
from wisearc.core.quantities import length
from wisearc.core.shop.shop import ASSUMED


class Warping(unittest.TestCase):
    def test_verdicts_by_the_spread(self) -> None:
        """Flat where the upper stress is under, will bow where the lower is over, watch between."""
        butt = {**CORNER, "joint": "butt"}
        task = plan_job(job(seam("c1", butt, free_mm=90))).work.tasks["c1"]
        seen = set()
        for free in range(5, 200):
            warp = calculate_warp(task.plan, free)
            low, high = (s / warp.buckles_mpa for s in warp.stress_mpa)
            self.assertEqual(warp.verdict, BOW if low > 1 else FLAT if high <= 1 else WATCH)
            seen.add(warp.verdict)
        self.assertEqual(seen, {FLAT, WATCH, BOW})
        self.assertFalse(calculate_warp(task.plan, None).told)
        self.assertEqual(calculate_warp(task.plan, None).free_mm, 90)
        for long, free in ((60, 40), (81, 40.5), (290, 145), (400, 150)):
            of = plan_job(job(seam("c1", {**CORNER, "length_mm": long}))).work.tasks["c1"]
            self.assertAlmostEqual(calculate_warp(of.plan, None).free_mm, free)

    def test_each_figure_against_a_manual_calculation(self) -> None:
        """Both limits of the pull, and the stress over both sheets.

        A sheet next to a flange has the stress alone. Bars closer than the strip width reduce it,
        down to two fifths.
        """
        lap = {
            **CORNER,
            "members": [
                {"metal": "316L", "thickness": "1.2 mm"},
                {"metal": "316L", "form": "flange", "thickness": "4 mm"},
            ],
            "joint": "tee",
            "back": "open",
            "finish": "sound",
            "service": "dry",
        }
        for joint, sheets in (
            (lap, 1),
            ({**CORNER, "back": "open", "finish": "sound", "service": "dry"}, 2),
        ):
            p = plan_job(job(seam("c1", joint))).work.tasks["c1"].plan
            warp = calculate_warp(p, 60)
            net = p.heat.heat_input_en_kj_mm * 1e3
            for got, times, volts in ((0, 1.25, 1.0), (1, 1.4, p.heat.high_voltage_v / 10.5)):
                full = 0.2 * net * times * volts
                strip = full * 1e3 / (500 * p.section.h_mm)
                self.assertAlmostEqual(warp.force_kn[got], full * max(0.5, 1 - strip / 180), 9)
                self.assertAlmostEqual(
                    warp.stress_mpa[got], warp.force_kn[got] * 1e3 / (60 * 1.2 * sheets), 9
                )
        thin = (
            plan_job(
                job(
                    seam(
                        "c1",
                        {**CORNER, "back": "copper-bar", "travel_mm_s": 0.8, "length_mm": 2000},
                    )
                )
            )
            .work.tasks["c1"]
            .plan
        )
        from wisearc.core.plan.arc.plan_field import build_heat_field

        wall, full = (
            build_heat_field(thin.section, thin.back, thin.travel, thin.pulse).wall_mm,
            0.25 * thin.heat.heat_input_en_kj_mm * 1e3,
        )
        strip = full * 1e3 / (500 * thin.section.h_mm)
        self.assertLess(wall, strip)
        self.assertAlmostEqual(
            calculate_warp(thin, 60).force_kn[0],
            full * max(0.4, wall / strip) * (1 - strip / 2000),
            9,
        )

    def test_runs_of_sixty_where_the_seam_is_longer_than_one_and_a_half(self) -> None:
        for long, there in ((90, False), (91, True)):
            task = plan_job(job(seam("c1", {**CORNER, "length_mm": long}, free_mm=90))).work.tasks[
                "c1"
            ]
            self.assertEqual("runs" in {one.what for one in list_warp_levers(task, ASSUMED)}, there)

    def test_corner_rated_by_its_bow(self) -> None:
        """Flat to L/400, watch to L/200, bows beyond; the plate counts too."""
        task = plan_job(job(seam("c1", {**CORNER, "length_mm": 400}))).work.tasks["c1"]
        seen = set()
        for free in range(8, 150):
            warp = calculate_warp(task.plan, free, joined=True)
            bow = [c / warp.length_mm for c in warp.camber_mm]
            plate = [s / warp.buckles_mpa for s in warp.stress_mpa]
            bows = bow[0] > 1 / 200 or plate[0] > 1
            flat = bow[1] <= 1 / 400 and plate[1] <= 1
            self.assertEqual(warp.verdict, BOW if bows else FLAT if flat else WATCH, free)
            seen.add(warp.verdict)
        self.assertEqual(seen, {FLAT, WATCH, BOW})

    def test_corners_of_a_box_hold_each_other(self) -> None:
        """Four walls and four corners: the far edge of each wall is joined by the next corner."""
        walls = ("n", "e", "s", "w")
        box = plan_job(
            job(
                *(
                    seam(f"c{i}", {**CORNER, "length_mm": 300}, joins=(walls[i], walls[i - 1]))
                    for i in range(4)
                )
            )
        )
        self.assertTrue(all(warp.joined for warp in box.warps.values()))
        self.assertNotIn("will-bow", {c.code for c in box.cautions})
        alone = plan_job(job(seam("c1", {**CORNER, "length_mm": 300})))
        self.assertFalse(alone.warps["c1"].joined)
        own = plan_job(job(seam("c1", {**CORNER, "length_mm": 300, "far_edge": "joined"})))
        self.assertTrue(own.warps["c1"].joined)

    def test_countermeasures(self) -> None:
        """A preset by the calculated or the measured bow, the order in steps, and the clamps."""
        task = plan_job(job(seam("c1", {**CORNER, "length_mm": 600}))).work.tasks["c1"]
        warp = calculate_warp(task.plan, 30, joined=True)
        told = [words.text() for words in list_counters(task.plan, warp)]
        self.assertIn(f"a bow of {length(warp.camber_mm[0]).text()}", told[0])
        self.assertIn("10 steps of 60 mm", " ".join(told))
        self.assertIn("cool to touch, below 50 °C", " ".join(told))
        measured = [words.text() for words in list_counters(task.plan, warp, [1.0, 2.5])]
        self.assertIn("a bow of 2.5 mm", measured[0])
        tee = {**CORNER, "joint": "tee"}
        fillet = plan_job(job(seam("t1", tee, free_mm=8))).work.tasks["t1"].plan
        pull = calculate_warp(fillet, 8)
        text = " ".join(words.text() for words in list_counters(fillet, pull))
        self.assertIn(f"{pull.pull_deg:.1f}° away from the weld", text)
        self.assertTrue(0.25 <= pull.pull_deg <= 2.0)

    def test_round_a_tube_and_off_thick_flanges_nothing_bows(self) -> None:
        self.assertIsNone(
            calculate_warp(plan_job(job(seam("t1", STAY))).work.tasks["t1"].plan, None)
        )

    def test_measures_that_reduce_distortion(self) -> None:
        made = plan_job(
            job(
                seam(
                    "c1",
                    {
                        **CORNER,
                        "back": "open",
                        "finish": "sound",
                        "service": "dry",
                        "length_mm": 300,
                    },
                    free_mm=90,
                )
            )
        )
        task = made.work.tasks["c1"]
        own, found = calculate_warp(task.plan, 90), list_warp_levers(task, ASSUMED)
        self.assertIn("bars", {one.what for one in found})
        self.assertIn("runs", {one.what for one in found})
        for one in found:
            self.assertLess(one.warp.ratio, own.ratio)
        self.assertEqual([one.warp.ratio for one in found], sorted(one.warp.ratio for one in found))

    def test_sides_on_the_way(self) -> None:
        made = plan_job(
            {
                **job(
                    seam("c1", side="left", joins=("a",)),
                    seam("c2", side="left", joins=("b",)),
                    seam("c3", side="right", joins=("c",)),
                ),
                "order": ["c1", "c2", "c3"],
            }
        )
        pull, one = made.pull, made.warps["c1"].force_kn[0]
        self.assertAlmostEqual(pull.left_kn, 2 * one)
        self.assertAlmostEqual(pull.lean_kn, one)
        self.assertEqual((round(pull.most_kn - 2 * one, 6), pull.most_after), (0, "c2"))


if __name__ == "__main__":
    unittest.main()
