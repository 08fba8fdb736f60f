"""Front end, cup and stick-out."""

import math
import unittest
from typing import Any

from tests.core.rows import STEEL, Rows, list_sets, thick
from tests.samples import COPE, codes, joint, plan, tube
from wisearc.core import catalogue
from wisearc.core.joint.data import make_joint
from wisearc.core.joint.section import build_section
from wisearc.core.plan.plan import make_plan
from wisearc.core.plan.torch.front_end import (
    choose_wanted_cup,
    cup_rests_mm,
    find_limits,
    rank_stickout,
)
from wisearc.core.shop.shop import ASSUMED

SIXTEENTH = 25.4 / 16


class Torch(Rows):
    def test_stick_out(self) -> None:
        """Lens: sound to the bore, caution to 1.75 bores, strong to 2 (common practice).

        Collet body: sound to the bore and 6.4 mm, 9.5 at most. Out: reach and 1 mm.
        """

        def limits(front: str, cup: int) -> tuple[float, ...]:
            found = find_limits(front, cup)
            return found.limit_mm, found.caution_mm, found.maximum_mm

        for front, cup, expected in (
            ("gas-lens", 8, (12.7, 22.225, 25.4)),
            ("gas-lens", 7, (7 * SIXTEENTH, 1.75 * 7 * SIXTEENTH, 14 * SIXTEENTH)),
            ("gas-lens", 16, (25.4, 44.45, 50.8)),
            ("plain", 8, (6.4, 9.5, 9.5)),
            ("plain", 4, (4 * SIXTEENTH, 9.5, 9.5)),
        ):
            self.rows(*zip(limits(front, cup), expected, strict=True))
        self.rows(
            (plan("butt", reach="7 mm").torch.stickout_mm, 8.0),
            (plan("butt").torch.stickout_mm, 6.0),
            (plan("tee", reach="7 mm").torch.stickout_mm, 8.0),
            # 19 mm from a no. 7 lens shields well, and 11 mm from a no. 6 collet body does not
            (find_limits("gas-lens", 7).rank(19.0), 1),
            (find_limits("plain", 6).rank(11.0), 3),
            (find_limits("gas-lens", 8).rank(11.0), 0),
        )

    def test_cope_by_its_angle(self) -> None:
        """Never below no. 8, larger as the heel closes, and no plan that its own limits refuse."""
        wall, run = tube("304L", "1.2 mm", "42 mm"), tube("304L", "1.5 mm", "60 mm")
        before = 99
        for angle in range(20, 91):
            made = plan("tube-cope", wall, run, angle_deg=angle, length="all-round")
            self.assertTrue(8 <= made.torch.cup <= before, angle)
            before = made.torch.cup
            own = joint("tube-cope", wall, run, angle_deg=angle, length="all-round")
            refused = rank_stickout(own, made.torch.front_end, made.torch.cup) == 3
            self.assertEqual(refused, "stickout-too-long" in codes(made, "stop"), angle)
            # below about 34° no cup passes on the bisector
            self.assertEqual(refused, angle < 34, angle)
        cups = {
            angle: plan("tube-cope", wall, run, angle_deg=angle, length="all-round").torch.cup
            for angle in (30, 45, 60, 75)
        }
        # deep heels need a no. 12 to 16
        self.assertEqual((cups[30], cups[75]), (16, 8))
        self.assertIn(cups[45], (12, 13, 14, 15, 16))
        entered = plan("tube-cope", wall, run, angle_deg=30, length="all-round", reach="14 mm")
        self.assertNotIn("stickout-too-long", codes(entered, "stop"))

    def test_long_reach(self) -> None:
        """19 mm from a no. 7 lens shields well in still air: a small cup, and a note."""
        made = plan("butt", reach="18 mm", reach_school="long")
        self.rows((made.torch.cup, 8), (plan("butt", reach="18 mm").torch.cup, 12))
        self.assertIn("stickout-draught", codes(made, "note"))
        self.assertNotIn("stickout-caution", codes(made))
        self.rows(
            (list_sets(made, "torch", "reach_school"), ["bore"]),
            (list_sets(plan("butt", reach="18 mm"), "torch", "reach_school"), ["long"]),
            (list_sets(plan("butt"), "torch", "reach_school"), []),
        )

    def test_sectors(self) -> None:
        """Heel, side and toe of a cope; the clock of a fixed tube (common practice).

        The opening at the heel is the angle, at the toe 180° less the angle, and at the side by
        the radii: 180° − asin(21/30) for the run of 60 mm.
        """
        wall, run = tube("304L", "1.2 mm", "42 mm"), tube("304L", "1.5 mm", "60 mm")
        made = plan("tube-cope", wall, run, angle_deg=45, length="all-round")
        heel, side, toe = made.torch.sectors
        side_deg = 180 - math.degrees(math.acos(21 / 30))
        steady = made.current.steady_a
        square = steady / (1 + 0.1 * (math.sqrt(2) - 1))
        self.rows(
            ([s.place for s in made.torch.sectors], ["heel", "side", "toe"]),
            (heel.stickout_mm, made.torch.stickout_mm),
            (toe.stickout_mm, made.torch.toe_stickout_mm),
            (heel.torch_angle_deg, 22.0),
            (side.torch_angle_deg, float(round(side_deg / 2))),
            (toe.torch_angle_deg, 68.0),
            (heel.current_a, steady),
            # from square to flat the factor falls from that of a cope, 1.0, to a butt's, 0.87
            (side.current_a, square * (1 - 0.13 * (side_deg - 90) / 90)),
            (toe.current_a, square * (1 - 0.13 * 0.5)),
        )
        fixed = plan("tube-butt", tube(), length="all-round", position="fixed-tube")
        flat = plan("tube-butt", tube(), length="all-round").current.steady_a
        self.rows(
            *(
                (sector.current_a, flat * f)
                for sector, f in zip(fixed.torch.sectors, (0.95, 0.9, 1.0), strict=True)
            )
        )
        self.assertEqual(plan("butt").torch.sectors, ())

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
            *(
                (cup(5, reach=f"{mm} mm"), next(c for c in sizes if c * SIXTEENTH >= mm + 1))
                for mm in (15.5, 18, 18.1, 24)
            ),
            (cup(5, reach="30 mm"), 16),
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
            # the stick-out of a no. 8 is 20.1 mm there, and the bore of a no. 14 is 22.2
            (p.torch.cup, 14),
            (p.torch.stickout_mm, 1.07 * (7 * SIXTEENTH + 2) / tan[45] - 1.5),
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
