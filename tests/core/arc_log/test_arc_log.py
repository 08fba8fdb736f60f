"""Logs of known waveforms: frequency, peak time, levels, intervals and slopes equal the input.

Logs in pieces equal the complete log.
"""

import unittest
from functools import cache

import numpy as np
from msgspec.structs import replace

from tests.waves import Wave
from wisearc.core.arc_log.arc_log import ArcLog, analyse, calculate_heat_input
from wisearc.core.arc_log.limits import excursion_text, get_limits
from wisearc.core.arc_log.pulses import find_two_levels
from wisearc.core.arc_log.pyramid import build_pyramid, read_columns
from wisearc.core.arc_log.readings import Readings, integrate_rows, make_readings, smooth_rows
from wisearc.core.arc_log.stretches import find_intervals
from wisearc.core.errors import InputError
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.core.shop.shop import ASSUMED

SLOW = Wave(rate=1.5, on=0.3, peak=110, background=5.5)
# The pulse patterns, logged fast and slowly, with and without slopes.
PULSED = [
    SLOW,
    replace(SLOW, hz=20, background=11, down=2.0),
    replace(SLOW, rate=2.0, background=11, hz=50, up=1.0, down=3.0),
    Wave(rate=1.0, on=0.5, peak=50, background=35),
    Wave(rate=1.0, on=0.5, peak=50, background=35, hz=50),
    Wave(rate=33, on=0.33, peak=63, background=21, arc=30),
    Wave(rate=33, on=0.33, peak=63, background=21, arc=30, hz=200),
    Wave(rate=75, on=0.4, peak=110, background=44, arc=30),
    Wave(rate=75, on=0.4, peak=110, background=44, arc=10, hz=10_000),
]
STEADY = [
    Wave(hz=100, up=0.5, down=3.0),
    Wave(hz=10, up=1.0, down=3.0),
    Wave(peak=12, hz=1000, down=2.0),
    Wave(peak=68, hz=5000, arc=8),
]
ROUGH = {"as it is": {}, "jitter": {"jitter": 0.3}, "drop-outs": {"jitter": 0.3, "lost": 0.02}}


@cache
def known(wave: Wave) -> ArcLog:
    """A wave read once for all that is asked of it."""
    return read(wave)


def read(wave: Wave, **more: object) -> ArcLog:
    time, current, gas = wave.rows()
    return analyse(make_readings(time, current, gas=gas), **more)


def each(waves: list[Wave]):
    for wave in waves:
        for name, rough in ROUGH.items():
            for seed in (1, 2):
                yield replace(wave, seed=seed, **rough), f"{wave} {name} {seed}"


class KnownWaves(unittest.TestCase):
    def test_pulses(self) -> None:
        for wave, name in each(PULSED):
            with self.subTest(name):
                log = known(wave)
                one = log.stretches[0]
                self.assertEqual((len(log.stretches), log.restarts), (1, 0))
                self.assertLess(abs(one.rate_pps / wave.rate - 1), 0.01)
                self.assertLess(abs(one.on_pct - 100 * wave.on), 1)
                self.assertLess(abs(one.peak_a - wave.peak), 1)
                self.assertLess(abs(one.background_a - wave.background), 1)

    def test_where_it_begins_and_ends(self) -> None:
        for wave, name in each(PULSED + STEADY):
            with self.subTest(name):
                one = known(wave).stretches[0]
                within = 1 / wave.rate if 0 < wave.rate < 5 else 0.35
                self.assertLess(abs(one.start_s - wave.before), within)
                self.assertLess(abs(one.end_s - wave.before - wave.arc), within)

    def test_steady(self) -> None:
        for wave, name in each(STEADY):
            with self.subTest(name):
                log = known(wave)
                one = log.stretches[0]
                self.assertEqual(
                    (len(log.stretches), one.rate_pps, one.background_a), (1, None, None)
                )
                self.assertLess(abs(one.peak_a - wave.peak), 1)

    def test_slopes(self) -> None:
        for wave, name in each([w for w in PULSED + STEADY if w.hz >= 50 and w.peak > 20]):
            with self.subTest(name):
                one = known(wave).stretches[0]
                # shorter than a beat is not seen
                within = (1 / wave.rate if wave.rate else 0.0) + 0.25
                self.assertLess(abs(one.up_s - wave.up), within)
                self.assertLess(abs(one.taper_s - wave.down), within)

    def test_a_taper_within_one_beat_of_a_slow_shallow_pulse(self) -> None:
        """1 pulse a second, 60 and 42 A: the end of the background shows the slope."""
        slow = Wave(rate=1.0, on=0.5, peak=60, background=42)
        for down in (1.0, 0.6):
            for noise in (0.5, 3.0):
                with self.subTest(down=down, noise=noise):
                    one = known(replace(slow, down=down, noise=noise)).stretches[0]
                    self.assertAlmostEqual(one.taper_s, down, delta=0.25)
        for wave in (slow, replace(slow, noise=5.0), replace(slow, background=12)):
            self.assertEqual(known(wave).stretches[0].taper_s, 0.0)

    def test_run_at_less_for_a_while_is_no_slope(self) -> None:
        # A deviation of 25 % over most of it, then back to the setting and a down-slope of 2 s.
        time, current, _ = replace(SLOW, arc=40, down=2.0, noise=0.5).rows()
        slipped = np.where((time < 30) & (current > 50), current * 1.3, current)
        one = analyse(make_readings(time, slipped)).stretches[0]
        self.assertLess(abs(one.taper_s - 2.0), 0.9)
        self.assertEqual(one.up_s, 0.0)
        time, current, _ = Wave(hz=100, arc=40, down=2.0, up=1.0, noise=0.5).rows()
        one = analyse(
            make_readings(time, np.where((time > 8) & (time < 36), current * 1.3, current))
        ).stretches[0]
        self.assertAlmostEqual(one.taper_s, 2.0, delta=0.3)
        self.assertAlmostEqual(one.up_s, 1.0, delta=0.3)

    def test_gas(self) -> None:
        log = read(replace(SLOW, noise=0.5))
        self.assertAlmostEqual(log.preflow_s, 0.5, delta=0.02)
        # the last peak's background ends it
        self.assertAlmostEqual(log.postflow_s, 6.0, delta=0.02)
        off = make_readings(
            np.arange(400) * 0.01, np.where(np.arange(400) < 200, 50.0, 0.0), gas=np.ones(400)
        )
        self.assertEqual((analyse(off).preflow_s, analyse(off).postflow_s), (None, None))
        self.assertIsNone(analyse(make_readings(off.time_s, off.current_a)).postflow_s)

    def test_restarts_and_tacks(self) -> None:
        step, current = 0.01, []
        for on, a in (
            (0, 100),
            (0.6, 80),
            (0, 100),
            (0.7, 80),
            (0, 300),
            (20, 55),
            (0, 60),
            (15, 55),
            (0, 200),
        ):
            current += [float(a)] * int(on / step) if on else [0.0] * a
        log = analyse(make_readings(np.arange(len(current)) * step, np.array(current)))
        self.assertEqual([s.tack for s in log.stretches], [True, True, False, False])
        self.assertEqual((log.tacks, log.restarts), (2, 1))
        self.assertAlmostEqual(log.seam_arc_s, 35, delta=0.05)
        self.assertAlmostEqual(log.arc_s, 36.3, delta=0.1)
        # energy and mean are the seam's: the tacks are not in the heat input of it
        self.assertAlmostEqual(log.energy_kj, 35 * 55 * 10.5 / 1000, delta=0.02)
        self.assertAlmostEqual(log.mean_a, 55, delta=0.2)

    def test_off_for_a_moment_is_no_restart(self) -> None:
        for off_s, restarts in ((0.2, 0), (0.3, 1)):
            current = np.full(2000, 55.0)
            current[1000 : 1000 + round(off_s * 100)] = 0.0
            self.assertEqual(
                analyse(make_readings(np.arange(2000) * 0.01, current)).restarts, restarts
            )

    def test_scatter_about_nought_is_no_arc(self) -> None:
        for hz in (10, 50, 1000):
            for seed in range(4):
                time, current, _ = Wave(hz=hz, seed=seed, before=60, after=60, arc=20).rows()
                self.assertEqual(len(find_intervals(make_readings(time, current))), 1, (hz, seed))

    def test_a_slope_is_no_pulse(self) -> None:
        ramp = np.concatenate((np.zeros(100), np.linspace(5, 110, 4000), np.zeros(100)))
        self.assertIsNone(analyse(make_readings(np.arange(len(ramp)) * 0.01, ramp)).rate_pps)
        self.assertIsNone(find_two_levels(np.random.default_rng(1).normal(50, 3, 20_000), 3.0))

    def test_a_gap_holds_no_energy(self) -> None:
        time = np.concatenate((np.arange(0, 10, 0.01), np.arange(15, 25, 0.01)))
        log = analyse(make_readings(time, np.full(len(time), 50.0)))
        self.assertAlmostEqual(log.gaps_s, 5.01, places=2)
        self.assertAlmostEqual(log.energy_kj, 50 * 10.5 * 19.98 / 1000, places=3)
        self.assertEqual(log.restarts, 0)


class Energy(unittest.TestCase):
    """ASME IX QW-409.1(c), the energy form.

    Energy over length; EN 1011-1: 0.6 of it for TIG (from memory).
    """

    def test_case_calculated_manually(self) -> None:
        # 50 A at 10.5 V for 100 s: 52.5 kJ; over 350 mm 0.15 kJ/mm, and 0.09 by EN
        current = np.concatenate((np.zeros(10), np.full(10_000, 50.0), np.zeros(10)))
        log = analyse(
            make_readings(np.arange(len(current)) * 0.01, current, np.full(len(current), 10.5)),
            350.0,
        )
        self.assertAlmostEqual(log.energy_kj, 52.5, delta=0.01)
        self.assertAlmostEqual(log.heat_input_kj_mm, 0.15, places=4)
        self.assertAlmostEqual(log.heat_input_en_kj_mm, 0.09, places=4)
        self.assertEqual(log.voltage, "logged")
        self.assertIsNone(calculate_heat_input(52.5, None))

    def test_pulsed_power_is_of_moments(self) -> None:
        # V × I of each moment, not of the means: 100 A at 12 V and 10 A at 9 V, half and half
        high = (np.arange(20_000) // 50) % 2 == 0
        log = analyse(
            make_readings(
                np.arange(20_000) * 0.01, np.where(high, 100.0, 10.0), np.where(high, 12.0, 9.0)
            )
        )
        self.assertAlmostEqual(log.energy_kj, (1200 + 90) / 2 * 200 / 1000, delta=0.1)
        self.assertAlmostEqual(log.stretches[0].mean_v, 10.5, places=2)

    def test_a_voltage_not_read_is_the_usual_one(self) -> None:
        volts = np.full(1000, np.nan)
        log = analyse(make_readings(np.arange(1000) * 0.01, np.full(1000, 50.0), volts))
        self.assertAlmostEqual(log.energy_kj, 50 * 10.5 * 9.99 / 1000, places=3)


class InPieces(unittest.TestCase):
    def test_parts_add_up_to_the_total(self) -> None:
        waves = [replace(SLOW, arc=20, seed=s, lost=0.01, jitter=0.2, noise=1.0) for s in range(4)]
        pieces, at = [], 0.0
        for wave in waves:
            time, current, gas = wave.rows()
            pieces.append((time + at, current, gas))
            at += float(time[-1]) + 0.001
        whole = analyse(
            make_readings(
                *(np.concatenate(c) for c in zip(*[(t, c) for t, c, _ in pieces], strict=True))
            )
        )
        each = [analyse(make_readings(t, c)) for t, c, _ in pieces]
        self.assertEqual(len(whole.stretches), 4)
        for one, part in zip(whole.stretches, each, strict=True):
            self.assertAlmostEqual(one.energy_kj, part.energy_kj, delta=1e-3 * part.energy_kj)
            self.assertAlmostEqual(one.rate_pps, part.rate_pps, places=3)
            self.assertAlmostEqual(one.start_s, part.stretches[0].start_s, places=3)
        self.assertAlmostEqual(
            whole.energy_kj, sum(p.energy_kj for p in each), delta=1e-3 * whole.energy_kj
        )

    def test_smoothing_in_blocks_equals_one_pass(self) -> None:
        values = np.random.default_rng(3).normal(50, 3, 500)
        for rows in (1, 3, 5, 9, 11, 51):
            half = rows // 2
            plain = [values[max(0, i - half) : i + half + 1].mean() for i in range(500)]
            np.testing.assert_allclose(smooth_rows(values, rows), plain, rtol=1e-9)
        np.testing.assert_allclose(smooth_rows(np.arange(5.0), 11), np.full(5, 2.0))


class Held(unittest.TestCase):
    def setUp(self) -> None:
        sheet = {"metal": "304L", "form": "sheet", "thickness_mm": 1.59}
        self.plan = make_plan(
            make_joint(
                {
                    "joint": "outside-corner",
                    "length_mm": 380,
                    "members": [sheet, sheet],
                    "pins": {"rate_pps": 1.5},
                }
            ),
            ASSUMED,
        )
        pulse = self.plan.pulse
        self.as_planned = Wave(
            rate=pulse.rate_pps,
            on=pulse.on_pct / 100,
            peak=pulse.peak_a,
            background=pulse.background_a,
            noise=1.0,
        )

    def left(self, wave: Wave) -> set[str]:
        return {one.what for one in read(wave, held=get_limits(self.plan)).left_band}

    def test_as_planned_nothing_is_left(self) -> None:
        self.assertEqual(self.left(self.as_planned), set())

    def test_each_figure_just_inside_and_just_outside(self) -> None:
        held, base = get_limits(self.plan), self.as_planned
        low, high = held["peak_a"]
        for peak, out in ((low - 2, True), (low + 2, False), (high - 2, False), (high + 2, True)):
            self.assertEqual("peak_a" in self.left(replace(base, peak=peak)), out, peak)
        low, high = held["background_a"]
        for background, out in ((low - 1.2, True), (low + 0.6, False), (high + 1.2, True)):
            self.assertEqual(
                "background_a" in self.left(replace(base, background=background)), out, background
            )
        low, high = held["rate_pps"]
        for rate, out in ((low * 0.97, True), (low * 1.03, False), (high * 1.03, True)):
            self.assertEqual("rate_pps" in self.left(replace(base, rate=rate)), out, rate)
        low, high = held["on_pct"]
        for on, out in ((low - 1.5, True), (low + 1, False), (high + 1.5, True)):
            self.assertEqual("on_pct" in self.left(replace(base, on=on / 100)), out, on)

    def test_a_steady_arc_where_a_pulse_is_planned(self) -> None:
        self.assertIn("rate_pps", self.left(Wave(peak=50, noise=1.0)))

    def test_when_it_was_left(self) -> None:
        time, current, _ = self.as_planned.rows()
        current = np.where((time > 20) & (time < 30) & (current > 50), current * 1.3, current)
        (one,) = [
            s
            for s in analyse(make_readings(time, current), held=get_limits(self.plan)).left_band
            if s.what == "peak_a"
        ]
        self.assertAlmostEqual(one.start_s, 20, delta=0.7)
        self.assertAlmostEqual(one.end_s, 30, delta=0.7)
        self.assertAlmostEqual(one.worst, 1.3 * self.plan.pulse.peak_a, delta=2)
        self.assertIn("Peak", excursion_text(one))

    def test_steady_and_post_flow(self) -> None:
        sheet = {"metal": "304L", "form": "sheet", "thickness_mm": 3}
        plan = make_plan(
            make_joint(
                {"joint": "butt", "length_mm": 380, "members": [sheet, sheet], "back": "purge"}
            ),
            ASSUMED,
        )
        held = get_limits(plan)
        self.assertNotIn("peak_a", held)
        for peak, out in (
            (plan.current.low_a - 2, True),
            (plan.current.low_a + 2, False),
            (plan.current.high_a + 2, True),
        ):
            found = {s.what for s in read(Wave(peak=peak, noise=1.0, hz=100), held=held).left_band}
            self.assertEqual("current_a" in found, out, peak)
            # 6 s of gas where more are held
            self.assertIn("postflow_s", found)
        self.assertEqual(held["postflow_s"][0], plan.gas.postflow_s)

    def test_ranges_of_the_procedure_are_the_limits(self) -> None:
        self.assertEqual(
            get_limits(self.plan, {"machine_a": [90.0, 100.0]})["peak_a"], (90.0, 100.0)
        )


class Bad(unittest.TestCase):
    def test_rows_that_are_none_are_left_out_and_counted(self) -> None:
        time = np.array([0, 0.1, 0.2, 0.15, 0.3, np.nan, 0.4, 0.5, 0.6, 0.7])
        current = np.array([50, 50, 50, 50, 50, 50, np.inf, 9000, 50, 50])
        found = make_readings(time, current)
        self.assertEqual((found.rows, found.bad_rows), (6, 4))
        self.assertTrue((np.diff(found.time_s) > 0).all())

    def test_a_voltage_that_cannot_be_is_a_row_left_out(self) -> None:
        for volts, left in ((490.0, 0), (510.0, 1), (-510.0, 1), (float("nan"), 0)):
            found = make_readings(
                np.arange(20) * 0.1, np.full(20, 50.0), np.where(np.arange(20) == 7, volts, 10.0)
            )
            self.assertEqual(found.bad_rows, left, volts)
            amps = make_readings(np.arange(20) * 0.1, np.where(np.arange(20) == 7, 4 * volts, 50.0))
            self.assertEqual(amps.bad_rows, left or int(np.isnan(volts)), volts)

    def test_log_cut_off_during_the_arc_has_no_slope(self) -> None:
        time, current, _ = Wave(hz=100, up=1.0, down=3.0, noise=0.5).rows()
        inside = (time > 1.3) & (time < 60.0)
        one = analyse(make_readings(time[inside], current[inside])).stretches[0]
        self.assertEqual((one.up_s, one.taper_s), (0.0, 0.0))

    def test_a_log_that_is_none_is_refused(self) -> None:
        with self.assertRaisesRegex(InputError, "readings"):
            make_readings(np.array([]), np.array([]))
        with self.assertRaisesRegex(InputError, "are not readings"):
            make_readings(np.array([5.0, 1.0, 2.0, 3.0, 6.0, 0.0, 0.1]), np.full(7, 50.0))
        self.assertIn(
            "the time stops increasing at row 3",
            make_readings(np.array([0.0, 2.0, 1.0, 3.0]), np.full(4, 50.0)).first_bad,
        )


class Pyramid(unittest.TestCase):
    def test_no_spike_is_lost_at_any_zoom(self) -> None:
        chance = np.random.default_rng(5)
        time = np.cumsum(chance.uniform(0.5, 1.5, 300_000)) * 0.001
        values = chance.normal(50, 1, 300_000).astype(np.float32)
        spikes = chance.choice(300_000, 40, replace=False)
        values[spikes[:20]], values[spikes[20:]] = 500 + np.arange(20), -np.arange(20) - 5
        pyramid = build_pyramid(time, values)
        for span in (time[-1], 60.0, 5.0, 0.4):
            for spike in spikes[::5]:
                start = max(0.0, float(time[spike]) - span * float(chance.uniform(0.01, 0.99)))
                found = read_columns(pyramid, start, start + span, 900)
                inside = values[(time >= start) & (time <= start + span)]
                self.assertLessEqual(found.low.min(), inside.min())
                self.assertGreaterEqual(found.high.max(), inside.max())
                self.assertLessEqual(len(found.low), 2 * 900 + 2)
                # what it shows was there
                self.assertTrue(
                    np.isin(found.high, values).all() and np.isin(found.low, values).all()
                )
                self.assertTrue((np.diff(found.start_s) >= 0).all())

    def test_column_contains_the_values_of_its_interval(self) -> None:
        time, values = np.arange(100_000) * 0.01, np.sin(np.arange(100_000) * 0.001)
        found = read_columns(build_pyramid(time, values), 100.0, 900.0, 400)
        for start, end, low, high in zip(
            found.start_s[:-1], found.start_s[1:], found.low, found.high, strict=False
        ):
            inside = values[(time >= start) & (time < end)]
            self.assertEqual((low, high), (inside.min(), inside.max()))


class Integrals(unittest.TestCase):
    def test_nothing_over_a_gap(self) -> None:
        self.assertEqual(
            integrate_rows(np.array([0.0, 1.0, 11.0, 12.0]), np.full(4, 2.0), 5.0), 4.0
        )

    def test_the_step_is_the_median(self) -> None:
        self.assertAlmostEqual(
            Readings(np.array([0.0, 0.1, 0.2, 5.0, 5.1]), np.zeros(5)).step_s, 0.1
        )
