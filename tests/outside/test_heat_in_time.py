"""The pool of a pulse in time.

Check values of the trade handbook, section 5.5 (estimates by the same integral, calculated apart
from the product), the integral itself on a fine grid, and Rosenthal's thin plate (D. Rosenthal,
1941, from memory) with K0 of scipy.
"""

import math
import unittest

import numpy as np
from scipy.optimize import brentq
from scipy.special import exp1, kve

from tests.pool_integral import rise_k
from tests.samples import plan
from wisearc.core.physics.heat_in_time import (
    STEADY_ARC,
    PulseTrain,
    Sheet,
    find_length_mm,
    find_peak_a,
    find_pool,
    find_spot_pool_mm,
)

MILD = Sheet(0.035, 7600 * 650e-9, 1.2, 1530.0, 10.5)
STAINLESS = Sheet(0.024, 7500 * 640e-9, 1.59, 1450.0, 10.5)
SLOW = PulseTrain(1.5, 0.30, 0.05)
# Travel mm/s: end of peak, its length, between peaks, unpulsed at 50 A. Mild steel 1.2 mm.
HANDBOOK_MILD = {
    1.8: (4.25, 4.65, 0, 6.1),
    2.4: (3.7, 4.0, 0, 4.6),
    3.0: (3.35, 3.55, 0, 3.65),
    3.6: (3.05, 3.3, 0, 3.0),
    4.2: (2.85, 3.05, 0, 2.5),
}
# 304, 1.59 mm: end of peak at 105 over 10.5 A, unpulsed at 50 A.
HANDBOOK_304 = {2.4: (3.45, 4.1), 3.0: (3.05, 3.25), 3.4: (2.85, 2.85), 3.8: (2.7, 2.5)}
# The table is rounded to 0.05 mm.
ROUNDED_MM = 0.025


class Handbook(unittest.TestCase):
    def near(self, got: float, expected: float) -> None:
        """Check within 3 % and the rounding of the table."""
        self.assertLessEqual(abs(got - expected), 0.03 * expected + ROUNDED_MM, (got, expected))

    def test_mild_steel(self) -> None:
        for v, (width, length, between, steady) in HANDBOOK_MILD.items():
            with self.subTest(travel=v):
                pool = find_pool(MILD, SLOW, 110.0, v)
                self.near(pool.width_mm, width)
                self.near(pool.length_mm, length)
                self.assertEqual(pool.between_mm, between)
                self.assertTrue(pool.freezes)
                self.near(find_pool(MILD, STEADY_ARC, 50.0, v).width_mm, steady)

    def test_same_mean_without_pulse(self) -> None:
        """36.9 A unpulsed at 3.6 mm/s melts only 0.95 mm."""
        mean = 110 * SLOW.mean
        self.assertAlmostEqual(mean, 36.9, delta=0.1)
        self.near(find_pool(MILD, STEADY_ARC, mean, 3.6).width_mm, 0.95)

    def test_stainless(self) -> None:
        for v, (width, steady) in HANDBOOK_304.items():
            with self.subTest(travel=v):
                pulsed = find_pool(STAINLESS, PulseTrain(1.5, 0.30, 0.1), 105.0, v)
                self.near(pulsed.width_mm, width)
                self.near(find_pool(STAINLESS, STEADY_ARC, 50.0, v).width_mm, steady)

    def test_fast_pulse_follows_the_mean(self) -> None:
        """1.2 mm 304, 62 over 20.5 A, 33 a second, 33 %, 2.5 mm/s: 3.35 mm, pulsed or not."""
        thin = Sheet(0.024, 7500 * 640e-9, 1.2, 1450.0, 10.5)
        fast = PulseTrain(33.0, 0.33, 20.5 / 62)
        pool = find_pool(thin, fast, 62.0, 2.5)
        self.near(pool.width_mm, 3.35)
        self.assertEqual(pool.width_mm, pool.between_mm)
        self.near(find_pool(thin, STEADY_ARC, 62 * fast.mean, 2.5).width_mm, 3.35)

    def test_in_the_plan(self) -> None:
        sheet = {"metal": "mild-steel", "thickness": "1.2 mm"}
        made = plan(
            "outside-corner",
            sheet,
            length="380 mm",
            filler="none",
            back="copper-bar",
            pulse="slow-cold",
            travel_mm_s=3.6,
            pins={"peak_a": 110, "rate_pps": 1.5, "on_pct": 30, "background_pct": 5},
        ).heat
        self.near(made.pool_peak_mm or 0, 3.05)
        self.near(made.pool_length_mm or 0, 3.3)
        self.assertEqual((made.pool_between_mm, made.freezes_between), (0.0, True))


class Integral(unittest.TestCase):
    """Few points against the integral on 8,000 ages, within 2 %."""

    TRAINS = (
        SLOW,
        PulseTrain(1.0, 0.5, 0.7),
        PulseTrain(2.0, 0.3, 0.15),
        PulseTrain(0.3, 0.3, 0.1),
        PulseTrain(6.0, 0.4, 0.1),
        PulseTrain(9.9, 0.6, 0.4),
        STEADY_ARC,
    )

    def test_rise_at_the_edge(self) -> None:
        along = np.arange(-6.0, 1.0, 0.1)
        for sheet in (MILD, STAINLESS):
            metal = sheet.k, sheet.rho_c, sheet.h_mm
            for train in self.TRAINS:
                for v in (0.8, 3.0, 7.0):
                    for width in (1.5, 4.0):
                        peak = find_peak_a(sheet, train, width, v)
                        shape = peak, peak * train.background, train.rate_pps, train.on
                        if train.is_steady:
                            shape = peak, peak, 1.0, 0.5
                        got = float(rise_k(metal, shape, v, (along, width / 2)).max())
                        with self.subTest(train=train, travel=v, width=width):
                            self.assertAlmostEqual(got / (sheet.liquidus_c - 20), 1.0, delta=0.006)
                            self.assertAlmostEqual(
                                find_pool(sheet, train, peak, v).width_mm, width, delta=0.01
                            )

    def test_length_and_the_pool_between_peaks(self) -> None:
        along = np.arange(-16.0, 4.0, 0.02)
        for train, peak, v in (
            (SLOW, 110.0, 2.4),
            (PulseTrain(2.0, 0.3, 0.15), 160.0, 3.0),
            (PulseTrain(1.0, 0.5, 0.7), 55.0, 2.4),
        ):
            metal = STAINLESS.k, STAINLESS.rho_c, STAINLESS.h_mm
            shape = peak, peak * train.background, train.rate_pps, train.on
            pool = find_pool(STAINLESS, train, peak, v)
            melted = along[rise_k(metal, shape, v, (along, 0.0)) >= 1430]
            self.assertAlmostEqual(pool.length_mm / (melted[-1] - melted[0]), 1.0, delta=0.015)
            self.assertEqual(pool.length_mm, find_length_mm(STAINLESS, train, peak, v))
            offsets = np.arange(0.0, 4.0, 0.04)
            edge = [
                y for y in offsets if rise_k(metal, shape, v, (along[::10], y), True).max() >= 1430
            ]
            self.assertAlmostEqual(pool.between_mm, 2 * max(edge, default=0.0), delta=0.08)

    def test_nothing_melts(self) -> None:
        pool = find_pool(MILD, SLOW, 20.0, 3.6)
        self.assertEqual((pool.width_mm, pool.length_mm, pool.between_mm), (0, 0, 0))
        self.assertEqual(find_length_mm(MILD, SLOW, 20.0, 3.6), 0.0)


class OnePlace(unittest.TestCase):
    def test_tack_against_the_exponential_integral(self) -> None:
        """A Gaussian source in one place: q/(4πkh)·(E1(r²/(4at + 2σ²)) − E1(r²/2σ²)).

        Carslaw and Jaeger, 1959, from memory, with E1 of scipy.
        """
        for sheet, amps, seconds in ((STAINLESS, 67.0, 0.5), (MILD, 94.0, 0.2), (MILD, 60.0, 1.0)):
            a, needed = sheet.a, sheet.liquidus_c - 20
            power = 0.6 * 10.5 * amps / (4 * math.pi * sheet.k * sheet.h_mm)

            def rise(r: float, power: float = power, spread: float = 4 * a * seconds) -> float:
                own = 2 * 0.8**2
                return float(power * (exp1(r * r / (spread + own)) - exp1(r * r / own)))

            expected = 2 * brentq(lambda r, n=needed, f=rise: f(r) - n, 0.01, 10.0)
            got = find_spot_pool_mm(sheet, amps, seconds)
            with self.subTest(amps=amps):
                self.assertAlmostEqual(got / expected, 1.0, delta=0.02)
        self.assertEqual(find_spot_pool_mm(MILD, 10.0, 0.5), 0.0)


class Rosenthal(unittest.TestCase):
    def test_spread_has_no_effect_on_a_wide_pool(self) -> None:
        """T − T0 = q/(2πkh)·exp(−vξ/2a)·K0(vr/2a): the current for 12 mm at 1.2 mm/s."""
        sheet, v, width = STAINLESS, 1.2, 12.0
        half = v / (2 * sheet.a)
        along = np.arange(-25.0, 3.0, 0.01)
        r = np.hypot(along, width / 2)
        shape = float((np.exp(-half * (along + r)) * kve(0, half * r)).max())
        expected = 1430 * 2 * math.pi * sheet.k * sheet.h_mm / (shape * 0.6 * 10.5)
        self.assertAlmostEqual(find_peak_a(sheet, STEADY_ARC, width, v) / expected, 1, delta=0.02)
