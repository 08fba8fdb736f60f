"""The purge against the oxygen balance integrated numerically (scipy).

Returning air against diffusion and outflow in a gap solved on a grid (numpy), and the vent pressure
against a manual Bernoulli calculation.
"""

import math
import unittest

import numpy as np
from scipy.integrate import solve_ivp
from scipy.linalg import solve_banded

from wisearc.core.physics.purge import (
    DIFFUSION_M2_S,
    Course,
    air_back_l_min,
    calculate_mixing_minutes,
    calculate_unmixed_course,
    make_purging,
    min_flow_l_min,
    settles_ppm,
    vent_pressure_pa,
)

# oxygen in dry air, ppm by volume (US Standard Atmosphere 1976, from memory)
AIR = 209_476.0


class Balance(unittest.TestCase):
    def test_exponential_against_integration_with_leak(self) -> None:
        for volume, q, air, argon in (
            (1.0, 6.0, 0.0, 0.0),
            (0.54, 6.0, 0.0, 10.0),
            (5.0, 10.0, 0.02, 10.0),
            (40.0, 12.0, 0.5, 20.0),
        ):

            def fall(
                _: float,
                c: np.ndarray,
                volume: float = volume,
                q: float = q,
                air: float = air,
                argon: float = argon,
            ) -> np.ndarray:
                return (q * argon + air * 209_500 - (q + air) * c) / (60 * volume)

            times = np.linspace(0, 900 * volume / q, 41)
            found = solve_ivp(
                fall, (0, times[-1]), [209_500.0], t_eval=times, rtol=1e-10, atol=1e-8
            ).y[0]
            course = Course(volume, q, air, argon)
            for at, ppm in zip(times, found, strict=True):
                with self.subTest(volume=volume, at=at):
                    self.assertAlmostEqual(course.ppm(float(at)), ppm, delta=1e-5 * ppm + 1e-3)
            self.assertAlmostEqual(
                course.settles_ppm, (q * argon + air * 209_500) / (q + air), places=6
            )

    def test_when_it_is_there(self) -> None:
        """Without leak or floor it is V / Q ln(C0 / C), as the plan has it.

        The curve passes the target just then.
        """
        clean = Course(1.0, 3.0, argon_ppm=0.0)
        self.assertAlmostEqual(
            clean.reaches_s(50.0) / 60, calculate_mixing_minutes(1.0, 3.0, 50.0), places=9
        )
        self.assertAlmostEqual(clean.reaches_s(50.0) / 60, math.log(AIR / 50) / 3, delta=0.001)
        for mixing in (0.3, 0.7, 1.0):
            course = Course(2.0, 8.0, 0.001, 10.0, mixing)
            at = course.reaches_s(100.0)
            self.assertAlmostEqual(course.ppm(at), 100.0, places=6)
            self.assertGreater(course.ppm(at - 1), 100.0)
        self.assertIsNone(Course(2.0, 8.0, 0.02, 10.0).reaches_s(100.0))
        end = Course(2.0, 8.0, 0.02, 10.0).settles_ppm
        self.assertIsNone(Course(2.0, 8.0, 0.02, 10.0).reaches_s(end))
        self.assertIsNotNone(Course(2.0, 8.0, 0.02, 10.0).reaches_s(end * 1.001))

    def test_a_part_that_mixes_behind_a_layer(self) -> None:
        """Plug flow and a stirred vessel in a row, marched by hand in small steps."""
        volume, q, mixing, step = 1.2, 6.0, 0.6, 0.01
        course, inside, at = Course(volume, q, 0.0, 0.0, mixing), 209_500.0, 0.0
        while at < 30:
            if at >= 60 * (1 - mixing) * volume / q:
                inside -= inside * q / 60 * step / (mixing * volume)
            at += step
        self.assertAlmostEqual(course.ppm(at) / inside, 1.0, delta=0.01)

    def test_layered_is_one_volume(self) -> None:
        soonest = calculate_unmixed_course(Course(1.5, 6.0))
        self.assertAlmostEqual(soonest.reaches_s(50.0), 15.0, places=3)
        self.assertEqual(soonest.ppm(14.9), 209_500)
        self.assertLess(soonest.ppm(15.1), 11)


class Openings(unittest.TestCase):
    def test_air_back_against_a_grid(self) -> None:
        """Oxygen in a gap of depth t on 4000 cells: the flow that passes.

        Argon flows out at u, air is outside, and the oxygen inside is known.
        """
        for q, gap, wall, vent in (
            (0.5, 20.0, 1.2, 3.0),
            (0.1, 30.0, 0.9, 3.0),
            (0.02, 10.0, 2.0, 4.0),
        ):
            speed = q / 60_000 / ((gap + math.pi * vent**2 / 4) * 1e-6)
            n, depth = 4000, wall * 1e-3
            h = depth / n
            # d/dx (u c − D dc/dx) = 0, c = 0 inside, air outside
            peclet = speed * h / DIFFUSION_M2_S
            lower, upper = np.full(n - 1, 1 + peclet / 2), np.full(n - 1, 1 - peclet / 2)
            c = np.zeros(n + 1)
            c[-1] = 1.0
            bands = np.vstack(
                [
                    np.concatenate(([0], upper[:-1])),
                    np.full(n - 1, -2.0),
                    np.concatenate((lower[1:], [0])),
                ]
            )
            right = np.zeros(n - 1)
            right[-1] = -upper[-1]
            c[1:-1] = solve_banded((1, 1), bands, right)
            inward = DIFFUSION_M2_S * (c[1] - c[0]) / h
            with self.subTest(q=q):
                self.assertAlmostEqual(
                    air_back_l_min(q, gap, wall, vent) / (inward * gap * 1e-6 * 60_000),
                    1.0,
                    delta=0.01,
                )

    def test_still_gas_diffuses(self) -> None:
        """Without outflow it is Fick's law: A D / t."""
        self.assertAlmostEqual(
            air_back_l_min(1e-9, 20, 1.0, 4), 20e-6 * DIFFUSION_M2_S / 1e-3 * 60_000, places=9
        )
        self.assertEqual(air_back_l_min(3, 0, 1.2, 4), 0)

    def test_outflow_keeps_the_oxygen_low(self) -> None:
        """0.17 / t m/s through a gap alone leaves less than 50 ppm of the oxygen of air.

        The rule of the trade against physics.
        """
        for wall in (0.9, 1.2, 1.5):
            gap = 30.0
            q = 0.17 / wall * gap * 1e-6 * 60_000
            self.assertLess(settles_ppm(q, air_back_l_min(q, gap, wall, 1e-6), 0.0), 50)
            self.assertAlmostEqual(min_flow_l_min(gap, wall, 4), q, places=9)

    def test_thick_and_wide(self) -> None:
        self.assertAlmostEqual(min_flow_l_min(30, 1.7, 4), min_flow_l_min(30, 3.0, 4), places=9)
        self.assertGreater(min_flow_l_min(30, 1.69, 4), min_flow_l_min(30, 1.7, 4))
        self.assertAlmostEqual(min_flow_l_min(0, 1.2, 12.0), 0)
        self.assertAlmostEqual(
            min_flow_l_min(0, 1.2, 12.1), 0.28 * math.pi / 4 * 0.0121**2 * 60_000, places=6
        )

    def test_vent_by_bernoulli(self) -> None:
        """10 L/min out of 5.7 mm is 6.5 m/s.

        1.66 × 6.5² / 2 = 35 Pa of speed, over 0.36: about 100 Pa. By hand.
        """
        speed = 10 / 60_000 / (math.pi * 0.0057**2 / 4)
        self.assertAlmostEqual(vent_pressure_pa(10, 5.7), 1.66 * speed**2 / 2 / 0.36, places=6)
        self.assertAlmostEqual(vent_pressure_pa(10, 5.7), 98.3, delta=0.5)

    def test_volumes(self) -> None:
        """A litre is a cube of 100 mm; a tube of 48 mm bore holds 1.81 L a metre (by hand.

        0.24² π × 10). Hose and fittings add 0.15 L (common practice).
        """
        self.assertAlmostEqual(
            make_purging(
                {"shape": "box", "length_mm": 100, "width_mm": 100, "height_mm": 100}
            ).closed_l,
            1.15,
        )
        self.assertAlmostEqual(
            make_purging({"shape": "tube", "bore_mm": 48, "length_mm": 1000}).closed_l,
            1.9596,
            places=4,
        )
        self.assertAlmostEqual(
            make_purging({"shape": "dammed", "bore_mm": 48, "dams_mm": 500}).closed_l,
            1.9596,
            places=4,
        )
        self.assertAlmostEqual(
            make_purging(
                {"shape": "behind", "length_mm": 500, "width_mm": 20, "height_mm": 10}
            ).closed_l,
            0.25,
        )
        self.assertEqual(make_purging({"shape": "told", "volume_l": 2.5}).closed_l, 2.65)
