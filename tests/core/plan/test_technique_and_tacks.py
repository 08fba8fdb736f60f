"""Torch angles, gaps and tacks."""

import math
import unittest
from typing import Any

from tests.core.rows import ROUND, STEEL, Rows, list_sets, said, thick
from tests.samples import member, plan, tube
from wisearc.core.errors import InputError
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.core.plan.preparation.fit_up import max_gap_mm
from wisearc.core.plan.preparation.tacks import order_by_halving, order_in_pairs, round_count
from wisearc.core.shop.shop import ASSUMED


class Technique(Rows):
    def test_torch(self) -> None:
        """90° in the open, half the opening in a corner or lap.

        Towards 65/90 of the whole as one side grows to twice the other; pushed 15°.
        """

        def angle(kind: str, u: float, **more: Any) -> float | None:
            return plan(kind, thick(1), thick(u), **more).technique.torch_angle_deg

        self.rows(
            (angle("butt", 1), 90),
            (angle("butt", 1.5), 78),
            (angle("butt", 2), 65),
            (angle("butt", 3), 65),
            (angle("tee", 1), 45),
            (angle("tee", 2), 65),
            (angle("tee", 1, angle_deg=60), 30),
            (angle("lap", 1), 45),
            (angle("outside-corner", 1), 90),
            (plan("butt").technique.lead_angle_deg, 15),
            (plan("butt").technique.torch_to, "the sheet"),
            (plan("butt", thick(1), thick(2)).technique.torch_to, "the thin side"),
        )

    def test_every_sheet_contains_the_required_lines(self) -> None:
        p = plan("tee", b=STEEL, service="wet")
        t = p.technique
        self.rows(
            (t.polarity, "DC, electrode negative"),
            ("never by scratching" in t.start, True),
            (t.leg_mm, 2.1),
            (t.throat_mm, 1.47),
            ("leaning to the stainless" in t.aim, True),
            ("15–20° to the sheet" in t.rod_side, True),
        )
        self.rows(
            ("5 mm to 10 mm of overlap" in said(p, "technique"), True),
            ("Work clamp" in said(p, "technique"), True),
            ("thick" in plan("butt", thick(1), thick(2)).technique.start_at, True),
        )
        self.rows(
            *(
                (
                    words in plan("tube-butt", tube(), position=where, **ROUND).technique.start_at,
                    True,
                )
                for where, words in (("fixed-tube", "bottom centre"), ("flat", "between two tacks"))
            )
        )
        self.assertIn(
            "washed over both sheets", plan("lap", b=STEEL, filler="ERCuSi-A").technique.aim
        )

    def test_after_by_service(self) -> None:
        def after(a: dict[str, Any], b: dict[str, Any] | None = None, **more: Any) -> str:
            return " ".join(r.sentence.text() for r in plan("butt", a, b, **more).after)

        sheet = member()
        self.rows(
            (
                "citric acid of 4–10 % at 21 °C–49 °C for 20–30 min" in after(sheet, service="wet"),
                True,
            ),
            ("citric acid" in after(sheet), False),
            ("Leave no crevice" in after(sheet, service="food"), True),
            ("20 mm onto the stainless, 75 mm outdoors" in after(sheet, STEEL), True),
            ("rusts" in after(sheet), False),
            ("Age at 480 °C to 620 °C" in after(member("17-4PH")), True),
            ("still air" in after(member("4130")), True),
            ("scale" in after(STEEL), True),
            ("tint again" in after(sheet, service="hot"), True),
            ("Wipe while warm" in after(sheet, finish="sound"), False),
        )


class FitUpAndTacks(Rows):
    def test_gaps(self) -> None:
        """A quarter of the sheet, 0.25 below 1 mm, 0.8 maximum; autogenous 0.05."""
        for gap, words in (
            (0.42, "5 % above the maximum"),
            (0.78, "95 % above the maximum"),
            (0.84, "2.1 times the maximum"),
        ):
            self.assertTrue(
                any(
                    words in c.sentence.text("mm")
                    for c in plan("butt", thick(1.6), gap_mm=gap).cautions
                ),
                gap,
            )
        self.rows(
            *(
                (max_gap_mm(t), gap)
                for t, gap in ((0.99, 0.2475), (1, 0.25), (1.05, 0.2625), (3.2, 0.8), (4, 0.8))
            ),
            (plan("edge").fit_up.max_gap_mm, 0.05),
        )

    def test_tacks(self) -> None:
        """20 t, 12 to 50 mm; 2.5 t long, 2 to 6; 1.3 × the steady current for half a second.

        Round a tube by its diameter, never wider apart than 40 t or 60 mm.
        """

        def tacks(t: float, long: float) -> tuple[int, float]:
            found = plan("butt", thick(t), length=f"{long} mm").tacks
            return found.count, found.length_mm

        small = plan("tube-butt", tube("304L", "1.6 mm", "6.35 mm"), length="all-round")
        self.assertEqual(small.tacks.count, 3)
        self.assertAlmostEqual(small.tacks.length_mm, math.pi * 6.35 / 6, delta=0.01)
        pinned = plan("butt", pins={"current_a": 50}).tacks
        self.rows(
            *(
                (round_count(d, 2.0, math.pi * d), n)
                for d, n in (
                    # The seam of a small stud has one tack; a tube of 6 mm has three.
                    (4.7, 1),
                    (4.8, 3),
                    (6.35, 3),
                    (19.9, 3),
                    (20, 4),
                    (49.9, 4),
                    (50, 6),
                    (99.9, 6),
                    (100, 8),
                    (160, 10),
                    (200, 12),
                )
            ),
            *(
                (round_count(d, t, math.pi * d), n)
                for d, t, n in (
                    (25, 0.6, 4),
                    (25, 0.4, 6),
                    (19, 0.5, 3),
                    (19.2, 0.5, 4),
                    (10, 1.0, 3),
                    (76, 1.0, 6),
                    (77, 1.0, 8),
                )
            ),
            (pinned.current_a, 65.0),
            (pinned.dial_a, 65.0),
            (pinned.time_s, 0.5),
            (tacks(0.5, 120), (11, 2.0)),
            (tacks(0.55, 120), (11, 2.0)),
            (tacks(1, 120), (7, 2.5)),
            (tacks(3, 200), (5, 6.0)),
            (tacks(2.4, 96), (3, 6.0)),
            (tacks(2.2, 88), (3, 5.5)),
        )

    def test_tack_settings(self) -> None:
        """Full travel of the pedal if sufficient.

        Else, with a pulse or without a pedal, a separate setting; never above the machine.
        """
        for amps, more, dial in (
            (40, {}, 52.0),
            (60, {}, 78.0),
            (40, {"control": "none"}, 52.0),
            (40, {"setting_school": "ride"}, 80.0),
            (180, {}, 200.0),
        ):
            self.rows((plan("butt", pins={"current_a": amps}, **more).tacks.dial_a, dial))
        pulsed = plan("outside-corner", length="300 mm")
        self.rows(
            (round(pulsed.tacks.dial_a, 0), round(1.3 * pulsed.current.bench_rule_a, 0)),
            ("Set it separately" in said(pulsed, "tacks"), True),
        )

    def test_travel_speed_does_not_change_a_tack(self) -> None:
        """A tack has no travel: the same current under any pulse and at any speed."""
        thin = thick(1.0)
        amps = {
            plan("outside-corner", thin, length="300 mm", **more).tacks.current_a
            for more in ({"pulse": "slow-cold"}, {"pulse": "none"}, {"travel_mm_s": 2.0})
        }
        self.assertEqual(len(amps), 1)
        spot = said(plan("outside-corner", thin, length="300 mm"), "tacks")
        self.assertRegex(spot, "melts a spot about [0-9.]+ mm wide in 0.5 s")

    def test_orders(self) -> None:
        self.assertEqual(order_by_halving(9), (0, 8, 4, 2, 6, 1, 3, 5, 7))
        self.assertEqual(order_in_pairs(6), (0, 3, 2, 5, 1, 4))
        for n in range(2, 30):
            self.assertEqual(sorted(order_by_halving(n)), list(range(n)))
            self.assertEqual(sorted(order_in_pairs(n)), list(range(n)))

    def test_orders_are_those_of_the_plain_rule(self) -> None:
        """Ends first, then the widest space halved, the first of equals.

        A plain search each time gives the same.
        """
        for count in (2, 3, 4, 7, 16, 33, 100, 257):
            order, done = [0, count - 1], [0, count - 1]
            while len(order) < count:
                spaces = [(done[i + 1] - done[i], -done[i]) for i in range(len(done) - 1)]
                wide, left = max(spaces)
                order.append(-left + wide // 2)
                done = sorted([*done, order[-1]])
            self.assertEqual(order_by_halving(count), tuple(order), count)

    def test_order_of_many_tacks_is_calculated_quickly(self) -> None:
        self.assertEqual(sorted(order_by_halving(100_000)), list(range(100_000)))

    def test_as_many_as_a_plan_lists(self) -> None:
        for pitch, long, accepted in (
            (10, 19990, True),
            (10, 19991, False),
            (3, 5997, True),
            (3, 5998, False),
        ):
            data = {
                "joint": "butt",
                "members": [{"metal": "304L", "thickness": "1 mm"}] * 2,
                "length_mm": long,
                "pins": {"tack_pitch_mm": pitch},
            }
            with self.subTest(pitch=pitch, long=long):
                if accepted:
                    self.assertEqual(make_plan(make_joint(data), ASSUMED).tacks.count, 2000)
                else:
                    with self.assertRaisesRegex(InputError, "more than 2000 tacks"):
                        make_joint(data)

    def test_held_and_burst(self) -> None:
        """Held 1.3 × 62 A for 0.5 s; a burst twice the current for 0.2 s, half as far apart."""
        held, burst = plan("tee"), plan("tee", tack_school="burst")
        round_tube = plan("tube-butt", tube(), length="all-round", tack_school="burst").tacks
        self.rows(
            (held.tacks.current_a, 80.6),
            (held.tacks.time_s, 0.5),
            (burst.tacks.current_a, 124.0),
            (burst.tacks.time_s, 0.2),
            (burst.tacks.school, "burst"),
            (held.tacks.pitch_mm, 25.0),
            (burst.tacks.pitch_mm, 100 / 7),
            (round_tube.count, 8),
            (list_sets(held, "tacks", "tack_school"), ["burst"]),
            (list_sets(burst, "tacks", "tack_school"), ["held"]),
            (plan("tee", pins={"tack_current_a": 90}).tacks.current_a, 90),
        )

    def test_between_bars(self) -> None:
        """Bars hold: 40 t is offered where the seam is longer."""

        def offered(t: float, long: float, **more: Any) -> bool:
            made = plan("butt", thick(t), length=f"{long} mm", **more)
            return bool(list_sets(made, "tacks", "pins.tack_pitch_mm"))

        self.rows(
            (offered(1, 200), True),
            (offered(1, 40), False),
            (offered(1, 41), True),
            (offered(2, 80), False),
            (offered(2, 81), True),
            (offered(1, 200, back="open"), False),
        )
        self.rows(
            (
                list_sets(plan("butt", thick(1.5), length="200 mm"), "tacks", "pins.tack_pitch_mm"),
                [60.0],
            )
        )


if __name__ == "__main__":
    unittest.main()
