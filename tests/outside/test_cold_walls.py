"""The sheet between chill bars, against the heat equation solved by finite differences.

General numerics. The product adds the modes between the walls. Here the plane between the walls is
stepped explicitly in the frame of the arc to the steady state.
"""

import math
import unittest

import numpy as np
from scipy.special import kv

from tests.rosenthal import stopped_by_sum_c
from wisearc.core.physics.heat import AMBIENT_C
from wisearc.core.physics.heat_field import Field, running_c, stopped_c, wall_distance_mm

V, A, K, H, WALL, POWER = 3.4, 5.0, 24e-3, 1.6, 9.0, 260.0


def solved(step: float = 0.5) -> tuple[np.ndarray, np.ndarray]:
    """Return the temperature along the seam (x, T) from the stepped field.

    DT/dt = a∇²T + v dT/dx + source.
    """
    x = np.arange(-45, 20 + step / 2, step)
    y = np.arange(-WALL, WALL + step / 2, step)
    field = np.zeros((len(x), len(y)))
    i0, j0 = int(np.argmin(abs(x))), len(y) // 2
    dt = 0.2 * step**2 / A
    heat = POWER / (K / A * H * step**2) * dt
    for _ in range(round(25 / dt)):
        inner = field[1:-1, 1:-1]
        lap = (
            field[2:, 1:-1] + field[:-2, 1:-1] + field[1:-1, 2:] + field[1:-1, :-2] - 4 * inner
        ) / step**2
        drift = (field[2:, 1:-1] - field[:-2, 1:-1]) / (2 * step)
        field[1:-1, 1:-1] = inner + dt * (A * lap + V * drift)
        field[i0, j0] += heat
        field[0] = field[1]
    return x, field[:, j0] + AMBIENT_C


class Strip(unittest.TestCase):
    def test_along_the_seam(self) -> None:
        x, expected = solved()
        field = Field(POWER, V, H, K, A, WALL)
        for back in (4.0, 8.0, 15.0, 25.0):
            i = int(np.argmin(abs(x + back)))
            with self.subTest(back=back):
                got = running_c(field, back) - AMBIENT_C
                self.assertAlmostEqual(got / (expected[i] - AMBIENT_C), 1.0, delta=0.06)

    def test_distant_walls_have_no_effect(self) -> None:
        for back in (5.0, 20.0):
            walled, open_plate = Field(POWER, V, H, K, A, 400.0), Field(POWER, V, H, K, A)
            for of in (running_c, lambda field, back: stopped_c(field, 3.0, back)(back)):
                self.assertAlmostEqual(of(walled, back) / of(open_plate, back), 1.0, delta=1e-4)

    def test_mirror_sources_give_the_same(self) -> None:
        """Cold walls as mirrors at 2nD with alternating sign, by Rosenthal's closed form.

        The Bessel function is scipy's K0.
        """
        p = V / (2 * A)
        for back in (0.5, 2.0, 6.0, 15.0):
            mirrors = (
                (-1) ** n * math.exp(p * back) * kv(0, p * math.hypot(back, 2 * n * WALL))
                for n in range(-60, 61)
            )
            expected = POWER / (2 * math.pi * K * H) * sum(mirrors)
            got = running_c(Field(POWER, V, H, K, A, WALL), back) - AMBIENT_C
            self.assertAlmostEqual(got / expected, 1.0, delta=1e-3, msg=str(back))

    def test_after_the_stop(self) -> None:
        """Mirrors for early ages, modes for later ones.

        Against a fine sum of 60 mirrors on each side.
        """
        field = Field(POWER, V, H, K, A, WALL)
        for back, after in ((4.0, 0.5), (4.0, 4.0), (8.0, 3.0), (2.0, 8.0)):
            expected = stopped_by_sum_c(field, back, after) - AMBIENT_C
            got = stopped_c(field, after, back)(back) - AMBIENT_C
            self.assertAlmostEqual(got / expected, 1.0, delta=6e-4, msg=str((back, after)))

    def test_wall_at_one_decay_length(self) -> None:
        """λ = √(k h / contact), the length of a fin.

        √(0.024 × 1.6 / 0.002) = 4.38 mm, calculated manually.
        """
        self.assertAlmostEqual(wall_distance_mm(5.0, K, H, 2e-3), 9.38, delta=0.01)
