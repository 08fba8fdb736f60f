"""The running arc: its sums equal those of its log, and a change of state counts once it lasts."""

import unittest

from msgspec.structs import replace

from tests.waves import Wave
from wisearc.core.arc_log.arc_log import analyse
from wisearc.core.arc_log.live import LOOKED_S, Live
from wisearc.core.arc_log.readings import make_readings

WAVE = Wave(rate=2.0, on=0.3, peak=110, background=11, hz=50, arc=20, noise=0.3)


class AsItBurns(unittest.TestCase):
    def live(self, wave: Wave) -> Live:
        found = Live()
        for t, a, g in zip(*wave.rows(), strict=True):
            found.take((t, a, None, g))
        return found

    def test_sums_equal_those_of_the_log(self) -> None:
        time, current, gas = WAVE.rows()
        log, live = analyse(make_readings(time, current, gas=gas)), self.live(WAVE)
        self.assertAlmostEqual(live.arc_s, log.seam_arc_s, delta=0.6)
        self.assertAlmostEqual(live.energy_kj, log.energy_kj, delta=0.03 * log.energy_kj)
        self.assertAlmostEqual(live.mean_a, log.mean_a, delta=1.5)
        self.assertAlmostEqual(live.gas_s, 26.5, delta=0.1)
        self.assertEqual((live.strikes, live.on), (1, False))
        self.assertAlmostEqual(live.turned_s, 21, delta=0.4)
        self.assertLessEqual(live.tail[-1][0] - live.tail[0][0], LOOKED_S)

    def test_on_and_off_only_once_it_lasts(self) -> None:
        live = Live()
        for i in range(200):
            # A spark of 0.1 s, then an arc with a reading of zero.
            amps = 50.0 if 10 <= i < 15 or (50 <= i < 150 and i != 90) else 0.0
            live.take((i * 0.02, amps, 10.0, None))
        self.assertEqual(live.strikes, 1)
        self.assertAlmostEqual(live.turned_s, 3.0, places=6)

    def test_nothing_over_a_gap_and_no_time_twice(self) -> None:
        live = Live()
        for t in [*(i * 0.1 for i in range(10)), *(5 + i * 0.1 for i in range(11))]:
            live.take((t, 50.0, 10.0, 1.0))
            live.take((t, 900.0, 10.0, 1.0))
        self.assertAlmostEqual(live.gas_s, 1.9, places=6)
        self.assertEqual(live.rows, 21)
        self.assertLess(live.energy_kj, 50 * 10 * 1.91 / 1000)

    def test_last_seconds_are_reported(self) -> None:
        live = Live()
        time, current, gas = replace(WAVE, arc=60).rows()
        for t, a, g in zip(time, current, gas, strict=True):
            if t < 40:
                live.take((t, a * (1.3 if t > 30 and a > 50 else 1.0), None, g))
        log = live.summarise_recent(
            {
                "peak_a": (99.0, 121.0),
                "rate_pps": (1.6, 2.5),
                "on_pct": (27.0, 33.0),
                "background_a": (8.8, 13.8),
            }
        )
        self.assertEqual({one.what for one in log.left_band}, {"peak_a"})
        self.assertAlmostEqual(log.rate_pps, 2.0, delta=0.05)

    def test_minimum_number_of_rows(self) -> None:
        live = Live()
        for i in range(10):
            self.assertIsNone(live.summarise_recent({}))
            live.take((i * 0.02, 50.0, 10.0, None))
        self.assertEqual(live.summarise_recent({}).rows, 10)

    def test_gaps_over_a_second_are_ignored(self) -> None:
        for step, gas_s in ((1.0, 1.0), (1.01, 0.0)):
            live = Live()
            live.take((0.0, 50.0, 10.0, 1.0))
            live.take((step, 50.0, 10.0, 1.0))
            with self.subTest(step=step):
                self.assertEqual(live.gas_s, gas_s)

    def test_limit_of_twelve_seconds(self) -> None:
        live = Live()
        for at in (0.0, 0.5, 12.4):
            live.take((at, 50.0, 10.0, 1.0))
        self.assertEqual([row[0] for row in live.tail], [0.5, 12.4])
