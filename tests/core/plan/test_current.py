"""Current, travel speed and setting of the machine."""

from typing import Any

from tests.core.rows import ROUND, Rows, said, thick
from tests.samples import joint, member, plan, tube
from wisearc.core.joint.data import make_joint
from wisearc.core.joint.section import build_section
from wisearc.core.plan.arc.need import build_current_model
from wisearc.core.plan.arc.setting import headroom_a
from wisearc.core.plan.plan import make_plan
from wisearc.core.shop.bench import list_benches
from wisearc.core.shop.shop import ASSUMED, Machine, Shop

NO_PULSE = Shop(machines=(Machine("plain 200", pulse=None),))
MM = 1000 / 25.4


class CurrentAndTravel(Rows):
    def test_bench_rule(self) -> None:
        """39.37 A/mm by the joint; × (2.4/t)^0.565 over 2.4 mm; carbon 7 and 15 % more.

        No remote and no pulse 5 % less.
        """

        def amps(
            kind: str,
            a: dict[str, Any],
            b: dict[str, Any] | None = None,
            shop: Shop = ASSUMED,
            **more: Any,
        ) -> float:
            made = joint(kind, a, b, **more)
            bench = list_benches(shop)[0]
            return build_current_model(made, build_section(made), bench, "ER308L", None).bench_a

        self.rows(
            (amps("butt", thick(2.4)), MM * 2.4 * 0.87),
            (amps("butt", thick(2.5)), MM * 2.5 * 0.87 * 0.96**0.565),
            (amps("butt", thick(3.2)), MM * 3.2 * 0.87 * 0.85),
            (amps("lap", thick(1)), MM * 0.95),
            (amps("tee", thick(1)), MM * 1.05),
            (amps("edge", thick(1)), MM * 0.8),
            (amps("outside-corner", thick(1)), MM * 0.8),
            (amps("tube-cope", tube(wall="1 mm"), **ROUND), MM),
            (amps("butt", thick(1, "mild-steel")), MM * 0.87 * 1.15),
            (amps("butt", thick(1), thick(1, "mild-steel")), MM * 0.87 * 1.07),
            (amps("butt", thick(1, "439")), MM * 0.87 * 1.1),
            (amps("butt", thick(1, "439"), thick(1)), MM * 0.87 * 1.05),
            (amps("inside-corner", thick(1)), MM * 0.8),
            (amps("tube-socket", tube(wall="1 mm"), thick(1), **ROUND), MM),
            (amps("tee", thick(1), angle_deg=30), MM * 1.05 * 1.1),
            (amps("tube-cope", tube(wall="1 mm"), angle_deg=30, **ROUND), MM * 1.1),
            (amps("outside-corner", thick(1), angle_deg=60), MM * 0.8),
            (amps("butt", thick(1), shop=NO_PULSE, control="none"), MM * 0.87 * 0.95),
            (amps("butt", thick(1), shop=NO_PULSE), MM * 0.87),
            *(
                (amps("butt", thick(1), position=p), MM * 0.87 * f)
                for p, f in (("horizontal", 0.95), ("overhead", 0.9), ("vertical-up", 0.9))
            ),
        )
        band = plan("butt", pins={"current_a": 60}).current
        self.rows((band.low_a, 54.0), (band.high_a, 66.0))
        # a third arm of the same sheet: 4 arms against 3 in a tee, 3 against 2 in a butt
        for kind, more in (("tee", 4 / 3), ("butt", 3 / 2)):
            estimates = make_plan(
                make_joint({"joint": kind, "members": [member()] * 3}), ASSUMED
            ).current
            self.rows(
                (estimates.steady_a, plan(kind).current.steady_a * more),
                (estimates.high_a, 1.1 * estimates.steady_a),
            )
        # thick to thin: (2 thin + thick) / 3
        self.rows((plan("butt", thick(1), thick(1.8)).section.reckoned_mm, 3.8 / 3))

    def test_travel_speed(self) -> None:
        """Bare min(4.2, 5.4 / t), × 0.7 in a fillet.

        Fed min(3.0, 4.0 / t) in line; × 0.8 against gravity, × 1.2 going down; × 1.05 with no pulse
        and no remote. Fillets by their energy balance, at most 2.5: a lap of 2 mm with its leg of
        2.8 is 0.27 × 6.3 V × 74.8 A / (9.2 × (4.312 + 3.2)); the inside corner has 63 A.
        """

        def pace(kind: str, t: float, **more: Any) -> float:
            return plan(kind, thick(t), pulse="none", **more).travel.speed_mm_s

        self.rows(
            (pace("edge", 1), 4.2),
            (pace("edge", 2), 2.7),
            (pace("tee", 1, filler="none"), 2.94),
            (pace("tee", 2, filler="none"), 1.89),
            (pace("butt", 1), 3.0),
            (pace("butt", 2), 2.0),
            (pace("edge", 2, filler="ER308L"), 2.0),
            (pace("tee", 1), 2.5),
            (pace("lap", 2), 1.84),
            (pace("inside-corner", 2), 1.55),
            # twice the leg is slower at the same current: 8.8 + 3.3 mm² in a tee of 1.5 mm, 62 A
            (pace("tee", 1.5, leg="4 mm"), 0.27 * 6.3 * 62.0 / (9.2 * 12.1)),
            (pace("tee", 1.5, leg="4 mm", position="overhead"), round(0.9452 * 0.8 * 0.9, 2)),
            *(
                (pace("edge", 1, position=p), 4.2 * f)
                for p, f in (
                    ("vertical-up", 0.8),
                    ("overhead", 0.8),
                    ("horizontal", 1.0),
                    ("vertical-down", 1.2),
                )
            ),
            (plan("butt", thick(1), shop=NO_PULSE, control="none").travel.speed_mm_s, 3.15),
            (plan("butt").travel.arc_length_mm, 1.5),
        )

    def test_agreement_of_rule_of_thumb_and_heat_flow_within_ten_percent(self) -> None:
        for kind, t in (
            ("butt", 1.5),
            ("butt", 0.5),
            ("lap", 3.2),
            ("tee", 1.0),
            *(("lap", 1.5 + i / 50) for i in range(30)),
        ):
            p = plan(kind, thick(t))
            ratio = p.current.heat_flow_a / p.current.steady_a
            self.assertEqual(
                "they agree" in said(p, "current"), abs(ratio - 1) <= 0.1, (kind, t, ratio)
            )

    def test_a_braze_heats_the_sheet_to_the_rods_melting(self) -> None:
        """Silicon bronze melts at about 1030 °C, 304L at 1450.

        The current goes with the rise above 20 °C.
        """
        self.rows(
            (plan("lap", thick(1), filler="ERCuSi-A").current.steady_a, MM * 0.95 * 1010 / 1430)
        )

    def test_text_changes_at_35_percent(self) -> None:
        """Of a travel speed: 0.76 × 1.35 at 3.93 mm/s, × 0.65 at 1.40.

        Of 51.4 A: 69.4 and 33.4; of a fast pulse's peak of 93.2 A: 125.9 and 60.6.
        """

        def words(code: str, **more: Any) -> str:
            return next(c.sentence.text() for c in plan("butt", **more).cautions if c.code == code)

        for v, text in (
            (3.9, "is fast"),
            (3.97, "runs ahead"),
            (1.43, "is slow"),
            (1.37, "Heat accumulates"),
        ):
            self.assertIn(text, words("travel-off", travel_mm_s=v))
        for a, text in (
            (69.0, "widens and sags"),
            (69.7, "runs away"),
            (33.7, "may not join"),
            (33.0, "do not fuse"),
        ):
            self.assertIn(text, words("current-off", pins={"current_a": a}))
        for a, text in (
            (125.0, "widens and sags"),
            (126.8, "runs away"),
            (61.2, "may not join"),
            (60.0, "do not fuse"),
        ):
            self.assertIn(text, words("pulse-off", pulse="fast", pins={"peak_a": a}))

    def test_travel_speed_as_a_reason(self) -> None:
        """Estimate: a reason from 0.5 % of current, less than a machine shows."""
        usual = plan("butt")
        for share, reasons in ((1.0, 0), (1.005, 0), (1.009, 1), (0.995, 0), (0.991, 1)):
            made = plan("butt", travel_mm_s=share * usual.travel.speed_mm_s)
            self.assertEqual(len(made.current.why) - len(usual.current.why), reasons, share)

    def test_current_at_another_travel_speed(self) -> None:
        """I = bench × (0.2 + v w / 4a) / (0.2 + v₀ w / 4a).

        A 1.5 mm butt, w 4.2 mm, v₀ 2.667 mm/s, a = 24 / 4.8 = 5 mm²/s.
        """
        bench, w = MM * 1.5 * 0.87, 4.2
        for v in (1.0, 2.0, 3.5):
            self.rows(
                (
                    plan("butt", travel_mm_s=v).current.steady_a,
                    bench * (0.2 + v * w / 20) / (0.2 + 4 / 1.5 * w / 20),
                )
            )

    def test_manual_travel_speed_is_checked(self) -> None:
        """By its current: no text within 15 %, a note above, a caution from 35 %.

        On a 1.5 mm butt (0.76 at 2.667): 15 % at 3.21 and 2.12 mm/s.
        """
        for v, there, words in (
            (3.2, False, ""),
            (3.23, True, "is fast"),
            (2.14, False, ""),
            (2.1, True, "slow"),
            (10.0, True, "runs ahead"),
            (0.5, True, "Heat accumulates"),
        ):
            found = [c for c in plan("butt", travel_mm_s=v).cautions if c.code == "travel-off"]
            with self.subTest(v=v):
                self.assertEqual(bool(found), there)
                self.assertTrue(
                    all(
                        words in c.sentence.text() and c.sets == {"travel_mm_s": None}
                        for c in found
                    )
                )

    def test_pool(self) -> None:
        """Bare 2.2 t, 2.2 to 6.5; fed 2.8 t, 3.0 to 7.5, in line; 1.41 leg + 0.8 in fillets.

        Against gravity 2 t or 5 mm, the greater.
        """
        self.rows(
            *(
                (plan(kind, thick(t), position=p).travel.pool_width_mm, w)
                for kind, t, p, w in (
                    ("edge", 0.9, "flat", 2.2),
                    ("edge", 2.0, "flat", 4.4),
                    ("edge", 3.2, "flat", 6.5),
                    ("butt", 0.9, "flat", 3.0),
                    ("butt", 2.0, "flat", 5.6),
                    ("butt", 3.0, "flat", 7.5),
                    ("tee", 0.9, "flat", 1.41 * 1.26 + 0.8),
                    ("tee", 2.0, "flat", 1.41 * 2.8 + 0.8),
                    ("tee", 3.0, "flat", 1.41 * 3.8 + 0.8),
                    ("butt", 2.0, "overhead", 5.0),
                    ("butt", 3.0, "overhead", 6.0),
                    ("butt", 1.0, "overhead", 3.0),
                )
            )
        )


class Setting(Rows):
    def test_headroom(self) -> None:
        """The smaller of 15 A and 30 %, 3 A at least; riding it, double; pulsed, the peak."""
        self.rows(
            (headroom_a(50), 15.0),
            (headroom_a(49), 14.7),
            (headroom_a(9), 3.0),
            (headroom_a(11), 3.3),
        )
        p, pulsed = plan("butt"), plan("outside-corner", length="300 mm")
        self.rows(
            (p.slopes.machine_a, p.current.steady_a + 15),
            (plan("butt", pins={"current_a": 40}, setting_school="ride").slopes.machine_a, 80.0),
            (pulsed.slopes.machine_a, pulsed.pulse.peak_a),
            (plan("butt", control="none").slopes.machine_a, p.current.steady_a),
        )

    def test_slopes(self) -> None:
        """Start 27.5 % of the setting, 10 A minimum, 5 for a setting of 15 A or less.

        Up by thickness; down 1 + t; finish a fifth, 5 A minimum.
        """

        def slopes(t: float, amps: float, metal: str = "304L") -> tuple[Any, ...]:
            s = plan(
                "butt", thick(t, metal), control="none", pulse="none", pins={"current_a": amps}
            ).slopes
            return s.start_a, s.up_s, s.down_s, s.finish_a

        self.rows(
            (slopes(1, 80), (22.0, 0.3, 2.0, 16.0)),
            (slopes(1.01, 80)[1], 0.5),
            (slopes(2, 80), (22.0, 0.5, 3.0, 16.0)),
            (slopes(2.01, 80)[1], 1.0),
            (slopes(0.5, 15), (5.0, 0.3, 1.5, 5.0)),
            (slopes(0.5, 15.1)[0], 10.0),
            (slopes(0.5, 40)[0], 11.0),
            (slopes(0.5, 36)[0], 10.0),
            (slopes(1, 30)[3], 6.0),
            (slopes(1, 24)[3], 5.0),
            (slopes(1, 80, "310S")[2], 4.0),
        )
