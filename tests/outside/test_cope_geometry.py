"""The coped cut, the mitre and the foot on a plate against numerical geometry.

Two cylinders are intersected in space (numpy). A plane (numpy) and the complete elliptic integral
(scipy) check the others. Geometry, no source needed.
"""

import math
import random

import numpy as np
from scipy.special import ellipe

from tests.untraced import Untraced
from wisearc.core.templates.cope import (
    cope_height_mm,
    cope_length_mm,
    hole_point_mm,
    seat_height_mm,
)
from wisearc.core.templates.cut import calculate_curve, calculate_hole, make_cut, seam_mm
from wisearc.core.templates.plane_cut import ellipse_mm, ellipse_round_mm

WITHIN_MM = 0.01


def generatrix(r: float, theta: float, phi: float, e: float) -> tuple[np.ndarray, np.ndarray]:
    """Return a point of a line of the branch and its direction, in space.

    The run is along X, the branch in a plane with the offset e from its axis.
    """
    direction = np.array([math.cos(theta), 0.0, math.sin(theta)])
    front = np.array([math.sin(theta), 0.0, -math.cos(theta)])
    return front * r * math.cos(phi) + np.array([0.0, r * math.sin(phi) + e, 0.0]), direction


def met_mm(radii: np.ndarray, big: float, theta: float, phi: float, e: float) -> np.ndarray:
    """Return the distance along the branch at which its lines leave the run, mm.

    Bisection from outside, for several radii.
    """
    feet = np.array([generatrix(r, theta, phi, e)[0] for r in radii])
    direction = generatrix(0.0, theta, phi, e)[1]
    # Each line is nearest to the run axis here, so it leaves the run beyond.
    low = -feet[:, 2] / direction[2]
    high = low + 3 * (big + radii) / math.sin(theta)
    for _ in range(60):
        middle = (low + high) / 2
        points = feet + middle[:, None] * direction
        outside = np.hypot(points[:, 1], points[:, 2]) > big
        low, high = np.where(outside, low, middle), np.where(outside, middle, high)
    return high


class Saddle(Untraced):
    def test_random_cuts_in_space(self) -> None:
        chance, worst = random.Random(11), 0.0
        for _ in range(120):
            big = chance.uniform(6, 100)
            r = max(1.5, big * chance.uniform(0.1, 1.0))
            wall = max(0.2, r * chance.uniform(0.02, 0.6))
            angle, e = chance.uniform(20, 90), chance.choice((-1, 1)) * chance.uniform(0, big - r)
            given = {
                "branch_mm": 2 * r,
                "wall_mm": wall,
                "run_mm": 2 * big,
                "angle_deg": angle,
                "offset_mm": e,
                "paper_mm": 0.2,
            }
            theta = math.radians(angle)
            rows = calculate_curve(make_cut(given), 6)
            for row in rows:
                phi = math.radians(row.phi_deg)
                walls = met_mm(np.linspace(r - wall, r, 201), big, theta, phi, e)
                worst = max(
                    worst,
                    abs(row.z_outside_mm - walls[-1]),
                    abs(row.z_inside_mm - walls[0]),
                    abs(row.z_mm - walls.max()),
                )
                self.assertAlmostEqual(row.x_mm, phi * (r + 0.1), places=9)
        self.assertLess(worst, WITHIN_MM)

    def test_edge_selection(self) -> None:
        given = {"branch_mm": 40, "wall_mm": 4, "run_mm": 60, "angle_deg": 50, "offset_mm": 3}
        by = {
            edge: calculate_curve(make_cut({**given, "edge": edge}), 36)
            for edge in ("seat", "outside", "inside")
        }
        for seat, outside, inside in zip(*by.values(), strict=True):
            self.assertEqual((outside.z_mm, inside.z_mm), (seat.z_outside_mm, seat.z_inside_mm))
            self.assertGreaterEqual(seat.z_mm, max(seat.z_outside_mm, seat.z_inside_mm))
            self.assertEqual(outside.x_mm, inside.x_mm)

    def test_largest_within_the_wall(self) -> None:
        """At some angles the seat is inside the wall.

        A scan through the wall finds the same.
        """
        between = 0
        for phi in np.linspace(0, 2 * math.pi, 181):
            scan = max(cope_height_mm(r, 25, 60, float(phi), 4) for r in np.linspace(8, 20, 1001))
            seat = seat_height_mm(20, 8, 25, 60, float(phi), 4)
            self.assertAlmostEqual(seat, scan, delta=2e-5)
            between += seat > max(cope_height_mm(r, 25, 60, float(phi), 4) for r in (8, 20)) + 1e-4
        self.assertGreater(between, 5)

    def test_equal_tubes_at_a_right_angle(self) -> None:
        """Equal radii at a right angle.

        The saddle is r |cos φ|, two half ellipses in planes at 45°. Seam 2 × the half ellipses with
        axes r√2 and r.
        """
        for row in calculate_curve(
            make_cut({"branch_mm": 30, "wall_mm": 2, "run_mm": 30, "edge": "outside"})
        ):
            self.assertAlmostEqual(
                row.z_mm, 15 * abs(math.cos(math.radians(row.phi_deg))), places=6
            )
        self.assertAlmostEqual(
            cope_length_mm(15, 15, 90, 0, 2000), 4 * 15 * math.sqrt(2) * ellipe(0.5), delta=0.01
        )

    def test_length_of_a_small_square_branch(self) -> None:
        """A branch far smaller than its run meets almost a plane: its seam is its circumference."""
        self.assertAlmostEqual(cope_length_mm(5, 500, 90), 2 * math.pi * 5, delta=0.02)

    def test_the_hole_lies_on_both_tubes(self) -> None:
        """Each point of the hole, rolled back round the run, lies on the bore of the branch."""
        chance = random.Random(3)
        for _ in range(60):
            big, angle = chance.uniform(10, 80), chance.uniform(20, 90)
            r = big * chance.uniform(0.1, 0.95)
            e, phi = chance.uniform(-1, 1) * (big - r), chance.uniform(0, 2 * math.pi)
            along, turn = hole_point_mm(r, big, angle, phi, e)
            point = np.array([along, big * math.sin(turn), big * math.cos(turn)])
            axis = np.array([math.cos(math.radians(angle)), 0, math.sin(math.radians(angle))])
            off = point - np.array([0, e, 0])
            self.assertAlmostEqual(float(np.linalg.norm(off - axis * (off @ axis))), r, places=6)
        rows = calculate_hole(
            make_cut({"branch_mm": 20, "wall_mm": 2, "run_mm": 40, "paper_mm": 0.4}), 4
        )
        self.assertAlmostEqual(rows[1].round_mm, math.asin(8 / 20) * 20.2, places=9)


class Planes(Untraced):
    def test_mitre_lies_in_the_bisecting_plane(self) -> None:
        for angle in (45, 60, 90, 120, 150, 180):
            half = math.radians(angle / 2)
            axis, inner, side = (
                np.array([math.sin(half), 0, math.cos(half)]),
                np.array([-math.cos(half), 0, math.sin(half)]),
                np.array([0, 1.0, 0]),
            )
            for row in calculate_curve(
                make_cut(
                    {
                        "kind": "mitre",
                        "branch_mm": 25,
                        "wall_mm": 1.2,
                        "angle_deg": angle,
                        "edge": "outside",
                    }
                ),
                24,
            ):
                phi = math.radians(row.phi_deg)
                point = axis * row.z_mm + inner * 12.5 * math.cos(phi) + side * 12.5 * math.sin(phi)
                with self.subTest(angle=angle, phi=row.phi_deg):
                    # The other tube is the mirror image in X: they meet at X = 0.
                    self.assertAlmostEqual(float(point[0]), 0.0, places=9)

    def test_foot_lies_on_the_plate(self) -> None:
        for angle in (20, 45, 70, 90):
            theta = math.radians(angle)
            for row in calculate_curve(
                make_cut({"kind": "plate", "branch_mm": 25, "wall_mm": 1.2, "angle_deg": angle}), 24
            ):
                for height, r in ((row.z_outside_mm, 12.5), (row.z_inside_mm, 11.3)):
                    foot, direction = generatrix(r, theta, math.radians(row.phi_deg), 0)
                    self.assertAlmostEqual(float((foot + direction * height)[2]), 0.0, places=9)
                self.assertEqual(row.z_mm, max(row.z_outside_mm, row.z_inside_mm))

    def test_ellipse_by_the_elliptic_integral(self) -> None:
        for angle in (20, 30, 45, 60, 75, 90):
            long, short = ellipse_mm(12.5, angle)
            self.assertAlmostEqual(
                ellipse_round_mm(long, short), 4 * long * ellipe(1 - (short / long) ** 2), places=8
            )
            cut = make_cut({"kind": "plate", "branch_mm": 25, "wall_mm": 1.2, "angle_deg": angle})
            self.assertAlmostEqual(
                seam_mm(cut), 4 * long * ellipe(1 - (short / long) ** 2), places=8
            )
            for row in calculate_hole(cut, 16):
                self.assertAlmostEqual(
                    (row.along_mm / ellipse_mm(11.3, angle)[0]) ** 2 + (row.round_mm / 11.3) ** 2,
                    1.0,
                    places=9,
                )
        self.assertAlmostEqual(ellipse_round_mm(400, 1), 4 * 400 * ellipe(1 - 1 / 400**2), places=6)
