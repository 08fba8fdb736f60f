"""How many amps, how fast, which pulse, what is set, which tungsten."""

import unittest
from typing import Any

from wisearc.core.catalogue import tips
from wisearc.core.choices.current import bench_rule
from wisearc.core.choices.setting import headroom_a
from wisearc.core.choices.tungsten import tip_for
from wisearc.core.joint_data import make_joint
from wisearc.core.plan import make_plan
from wisearc.core.section import section_of
from wisearc.core.shop import ASSUMED, Shop

from tests.core.rows import ROUND, Rows, said, sets_of, thick
from tests.samples import COPE, codes, joint, member, plan, tube

NO_PULSE = Shop(machine_pulses=False)
MM = 1000 / 25.4


class CurrentAndTravel(Rows):
    def test_bench_rule(self) -> None:
        """39.37 A/mm by the joint; × (2.4/t)^0.565 over 2.4 mm; carbon 7 and 15 % more; no remote and no pulse 5 % less."""

        def amps(kind: str, a: dict[str, Any], b: dict[str, Any] | None = None, shop: Shop = ASSUMED, **more: Any) -> float:  # fmt: skip
            made = joint(kind, a, b, **more)
            return bench_rule(made, section_of(made), shop)[0]

        self.rows(
            (amps("butt", thick(2.4)), MM * 2.4 * 0.87), (amps("butt", thick(2.5)), MM * 2.5 * 0.87 * 0.96**0.565), (amps("butt", thick(3.2)), MM * 3.2 * 0.87 * 0.85),
            (amps("lap", thick(1)), MM * 0.95), (amps("tee", thick(1)), MM * 1.05), (amps("edge", thick(1)), MM * 0.8), (amps("outside-corner", thick(1)), MM * 0.8),
            (amps("tube-cope", tube(wall="1 mm"), **ROUND), MM), (amps("butt", thick(1, "mild-steel")), MM * 0.87 * 1.15), (amps("butt", thick(1), thick(1, "mild-steel")), MM * 0.87 * 1.07),
            (amps("butt", thick(1), shop=NO_PULSE, control="none"), MM * 0.87 * 0.95), (amps("butt", thick(1), shop=NO_PULSE), MM * 0.87),
            *((amps("butt", thick(1), position=p), MM * 0.87 * f) for p, f in (("horizontal", 0.95), ("overhead", 0.9), ("vertical-up", 0.9))),
        )  # fmt: skip
        band = plan("butt", pins={"current_a": 60}).current
        self.rows((band.low_a, 54.0), (band.high_a, 66.0))
        # thick to thin: (2 thin + thick) / 3
        self.rows((plan("butt", thick(1), thick(1.8)).section.reckoned_mm, 3.8 / 3))

    def test_own_record_after_three_runs(self) -> None:
        for runs, mark in ((3, "own-record"), (2, "common-practice")):
            current = plan("butt", shop=Shop(own_record_a=44.0, own_runs=runs)).current
            self.assertEqual((current.steady_a == 44.0, current.why[0].mark), (runs == 3, mark))

    def test_pace(self) -> None:
        """min(4.2, 5.4 / t), × 0.7 on fillets; × 1.2 going down; × 1.05 with no pulse and no remote."""
        self.rows(
            (plan("butt", thick(1)).travel.speed_mm_s, 4.2), (plan("butt", thick(2)).travel.speed_mm_s, 2.7), (plan("tee", thick(2)).travel.speed_mm_s, 1.89),
            (plan("butt", thick(1), shop=NO_PULSE, control="none").travel.speed_mm_s, 4.41), (plan("butt", thick(1), position="vertical-down").travel.speed_mm_s, 5.04),
            (plan("butt").travel.arc_length_mm, 1.5), ("agree at this pace" in said(plan("butt"), "travel"), True),
            ("agree at this pace" in said(make_plan(make_joint({"joint": "tee", "members": [member()] * 3}), ASSUMED), "travel"), False),
        )  # fmt: skip

    def test_pool(self) -> None:
        """max(2.0, 2.2 t); against gravity 2 t, 2.0 at least, 5.0 at most."""
        self.rows(*((plan("butt", thick(t), position=p).travel.pool_width_mm, w) for t, p, w in (
            (0.9, "flat", 2.0), (1.0, "flat", 2.2), (3.0, "flat", 6.6), (3.0, "overhead", 5.0), (2.0, "overhead", 4.0), (0.9, "overhead", 2.0),
        )))  # fmt: skip


class Pulse(Rows):
    def test_ripple(self) -> None:
        """Slow and cold laps 35 % unless told: pool 3.3 mm by 1.5 a second by 0.65."""
        slow, told = (plan("outside-corner", length="300 mm", overlap_pct=o).travel for o in (None, 50))
        self.rows((slow.speed_mm_s, 1.5 * 3.3 * 0.65), (slow.overlap_pct, 35.0), (slow.pitch_mm, 3.3 * 0.65), (told.speed_mm_s, 1.5 * 3.3 * 0.5))  # fmt: skip
        self.rows(*((plan("butt", gap_mm=gap).travel.pitch_mm, None) for gap in (0, 0.2)))

    def test_a_typed_travel_raises_the_rate_or_drops_the_pulse(self) -> None:
        """A quarter must lap: on a 3.3 mm pool 3.7125 mm/s at 1.5 a second, 4.95 at 2."""

        def pulse(travel: float, **more: Any) -> tuple[str, float | None]:
            p = plan("outside-corner", length="300 mm", travel_mm_s=travel, **more).pulse
            return p.school, p.rate_pps

        self.rows(
            (pulse(3.7), ("slow-cold", 1.5)), (pulse(3.7125), ("slow-cold", 1.5)), (pulse(3.73), ("slow-cold", 2.0)), (pulse(4.95), ("slow-cold", 2.0)),
            (pulse(4.97), ("none", None)), (pulse(3.8, pins={"rate_pps": 1.5}), ("none", None)),
        )  # fmt: skip

    def test_pattern_first_that_fits(self) -> None:
        def pattern(kind: str, a: dict[str, Any], **more: Any) -> str:
            return plan(kind, a, **more).pulse.school

        self.rows(
            (pattern("outside-corner", thick(1.99), length="150 mm"), "slow-cold"), (pattern("outside-corner", thick(1.5), length="149 mm"), "none"),
            (pattern("outside-corner", thick(2), length="150 mm"), "focused"), (pattern("edge", thick(2)), "focused"), (pattern("outside-corner", thick(1.5, "2205"), length="300 mm"), "none"),
            (pattern("butt", thick(1.5), gap_mm=0.05), "none"), (pattern("butt", thick(1.5), gap_mm=0.053), "fast"), (make_plan(make_joint(COPE), ASSUMED).pulse.school, "fast"),
            *((pattern("tube-butt", tube(wall=wall), **ROUND), key) for wall, key in (("0.99 mm", "fast"), ("1 mm", "none"))),
            (pattern("outside-corner", thick(1.5), length="300 mm", shop=NO_PULSE), "pedal"), (pattern("outside-corner", thick(1.5), length="300 mm", shop=NO_PULSE, control="none"), "none"),
        )  # fmt: skip

    def test_background_is_raised_and_the_mean_kept(self) -> None:
        p = plan("edge", thick(0.5), pulse="slow-cold")
        self.rows((p.pulse.background_a, 5.0), (p.pulse.average_a, 2.2 * p.current.steady_a * (0.3 + 0.1 * 0.7)))
        self.assertIn("background-too-low", codes(p, "note"))


class Setting(Rows):
    def test_headroom(self) -> None:
        """The smaller of 15 A and 30 %, 3 A at least; riding it, double; pulsed, the peak."""
        self.rows((headroom_a(50), 15.0), (headroom_a(49), 14.7), (headroom_a(9), 3.0), (headroom_a(11), 3.3))
        p, pulsed = plan("butt"), plan("outside-corner", length="300 mm")
        self.rows(
            (p.slopes.machine_a, p.current.steady_a + 15), (plan("butt", pins={"current_a": 40}, setting_school="ride").slopes.machine_a, 80.0),
            (pulsed.slopes.machine_a, pulsed.pulse.peak_a), (plan("butt", control="none").slopes.machine_a, p.current.steady_a),
        )  # fmt: skip

    def test_slopes(self) -> None:
        """Start 27.5 % of what is set, 10 A at least, 5 where 15 A or less is set; up by thickness; down 1 + t; finish a fifth, 5 A at least."""

        def slopes(t: float, amps: float, metal: str = "304L") -> tuple[Any, ...]:
            s = plan("butt", thick(t, metal), control="none", pulse="none", pins={"current_a": amps}).slopes
            return s.start_a, s.up_s, s.down_s, s.finish_a

        self.rows(
            (slopes(1, 80), (22.0, 0.3, 2.0, 16.0)), (slopes(1.01, 80)[1], 0.5), (slopes(2, 80), (22.0, 0.5, 3.0, 16.0)), (slopes(2.01, 80)[1], 1.0),
            (slopes(0.5, 15), (5.0, 0.3, 1.5, 5.0)), (slopes(0.5, 15.1)[0], 10.0), (slopes(0.5, 40)[0], 11.0), (slopes(0.5, 36)[0], 10.0),
            (slopes(1, 30)[3], 6.0), (slopes(1, 24)[3], 5.0), (slopes(1, 80, "310S")[2], 4.0),
        )  # fmt: skip


class Tungsten(Rows):
    # diameter, angle, flat, steady and pulsed most: the product's own rows of AWS C5.5, from memory
    TIPS = (
        (1.0, 12, 0.125, 15, 25), (1.0, 20, 0.25, 30, 60), (1.6, 25, 0.5, 50, 100), (1.6, 30, 0.8, 70, 140),
        (2.4, 35, 0.8, 90, 180), (2.4, 45, 1.1, 150, 250), (3.2, 60, 1.1, 200, 300), (3.2, 90, 1.5, 250, 350),
    )  # fmt: skip

    def test_table(self) -> None:
        got = [(t.diameter_mm, t.included_angle_deg, t.tip_flat_mm, t.steady_a[1], t.pulsed_a[1]) for t in tips()]
        self.assertEqual(got, list(self.TIPS))

    def test_the_smallest_that_carries(self) -> None:
        for steady, peak, diameter, angle in (
            (12, 12, 1.0, 12), (15, 15, 1.0, 12), (15.1, 15.1, 1.6, 25), (40, 40, 1.6, 25), (65, 65, 1.6, 30), (41, 110, 1.6, 30), (81, 81, 2.4, 35), (180, 180, 3.2, 60),
        ):  # fmt: skip
            tip, fits = tip_for(steady, peak)
            with self.subTest(steady=steady, peak=peak):
                self.assertEqual((tip.diameter_mm, tip.included_angle_deg, fits), (diameter, angle, True))
        self.assertFalse(tip_for(300, 300)[1])

    def test_grind(self) -> None:
        """By the table, just off the needle below 1 mm; or needle-sharp by the other school."""
        needle = plan("butt", tip_school="needle")
        self.rows(
            (needle.tungsten.included_angle_deg, 15.0), (needle.tungsten.tip_flat_mm, 0.0), (plan("butt", thick(0.99)).tungsten.tip_flat_mm, 0.2), (plan("butt", thick(1)).tungsten.tip_flat_mm, 0.5),
            (plan("butt").tungsten.type, "lanthanated-2"), (sets_of(plan("butt"), "tungsten", "tip_school"), ["needle"]), (sets_of(needle, "tungsten", "tip_school"), ["table"]),
        )  # fmt: skip


if __name__ == "__main__":
    unittest.main()
