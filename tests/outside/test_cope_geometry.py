"""The coped cut against two cylinders intersected numerically in space: geometry, no source needed."""

import math
import unittest

import numpy as np
from wisearc.core.section import cope_height_mm, cope_length_mm


class Saddle(unittest.TestCase):
    def test_points_lie_on_both_tubes(self) -> None:
        for r, big, theta in ((12.5, 25.5, 45), (10, 10, 90), (8, 30, 60)):
            t = math.radians(theta)
            axis = np.array([math.cos(t), 0.0, math.sin(t)])
            side = np.array([0.0, 1.0, 0.0])
            # φ = 0 on the acute side: towards the run's axis direction the branch leans over
            front = np.array([math.sin(t), 0.0, -math.cos(t)])
            for phi in np.linspace(0, 2 * math.pi, 17):
                z = cope_height_mm(r, big, theta, float(phi))
                point = axis * z + front * r * math.cos(phi) + side * r * math.sin(phi)
                with self.subTest(r=r, R=big, theta=theta, phi=round(float(phi), 2)):
                    self.assertAlmostEqual(math.hypot(point[1], point[2]), big, places=6)

    def test_length_of_a_small_square_branch(self) -> None:
        """A branch far smaller than its run meets nearly a plane: its seam is its own circumference."""
        self.assertAlmostEqual(cope_length_mm(5, 500, 90), 2 * math.pi * 5, delta=0.02)
