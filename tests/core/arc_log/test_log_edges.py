"""Each threshold of the arc log, just inside and just outside.

Arc, spark, tack, pulse, gap, and excursions from an allowed range. The values follow from the
sentence of each rule.
"""

import unittest

import numpy as np
from msgspec.structs import replace

from tests.samples import plan
from wisearc.core.arc_log import arc_log
from wisearc.core.arc_log.arc_log import MAX_STRETCHES, analyse
from wisearc.core.arc_log.limits import find_pulse_excursions, find_steady_excursions, get_limits
from wisearc.core.arc_log.pulses import find_pulses, find_two_levels
from wisearc.core.arc_log.readings import Readings, make_readings, smooth_rows
from wisearc.core.arc_log.stretches import find_gas_times, find_intervals, measure_slopes
from wisearc.core.errors import InputError


def spans(*pieces: tuple[float, float], hz: float = 1000.0) -> Readings:
    """Return readings of currents for given times, (s, A)."""
    current = np.concatenate([np.full(round(s * hz), float(a)) for s, a in pieces])
    return Readings(np.arange(len(current)) / hz, current)


def count(*pieces: tuple[float, float], hz: float = 1000.0) -> int:
    return len(find_intervals(spans(*pieces, hz=hz)))


def make_beats(*lasting: float, on: float = 0.5, peak: float = 60, low: float = 20) -> Readings:
    """Readings of pulses that last these times, s, and one more peak."""
    pieces = [(0.1, low)]
    for s in lasting:
        pieces += [(on * s, peak), (s - on * s, low)]
    return spans(*pieces, (0.2, peak), (0.2, low))


class Level(unittest.TestCase):
    def test_level_of_the_peaks(self) -> None:
        """Estimate: a value belongs to a peak from three quarters of the highest current."""
        for low_a, level_a in ((74.0, 100.0), (76.0, 76.0)):
            current = np.tile([low_a] * 6 + [100.0] * 4, 100)
            part = Readings(np.arange(1000) / 1000, current)
            self.assertEqual(arc_log._find_peak_level(part), level_a)


class Arc(unittest.TestCase):
    """When the arc is on."""

    def test_minimum_current_of_a_stretch(self) -> None:
        for lasted, amps, found in (
            # short: 4 A; from 2 s: 3 A
            (1.9, 4.1, 1),
            (1.9, 3.9, 0),
            (2.1, 3.1, 1),
            (2.1, 2.9, 0),
            (1.9, 3.5, 0),
            (2.1, 3.5, 1),
        ):
            with self.subTest(lasted=lasted, amps=amps):
                self.assertEqual(count((1, 0), (lasted, amps), (1, 0)), found)

    def test_minimum_share_of_the_strongest_stretch(self) -> None:
        for amps, found in ((7.7, 2), (7.3, 1)):
            with self.subTest(amps=amps):
                self.assertEqual(count((1, 0), (5, 50), (1, 0), (1, amps), (1, 0)), found)

    def test_minimum_time_off_and_on(self) -> None:
        for off, found in ((0.24, 1), (0.26, 2)):
            with self.subTest(off=off):
                self.assertEqual(count((1, 0), (3, 50), (off, 0), (3, 50), (1, 0)), found)
        for on, found in ((0.145, 0), (0.155, 1)):
            with self.subTest(on=on):
                self.assertEqual(count((1, 0), (on, 50), (1, 0)), found)

    def test_on_from_two_and_a_half_amps(self) -> None:
        # a foot at less is off, at more it is on
        for foot, begins in ((2.45, 2.0), (2.55, 1.0)):
            with self.subTest(foot=foot):
                of = spans((1, 0), (1, foot), (3, 50), (1, 0))
                self.assertAlmostEqual(of.time_s[find_intervals(of)[0][0]], begins, delta=0.0004)

    def test_rows_that_were_lost_are_no_time_off(self) -> None:
        of = spans((1, 0), (3, 50), (1, 0))
        lost = (of.time_s > 2) & (of.time_s < 2.5)
        self.assertEqual(len(find_intervals(Readings(of.time_s[~lost], of.current_a[~lost]))), 1)

    def test_maximum_time_of_a_tack(self) -> None:
        for lasted, tack in ((1.48, True), (1.52, False)):
            with self.subTest(lasted=lasted):
                log = analyse(spans((1, 0), (lasted, 50), (1, 0)))
                self.assertEqual([one.tack for one in log.stretches], [tack])

    def test_maximum_number_of_stretches(self) -> None:
        hz, each = 40.0, [(0.3, 50.0), (0.3, 0.0)]
        log = analyse(spans((1, 0), *(each * (MAX_STRETCHES + 3)), hz=hz))
        self.assertEqual(len(log.stretches), 5000)

    def test_progress_by_stretch(self) -> None:
        told: list[float] = []
        analyse(spans((1, 0), (2, 50), (1, 0), (2, 50), (1, 0)), watch=told.append)
        self.assertEqual(told, [0.5, 1.0])

    def test_full_is_nine_tenths(self) -> None:
        hz = 1000.0
        ramp = np.linspace(5, 100, 1000)
        current = np.concatenate((np.zeros(500), ramp, np.full(4000, 100.0), np.zeros(500)))
        log = analyse(Readings(np.arange(len(current)) / hz, current))
        # 5 to 100 A in a second: 90 A after 85/95 of it
        self.assertAlmostEqual(log.stretches[0].full_s, 85 / 95, delta=0.003)


class Slope(unittest.TestCase):
    def measure_slope(
        self, seconds: float, hz: float, foot: float = 3.0, level: float = 60.0
    ) -> float:
        ramp = np.linspace(foot, level, max(2, round(seconds * hz)))
        current = np.concatenate((ramp, np.full(round((seconds + 5) * hz), level)))
        return measure_slopes(Readings(np.arange(len(current)) / hz, current), level, 0.0, 0.0)[0]

    def test_minimum_time_of_a_slope(self) -> None:
        # the line through half and nine tenths of the level is extended to the level
        self.assertEqual(self.measure_slope(0.027, 10_000), 0.0)
        self.assertAlmostEqual(self.measure_slope(0.036, 10_000), 0.036, delta=0.0002)

    def test_as_long_as_it_is(self) -> None:
        for seconds in (0.5, 2.0, 10.0, 25.0):
            with self.subTest(seconds=seconds):
                self.assertAlmostEqual(
                    self.measure_slope(seconds, 100), seconds, delta=0.02 + 0.01 * seconds
                )

    def test_maximum_slope_is_half_of_the_stretch(self) -> None:
        current = np.concatenate((np.linspace(1, 60, 900), np.full(100, 60.0)))
        up, _ = measure_slopes(Readings(np.arange(1000) / 100, current), 60.0, 0.0, 0.0)
        # 999 steps of a hundredth
        self.assertAlmostEqual(up, 9.99 / 2, places=6)

    def shallow(self, share: float) -> float:
        """Return a log with a down-slope over one cycle, from a fraction of the peak."""
        hz, peak = 100.0, 60.0
        time = np.arange(2000) / hz
        current = np.where(time % 1 < 0.5, peak, share * peak)
        current *= np.clip((time[-1] - time) / 0.9, 0, 1)
        _, taper = measure_slopes(Readings(time, current), peak, 1.0, 0.5, share * peak)
        return taper

    def test_short_taper_from_a_background_of_half_the_peak(self) -> None:
        self.assertEqual(self.shallow(0.47), 0.0)
        self.assertAlmostEqual(self.shallow(0.53), 0.9, delta=0.024)
        self.assertAlmostEqual(self.shallow(0.7), 0.9, delta=0.024)


class Pulsing(unittest.TestCase):
    def test_levels_lie_three_amps_apart(self) -> None:
        for apart, two in ((2.9, False), (3.2, True)):
            with self.subTest(apart=apart):
                found = find_two_levels(np.array([50.0] * 50 + [50.0 + apart] * 50), 0.0)
                self.assertEqual(found is not None, two)

    def test_levels_lie_three_and_a_half_scatters_apart(self) -> None:
        for scatter, two in ((10.2, True), (9.0, True), (11.6, False), (11.8, False)):
            with self.subTest(scatter=scatter):
                found = find_two_levels(np.array([10.0] * 50 + [50.0] * 50), scatter)
                self.assertEqual(found is not None, two)

    def test_a_level_of_a_hundredth_is_none(self) -> None:
        for rows, two in ((2, True), (0, False)):
            with self.subTest(few=rows):
                levels = np.array([10.0] * (100 - rows) + [50.0] * rows)
                self.assertEqual(find_two_levels(levels, 0.0) is not None, two)

    def test_of_a_slope_there_are_no_two_levels(self) -> None:
        self.assertIsNone(find_two_levels(np.linspace(10, 60, 5000), 0.0))
        # in three even levels 8/9 of the spread of the outer two is lost to the middle: 3/4 of all
        # lies between
        self.assertIsNone(find_two_levels(np.repeat([10.0, 35.0, 60.0], 400), 0.0))

    def test_minimum_number_of_beats(self) -> None:
        self.assertIsNone(find_pulses(make_beats(1.0), 0.0))
        found = find_pulses(make_beats(1.0, 1.0), 0.0)
        assert found is not None
        self.assertEqual(len(found.rises), 3)
        self.assertAlmostEqual(found.rate_pps, 1.0, places=6)
        self.assertAlmostEqual(found.on, 0.5, places=6)

    def test_a_beat_that_slipped_is_none(self) -> None:
        for odd, counted in ((0.57, True), (0.53, False), (1.48, True), (1.52, False)):
            with self.subTest(odd=odd):
                found = find_pulses(make_beats(*[1.0] * 6, odd, *[1.0] * 6), 0.0)
                assert found is not None
                mean = (12 + odd) / 13 if counted else 1.0
                self.assertAlmostEqual(1 / found.rate_pps, mean, delta=0.0004)

    def test_a_peak_a_third_lower_still_beats(self) -> None:
        """An edge is passed at 0.38 from either level, of what lies between."""
        for top, rises in ((0.64, 13), (0.60, 12)):
            with self.subTest(top=top):
                pieces = [(0.2, 20.0)] + [(0.5, 60.0), (0.5, 20.0)] * 12
                pieces[12 - 1] = (0.5, 20.0 + 40 * top)
                of = spans(*pieces, (0.3, 60.0), (0.2, 20.0))
                found = find_pulses(of, 0.0)
                assert found is not None
                self.assertEqual(len(found.rises), rises)


class Left(unittest.TestCase):
    """Excursions of pulses and of a steady current."""

    HELD = {  # noqa: RUF012
        "peak_a": (55.0, 65.0),
        "background_a": (15.0, 25.0),
        "rate_pps": (0.9, 1.1),
        "on_pct": (45.0, 55.0),
    }

    def told(self, beats: list[tuple[float, float, float, float]]) -> list[str]:
        """What left its band: beats as (lasting s, share on, peak A, background A)."""
        pieces = [(0.1, 20.0)]
        for s, on, peak, low in [(1.0, 0.5, 60.0, 20.0)] * 5 + beats + [(1.0, 0.5, 60.0, 20.0)] * 5:
            pieces += [(on * s, peak), (s - on * s, low)]
        of = spans(*pieces, (0.2, 60.0), (0.2, 20.0))
        pulses = find_pulses(of, 0.0)
        assert pulses is not None
        return [one.what for one in find_pulse_excursions(of, pulses, self.HELD)]

    def test_minimum_number_of_beats_outside(self) -> None:
        self.assertEqual(self.told([(1.0, 0.5, 70.0, 20.0)]), [])
        self.assertEqual(self.told([(1.0, 0.5, 70.0, 20.0)] * 2), ["peak_a"])

    def test_each_with_its_slack(self) -> None:
        for beat, what in (
            ((1.0, 0.5, 65.4, 20.0), []),
            ((1.0, 0.5, 65.7, 20.0), ["peak_a"]),
            ((1.0, 0.5, 54.6, 20.0), []),
            ((1.0, 0.5, 54.3, 20.0), ["peak_a"]),
            ((1.0, 0.5, 60.0, 25.4), []),
            ((1.0, 0.5, 60.0, 25.7), ["background_a"]),
            ((1.0, 0.554, 60.0, 20.0), []),
            ((1.0, 0.557, 60.0, 20.0), ["on_pct"]),
            ((0.92, 0.5, 60.0, 20.0), []),
            ((0.9, 0.5, 60.0, 20.0), ["rate_pps"]),
            ((1.12, 0.5, 60.0, 20.0), ["rate_pps"]),
        ):
            with self.subTest(beat=beat):
                self.assertEqual(self.told([beat] * 3), what)

    def test_incomplete_beats_are_ignored(self) -> None:
        self.assertEqual(self.told([(1.45, 0.5, 60.0, 20.0)] * 2), ["rate_pps"])
        self.assertEqual(self.told([(1.55, 0.5, 60.0, 20.0)] * 2), [])

    def test_a_steady_current_by_half_seconds_and_half_an_amp(self) -> None:
        for lasted, amps, told in (
            (1.0, 66.4, 0),
            (1.0, 65.8, 0),
            (1.0, 70.0, 1),
            # Smoothed over a quarter of a second, outside by this amount for half a second.
            (0.3, 70.0, 0),
            (0.7, 70.0, 1),
            (0.42, 70.0, 0),
        ):
            ends = (50.0, 66.0)
            with self.subTest(lasted=lasted, amps=amps):
                of = spans((2, 60), (lasted, amps), (2, 60))
                found = find_steady_excursions(of, {"current_a": ends})
                self.assertEqual(len(found), told)

    def test_when_it_was_left(self) -> None:
        of = spans((2, 60), (1, 70), (2, 60))
        (one,) = find_steady_excursions(of, {"current_a": (50.0, 65.0)})
        # the mean over 0.25 s passes the limit near the step
        self.assertAlmostEqual(one.start_s, 2.0, delta=0.02)
        self.assertAlmostEqual(one.end_s, 3.0, delta=0.02)
        # one that lasts to the end of the log ends with it
        of = spans((2, 60), (2, 70))
        (one,) = find_steady_excursions(of, {"current_a": (50.0, 65.0)})
        self.assertAlmostEqual(one.end_s, float(of.time_s[-1]), places=9)

    def test_the_worst_is_the_side_further_out(self) -> None:
        of = spans((2, 60), (1, 68), (1, 20), (2, 60))
        (one,) = find_steady_excursions(of, {"current_a": (50.0, 66.0)})[-1:]
        self.assertAlmostEqual(one.worst, 20, delta=0.1)

    def test_post_flow_with_the_slack_of_a_valve(self) -> None:
        made = plan("butt")
        low = get_limits(made)["postflow_s"][0]
        assert low is not None
        for short, told in ((0.08, False), (0.13, True)):
            with self.subTest(short=short):
                of = spans((1, 0), (10, made.current.steady_a), (20, 0), hz=100)
                gas = ((of.time_s > 0.5) & (of.time_s < 11 + low - short)).astype(float)
                log = analyse(replace(of, gas=gas), held=get_limits(made))
                self.assertEqual("postflow_s" in [one.what for one in log.left_band], told)

    def test_the_gas_before_and_after(self) -> None:
        of = spans((2, 0), (3, 50), (4, 0), hz=100)
        gas = ((of.time_s >= 1.5) & (of.time_s < 7)).astype(float)
        ((before, after),) = find_gas_times(replace(of, gas=gas), find_intervals(of))
        self.assertAlmostEqual(before or 0, 0.5, places=6)
        self.assertAlmostEqual(after or 0, 2.0, places=6)
        none = find_gas_times(replace(of, gas=np.zeros(of.rows)), find_intervals(of))
        self.assertEqual(none, [(0.0, 0.0)])
        whole = find_gas_times(replace(of, gas=np.ones(of.rows)), find_intervals(of))
        self.assertEqual(whole, [(None, None)])


class Rows(unittest.TestCase):
    """Valid readings, and gaps."""

    def gaps(self, step: float, hole: float) -> int:
        time = np.concatenate((np.arange(100) * step, 99 * step + hole + np.arange(100) * step))
        return len(Readings(time, np.full(200, 50.0)).gaps)

    def test_a_gap_is_ten_steps_and_a_quarter_of_a_second(self) -> None:
        for step, hole, found in (
            (0.01, 0.24, 0),
            (0.01, 0.26, 1),
            (0.1, 0.98, 0),
            (0.1, 1.02, 1),
        ):
            with self.subTest(step=step, hole=hole):
                self.assertEqual(self.gaps(step, hole), found)

    def test_impossible_readings_are_left_out(self) -> None:
        time = np.arange(6) * 0.1
        for column, most in (("current_a", 2000.0), ("voltage_v", 500.0)):
            for value, bad in (
                (most - 1, 0),
                (most + 1, 1),
                (-most + 1, 0),
                (-most - 1, 1),
            ):
                with self.subTest(column=column, value=value):
                    given = {"current_a": np.full(6, 50.0), "voltage_v": np.full(6, 10.0)}
                    given[column][3] = value
                    self.assertEqual(make_readings(time, **given).bad_rows, bad)
        for at, bad in ((0.99e7, 0), (1.01e7, 1)):
            for times in (np.append(time[:5], at), np.append(-at, time[:5])):
                with self.subTest(first=times[0], last=times[-1]):
                    self.assertEqual(make_readings(times, np.full(6, 50.0)).bad_rows, bad)

    def test_time_must_increase(self) -> None:
        for last, bad in ((0.41, 0), (0.4, 1), (0.39, 1)):
            with self.subTest(last=last):
                times = np.array([0.0, 0.1, 0.2, 0.3, 0.4, last])
                found = make_readings(times, np.full(6, 50.0))
                self.assertEqual((found.bad_rows, found.rows), (bad, 6 - bad))
        words = make_readings(np.array([0.0, 0.1, 0.1, 0.2]), np.full(4, 50.0)).first_bad
        self.assertEqual(words, "the time stops increasing at row 3")

    def test_more_left_out_than_kept_is_no_log(self) -> None:
        time = np.arange(8) * 0.1
        half = np.array([50.0] * 4 + [np.nan] * 4)
        self.assertEqual(make_readings(time, half).bad_rows, 4)
        with self.assertRaises(InputError):
            make_readings(time, np.array([50.0] * 3 + [np.nan] * 5))
        with self.assertRaises(InputError):
            make_readings(time[:2], np.array([50.0, np.nan]))
        self.assertEqual(make_readings(time[:2], np.array([50.0, 50.0])).rows, 2)

    def test_no_scatter_of_two_rows(self) -> None:
        two, three_rows = (Readings(np.arange(n) / 10, np.arange(n) * 10.0) for n in (2, 3))
        self.assertEqual(two.scatter_a, 0.0)
        self.assertGreater(three_rows.scatter_a, 0.0)
        self.assertEqual(Readings(np.array([0.0]), np.array([1.0])).step_s, 1.0)
        self.assertEqual(Readings(np.array([0.0, 0.5]), np.ones(2)).step_s, 0.5)

    def test_scatter_of_rows_with_an_arc(self) -> None:
        """Rows without an arc have less scatter. Over 100 rows with an arc replace them."""
        chance = np.random.default_rng(4)
        off = np.zeros(1000)
        for rows, large in ((102, True), (101, False)):
            arc = 60 + chance.normal(0, 2.0, rows)
            found = Readings(np.arange(1000 + rows) / 100, np.append(off, arc)).scatter_a
            with self.subTest(rows=rows):
                self.assertEqual(found > 1.0, large)

    def test_scatter_is_the_standard_deviation(self) -> None:
        chance = np.random.default_rng(3)
        current = 60 + chance.normal(0, 2.0, 20_000)
        self.assertAlmostEqual(
            Readings(np.arange(20_000) / 100, current).scatter_a, 2.0, delta=0.012
        )

    def test_mean_over_rows(self) -> None:
        values = np.arange(40.0) ** 2
        for rows in (1, 3, 9, 11, 39):
            half = rows // 2
            manual = [values[max(0, i - half) : i + half + 1].mean() for i in range(len(values))]
            with self.subTest(rows=rows):
                np.testing.assert_allclose(smooth_rows(values, rows), manual, rtol=1e-12)


if __name__ == "__main__":
    unittest.main()
