"""Shielding of the back."""

import math
import unittest
from typing import Any

from tests.core.rows import ROUND, STEEL, Rows, list_sets, thick
from tests.samples import FLANGE, joint, member, plan, tube
from wisearc.core.joint.data import make_joint
from wisearc.core.joint.section import build_section
from wisearc.core.physics.purge import calculate_mixing_minutes, vent_mm
from wisearc.core.plan.plan import make_plan
from wisearc.core.plan.shielding.back import back_c
from wisearc.core.plan.shielding.purge import leak_flow_l_min
from wisearc.core.shop.shop import ASSUMED


class Back(Rows):
    def test_own_choice(self) -> None:
        self.rows(
            (plan("butt").back.cover, "copper-bar"),
            (make_plan(make_joint(FLANGE), ASSUMED).back.cover, "purge"),
            (plan("butt", STEEL).back.cover, "open"),
            (plan("butt", back_access="closed").back.cover, "purge"),
            (plan("butt", member("2205")).back.cover, "purge"),
            *(
                (
                    set(list_sets(plan("butt", a), "back", "back"))
                    <= {"open", "copper-bar", "purge"},
                    rows,
                )
                for a, rows in ((STEEL, True), (member(), False))
            ),
        )

    def test_purge(self) -> None:
        """Before.

        3 L/min to a 25 mm bore, 6 to 50 (a closed space of sheet counts as 50), 10 above, ten
        volumes; 3 L/min while welding. Show and food 50 ppm, wet 100, else 500.
        """

        def of(bore: float, **more: Any) -> Any:
            return plan(
                "tube-butt", tube(wall="1 mm", diameter=f"{bore + 2} mm"), **{**ROUND, **more}
            ).back.purge

        litre, purge = math.pi * 25**2 / 4 * 300e-6, plan("butt", back="purge").back.purge
        self.rows(
            *(
                (of(bore).preflow_l_min, q)
                for bore, q in ((25, 3.0), (25.1, 6.0), (50, 6.0), (50.1, 10.0))
            ),
            (purge.preflow_l_min, 6.0),
            (purge.weld_flow_l_min, 3.0),
            # 0.15 L of hose and fittings with each space
            (purge.volume_l, round(math.pi * 50**2 / 4 * 100e-6 + 0.15, 3)),
            (of(25).volume_l, round(litre + 0.15, 3)),
            (of(25).hose_l, 0.15),
            (of(25, purge_length_mm=600).volume_l, round(2 * litre + 0.15, 3)),
            (of(25, purge_volume_l=1.85).volume_l, 2.0),
            (of(25, purge_volume_l=1.85).minutes_volumes, round(20 / 3, 2)),
            (of(25, purge_volume_l=1.85).before_s, 400.0),
            (of(25, purge_volume_l=1.85).minutes, round(20 / 3, 2)),
            (of(25, purge_volume_l=1.85).minutes_mixed, round(2 / 3 * math.log(209500 / 50), 2)),
            (
                of(25, purge_volume_l=1.85, purge_target_ppm=500).minutes_mixed,
                round(2 / 3 * math.log(419), 2),
            ),
            # a minute at least, however small the tube: 10 × 0.15 L at 3 L/min are half of it
            (of(4.5).before_s, 60.0),
            # 10 minutes where up to 25 L/min allow it: 12 L at 12 L/min, 30 L at 25
            (of(25, purge_volume_l=11.85).preflow_l_min, 12.0),
            (of(25, purge_volume_l=11.85).before_s, 600.0),
            (of(25, purge_volume_l=29.85).preflow_l_min, 25.0),
            (of(25, purge_volume_l=29.85).before_s, 720.0),
            (of(100, purge_volume_l=5).preflow_l_min, 10.0),
            (calculate_mixing_minutes(1.0, 1.0, 209500.0), 0.0),
            (of(25).closing_flow_l_min, 1.5),
            *(
                (plan("butt", back="purge", finish=f, service=s).back.purge.target_ppm, ppm)
                for f, s, ppm in (
                    ("show", "dry", 50.0),
                    ("show", "wet", 50.0),
                    ("sound", "wet", 100.0),
                    ("sound", "food", 50.0),
                    ("sound", "dry", 500.0),
                )
            ),
        )

    def test_vent(self) -> None:
        """100 Pa.

        √(2 · 100 · 0.36 / 1.66) = 6.586 m/s; the vent of 3 mm passes 2.8 L/min, of 5.7 mm 10 L/min.
        """
        self.rows(
            (vent_mm(2.79), 3.0),
            (round(vent_mm(2.8), 1), 3.0),
            (round(vent_mm(10.0), 1), 5.7),
            (plan("tube-butt", tube(diameter="60 mm"), **ROUND).back.purge.vent_mm, 5.7),
        )

    def test_bars(self) -> None:
        """100 mm lengths; 5 mm from a flat seam, 4 from a corner, a millimetre clear of the pool.

        2 L/min in the groove, half a minute before, for show or wet.
        """
        barred = plan("butt", length="200 mm").back
        self.rows(
            (barred.bar_lengths, 2),
            (plan("butt", length="201 mm").back.bar_lengths, 3),
            (barred.bar_from_seam_mm, 5.0),
            (plan("edge").back.bar_from_seam_mm, 4.0),
            (plan("tee").back.bar_from_seam_mm, 5.0),
            (barred.bar_length_mm, 100.0),
            (plan("butt", thick(3.2)).back.bar_from_seam_mm, 5.0),
            (plan("edge", thick(3.2)).back.bar_from_seam_mm, 6.5 / 2 + 1),
            (barred.bar_most_mm, 6 + 1.5 - 1),
            (plan("butt", reach="4 mm").back.bar_most_mm, 5.5),
            (plan("butt", reach="1.5 mm").back.bar_most_mm, 3.0),
            (plan("butt", reach="1.4 mm").back.bar_most_mm, None),
            (plan("butt", reach="1 mm").back.bar_most_mm, None),
            (plan("butt", reach="1 mm").back.bar_from_seam_mm, (12.7 + 4) / 2 + 1),
            (barred.purge.preflow_l_min, 2.0),
            (barred.purge.before_s, 30.0),
            (barred.purge.weld_flow_l_min, 2.0),
            (plan("butt", finish="sound").back.purge, None),
        )
        self.assertGreater(plan("butt", reach="1 mm").heat.tail_mm, 1.4 * plan("butt").heat.tail_mm)

    def test_the_back_of_a_fillet(self) -> None:
        """From melting at nothing to 340 °C at 2.5 mm in a straight line.

        Under straw (370) no cover, tinted (to 525) for show or wet alone.
        """

        def of(t: float) -> float | None:
            made = joint("tee", thick(t))
            return back_c(made, build_section(made))

        self.rows(
            (of(2.5), 340.0),
            (of(3.2), 340.0),
            (of(1.25), 1450 - 0.5 * 1110),
            (back_c(joint("butt"), build_section(joint("butt"))), None),
        )
        for t, finish, service, cover in (
            (2.5, "show", "wet", "open"),
            (2.44, "show", "dry", "open"),
            (2.4, "show", "dry", "copper-bar"),
            (2.4, "sound", "dry", "open"),
            (2.4, "sound", "wet", "copper-bar"),
            (2.1, "sound", "dry", "open"),
            (2.0, "sound", "dry", "copper-bar"),
            (1.0, "show", "dry", "copper-bar"),
        ):
            with self.subTest(t=t, finish=finish, service=service):
                self.assertEqual(
                    plan("tee", thick(t), finish=finish, service=service).back.cover, cover
                )
        self.rows(
            *(
                (plan("tube-plate", tube(wall=f"{t} mm"), thick(4), **ROUND).back.cover, cover)
                for t, cover in ((1.5, "purge"), (2.5, "open"))
            )
        )

    def test_outflow(self) -> None:
        """0.17/t m/s out of the gap, 0.1 at least, over the seam, 300 mm of it at most.

        The purge is turned up to it by halves.
        """

        def out(t: float, gap: float, long: float) -> float:
            made = joint("butt", thick(t), gap_mm=gap, length=f"{long} mm")
            return leak_flow_l_min(made, build_section(made))

        self.rows(
            (out(1.0, 0.2, 100), 0.17 * 20e-6 * 60000),
            (out(2.0, 0.2, 100), 0.1 * 20e-6 * 60000),
            (out(1.7, 0.2, 100), 0.12),
            (out(1.0, 0.2, 900), 0.612),
        )
        for t, gap, weld in ((2.0, 0.5, 3.0), (0.8, 0.9, 3.5)):
            self.rows(
                (
                    plan(
                        "butt", thick(t), gap_mm=gap, length="300 mm", back="purge"
                    ).back.purge.weld_flow_l_min,
                    weld,
                )
            )


if __name__ == "__main__":
    unittest.main()
