"""The sheet between chill bars, against the heat equation solved by finite differences (general numerics).

The product uses mirror sources of changing sign at cold walls; here the plane between the walls is stepped
explicitly in the arc's own frame until it no longer changes.
"""

import unittest

import numpy as np

from wisearc.core.heat import AMBIENT_C
from wisearc.core.heat_field import Field, temperature_c, wall_distance_mm

V, A, K, H, WALL, POWER = 3.4, 5.0, 24e-3, 1.6, 9.0, 260.0


def solved(step: float = 0.5) -> tuple[np.ndarray, np.ndarray]:
    """Temperature along the seam (x, T) from the stepped field: dT/dt = a∇²T + v dT/dx + source."""
    x = np.arange(-45, 20 + step / 2, step)
    y = np.arange(-WALL, WALL + step / 2, step)
    field = np.zeros((len(x), len(y)))
    i0, j0 = int(np.argmin(abs(x))), len(y) // 2
    dt = 0.2 * step**2 / A
    heat = POWER / (K / A * H * step**2) * dt
    for _ in range(round(25 / dt)):
        inner = field[1:-1, 1:-1]
        lap = (field[2:, 1:-1] + field[:-2, 1:-1] + field[1:-1, 2:] + field[1:-1, :-2] - 4 * inner) / step**2
        drift = (field[2:, 1:-1] - field[:-2, 1:-1]) / (2 * step)
        field[1:-1, 1:-1] = inner + dt * (A * lap + V * drift)
        field[i0, j0] += heat
        field[0] = field[1]
    return x, field[:, j0] + AMBIENT_C


class Strip(unittest.TestCase):
    def test_along_the_seam(self) -> None:
        x, expected = solved()
        field = Field(POWER, V, H, K, A, WALL)
        got = temperature_c(field, x)
        for back in (-4.0, -8.0, -15.0, -25.0):
            i = int(np.argmin(abs(x - back)))
            with self.subTest(x=back):
                self.assertAlmostEqual((got[i] - AMBIENT_C) / (expected[i] - AMBIENT_C), 1.0, delta=0.06)

    def test_far_walls_change_nothing(self) -> None:
        x = np.array([-20.0, -5.0])
        np.testing.assert_allclose(
            temperature_c(Field(POWER, V, H, K, A, 400.0), x), temperature_c(Field(POWER, V, H, K, A), x), rtol=1e-4
        )

    def test_wall_at_one_decay_length(self) -> None:
        """λ = √(k h / contact), a fin's length: √(0.024 × 1.6 / 0.002) = 4.38 mm by hand."""
        self.assertAlmostEqual(wall_distance_mm(5.0, K, H, 2e-3), 9.38, delta=0.01)
