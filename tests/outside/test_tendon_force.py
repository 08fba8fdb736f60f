"""The pull of a seam, the buckling of the sheet, and the cooling time to interpass.

White and Leggatt's tendon force as in handbooks, F = 0.2 η q/v kN with q/v in J/mm for steel (from
memory), and its worked case of 93 J/mm net on 1.59 mm austenitic sheet with 150 mm free. The plate
supported on three edges and free on the fourth: K = 0.425 + (b/L)² in σcr = K π² E / (12 (1 − ν²))
(t/b)² (Timoshenko's tables, from memory). Rosenthal's thin plate far behind the arc (1941) by its
closed form.
"""

import math
import unittest

from msgspec.structs import replace

from tests.jobs import CORNER
from wisearc.core.jobs.warp import calculate_warp
from wisearc.core.joint.data import make_joint
from wisearc.core.physics.distortion import (
    FREE_K,
    JOINED_K,
    angular_pull_deg,
    buckling_mpa,
    build_angle_section,
    camber_mm,
    tendon_kn,
)
from wisearc.core.physics.heat import AMBIENT_C
from wisearc.core.physics.heat_field import COOL_FACES_W_MM2K, Field, wait_below_s
from wisearc.core.plan.plan import make_plan
from wisearc.core.shop.shop import ASSUMED


class Tendon(unittest.TestCase):
    def test_the_worked_case(self) -> None:
        """93 J/mm net, 1.59 mm, 150 mm free on each side: 49 MPa against 8.5, it buckles.

        Calculated manually: 0.2 × 93 × 1.25 = 23.25 kN over 300 × 1.59 mm².
        """
        stress = tendon_kn(93, 1.25) * 1e3 / (300 * 1.59)
        self.assertAlmostEqual(stress, 49, delta=0.5)
        self.assertAlmostEqual(buckling_mpa(193, 1.59, 150), 8.5, delta=0.08)

    def test_steel_has_a_fifth(self) -> None:
        """F = 0.2 q/v kN on carbon steel."""
        self.assertAlmostEqual(tendon_kn(500), 100)

    def test_buckling_against_the_plate(self) -> None:
        """A plate free on one edge: k = 0.43 is between an infinite one and one four times as long.

        With both edges held k is 4, and the limit 78 MPa for 1.59 mm and 150 mm.
        """

        def of(aspect: float) -> float:
            return 0.425 + 1 / aspect**2

        self.assertLess(of(1e9), FREE_K)
        self.assertLess(FREE_K, of(4))
        shape = math.pi**2 / (12 * (1 - 0.3**2))
        self.assertAlmostEqual(0.43 * shape, 0.39, delta=0.002)
        self.assertAlmostEqual(buckling_mpa(193, 1.59, 150, JOINED_K), 78, delta=0.5)

    def test_corner_as_an_angle_section(self) -> None:
        """75 mm legs, 1.5 mm, 380 mm: 0.8 mm of bow at 68 J/mm net, 1.1 at 93 (estimates).

        With its far edges free it ripples: 76 against 30 MPa.
        """
        section = build_angle_section(75, 1.5, 90)
        for net, bow in ((68, 0.8), (93, 1.1)):
            self.assertAlmostEqual(
                camber_mm(section, tendon_kn(net, 1.25), 193, 380), bow, delta=0.04
            )
        self.assertAlmostEqual(tendon_kn(68, 1.25) * 1e3 / section.area_mm2, 76, delta=0.6)
        self.assertAlmostEqual(buckling_mpa(193, 1.5, 75), 30, delta=0.3)
        # by summing the legs in thin slices, from both sides of the corner
        slices, along = 3000, math.cos(math.radians(60) / 2)
        of = build_angle_section(40, 2, 60)
        places = [(i + 0.5) * 40 / slices * along for i in range(slices)]
        middle = sum(places) / slices
        self.assertAlmostEqual(of.centroid_mm, middle, places=4)
        moment = 2 * sum((u - middle) ** 2 for u in places) * 2 * 40 / slices
        self.assertAlmostEqual(of.moment_mm4 / moment, 1, places=5)

    def test_long_corner_of_the_trade(self) -> None:
        """1.5 mm, 380 mm, on bars with a slow pulse and joined edges: flat (common practice).

        Without bars and pulse it is watched or bows.
        """
        corner = {
            "joint": "outside-corner",
            "members": [{"metal": "304L", "thickness": "1.5 mm"}] * 2,
            "length": "380 mm",
            "far_edge": "joined",
        }
        held = make_plan(make_joint({**corner, "pulse": "slow-cold"}), ASSUMED)
        loose = make_plan(make_joint({**corner, "pulse": "none", "back": "purge"}), ASSUMED)
        self.assertEqual(calculate_warp(held, 75).verdict, "flat")
        self.assertIn(calculate_warp(loose, 75).verdict, ("watch", "will-bow"))

    def test_fillets_pull_the_angle(self) -> None:
        """0.5 to 2° on thin sheet (common practice)."""
        angles = [angular_pull_deg(net, 1.5) for net in (0, 60, 150, 400)]
        self.assertEqual((angles[0], angles[-1]), (0.5, 2.0))
        self.assertEqual(angles, sorted(angles))

    def test_plan_calculated_manually(self) -> None:
        """The distortion of a plan calculated manually.

        With double free width the sheet buckles at a quarter.
        """
        plan = make_plan(
            make_joint({**CORNER, "back": "open", "finish": "sound", "service": "dry"}), ASSUMED
        )
        net = plan.heat.heat_input_en_kj_mm * 1e3
        warp = calculate_warp(plan, 90)
        shape = 0.43 * math.pi**2 / (12 * (1 - 0.3**2))
        self.assertAlmostEqual(warp.buckles_mpa, shape * 193e3 * (1.2 / 90) ** 2, 6)
        strip = 0.2 * 1.25 * net * 1e3 / (2 * 250 * plan.section.h_mm)
        ends = 1 - strip / 180
        self.assertAlmostEqual(warp.force_kn[0], 0.2 * 1.25 * net * ends, 6)
        self.assertAlmostEqual(warp.stress_mpa[0], warp.force_kn[0] * 1e3 / (90 * 2.4), 6)
        self.assertAlmostEqual(calculate_warp(plan, 180).buckles_mpa, warp.buckles_mpa / 4, 6)
        self.assertGreater(warp.force_kn[1], 1.4 / 1.25 * warp.force_kn[0] * 0.99)


class Wait(unittest.TestCase):
    FIELD = Field(power_w=250, travel_mm_s=3.4, h_mm=1.59, k=0.024, a=0.024 / 0.0048)

    def test_distant_points_behind_the_arc(self) -> None:
        """Hot enough that face losses are small: t = (q/v)² / (4π k ρc h² ΔT²)."""
        f = replace(self.FIELD, power_w=90)
        rho_c = f.k / f.a
        t = (f.power_w / f.travel_mm_s / f.h_mm) ** 2 / (
            4 * math.pi * f.k * rho_c * (500 - AMBIENT_C) ** 2
        )
        self.assertAlmostEqual(wait_below_s(f, 500, None) / t, 1, delta=0.02)

    def test_heat_lost_from_the_faces(self) -> None:
        """Down to 150 °C the closed form times the loss of two faces of 20 W/m²K, by stepping."""
        f, t = self.FIELD, 0.1
        rho_c = f.k / f.a
        while (
            f.power_w
            / f.travel_mm_s
            / f.h_mm
            / math.sqrt(4 * math.pi * f.k * rho_c * t)
            * math.exp(-2 * 20e-6 * t / (rho_c * f.h_mm))
            > 150 - AMBIENT_C
        ):
            t += 0.01
        self.assertAlmostEqual(wait_below_s(f, 150, None), t, delta=0.05)
        self.assertEqual(COOL_FACES_W_MM2K, 2 * 20e-6)

    def test_bars_short_seams_and_small_parts(self) -> None:
        """Bars and short seams cool faster; a small part not faster than its mean."""
        open_ = wait_below_s(self.FIELD, 150, None)
        self.assertLess(wait_below_s(replace(self.FIELD, wall_mm=12), 150, None), open_ / 2)
        self.assertLess(wait_below_s(self.FIELD, 150, 30), open_)
        rho_c = self.FIELD.k / self.FIELD.a
        alone = math.log(260 / 130) / (2 * 20e-6 / (rho_c * 1.59))
        self.assertAlmostEqual(wait_below_s(self.FIELD, 150, 5, 260), alone, delta=0.1)


if __name__ == "__main__":
    unittest.main()
