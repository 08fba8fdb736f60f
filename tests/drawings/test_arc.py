"""Drawings of a log trace and of bead flaws."""

import re
import unittest
from unittest.mock import Mock

import numpy as np

from wisearc.core import catalogue
from wisearc.core.arc_log.pyramid import build_pyramid, read_columns
from wisearc.core.run.run import Excursion
from wisearc.drawings.runs.arc_trace import BOTTOM, HEIGHT, TOP, choose_nice_step, draw_arc_trace
from wisearc.drawings.runs.faults import draw_fault


class Trace(unittest.TestCase):
    def drawn(self, values: np.ndarray, **more: object) -> str:
        time = np.arange(len(values)) * 0.001
        found = read_columns(build_pyramid(time, values), 0.0, float(time[-1]), 1000)
        given = {"bands": {}, "stretches": [], "left": [], **more}
        return draw_arc_trace(found, 0.0, float(time[-1]), **given).svg

    def ys(self, svg: str) -> list[float]:
        path = max(re.findall(r'd="(M[^"]+)"', svg), key=len)
        return [
            float(y)
            for pair in re.findall(r"[ML][\d.]+ ([\d.]+)(?:V([\d.]+))?", path)
            for y in pair
            if y
        ]

    def test_one_reading_in_a_hundred_thousand_is_visible(self) -> None:
        values = np.full(100_000, 50.0)
        values[54_321] = 400.0
        spiked = self.ys(self.drawn(values))
        self.assertLess(min(spiked), TOP + 30)
        self.assertEqual(sum(y < TOP + 60 for y in spiked), 1)
        self.assertTrue(all(0 <= y <= HEIGHT - BOTTOM + 1 for y in spiked))

    def test_limits_and_excursions(self) -> None:
        left = [Excursion("peak_a", 3.0, 4.0, 70.0)]
        svg = self.drawn(
            np.full(10_000, 50.0),
            bands={"<peak>": (40.0, 60.0)},
            left=left,
            stretches=[Mock(start_s=1.0, end_s=9.0, tack=False)],
        )
        self.assertIn("&lt;peak&gt;", svg)
        self.assertEqual(svg.count("var(--stop)"), 1)

    def test_steps_are_round(self) -> None:
        for about in (0.003, 0.07, 1.0, 3.3, 17, 480):
            step = choose_nice_step(about)
            self.assertTrue(about <= step * (1 + 1e-9) <= 5.01 * about, about)
            self.assertIn(f"{step:e}"[0], "125")


class Faults(unittest.TestCase):
    def test_each_has_a_drawing_of_its_own(self) -> None:
        drawn = {key: draw_fault(key, words).svg for key, words in catalogue.load_flaws().items()}
        shapes = {
            re.sub(r"<title>.*?</desc>|aria-label=\"[^\"]*\"", "", svg) for svg in drawn.values()
        }
        self.assertEqual(len(shapes), len(catalogue.load_flaws()))
        self.assertTrue(all(catalogue.load_flaws()[key] in svg for key, svg in drawn.items()))
