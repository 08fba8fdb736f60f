"""Type, diameter and tip of the tungsten."""

from tests.core.rows import Rows, list_sets, thick
from tests.samples import plan
from wisearc.core.catalogue import load_tips
from wisearc.core.plan.torch.tips import carried_a, choose_tip


class Tungsten(Rows):
    # diameter, angle, flat, steady and pulsed most: the product's own rows of AWS C5.5, from memory
    TIPS = (
        (1.0, 12, 0.125, 15, 25),
        (1.0, 20, 0.25, 30, 60),
        (1.6, 25, 0.5, 50, 100),
        (1.6, 30, 0.8, 70, 140),
        (2.4, 35, 0.8, 90, 180),
        (2.4, 45, 1.1, 150, 250),
        (3.2, 60, 1.1, 200, 300),
        (3.2, 90, 1.5, 250, 350),
    )

    def test_table(self) -> None:
        got = [
            (t.diameter_mm, t.included_angle_deg, t.tip_flat_mm, t.steady_a[1], t.pulsed_a[1])
            for t in load_tips()
        ]
        self.assertEqual(got, list(self.TIPS))

    def test_thinnest_tungsten_that_carries_the_current(self) -> None:
        for steady, peak, diameter, angle in (
            (12, 12, 1.0, 12),
            (15, 15, 1.0, 12),
            (15, 26, 1.0, 20),
            (15.1, 15.1, 1.6, 25),
            (40, 40, 1.6, 25),
            (65, 65, 1.6, 30),
            (41, 110, 1.6, 30),
            (81, 81, 2.4, 35),
            (180, 180, 3.2, 60),
            (300, 300, 3.2, 90),
        ):
            tip = choose_tip(steady, peak)
            with self.subTest(steady=steady, peak=peak):
                self.assertEqual((tip.diameter_mm, tip.included_angle_deg), (diameter, angle))

    def test_tip_capacity_depends_on_its_angle(self) -> None:
        """Linear between the rows: half way from 30 to 35° 80 A; the needle's 15° 20.6."""
        self.rows(
            (carried_a(30), (70.0, 140.0)),
            (carried_a(32.5), (80.0, 160.0)),
            (round(carried_a(15)[0], 1), 20.6),
            (carried_a(90), (250.0, 350.0)),
        )

    def test_choice_depends_on_the_arc_current(self) -> None:
        """Not by the pedal's headroom.

        60 A under a setting of 75 takes the tip of 70; but a tack of 1.3 times counts as a peak.
        """
        p = plan("butt", pins={"current_a": 60})
        self.rows(
            (p.slopes.machine_a, 75.0),
            (p.tungsten.included_angle_deg, 30.0),
            (plan("butt", pins={"current_a": 69.9}).tungsten.diameter_mm, 1.6),
            (plan("butt", pins={"current_a": 70.1}).tungsten.diameter_mm, 2.4),
        )
        self.rows(
            (choose_tip(50, 1.3 * 78).included_angle_deg, 30.0),
            (choose_tip(50, 1.3 * 76).included_angle_deg, 25.0),
        )

    def test_grind(self) -> None:
        """By the table, just off the needle below 1 mm; or needle-sharp by the other approach."""
        needle = plan("butt", tip_school="needle")
        self.rows(
            (needle.tungsten.included_angle_deg, 15.0),
            (needle.tungsten.tip_flat_mm, 0.0),
            (plan("butt", thick(0.99)).tungsten.tip_flat_mm, 0.2),
            (plan("butt", thick(1)).tungsten.tip_flat_mm, 0.5),
            (plan("butt").tungsten.type, "lanthanated-2"),
            (list_sets(plan("butt"), "tungsten", "tip_school"), ["needle"]),
            (list_sets(needle, "tungsten", "tip_school"), ["table"]),
        )
