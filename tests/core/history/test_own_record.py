"""The shop history: the estimate from good runs, its weight, and its use in a plan."""

import math
import unittest
from random import Random
from types import SimpleNamespace
from typing import Any

import numpy as np
from msgspec.structs import replace

from tests import samples
from tests.samples import member, plan, typed
from wisearc.core import catalogue
from wisearc.core.history.families import find_joint_family, format_family
from wisearc.core.history.lessons import build_lesson
from wisearc.core.history.shop_history import OwnRecord, OwnRun, estimate_ratio
from wisearc.core.plan.plan import Plan
from wisearc.core.shop.shop import Shop

SHOP, MACHINE, WELDER, RUN = 0.10, 0.05, 0.04, 0.05


def runs(*ratios: float, machine: str = "m", welder: str = "h", **more: Any) -> list[OwnRun]:
    """Return runs with ratios to the rule of thumb."""
    return [
        OwnRun(i, "P-0001 A", "2026-03-04", machine, welder, math.log(r), **more)
        for i, r in enumerate(ratios)
    ]


def found(given: list[OwnRun], machine: str = "m", hand: str = "h") -> OwnRecord:
    """Return their estimate."""
    record = estimate_ratio(given, machine, hand)
    assert record is not None
    return record


class Estimated(unittest.TestCase):
    def test_small_history_is_pulled_towards_the_rule_of_thumb(self) -> None:
        before = SHOP**2 + MACHINE**2 + WELDER**2
        for n in (1, 3, 30):
            record = found(runs(*[1.2] * n))
            s = record.scatter**2
            self.assertAlmostEqual(
                math.log(record.ratio), math.log(1.2) * before / (before + s / n), places=6
            )
            self.assertAlmostEqual(
                record.spread, math.sqrt(before * s / n / (before + s / n)), places=6
            )
        # the newest 200 count
        newest = runs(*[1.2] * 200)
        self.assertEqual(found([*newest, *runs(*[0.8] * 50)]).ratio, found(newest).ratio)
        self.assertNotEqual(found([*newest[1:], *runs(0.8)]).ratio, found(newest).ratio)
        self.assertIsNone(estimate_ratio([], "m", "h"))
        self.assertIsNone(estimate_ratio(runs(1.1, left_out=True), "m", "h"))

    def test_residual_sd_is_estimated_from_the_runs(self) -> None:
        """Six runs' worth of 5 % before any.

        The fit itself takes up n P / (n P + s²) of them (the trace of the hat matrix).
        """
        for given, left in ((runs(1.0, 1.0, 1.0), 0.0), (runs(*[1.0] * 12), 0.0)):
            n, before, s = len(given), SHOP**2 + MACHINE**2 + WELDER**2, RUN**2
            for _ in range(2):
                s = (6 * RUN**2 + left) / (6 + n - n * before / (n * before + s))
            self.assertAlmostEqual(found(given).scatter, math.sqrt(s), places=6)
        wild = found(runs(*[0.8, 1.2] * 10))
        self.assertTrue(0.14 < wild.scatter < 0.22, wild.scatter)

    def test_as_conditioning_a_normal_does(self) -> None:
        """The same by the general formula of a multivariate normal, for mixed machines and welders.

        E[θ|y] = C(θ,y) C(y,y)⁻¹ y (textbook).
        """
        rng = Random(3)
        given = [
            OwnRun(
                i,
                "",
                "",
                rng.choice("ab"),
                rng.choice("xyz"),
                rng.gauss(0.08, 0.06),
                weight=rng.choice((1.0, 0.7, 0.5)),
            )
            for i in range(24)
        ]
        record = found(given, "b", "z")
        cov = np.array(
            [
                [
                    SHOP**2
                    + MACHINE**2 * (p.machine == q.machine)
                    + WELDER**2 * (p.hand == q.hand)
                    + (p is q) * record.scatter**2 / p.weight
                    for q in given
                ]
                for p in given
            ]
        )
        to = np.array(
            [SHOP**2 + MACHINE**2 * (p.machine == "b") + WELDER**2 * (p.hand == "z") for p in given]
        )
        gain = np.linalg.solve(cov, to)
        y = np.array([p.ratio for p in given])
        self.assertAlmostEqual(math.log(record.ratio), float(gain @ y), places=8)
        self.assertAlmostEqual(
            record.spread**2, SHOP**2 + MACHINE**2 + WELDER**2 - float(gain @ to), places=8
        )

    def test_same_machine_and_welder_have_more_weight(self) -> None:
        mixed = runs(*[1.15] * 8, machine="hot") + runs(*[1.0] * 8, machine="cold")
        hot, cold, new = (found(mixed, machine).ratio for machine in ("hot", "cold", "new"))
        self.assertTrue(cold + 0.06 < new < hot - 0.03, (cold, new, hot))
        self.assertGreater(found(mixed, "new").spread, found(mixed, "hot").spread)

    def test_a_tinted_run_counts_less_and_one_left_out_not_at_all(self) -> None:
        odd = [*runs(1.0, 1.0, 1.0), *runs(1.3, weight=0.7)]
        whole = [*runs(1.0, 1.0, 1.0), *runs(1.3)]
        self.assertLess(found(odd).ratio, found(whole).ratio)
        left = [*runs(1.0, 1.0, 1.0), *runs(1.3, left_out=True)]
        self.assertEqual((found(left).ratio, found(left).counted), (1.0, 3))
        self.assertEqual(len(found(left).runs), 4)

    def test_travel_speed_and_post_flow_are_medians(self) -> None:
        given = (
            runs(1.0, pace=math.log(0.8))
            + runs(1.0, pace=math.log(0.9), held=math.log(1.5))
            + runs(1.0, pace=math.log(2))
        )
        self.assertAlmostEqual(found(given).pace or 0, 0.9)
        self.assertAlmostEqual(found(given).held or 0, 1.5)


class SimulatedShops(unittest.TestCase):
    """Shops with known bias.

    The estimate is right within its spread as often as a normal distribution requires, 68 and 95 of
    100.
    """

    def test_right_within_the_spread_it_states(self) -> None:
        rng, within, worse, errors = Random(9), [0, 0], 0, {"own": 0.0, "bench": 0.0, "spread": 0.0}
        shops = 600
        for _ in range(shops):
            shop = rng.gauss(0, SHOP)
            machines = {name: rng.gauss(0, MACHINE) for name in "ab"}
            welders = {name: rng.gauss(0, WELDER) for name in "xyz"}
            given = []
            for i in range(rng.choice((3, 4, 6, 10, 25))):
                machine, hand = rng.choice("ab"), rng.choice("xyz")
                given.append(
                    OwnRun(
                        i,
                        "",
                        "",
                        machine,
                        hand,
                        shop
                        + machines[machine]
                        + welders[hand]
                        + rng.gauss(0, rng.choice((0.03, 0.05, 0.06))),
                    )
                )
            truth = shop + machines["a"] + welders["x"]
            record = found(given, "a", "x")
            off = abs(math.log(record.ratio) - truth)
            within[0] += off <= record.spread
            within[1] += off <= 1.96 * record.spread
            worse += off > abs(truth) + 3 * record.spread
            errors["own"] += off / shops
            errors["bench"] += abs(truth) / shops
            errors["spread"] += record.spread / shops
        self.assertTrue(0.63 < within[0] / shops < 0.73, within)
        self.assertTrue(0.92 < within[1] / shops < 0.98, within)
        self.assertEqual(worse, 0)
        self.assertLess(errors["own"], 0.6 * errors["bench"])

    def test_estimate_is_close_to_the_rule_of_thumb_or_better(self) -> None:
        """Shops that are not as the priors have it: a fixed bias, and none at all."""
        for bias in (-0.25, -0.1, 0.0, 0.04, 0.15, 0.3):
            rng, own, spread = Random(5), 0.0, 0.0
            for _ in range(100):
                record = found(
                    [
                        OwnRun(i, "", "", "a", "x", bias + rng.gauss(0, 0.05))
                        for i in range(rng.choice((3, 5, 12)))
                    ],
                    "a",
                    "x",
                )
                own += abs(math.log(record.ratio) - bias) / 100
                spread += record.spread / 100
            with self.subTest(bias=bias):
                self.assertLess(own, abs(bias) + spread)
                self.assertLess(own, 1.5 * spread)


class Learnt(unittest.TestCase):
    """The data of one run.

    Wells 1952: the current at a travel speed is proportional to 0.2 + v w / 4a.
    """

    def told(self, made: Plan, **more: Any) -> Any:
        run = samples.run(dict(made.joint))
        for key, value in more.items():
            run[key] = {**run.get(key, {}), **value} if isinstance(value, dict) else value
        return build_lesson(made, typed(run))

    def test_ratio_uses_the_recorded_travel_speed(self) -> None:
        made = plan(
            "butt", member(thickness="1.5 mm"), length="100 mm", control="none", pulse="none"
        )
        as_planned = self.told(made)
        self.assertEqual((as_planned.family, as_planned.metals), ("in-line~2", "austenitic"))
        self.assertAlmostEqual(as_planned.ratio, 0, delta=0.01)
        self.assertAlmostEqual(
            self.told(made, set={"current_a": 1.1 * made.slopes.machine_a}).ratio,
            math.log(1.1),
            delta=0.01,
        )
        v, a, w = made.travel.speed_mm_s, made.section.heat.a, made.travel.pool_width_mm
        slow = self.told(made, measured={"length_mm": 100, "arc_time_s": 100 / (0.8 * v)})
        self.assertAlmostEqual(
            slow.ratio, -math.log((0.2 + 0.8 * v * w / 4 / a) / (0.2 + v * w / 4 / a)), delta=0.01
        )
        self.assertAlmostEqual(slow.pace, math.log(0.8), places=3)
        held = self.told(made, arc={"by": "timer", "held_s": 0.5 * made.gas.postflow_s})
        self.assertAlmostEqual(held.held, math.log(0.5), delta=0.01)

    def test_limits_of_the_current_ratio(self) -> None:
        """Estimate: below 0.5 or above 2 the run is of another joint, or its record is wrong."""
        made = plan("butt", length="100 mm", control="none", pulse="none")
        for share, expected in ((0.495, False), (0.51, True), (1.96, True), (2.02, False)):
            told = self.told(made, set={"current_a": share * made.slopes.machine_a})
            self.assertEqual(told.ratio is not None, expected, share)

    def test_manual_current_is_compared_with_the_rule_of_thumb(self) -> None:
        pinned = plan(
            "butt",
            member(thickness="1.5 mm"),
            length="100 mm",
            control="none",
            pulse="none",
            pins={"current_a": 60},
        )
        self.assertAlmostEqual(
            self.told(pinned).ratio, math.log(60 / pinned.current.bench_at_pace_a), delta=0.01
        )

    def test_weight_of_a_run(self) -> None:
        steady = plan(
            "butt", member(), length="100 mm", control="none", pulse="none", service="dry"
        )
        self.assertEqual(self.told(steady).weight, 1.0)
        self.assertEqual(self.told(steady, front={"colour": "blue"}).weight, 0.7)
        self.assertEqual(self.told(steady, good=False).weight, 0)
        self.assertIsNone(self.told(steady, set={"current_a": None}).ratio)
        self.assertIsNone(self.told(steady, set={"current_a": 3 * steady.slopes.machine_a}).ratio)

    def test_only_a_measured_current_counts(self) -> None:
        """A log, a reading while welding, or the peak of a pulse; never a dial alone."""
        steady = plan("butt", member(), length="100 mm", pulse="none", service="dry")
        pulsed = plan("butt", member(), length="100 mm", pulse="slow-cold", back="copper-bar")
        mean = steady.slopes.mean_a
        log = {"by": "log", "mean_a": mean, "arc_s": 100 / steady.travel.speed_mm_s}
        rows: tuple[tuple[Plan, dict[str, Any], bool, float], ...] = (
            (steady, {}, True, 1.0),
            (steady, {"arc": log}, False, 1.0),
            (steady, {"arc": {"by": "timer", "arc_s": 40}}, True, 1.0),
            (steady, {"measured": {"read_off_a": 1.1 * mean}}, False, 1.1),
            # The peak of a current without a pulse is no measurement of its mean.
            (steady, {"measured": {"peak_a": 1.1 * mean}}, True, 1.0),
            (pulsed, {"measured": {"peak_a": 0.9 * pulsed.pulse.peak_a}}, False, 0.9),
            (pulsed, {"measured": {"read_off_a": 0.9 * pulsed.slopes.mean_a}}, False, 0.9),
        )
        for made, more, unknown, ratio in rows:
            found = self.told(made, **more)
            self.assertEqual(found.unknown, unknown, more)
            base = self.told(made).ratio
            assert found.ratio is not None and base is not None
            self.assertAlmostEqual(found.ratio - base, math.log(ratio), delta=0.01)
        confirmed = build_lesson(steady, typed(samples.run(dict(steady.joint))), read_off=True)
        self.assertFalse(confirmed.unknown)

    def test_unknown_runs_do_not_move_the_estimate(self) -> None:
        known, other = runs(1.1, 1.1, 1.1), runs(0.7, 0.7)
        unknown = [replace(run, unknown=True) for run in other]
        alone, mixed = estimate_ratio(known, "", ""), estimate_ratio([*known, *unknown], "", "")
        assert alone is not None and mixed is not None
        self.assertEqual(alone.ratio, mixed.ratio)
        self.assertEqual(mixed.counted, 3)
        self.assertIsNone(estimate_ratio(unknown, "", ""))

    def test_families_are_split_by_thickness(self) -> None:
        """A class is 1.5 times the one before: 1.5 and 1.6 mm together, 1.0 and 2.0 mm apart."""
        families = {
            t: self.told(plan("butt", member(thickness=f"{t} mm"), length="100 mm")).family
            for t in (0.7, 0.75, 1.0, 1.12, 1.13, 1.5, 1.6, 2.0)
        }
        for one, other, same in (
            (1.5, 1.6, True),
            (1.0, 1.12, True),
            (1.12, 1.13, False),
            (0.7, 0.75, False),
            (1.6, 2.0, False),
        ):
            self.assertEqual(families[one] == families[other], same, (one, other))
        name = format_family(families[1.6], "austenitic")
        self.assertEqual(name, "butts of 1.13 to 1.69 mm in austenitic")
        self.assertIn("in in austenitic", format_family(families[1.6], "austenitic", "in"))

    def test_log_of_another_joint_is_ignored(self) -> None:
        made = plan("butt", member(), length="100 mm", control="none", pulse="none")
        arc_s = 100 / made.travel.speed_mm_s
        own = self.told(made, arc={"by": "log", "mean_a": 1.3 * made.slopes.mean_a, "arc_s": arc_s})
        other = self.told(
            made, arc={"by": "log", "mean_a": 1.3 * made.slopes.mean_a, "arc_s": 3 * arc_s}
        )
        self.assertAlmostEqual(own.ratio, math.log(1.3), delta=0.01)
        self.assertAlmostEqual(other.ratio, 0.0, delta=0.01)

    def test_families_go_by_traits(self) -> None:
        for kind, family in (
            ("edge", "edge"),
            ("outside-corner", "edge"),
            ("lap", "fillet"),
            ("tee", "fillet"),
        ):
            found = self.told(plan(kind, member(), length="100 mm")).family
            self.assertEqual(found.partition("~")[0], family)
        mixed = plan("butt", member(), member("mild-steel"), length="100 mm")
        other = plan("butt", member("mild-steel"), member("316L"), length="100 mm")
        self.assertEqual(self.told(mixed).metals, self.told(other).metals)
        self.assertNotEqual(self.told(mixed).metals, "austenitic")


BUTT_FAMILY = find_joint_family(catalogue.load_joint_kinds()["butt"], plan("butt").section.thin_mm)


class TakesOver(unittest.TestCase):
    def shop(self, n: int, ratio: float = 1.06) -> Shop:
        record = OwnRecord(ratio, 0.04, 0.05, 0.9, None, tuple(runs(*[ratio] * n)))

        class Book:
            def like(self, family: str, metals: str, machine: str) -> OwnRecord | None:
                return record if (family, metals) == (BUTT_FAMILY, "austenitic") else None

        return Shop(own=Book())

    def test_from_three_good_runs_of_like_joints(self) -> None:
        """Handbook.

        The rule of thumb until at least three good logged runs of similar joints exist, then the
        shop history (common practice).
        """
        bench = plan("butt").current
        for n, own in ((2, False), (3, True)):
            made = plan("butt", shop=self.shop(n)).current
            self.assertAlmostEqual(
                made.steady_a / bench.steady_a, 1.06 if own else 1.0, delta=0.005
            )
            self.assertEqual(
                (made.by_record, made.why[0].mark),
                (own, "own-record" if own else "common-practice"),
            )
            self.assertEqual((made.own_runs, made.own_ratio, made.own_spread_pct), (n, 1.06, 4.0))
            self.assertAlmostEqual(made.bench_at_pace_a, bench.bench_at_pace_a, delta=0.05)
        words = " ".join(plan("butt", shop=self.shop(5)).current.line("mm"))
        self.assertIn("shop history: 5 runs, 1.06 × rule of thumb, ± 4 %", words)
        self.assertNotIn(
            "shop history", " ".join(plan("tee", shop=self.shop(5)).current.line("mm"))
        )

    def test_a_joint_can_go_by_the_bench_rule(self) -> None:
        made = plan("butt", shop=self.shop(5), own_record="bench").current
        self.assertNotIn("shop history", " ".join(made.line("mm")))
        self.assertEqual((made.by_record, made.steady_a), (False, plan("butt").current.steady_a))
        self.assertIn("It is not used here", " ".join(r.sentence.text() for r in made.why))
        self.assertIn({"own_record": "record"}, [o.sets for o in made.others])
        self.assertIn(
            {"own_record": "bench"},
            [o.sets for o in plan("butt", shop=self.shop(5)).current.others],
        )

    def test_travel_speed_and_post_flow_are_reported(self) -> None:
        said = " ".join(r.sentence.text() for r in plan("butt", shop=self.shop(4)).current.why)
        self.assertIn("at 0.90 of the planned travel speed", said)
        self.assertNotIn("of the planned post-flow", said)

    def test_small_differences_are_omitted(self) -> None:
        """Estimate: travel speed and post-flow agree with the plan within 5 %."""
        for value, found in (
            (0.94, True),
            (0.96, False),
            (1.0, False),
            (1.04, False),
            (1.06, True),
        ):
            record = replace(
                self.shop(4).own.like(BUTT_FAMILY, "austenitic", ""), pace=value, held=value
            )
            shop = Shop(own=SimpleNamespace(like=lambda *_, record=record: record))
            why = " ".join(r.sentence.text() for r in plan("butt", shop=shop).current.why)
            self.assertEqual("of the planned travel speed" in why, found, value)
            self.assertEqual("of the planned post-flow" in why, found, value)
