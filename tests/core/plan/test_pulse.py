"""Pulse patterns, rates and currents."""

from typing import Any

from tests.core.rows import ROUND, Rows, said, thick
from tests.samples import COPE, codes, plan, tube
from wisearc.core.catalogue import load_pulse_patterns
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.arc.pulse import needed_mean_a
from wisearc.core.plan.plan import make_plan
from wisearc.core.shop.shop import ASSUMED, Machine, Shop

NO_PULSE = Shop(machines=(Machine("plain 200", pulse=None),))


class Pulse(Rows):
    def test_ripple(self) -> None:
        """A ripple keeps the travel speed, which gives its frequency, 1 to 2 a second.

        Above 2 the travel speed is reduced so that the pool after each peak overlaps 35 %. Its
        length is 0.95 of the target pool (estimate): 3.3 mm at 1.5 mm of sheet, 2.64 at 1.2.
        """
        keeps = plan("outside-corner", length="300 mm")
        slow = plan("outside-corner", thick(1.2), length="300 mm")
        self.rows(
            (keeps.travel.speed_mm_s, 3.6),
            (keeps.pulse.rate_pps, 3.6 / (0.95 * 3.3 * 0.65)),
            (slow.pulse.rate_pps, 2.0),
            (slow.travel.speed_mm_s, 2 * 0.95 * 2.64 * 0.65),
            (slow.travel.overlap_pct, 35.0),
        )
        told = plan("outside-corner", thick(1.5), length="300 mm", overlap_pct=25).travel
        self.assertAlmostEqual(told.overlap_pct, 25, delta=0.12)
        self.rows(*((plan("butt", gap_mm=gap).travel.pitch_mm, None) for gap in (0, 0.2)))

    def test_a_typed_travel_gives_the_rate_or_drops_the_pulse(self) -> None:
        """The frequency that overlaps 35 % at the typed travel speed, 1 to 2 a second.

        If not even 2 overlaps a quarter, the pulse is dropped.
        """

        def pulse(travel: float, **more: Any) -> tuple[str, float | None]:
            p = plan("outside-corner", length="300 mm", travel_mm_s=travel, **more).pulse
            return p.school, p.rate_pps

        self.rows(
            (pulse(1.0), ("slow-cold", 1.0)),
            (pulse(3.2)[0], "slow-cold"),
            (pulse(4.9), ("none", None)),
            (pulse(2.9, pins={"rate_pps": 1.5})[1], 1.5),
        )
        # the pool is 0.95 × 3.3 mm long; at 2 a second a quarter overlaps up to v = 1.5 pools
        for i in range(40):
            v = 4.2 + i / 40
            if abs(v / 2 - 0.75 * 0.95 * 3.3) > 0.01:
                self.assertEqual(pulse(v)[0] == "none", v / 2 > 0.75 * 0.95 * 3.3, v)
        rate = pulse(2.6)[1]
        self.assertTrue(rate is not None and 1 < rate < 2)
        p = plan("outside-corner", length="300 mm", travel_mm_s=2.6)
        self.assertAlmostEqual(p.travel.overlap_pct, 35, delta=0.12)

    def test_no_approach_heats_a_thin_seam_more(self) -> None:
        """A ripple or slow pulse above 0.95 of the steady heat is dropped.

        A manual one gets a caution.
        """
        for t in (0.5, 0.8, 0.85, 0.94, 0.97, 1.0, 1.2, 1.5, 1.9):
            own, steady = (
                plan("outside-corner", thick(t), length="300 mm", pulse=p) for p in ("auto", "none")
            )
            share = own.heat.heat_input_kj_mm / steady.heat.heat_input_kj_mm
            with self.subTest(t=t):
                self.assertEqual(own.pulse.school, "none" if t < 0.95 else "slow-cold")
                self.assertLessEqual(share, 1.0 if t < 0.95 else 0.951)
                forced = codes(plan("outside-corner", thick(t), length="300 mm", pulse="slow-cold"))
                self.assertEqual("pulse-no-gain" in forced, t < 0.95)

    def test_the_mean_a_slow_pulse_needs(self) -> None:
        """2.2 (0.3 + 0.7 background).

        0.74, 0.81, 0.89 of steady at 5, 10, 15 %; from 10 a second the plain mean.
        """
        row = load_pulse_patterns()["slow-cold"]
        self.rows(
            *(
                (round(needed_mean_a(row, b, 1.5, 100), 1), m)
                for b, m in ((0.05, 73.7), (0.1, 81.4), (0.15, 89.1))
            ),
            (needed_mean_a(row, 0.1, 10, 100), 100.0),
            (needed_mean_a(row, 0.1, 3, 100), 81.4),
            (round(needed_mean_a(row, 0.1, 3.2, 100), 1), 82.4),
        )
        self.assertTrue(81.4 < needed_mean_a(row, 0.1, 5, 100) < 100)

    def test_between_100_and_200_mm_both_approaches_are_listed(self) -> None:
        for long, there in ((99, False), (100, True), (149, True), (200, True), (201, False)):
            self.assertEqual(
                "near a change" in said(plan("outside-corner", length=f"{long} mm"), "pulse"),
                there,
                long,
            )
        for mm, there in ((1.79, False), (1.81, True), (2.0, True), (2.2, True), (2.21, False)):
            made = plan("outside-corner", thick(mm), length="300 mm")
            self.assertEqual("near a change" in said(made, "pulse"), there, mm)
        # near the thickness from which the slow pulse pays, 0.95 mm
        for mm, there in ((0.6, False), (0.93, True), (1.0, True), (1.5, False)):
            made = plan("outside-corner", thick(mm), length="300 mm")
            self.assertEqual("near a change" in said(made, "pulse"), there, mm)

    def test_peak_rises_smoothly_with_thickness(self) -> None:
        """Within an approach no step of 0.01 mm changes the peak by more than 2 %."""
        for metal in ("304L", "mild-steel"):
            before = None
            for i in range(105, 199):
                more = {"filler": "none"} if metal == "mild-steel" else {}
                made = plan("outside-corner", thick(i / 100, metal), length="380 mm", **more)
                now = made.pulse.school, made.pulse.peak_a
                if before is not None and before[0] == now[0]:
                    self.assertTrue(1.0 <= now[1] / before[1] < 1.02, (metal, i, before, now))
                before = now

    def test_slow_pulse_of_the_trade_draws_no_warning(self) -> None:
        """1.2 mm carbon corner, no rod, bars, 110 A, 1.5 /s, 30 %, 5 % (common practice).

        Half and twice that peak draw one.
        """
        for peak, told in ((110, False), (55, True), (220, True)):
            made = plan(
                "outside-corner",
                thick(1.2, "mild-steel"),
                length="380 mm",
                filler="none",
                back="copper-bar",
                pulse="slow-cold",
                pins={"peak_a": peak, "rate_pps": 1.5, "on_pct": 30, "background_pct": 5},
            )
            self.assertEqual(bool(codes(made, "caution", "stop")), told, peak)

    def test_approach_beyond_the_machine_peak_is_dropped(self) -> None:
        for a, approach in ((80, "fast"), (110, "fast"), (110.5, "none"), (130, "none")):
            self.assertEqual(plan("butt", gap_mm=0.2, pins={"current_a": a}).pulse.school, approach)

    def test_pattern_first_that_fits(self) -> None:
        def pattern(kind: str, a: dict[str, Any], **more: Any) -> str:
            return plan(kind, a, **more).pulse.school

        self.rows(
            (pattern("outside-corner", thick(1.99), length="150 mm"), "slow-cold"),
            (pattern("outside-corner", thick(1.5), length="149 mm"), "none"),
            (pattern("outside-corner", thick(2), length="150 mm"), "focused"),
            (pattern("edge", thick(2)), "focused"),
            (pattern("outside-corner", thick(1.5, "2205"), length="300 mm"), "none"),
            (pattern("butt", thick(1.5), gap_mm=0.05), "none"),
            (pattern("butt", thick(1.5), gap_mm=0.053), "fast"),
            (pattern("butt", thick(1.99), gap_mm=0.3), "fast"),
            (pattern("butt", thick(2), gap_mm=0.3), "none"),
            (make_plan(make_joint(COPE), ASSUMED).pulse.school, "fast"),
            *(
                (pattern("tube-butt", tube(wall=wall), **ROUND), key)
                for wall, key in (("0.99 mm", "fast"), ("1 mm", "none"))
            ),
            (pattern("outside-corner", thick(1.5), length="300 mm", shop=NO_PULSE), "pedal"),
            (
                pattern(
                    "outside-corner", thick(1.5), length="300 mm", shop=NO_PULSE, control="none"
                ),
                "none",
            ),
        )

    def test_background_is_raised_and_the_mean_kept(self) -> None:
        p = plan("edge", thick(0.5), pulse="slow-cold")
        self.rows(
            (p.pulse.background_a, 5.0),
            (round(p.pulse.average_a, 1), round(2.2 * p.current.steady_a * (0.3 + 0.1 * 0.7), 1)),
        )
        self.assertIn("background-too-low", codes(p, "note"))
