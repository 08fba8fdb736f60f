"""Energy and heat input of a log against a general library and the codes.

SciPy's integrate.trapezoid (reference library), and a manual integral. ASME IX QW-409.1(c)(1): heat
input of energy over length (from memory). EN 1011-1: heat input k·V·I/v, k 0.6 for TIG (from
memory); 60·V·I/v with v in mm/min is the form of ASME IX QW-409.1(a) (from memory).
"""

import unittest

import numpy as np
from scipy.integrate import quad, trapezoid

from tests.waves import Wave
from wisearc.core.arc_log.arc_log import analyse
from wisearc.core.arc_log.readings import make_readings


class AgainstTheLibrary(unittest.TestCase):
    def test_energy_of_a_rough_log(self) -> None:
        for seed in range(5):
            time, current, _ = Wave(
                rate=2.0,
                on=0.3,
                peak=110,
                background=11,
                hz=500,
                arc=30,
                up=0.5,
                down=2.0,
                jitter=0.4,
                noise=2.0,
                seed=seed,
            ).rows()
            volts = 10 + 0.02 * current + np.random.default_rng(seed).normal(0, 0.3, len(time))
            (one,) = analyse(make_readings(time, current, volts)).stretches
            inside = (time >= one.start_s - 1e-3) & (time < one.end_s - 1e-3)
            expected = trapezoid((current * volts)[inside], time[inside]) / 1000
            self.assertAlmostEqual(one.energy_kj / expected, 1, delta=2e-4)
            self.assertAlmostEqual(
                one.mean_a,
                trapezoid(current[inside], time[inside]) / (one.end_s - one.start_s),
                delta=0.05,
            )

    def test_against_a_manual_integral(self) -> None:
        # 60 + 30 sin(t) A at 10 + sin(t) V for ten periods: 2π · 10 · (600 + 15) J.
        time = np.arange(0, 20 * np.pi, 0.001)
        log = analyse(make_readings(time, 60 + 30 * np.sin(time), 10 + np.sin(time)))
        by_hand = 20 * np.pi * (600 + 15) / 1000
        by_library = (
            quad(lambda t: (60 + 30 * np.sin(t)) * (10 + np.sin(t)), 0, 20 * np.pi, limit=500)[0]
            / 1000
        )
        self.assertAlmostEqual(log.energy_kj, by_hand, delta=0.002 * by_hand)
        self.assertAlmostEqual(by_hand, by_library, places=6)


class HeatInput(unittest.TestCase):
    def test_energy_over_length_is_the_form_with_travel(self) -> None:
        # 80 A, 11 V, 120 mm/min over 240 mm: 120 s. 60 · 11 · 80 / 120 = 440 J/mm; EN 0.6 of that.
        current = np.concatenate((np.zeros(50), np.full(12_000, 80.0), np.zeros(50)))
        log = analyse(
            make_readings(np.arange(len(current)) * 0.01, current, np.full(len(current), 11.0)),
            240.0,
        )
        self.assertAlmostEqual(log.heat_input_kj_mm, 0.440, places=3)
        self.assertAlmostEqual(log.heat_input_en_kj_mm, 0.264, places=3)
