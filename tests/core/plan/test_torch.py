"""Front end, cup and stick-out."""

import math
import unittest
from typing import Any

from tests.core.rows import STEEL, Rows, list_sets, thick
from tests.samples import COPE, joint, plan
from wisearc.core import catalogue
from wisearc.core.joint.data import make_joint
from wisearc.core.joint.section import build_section
from wisearc.core.plan.plan import make_plan
from wisearc.core.plan.torch.front_end import choose_wanted_cup, cup_rests_mm, limits_mm
from wisearc.core.shop.shop import ASSUMED

SIXTEENTH = 25.4 / 16


class Torch(Rows):
    def test_stick_out(self) -> None:
        """To the bore, 16 mm at most with a lens, 6.4 plain.

        Refused past 1.5 bores and 19 (25 from no. 14), 9.5 plain. Out: reach and 1 mm.
        """
        self.rows(
            (limits_mm("gas-lens", 8), (12.7, 19.0)),
            (limits_mm("gas-lens", 5), (5 * SIXTEENTH, 7.5 * SIXTEENTH)),
            (limits_mm("gas-lens", 12), (16.0, 19.0)),
            (limits_mm("gas-lens", 14), (16.0, 25.0)),
            (limits_mm("gas-lens", 16), (16.0, 25.0)),
            (limits_mm("plain", 8), (6.4, 9.5)),
            (limits_mm("plain", 4), (4 * SIXTEENTH, 9.5)),
            (plan("butt", reach="7 mm").torch.stickout_mm, 8.0),
            (plan("butt").torch.stickout_mm, 6.0),
            (plan("tee", reach="7 mm").torch.stickout_mm, 8.0),
        )

    def test_cups(self) -> None:
        """For show the smallest of 8, 10, 12 that covers the width by 1.5 bores; standard 8.

        Steel 7. An edge one size up; else the cup for the stick-out.
        """

        def cup(band: float, **more: Any) -> int:
            made = joint("outside-corner", **more)
            return choose_wanted_cup(made, build_section(made), band, "gas-lens")[0]

        eight, ten, sizes = 1.5 * 12.7, 1.5 * 15.875, list(catalogue.load_cups())
        self.rows(
            (cup(eight), 8),
            (cup(eight + 0.01), 10),
            (cup(ten + 0.01), 12),
            (cup(60), 12),
            (cup(60, finish="sound"), 8),
            (plan("butt", STEEL).torch.cup, 7),
            (plan("edge", thick(1)).torch.cup, sizes[sizes.index(8) + 1]),
            (cup(5, reach="11.7 mm"), 8),
            (cup(5, reach="11.8 mm"), next(c for c in sizes if c * SIXTEENTH >= 12.8)),
            (cup(5, reach="15.5 mm"), 12),
            (cup(5, reach="18 mm"), 12),
            (cup(5, reach="18.1 mm"), 14),
            (cup(5, reach="24 mm"), 14),
            (cup(5, reach=f"{10 * SIXTEENTH - 1} mm"), 10),
            (plan("butt", pins={"cup": 8}).torch.cover_mm, 19.05),
            (plan("butt", pins={"cup": 8, "front_end": "plain"}).torch.cover_mm, 12.7),
            (list_sets(plan("butt", finish="sound"), "torch", "pins.cup"), [6, 10, 12, 16]),
            (list_sets(plan("butt", pins={"cup": 10}), "torch", "pins.cup"), [6, 8, 12, 16]),
            *(
                (plan("butt", STEEL, finish="sound", reach=reach).torch.front_end, front)
                for reach, front in (("5.4 mm", "plain"), ("5.41 mm", "gas-lens"))
            ),
        )

    def test_reach_by_the_opening(self) -> None:
        """R / tan(θ/2) × 1.07 − 1.5 mm, r half the bore and 2 mm.

        For no. 8 at 90° 8.35 × 1.07 − 1.5. A tee by its acute side, a cope at heel and toe; a lap's
        edge is too low to touch; an entered value comes first.
        """
        eight = 1.07 * 8.35
        tan = {a: math.tan(math.radians(a / 2)) for a in (45, 60, 70, 135)}
        self.rows(
            (cup_rests_mm(8, 90), eight - 1.5),
            (cup_rests_mm(6, 60), 1.07 * 6.7625 / tan[60] - 1.5),
            (plan("tee", finish="sound").torch.stickout_mm, eight - 1.5),
            (plan("tee", finish="sound", angle_deg=110).torch.stickout_mm, eight / tan[70] - 1.5),
            (plan("lap").torch.stickout_mm, 6.0),
            (plan("lap", opening_deg=90, finish="sound").torch.stickout_mm, eight - 1.5),
            (plan("inside-corner", finish="sound", angle_deg=135).torch.stickout_mm, 5.0),
            (plan("butt", reach="9 mm", opening_deg=60).torch.stickout_mm, 10.0),
        )
        p = make_plan(make_joint(COPE), ASSUMED)
        self.rows(
            (p.torch.cup, 8),
            (p.torch.stickout_mm, eight / tan[45] - 1.5),
            (p.torch.toe_stickout_mm, 5.0),
            (plan("tee").torch.toe_stickout_mm, None),
        )
        acute = {
            a: plan("tee", angle_deg=a, finish="sound").torch.stickout_mm for a in range(89, 70, -1)
        }
        self.assertTrue(all(1 < acute[a] / acute[a + 1] < 1.05 for a in range(71, 89)))

    def test_half_the_cup_covers_the_tail(self) -> None:
        p = plan("butt", thick(3), finish="sound")
        self.assertAlmostEqual(
            p.torch.tail_uncovered_mm, p.heat.tail_mm - p.torch.cover_mm / 2, delta=0.03
        )


if __name__ == "__main__":
    unittest.main()
