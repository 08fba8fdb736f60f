"""Statistics of the record.

Counted flaws and cures, control charts by Shewhart's limits, weaknesses.
"""

import math
import unittest
from itertools import pairwise
from typing import Any

from wisearc.core import catalogue
from wisearc.core.history.lessons import Learnt, LearntRun
from wisearc.core.history.statistics import build_chart, count_flaws, list_weak_drills


def row(
    run: int,
    *faults: str,
    procedure: int = 1,
    change: str = "",
    ratio: float | None = 0.0,
    weight: float = 1.0,
    family: str = "edge",
) -> LearntRun:
    """Return the data of a run."""
    told = Learnt(family, "austenitic", weight, ratio, None, None, faults, "", change)
    label, day = f"P-000{procedure} A", f"2026-03-{run:02d}"
    return LearntRun(run, 1, procedure, label, day, "", "", True, False, told)


def charted(*percent: float) -> Any:
    """Return the chart of currents, % from the rule of thumb."""
    return build_chart([row(i + 1, ratio=math.log(1 + p / 100)) for i, p in enumerate(percent)])


class Faults(unittest.TestCase):
    def test_counted_by_family_and_cure(self) -> None:
        rows = [
            row(1, "cold", change="amps-up"),
            row(2, "cold", change="slower"),
            row(3),
            row(4, "hole", procedure=2, change="refit", family="fillet"),
            row(5, "cold", change="amps-up"),
            row(6),
            row(7, procedure=2, family="fillet"),
            row(8, "pores", procedure=3),
        ]
        found = {line.fault: line for line in count_flaws(list(reversed(rows)))}
        self.assertEqual([line.fault for line in count_flaws(rows)], ["cold", "hole", "pores"])
        cold = found["cold"]
        self.assertEqual(
            (cold.runs, cold.of, cold.on), (3, 8, (("corners and edges in austenitic", 3, 6),))
        )
        self.assertEqual(
            [(c.code, c.cured, c.tried) for c in cold.cures], [("slower", 1, 1), ("amps-up", 1, 2)]
        )
        self.assertEqual(
            [(c.code, c.cured, c.tried) for c in found["hole"].cures], [("refit", 1, 1)]
        )
        self.assertEqual(found["pores"].cures, ())


class Charts(unittest.TestCase):
    """Individuals and moving range.

    Limits at the mean ± 2.66 mean moving ranges (3 / 1.128), Shewhart 1931 and ISO 7870-2, from
    memory.
    """

    def test_limits(self) -> None:
        values = (2, 4, 1, 3, 5, 2, 3, 4)
        moving = sum(abs(b - a) for a, b in pairwise(values)) / 7
        chart = charted(*values)
        self.assertAlmostEqual(chart.middle, 3.0, places=6)
        self.assertAlmostEqual(chart.high, 3 + 2.6596 * moving, places=3)
        self.assertAlmostEqual(chart.low, 3 - 2.6596 * moving, places=3)
        self.assertFalse(chart.drifts)

    def test_minimum_scatter(self) -> None:
        """Estimate: a standard deviation of at least 0.5 %. No welder is more consistent."""
        chart = charted(*[2.0] * 8)
        self.assertAlmostEqual(chart.low, 0.5, places=3)
        self.assertAlmostEqual(chart.high, 3.5, places=3)

    def test_one_beyond_and_eight_on_one_side(self) -> None:
        # the far one is in the middle too: the limits follow from the moving ranges
        out = charted(*[1, 2] * 10, 30, *[1, 2] * 10)
        self.assertEqual(
            [p.value for p in out.points if p.out],
            [p.value for p in out.points if abs(p.value - 30) < 1e-6],
        )
        self.assertIn("beyond", next(p.out for p in out.points if p.out))
        drift = charted(*[0, 1, 0, 1, 0, 1, 0, 1], *[4, 5, 4, 5, 4, 5, 4, 5])
        self.assertTrue(any("in a row" in p.out for p in drift.points))
        seven = charted(0, 4, *[1, 3] * 6, *[2.1, 2.2, 2.1, 2.2, 2.1, 2.2, 2.1], 1)
        self.assertFalse(
            any("in a row" in p.out for p in seven.points), [(p.value, p.out) for p in seven.points]
        )

    def test_only_good_runs_count_and_eight_are_required(self) -> None:
        self.assertIsNone(charted(*[1] * 7))
        self.assertIsNotNone(charted(*[1] * 8))
        self.assertIsNone(build_chart([row(i, weight=0) for i in range(20)]))
        self.assertIsNone(build_chart([row(i, ratio=None) for i in range(20)]))


class Weak(unittest.TestCase):
    def test_twice_and_in_one_of_twelve(self) -> None:
        drills = {key: one.faults for key, one in catalogue.load_drills().items()}
        self.assertEqual(list_weak_drills([row(1, "restart"), row(2)], drills), ())
        self.assertEqual(
            list_weak_drills([row(1, "restart"), row(2, "restart"), row(3)], drills),
            (("restart", 2, 3),),
        )
        self.assertEqual(
            list_weak_drills([row(i, *(["restart"] if i < 2 else [])) for i in range(26)], drills),
            (),
        )
        self.assertEqual(
            list_weak_drills([row(i, *(["restart"] if i < 2 else [])) for i in range(25)], drills),
            (("restart", 2, 25),),
        )
        just = [row(i, *(["restart"] if i in (0, 30, 31, 32, 33) else [])) for i in range(61)]
        self.assertEqual(list_weak_drills(just, drills), ())
        old = [row(i, "restart") for i in range(10)] + [row(i) for i in range(10, 80)]
        self.assertEqual(list_weak_drills(old, drills), ())

    def test_every_flaw_of_a_drill_can_be_entered_and_its_target_met(self) -> None:
        for one in catalogue.load_drills().values():
            self.assertLessEqual(set(one.faults), set(catalogue.load_flaws()))
            end = one.most if one.most is not None else one.least
            assert end is not None
            self.assertTrue(one.met(end))
            self.assertFalse(one.met(end + (0.01 if one.most is not None else -0.01)))
