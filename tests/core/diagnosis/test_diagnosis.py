"""Reading a run: every row of the table of what is seen, pairs of rows that share a sign, what is
never proposed. The table: common practice, no source.
"""

import math
import unittest
from typing import Any

from tests import samples
from tests.core.plan.cautions.test_cautions import in_source
from tests.samples import member, plan, typed
from wisearc.core import catalogue
from wisearc.core.diagnosis import attempts
from wisearc.core.diagnosis.actual import Actual
from wisearc.core.diagnosis.causes import question, rank
from wisearc.core.diagnosis.changes import Refused, changes_for
from wisearc.core.diagnosis.diagnosis import Before, Reading, joint_of, read
from wisearc.core.diagnosis.signs import signs_of
from wisearc.core.plan.plan import Plan
from wisearc.core.reasons import Sentence
from wisearc.core.run.quality import observed
from wisearc.core.run.verification import quality_of
from wisearc.core.shop.shop import ASSUMED

BUTT: dict[str, Any] = {
    "kind": "butt",
    "a": member(thickness="1.5 mm"),
    "length": "100 mm",
    "filler": "ER308L",
}
FLANGE: dict[str, Any] = {
    "kind": "tube-plate",
    "a": samples.tube(),
    "b": member("316L", "4 mm", form="flange"),
    "length": "all-round",
}


def of(**more: Any) -> Plan:
    """A plan of the butt, changed."""
    return plan(**{**BUTT, **more})


def said(
    made: Plan, faults: tuple[str, ...] = (), before: tuple[Before, ...] = (), **more: Any
) -> Reading:
    """What a run says that was made as its plan says, but for what is given; parts are laid over
    the plan's.
    """
    run = samples.run(dict(made.joint), good=False, faults=list(faults))
    for key, value in more.items():
        run[key] = {**run.get(key, {}), **value} if isinstance(value, dict) else value
    return read(typed(run), made, ASSUMED, before)


class EveryRow(unittest.TestCase):
    def test_of_the_table(self) -> None:
        butt, tube = of(), plan(**FLANGE)
        corner = plan("outside-corner", member(thickness="0.9 mm"), back="copper-bar")
        rows: tuple[tuple[Plan, tuple[str, ...], dict[str, Any], str, str], ...] = (
            (butt, ("cold",), {}, "heat-low", "amps-up"),
            (butt, (), {"seen": {"edges": "stand", "ripple": "even"}}, "heat-low", "amps-up"),
            (butt, ("too-hot",), {}, "heat-high", "amps-down"),
            (
                butt,
                ("grey", "rod-grey"),
                {"seen": {"where": {"grey": "stops"}}},
                "left-early",
                "postflow-longer",
            ),
            (butt, ("wobble",), {"set": {"flow_l_min": None}}, "gas-high", "flow-down"),
            (
                plan("edge", member(thickness="1 mm")),
                ("frosty", "pores"),
                {},
                "edge-splits",
                "cup-bigger",
            ),
            (butt, ("keyhole",), {}, "root-cold", "wait-for-the-pool"),
            (butt, ("hole",), {"used": {"gap_mm": 1.0}}, "gap", "refit"),
            (tube, ("edge-lost",), {}, "arc-on-thin", "aim-at-the-thick"),
            (butt, ("tacks-cracked",), {}, "tacks-few", "tacks-closer"),
            (corner, (), {"back": {"colour": "sugar"}}, "back-bare", "bars-both-sides"),
            (butt, ("crater-crack",), {}, "taper-short", "taper-longer"),
            (butt, ("restart",), {}, "restart-late", "restart-warm"),
            (butt, ("uneven",), {}, "hand-uneven", "rod-to-the-front"),
            (of(back="open", service="dry"), ("bowed",), {}, "warp", "bars"),
            (butt, ("rust",), {}, "iron", "clean-brush"),
            (butt, ("rust",), {"used": {"rod": "ER70S-2"}}, "rod-wrong", ""),
            (
                plan("tee", member(), filler="ER308L"),
                (),
                {"coupon": {"bend": "toe"}},
                "bead-heavy",
                "smaller-bead",
            ),
            (butt, ("touched",), {}, "touched", "regrind"),
        )
        for made, faults, more, cause, change in rows:
            with self.subTest(faults=faults, **more):
                found = said(made, faults, **more)
                self.assertEqual(found.verdict, "not-good")
                self.assertEqual(found.causes[0].cause.key, cause)
                if change:
                    self.assertEqual(found.change and found.change.code, change)

    def test_pairs_that_share_a_sign_are_told_apart(self) -> None:
        butt, glow = of(), of().heat.glow_after_stop_s
        arc = {"by": "log", "mean_a": of().slopes.mean_a, "arc_s": of().travel.arc_time_s}
        purged = plan(**FLANGE)
        undercut = ("undercut",)
        rows: tuple[tuple[Plan, tuple[str, ...], dict[str, Any], str], ...] = (
            (butt, ("grey",), {"arc": {"by": "timer", "held_s": glow / 3}}, "left-early"),
            (
                butt,
                ("grey",),
                {
                    "seen": {"where": {"grey": [0.0, 1.0]}},
                    "used": {"cup": 4},
                    "set": {"flow_l_min": None},
                },
                "cover-small",
            ),
            (
                butt,
                ("grey",),
                {"seen": {"where": {"grey": [0.0, 1.0]}, "told": {"draught": True}}},
                "gas-low",
            ),
            (
                butt,
                ("grey", "wobble"),
                {"set": {"flow_l_min": 2.2 * butt.gas.flow_l_min}},
                "gas-high",
            ),
            (butt, ("hole",), {"used": {"gap_mm": 1.2}}, "gap"),
            (
                butt,
                ("hole", "too-hot"),
                {"set": {"current_a": 1.3 * butt.slopes.machine_a}},
                "heat-high",
            ),
            (
                purged,
                ("hole",),
                {"seen": {"told": {"arc-on-thin": True}}, "used": {"gap_mm": 0.0}},
                "arc-on-thin",
            ),
            (butt, ("pores",), {"seen": {"told": {"dirty": True}}}, "dirty"),
            (
                butt,
                ("pores",),
                {
                    "seen": {"told": {"draught": True}},
                    "set": {"flow_l_min": 0.4 * butt.gas.flow_l_min},
                },
                "gas-low",
            ),
            (butt, ("pores",), {"set": {"flow_l_min": 2.3 * butt.gas.flow_l_min}}, "gas-high"),
            (
                purged,
                (),
                {
                    "back": {"colour": "sugar"},
                    "purge": {
                        "at_arc_ppm": 4000,
                        "most_ppm": 4000,
                        "target_ppm": 50,
                        "held": False,
                    },
                },
                "purge-thin",
            ),
            (butt, ("uneven",), {"arc": {"by": "timer", "touched": 1}}, "touched"),
            (butt, ("uneven",), {"seen": {"told": {"rod-side": True}}}, "hand-uneven"),
            (
                butt,
                undercut,
                {
                    "look": "wide",
                    "arc": {**arc, "energy_kj": arc["mean_a"] * arc["arc_s"] * 14.5 / 1000},
                },
                "arc-long",
            ),
            (
                butt,
                undercut,
                {"coupon": {"bend": "toe"}, "measured": {"bead_mm": 9.0}},
                "bead-heavy",
            ),
            (
                butt,
                (),
                {"front": {"colour": "blue"}, "used": {"cup": 4}, "set": {"flow_l_min": None}},
                "cover-small",
            ),
            (
                butt,
                (),
                {
                    "front": {"colour": "blue"},
                    "set": {"current_a": 1.3 * butt.slopes.machine_a},
                    "look": "sunk",
                },
                "heat-high",
            ),
        )
        for made, faults, more, cause in rows:
            with self.subTest(faults=faults, **more):
                found = said(made, faults, **more)
                self.assertEqual(
                    found.causes[0].cause.key,
                    cause,
                    [(r.cause.key, round(r.weight, 2)) for r in found.causes],
                )

    def test_dull_edges_that_stand_up_are_covered_first(self) -> None:
        found = said(
            of(), ("cold", "grey"), seen={"where": {"grey": [0, 1]}, "told": {"draught": True}}
        )
        self.assertEqual(found.causes[0].cause.key, "gas-low")
        self.assertNotIn("Current", found.change.words.text() if found.change else "")


class TheChange(unittest.TestCase):
    def test_in_figures_and_made_in_the_plan(self) -> None:
        butt = of(pulse="none")
        for faults, more, key, by in (
            (("cold",), {}, "current", lambda m: 1.04 < m.after / m.before < 1.11),
            (("too-hot",), {}, "current", lambda m: abs(m.after / m.before - 0.9) < 0.02),
            (
                ("grey",),
                {"seen": {"where": {"grey": "stops"}}},
                "postflow_s",
                lambda m: m.after == m.before + 2,
            ),
            (
                ("wobble",),
                {"set": {"flow_l_min": None}},
                "flow_l_min",
                lambda m: m.after < 0.9 * m.before,
            ),
        ):
            with self.subTest(faults=faults):
                change = said(butt, faults, **more).change
                assert change is not None and change.plan is not None
                self.assertEqual(change.key, key)
                self.assertTrue(by(change.move), change.move)
                made = plan_of(joint_of(change, butt))
                self.assertEqual(made.slopes.machine_a, change.plan.slopes.machine_a)
                shown = {
                    "current": made.current.steady_a,
                    "postflow_s": made.gas.postflow_s,
                    "flow_l_min": made.gas.flow_l_min,
                }
                self.assertAlmostEqual(shown[key], change.move.after, delta=0.012)
                self.assertTrue(change.watch)

    def test_what_was_not_set_as_planned_is_set_first(self) -> None:
        butt = of(pulse="none")
        low = said(butt, ("cold",), set={"current_a": round(0.8 * butt.slopes.machine_a)})
        self.assertEqual(low.change and low.change.code, "set-as-planned")
        fast = said(
            butt, ("cold",), measured={"length_mm": 100, "arc_time_s": 70 / butt.travel.speed_mm_s}
        )
        self.assertEqual(fast.change and fast.change.code, "pace-as-planned")
        short = said(butt, ("grey",), set={"postflow_s": 1.0}, seen={"where": {"grey": "stops"}})
        self.assertEqual(
            (short.causes[0].cause.key, short.change and short.change.code),
            ("left-early", "postflow-as-planned"),
        )

    def test_one_cause_and_what_comes_after_it(self) -> None:
        found = said(of(), ("grey", "cold"))
        assert found.change is not None
        self.assertNotIn(found.change.code, [one.code for one in found.also])
        self.assertTrue(found.also)

    def test_never_one_that_a_caution_forbids(self) -> None:
        for name, joint in samples.EVERY.items():
            made = plan_of(joint)
            actual = Actual(made, typed({}), ASSUMED)
            stand = {c.code for c in made.cautions if c.level != "note"}
            for cause in catalogue.causes().values():
                for one in changes_for(cause.key, actual, signs_of(actual)):
                    if isinstance(one, Refused) or one.plan is None:
                        continue
                    new = {c.code for c in one.plan.cautions if c.level != "note"} - stand
                    despite = set(catalogue.read_changes()[one.code].despite)
                    with self.subTest(name, change=one.code):
                        self.assertLessEqual(new, despite)
                        self.assertFalse(
                            {c.code for c in one.plan.cautions if c.level == "stop"} - stand
                        )

    def test_a_forbidden_one_is_told_and_passed_over(self) -> None:
        # a jet that is about to tear: more gas is what a caution forbids
        made = plan(
            "butt", member(thickness="1.5 mm"), length="100 mm", pins={"cup": 8, "flow_l_min": 19}
        )
        found = said(
            made,
            ("grey",),
            seen={"told": {"draught": True}, "where": {"grey": [0, 1]}},
            set={"flow_l_min": None},
        )
        again = (Before("gas-low", "shut-the-door", "hand", None, None, True),)
        after = said(
            made,
            ("grey",),
            again,
            seen={"told": {"draught": True}, "where": {"grey": [0, 1]}},
            set={"flow_l_min": None},
        )
        self.assertEqual(found.change and found.change.code, "shut-the-door")
        self.assertNotEqual(after.change and after.change.code, "flow-up")
        self.assertIn(
            "change-forbidden", {c.code for c in after.cautions} | {c.code for c in found.cautions}
        )

    def test_never_straight_back(self) -> None:
        butt = of(pulse="none", pins={"current_a": 60})
        up = Before("heat-low", "amps-up", "current", 54.0, 60.0, False)
        change = said(butt, ("too-hot",), (up,)).change
        assert change is not None and change.plan is not None
        self.assertEqual((change.key, change.move.after), ("current", 57.0))
        self.assertIn("goes back", change.said)
        self.assertAlmostEqual(change.plan.current.steady_a, 57, delta=0.02)
        long_ago = Before("heat-low", "amps-up", "current", 54.0, 60.0, False, just=False)
        self.assertEqual(
            said(butt, ("too-hot",), (long_ago,)).change, said(butt, ("too-hot",)).change
        )
        slower = Before("heat-low", "slower", "travel_mm_s", 2.7, 2.4, False)
        other = said(butt, ("too-hot",), (slower,)).change
        self.assertEqual(
            other and (other.key, other.said), ("current", "This goes back on what was just tried.")
        )
        same = Before("heat-high", "faster", "travel_mm_s", 2.7, 3.0, False)
        self.assertEqual(said(butt, ("too-hot",), (same,)).change, said(butt, ("too-hot",)).change)
        fresh = said(butt, ("too-hot",)).change
        self.assertEqual(fresh and (fresh.said, fresh.move.after), ("", 54.0))

    def test_order_of_failed_advice(self) -> None:
        butt = of(pulse="none", pins={"current_a": 60})
        for faults, code, key, again, first, after in (
            ("restart", "restart-warm", "hand", True, None, ["restart-warm"]),
            ("restart", "restart-warm", "hand", False, "restart-warm", []),
            ("cold", "amps-up", "current", True, "amps-up", ["slower"]),
        ):
            tried = Before("heat-low", code, key, 54.0, 60.0, again)
            found = said(butt, (faults,), (tried,))
            self.assertEqual(
                (found.change and found.change.code, [one.code for one in found.also[:1]]),
                (first, after),
            )

    def test_what_did_not_mend_it_counts_against_its_cause(self) -> None:
        tried = tuple(
            Before("left-early", "postflow-longer", "postflow_s", 6.0, 8.0, True) for _ in range(2)
        )
        first, later = said(of(), ("grey",)), said(of(), ("grey",), tried)
        self.assertEqual(first.causes[0].cause.key, "left-early")
        self.assertNotEqual(later.causes[0].cause.key, "left-early")
        once = said(of(), ("grey",), tried[:1])
        odds = [
            next(r.weight for r in one.causes if r.cause.key == "left-early")
            / next(r.weight for r in one.causes if r.cause.key == "gas-low")
            for one in (first, once, later)
        ]
        self.assertAlmostEqual(odds[0] / odds[1], math.exp(1.6), delta=0.002)
        self.assertAlmostEqual(odds[1] / odds[2], math.exp(1.6), delta=0.002)


class Attempts(unittest.TestCase):
    def test_runs_without_a_recommended_change(self) -> None:
        """The differences of two runs explain the result."""
        words = {key: Sentence(key) for key in ("gas", "current", "pace")}
        for keys, again, expected in (
            ((), (), ""),
            (("gas",), (), "Better by what was changed."),
            (("gas", "current"), (), "Better, and more than one thing may have done it."),
            (("gas", "current", "pace"), (), "Better, and more than one thing may have done it."),
            (("gas", "current"), ("grey",), ""),
        ):
            differs = {key: words[key] for key in keys}
            found = attempts._did_it(None, None, "acceptable", None, differs, again)
            self.assertEqual(found, expected)

    def test_minimum_difference(self) -> None:
        """Estimates: 3 % of a setting, 12 % of travel speed; more than an error of measurement."""
        base = samples.run()
        length_mm, arc_s = base["measured"]["length_mm"], base["measured"]["arc_time_s"]
        for part, key, value, told, found in (
            ("set", "flow_l_min", 1.029 * base["set"]["flow_l_min"], "set.flow_l_min", False),
            ("set", "flow_l_min", 1.031 * base["set"]["flow_l_min"], "set.flow_l_min", True),
            ("set", "flow_l_min", 0.969 * base["set"]["flow_l_min"], "set.flow_l_min", True),
            ("measured", "arc_time_s", arc_s / 1.11, "travel", False),
            ("measured", "arc_time_s", arc_s / 1.13, "travel", True),
            ("measured", "length_mm", 0.87 * length_mm, "travel", True),
        ):
            other = {**base, part: {**base[part], key: value}}
            keys = dict(attempts.differing(typed(base), typed(other)))
            self.assertEqual(told in keys, found, (key, value))


class WhatIsSaid(unittest.TestCase):
    def test_contradictions_are_told_and_both_are_kept(self) -> None:
        found = said(
            of(back="open", service="dry"),
            (),
            back={"colour": "sugar"},
            seen={"back_tint": "silver"},
        )
        self.assertIn("observations-contradict", {c.code for c in found.cautions})
        self.assertEqual(
            (found.told["sugar"].strength, found.told["back-bright"].strength), (1.0, 1.0)
        )
        self.assertIn("sugar", [e.told.key for e in found.causes[0].evidence_for])

    def test_a_log_of_another_joint_is_not_used(self) -> None:
        butt = of(pulse="none")
        for arc in (
            {"by": "log", "arc_s": 3 * butt.travel.arc_time_s, "mean_a": butt.slopes.mean_a},
            {
                "by": "log",
                "arc_s": 100 / butt.travel.speed_mm_s,
                "mean_a": 2.5 * butt.slopes.mean_a,
            },
        ):
            with self.subTest(**arc):
                found = said(butt, ("cold",), arc=arc)
                self.assertIn("log-of-another", {c.code for c in found.cautions})
                self.assertEqual(found.causes[0].cause.key, "heat-low")
                self.assertNotEqual(found.told["amps-over"].by, "log")
        own = {
            "by": "log",
            "arc_s": 1.2 * 100 / butt.travel.speed_mm_s,
            "mean_a": 1.6 * butt.slopes.mean_a,
        }
        self.assertNotIn(
            "log-of-another", {c.code for c in said(butt, ("cold",), arc=own).cautions}
        )

    def test_metals_whose_tints_are_not_tabled(self) -> None:
        ferritic = plan("butt", member("430", "1 mm"), length="100 mm")
        codes = {c.code for c in said(ferritic, (), seen={"front_tint": "blue"}).cautions}
        self.assertIn("tints-not-tabled", codes)
        self.assertNotIn(
            "tints-not-tabled",
            {c.code for c in said(of(), (), seen={"front_tint": "blue"}).cautions},
        )

    def test_every_code_of_a_reading(self) -> None:
        told = {
            ("observations-contradict", "caution"),
            ("log-of-another", "caution"),
            ("tints-not-tabled", "note"),
            ("change-forbidden", "note"),
        }
        self.assertEqual(in_source("diagnosis"), told)

    def test_the_verdict(self) -> None:
        """Silver to straw good, to blue acceptable where corrosion duty is light, grey not: common
        practice, no source.
        """
        dry, wet = of(service="dry"), of(service="wet")
        for front, light, hard in (
            ("silver", "good", "good"),
            ("straw", "good", "good"),
            ("brown", "acceptable", "not-good"),
            ("blue", "acceptable", "not-good"),
            ("grey", "not-good", "not-good"),
        ):
            run = samples.run(dict(dry.joint), front={"colour": front}, back={"colour": "silver"})
            self.assertEqual(
                (
                    quality_of(observed(typed(run)), dry).verdict,
                    quality_of(observed(typed(run)), wet).verdict,
                ),
                (light, hard),
                front,
            )
        self.assertEqual(
            quality_of(
                observed(typed(samples.run(dict(dry.joint), back={"colour": "sugar"}))), dry
            ).verdict,
            "not-good",
        )
        self.assertEqual(
            quality_of(
                observed(typed(samples.run(dict(dry.joint), faults=["pores"]))), dry
            ).verdict,
            "not-good",
        )
        self.assertEqual(
            quality_of(
                observed(typed(samples.run(dict(dry.joint), coupon={"bend": "toe"}))), dry
            ).verdict,
            "not-good",
        )

    def test_a_good_run_asks_nothing(self) -> None:
        found = said(of(), ())
        self.assertEqual(
            (found.verdict, found.causes, found.change, found.question), ("good", (), None, None)
        )

    def test_the_question_tells_the_two_likeliest_apart(self) -> None:
        found = said(of(), ("grey",))
        asked = found.question
        assert asked is not None
        signs = signs_of(
            Actual(of(), typed(samples.run(dict(of().joint), faults=["grey"])), ASSUMED)
        )
        self.assertEqual(question(found.causes[:2], signs), asked)
        self.assertIsNone(question(found.causes[:1], signs))
        first, second = (r.cause for r in found.causes[:2])
        self.assertEqual({asked.yes, asked.no}, {first.name, second.name})
        before = {r.cause.name: r.weight for r in found.causes}
        for answer, name in ((True, asked.yes), (False, asked.no)):
            told = said(of(), ("grey",), seen={"told": {asked.sign: answer}})
            shares = {r.cause.name: r.weight for r in told.causes}
            other = asked.no if name == asked.yes else asked.yes
            self.assertGreater(
                shares[name] / max(shares.get(other, 0), 1e-3), 1.5 * before[name] / before[other]
            )
            self.assertNotEqual(told.question and told.question.sign, asked.sign)

    def test_weights_are_shares_and_nothing_seen_has_no_cause(self) -> None:
        found = said(of(), ("grey", "pores", "cold"))
        self.assertLessEqual(sum(r.weight for r in found.causes), 1 + 1e-9)
        self.assertEqual(
            [r.weight for r in found.causes], sorted((r.weight for r in found.causes), reverse=True)
        )
        self.assertEqual(
            rank(signs_of(Actual(of(), typed(samples.run(dict(of().joint))), ASSUMED))), ()
        )


def plan_of(joint: Any) -> Plan:
    """The plan of a joint's data."""
    from wisearc.core.joint.data import make_joint
    from wisearc.core.plan.plan import make_plan

    return make_plan(make_joint(joint), ASSUMED)
