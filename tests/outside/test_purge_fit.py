"""The fit of meter readings against a simulated meter and against scipy's curve_fit.

The meter calculates in small steps, on 50 seeds. curve_fit applies to well-posed cases.
"""

import math
import random
from itertools import islice

import numpy as np
from msgspec.structs import replace
from scipy.optimize import curve_fit

from tests.untraced import Untraced
from wisearc.core.physics.purge import Course
from wisearc.core.physics.purge_fit import PurgeFit, find_warnings, fit_purge
from wisearc.simulators.oxygen_meter import Behind, simulate_readings

VOLUME, FLOW = 0.9, 6.0


def taken(of: Behind, until_s: float, rate_hz: float = 5.0) -> list[tuple[float, float]]:
    """Return readings up to a time."""
    return list(islice(simulate_readings(of, rate_hz), int(until_s * rate_hz)))


class Fifty(Untraced):
    def test_invalid_readings_are_ignored(self) -> None:
        """A negative time and a reading of 0 ppm change nothing."""
        found = taken(Behind(volume_l=VOLUME, flow_l_min=FLOW, seed=1), 80)
        odd = [(-5.0, 100.0), *found[:200], (found[200][0], 0.0), *found[201:]]
        whole = [*found[:200], *found[201:]]
        self.assertEqual(
            fit_purge(odd, Course(VOLUME, FLOW)), fit_purge(whole, Course(VOLUME, FLOW))
        )

    def test_within_its_stated_error(self) -> None:
        """About two thirds of each figure lie within the error and nearly all within two.

        Mixing, leak and lag vary.
        """
        off: dict[str, list[float]] = {"rate": [], "settles": [], "delay": [], "when": []}
        for seed in range(50):
            chance = random.Random(seed)
            mixing, leak = chance.uniform(0.4, 1.0), chance.choice([0.0, 0.0, 0.003, 0.02])
            behind = Behind(
                volume_l=VOLUME,
                flow_l_min=FLOW,
                mixing=mixing,
                leak_l_min=leak,
                lag_s=chance.uniform(3, 8),
                seed=seed,
            )
            fit = fit_purge(taken(behind, chance.uniform(60, 180)), Course(VOLUME, FLOW))
            self.assertIsNotNone(fit)
            off["rate"].append(
                math.log(fit.rate_1_s / ((FLOW + leak) / 60 / (mixing * VOLUME))) / fit.error(0)
            )
            off["settles"].append(
                math.log(fit.settles_ppm / ((FLOW * 8 + leak * 209_500) / (FLOW + leak)))
                / fit.error(2)
            )
            off["delay"].append((fit.delay_s - (1 - mixing) * VOLUME / FLOW * 60) / fit.error(1))
            quiet = taken(replace(behind, noise=0.0), 250)
            seen, said = next((t for t, c in quiet if c <= 600), None), fit.reaches_s(600)
            if seen is not None and said is not None:
                off["when"].append((said - seen) / max(0.2, fit.reaches_error_s(600)))
        for what, apart in off.items():
            with self.subTest(what=what):
                self.assertGreaterEqual(np.mean(np.abs(apart) < 1), 0.5)
                self.assertGreaterEqual(np.mean(np.abs(apart) < 2), 0.93)
                self.assertLess(abs(np.mean(apart)), 0.7)
        self.assertGreater(len(off["when"]), 20)

    def test_share_that_mixes(self) -> None:
        """With a fast meter the mixed fraction is correct to a few hundredths."""
        for mixing in (0.4, 0.6, 0.8, 1.0):
            fit = fit_purge(
                taken(
                    Behind(volume_l=VOLUME, flow_l_min=FLOW, mixing=mixing, lag_s=0.5, seed=7), 90
                ),
                Course(VOLUME, FLOW),
                0.5,
            )
            self.assertAlmostEqual(fit.mixing(VOLUME, FLOW), mixing, delta=0.05)
            self.assertLess(fit.error(0), 0.1)

    def test_early_strike_is_reported(self) -> None:
        """At half of the time the forecast is correct to a few seconds and its stated error."""
        for seed in range(6):
            behind = Behind(volume_l=2.0, flow_l_min=FLOW, mixing=0.8, lag_s=4, seed=seed)
            fit = fit_purge(taken(behind, 80), Course(2.0, FLOW))
            there = next(t for t, c in taken(replace(behind, noise=0.0), 400) if c <= 100)
            self.assertGreater(there, 110)
            self.assertLess(abs(fit.reaches_s(100) - there), max(4.0, 3 * fit.reaches_error_s(100)))

    def test_against_another_solver(self) -> None:
        """Complete mixing, no lag.

        Curve_fit of an exponential over a floor finds the same rate and floor.
        """
        found = taken(
            Behind(
                volume_l=VOLUME, flow_l_min=FLOW, mixing=1.0, lag_s=0.0, leak_l_min=0.01, seed=3
            ),
            120,
        )
        times, ppm = np.array(found).T
        (rate, end), _ = curve_fit(
            lambda t, k, e: e + (209_500 - e) * np.exp(-k * t),
            times,
            ppm,
            p0=(0.1, 100),
            sigma=0.02 * ppm + 1,
        )
        fit = fit_purge(found, Course(VOLUME, FLOW), 0.2)
        self.assertAlmostEqual(fit.rate_1_s / rate, 1.0, delta=0.02)
        self.assertAlmostEqual(fit.settles_ppm / end, 1.0, delta=0.02)


class Signs(Untraced):
    def test_leak_is_reported_only_where_one_exists(self) -> None:
        for leak, told in ((0.0, False), (0.02, True)):
            found = taken(Behind(volume_l=VOLUME, flow_l_min=FLOW, leak_l_min=leak, lag_s=3), 150)
            fit = fit_purge(found, Course(VOLUME, FLOW))
            self.assertEqual(find_warnings(found, fit, 100).leak, told)
        self.assertAlmostEqual(fit.air_l_min(FLOW, 8.0), 0.02, delta=0.001)

    def test_later_opening_is_reported(self) -> None:
        low = taken(Behind(volume_l=VOLUME, flow_l_min=FLOW, lag_s=3), 120)
        self.assertFalse(find_warnings(low, None, 100).rising)
        risen = [*low, *((120 + i / 5, 60.0 + i) for i in range(20))]
        self.assertTrue(find_warnings(risen, None, 100).rising)
        # One outlier is no rise.
        self.assertFalse(find_warnings([*low, (121, 900.0)], None, 100).rising)

    def test_thresholds(self) -> None:
        """Just inside and just outside.

        A rise of half over the minimum and 15 ppm; a leak beyond two errors, when almost settled.
        """
        for last, told in ((164.0, False), (166.0, True)):
            found = [(i / 5, 100.0) for i in range(16)] + [(4 + i / 5, last) for i in range(8)]
            self.assertEqual(find_warnings(found, None, 50).rising, told)
        # Without a decrease there is no rise.
        self.assertFalse(
            find_warnings(
                [(i / 5, 190_000.0) for i in range(8)] + [(2 + i / 5, 400_000.0) for i in range(8)],
                None,
                50,
            ).rising
        )

        def of(settles: float, error: float) -> PurgeFit:
            spread = tuple(tuple(error**2 * (i == k == 2) for k in range(4)) for i in range(4))
            return PurgeFit((math.log(0.1), 0.0, math.log(settles), math.log(5.0)), spread)

        low = [(i / 5, 120.0) for i in range(16)]
        for settles, told in ((121.0, False), (123.0, True)):
            # Two errors of a tenth: e^-0.2 of it is 99.1 and 100.7.
            self.assertEqual(find_warnings(low, of(settles, 0.1), 100).leak, told)
        for reads, told in ((299.0, True), (301.0, False)):
            self.assertEqual(
                find_warnings([(i / 5, reads) for i in range(16)], of(200.0, 0.01), 100).leak, told
            )
        self.assertFalse(find_warnings(low, of(5000.0, 0.51), 100).leak)
        self.assertIsNone(of(100.0, 0.1).reaches_s(99.9))
        self.assertIsNotNone(of(100.0, 0.1).reaches_s(100.1))

    def test_too_little_data_or_no_decrease(self) -> None:
        found = taken(Behind(volume_l=50, flow_l_min=1, lag_s=3), 10)
        self.assertIsNone(fit_purge(found, Course(50, 1)))
        self.assertIsNone(fit_purge([(0.2, 5.0)] * 5, Course(1, 6)))
        self.assertFalse(find_warnings([], None, 50).leak)
