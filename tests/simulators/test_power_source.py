"""The simulated power source: repeatable by its seed, and consistent with its log."""

import unittest

import numpy as np
from msgspec.structs import replace

from wisearc.core.arc_log.arc_log import ArcLog, analyse
from wisearc.core.arc_log.readings import make_readings
from wisearc.simulators.power_source import Seam, simulate_rows


def read(of: Seam) -> ArcLog:
    told = list(simulate_rows(of))
    columns = [
        np.array([row[key] for row in told]) for key in ("time_s", "current_a", "voltage_v", "gas")
    ]
    return analyse(make_readings(*columns))


class Source(unittest.TestCase):
    def test_by_its_seed(self) -> None:
        of = Seam(arc_s=5)
        self.assertEqual(list(simulate_rows(of)), list(simulate_rows(of)))
        self.assertNotEqual(list(simulate_rows(of)), list(simulate_rows(replace(of, seed=2))))

    def test_simulator_matches_its_log(self) -> None:
        for restarts, tacks in ((0, 0), (2, 0), (1, 3)):
            log = read(Seam(arc_s=40, restarts=restarts, tacks=tacks, slip=False))
            self.assertEqual((log.restarts, log.tacks), (restarts, tacks))
            self.assertAlmostEqual(log.seam_arc_s, 40, delta=1)
            self.assertAlmostEqual(log.rate_pps, 2.0, delta=0.02)
            self.assertAlmostEqual(log.postflow_s, 6.0, delta=0.6)
            self.assertAlmostEqual(log.peak_a, 110, delta=6)

    def test_a_slip_and_a_touch(self) -> None:
        even, slipped = (
            max(row["current_a"] for row in simulate_rows(Seam(restarts=0, slip=slip)))
            for slip in (False, True)
        )
        self.assertGreater(slipped, 1.15 * even)
        low = [
            row
            for row in simulate_rows(Seam(restarts=0, touched=True))
            if row["current_a"] > 20 and row["voltage_v"] < 5
        ]
        self.assertTrue(low)
        self.assertFalse(
            [
                row
                for row in simulate_rows(Seam(restarts=0))
                if row["current_a"] > 20 and row["voltage_v"] < 5
            ]
        )

    def test_steady_where_nothing_pulses(self) -> None:
        log = read(Seam(background_a=0, peak_a=68, arc_s=20, restarts=0, slip=False))
        self.assertIsNone(log.rate_pps)
