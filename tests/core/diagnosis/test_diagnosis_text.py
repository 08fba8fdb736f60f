"""Verdict, cautions, question and attempts of a diagnosis."""

import unittest

from tests import samples
from tests.core.diagnosis.cases import of, said
from tests.core.plan.cautions.test_cautions import in_source
from tests.samples import member, plan, typed
from wisearc.core.diagnosis import attempts
from wisearc.core.diagnosis.actual import Actual
from wisearc.core.diagnosis.causes import choose_question, rank
from wisearc.core.diagnosis.signs import list_signs
from wisearc.core.reasons import Sentence
from wisearc.core.run.quality import find_observed
from wisearc.core.run.verification import judge_run
from wisearc.core.shop.shop import ASSUMED


class DiagnosisText(unittest.TestCase):
    def test_contradictory_signs_are_reported_and_both_saved(self) -> None:
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
        """Silver to straw good, to blue acceptable where corrosion duty is light, grey not.

        Common practice, no source.
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
                    judge_run(find_observed(typed(run)), dry).verdict,
                    judge_run(find_observed(typed(run)), wet).verdict,
                ),
                (light, hard),
                front,
            )
        self.assertEqual(
            judge_run(
                find_observed(typed(samples.run(dict(dry.joint), back={"colour": "sugar"}))), dry
            ).verdict,
            "not-good",
        )
        self.assertEqual(
            judge_run(
                find_observed(typed(samples.run(dict(dry.joint), faults=["pores"]))), dry
            ).verdict,
            "not-good",
        )
        self.assertEqual(
            judge_run(
                find_observed(typed(samples.run(dict(dry.joint), coupon={"bend": "toe"}))), dry
            ).verdict,
            "not-good",
        )

    def test_a_good_run_asks_nothing(self) -> None:
        found = said(of(), ())
        self.assertEqual(
            (found.verdict, found.causes, found.change, found.question), ("good", (), None, None)
        )

    def test_question_distinguishes_the_two_likeliest_causes(self) -> None:
        found = said(of(), ("grey",))
        asked = found.question
        assert asked is not None
        signs = list_signs(
            Actual(of(), typed(samples.run(dict(of().joint), faults=["grey"])), ASSUMED)
        )
        self.assertEqual(choose_question(found.causes[:2], signs), asked)
        self.assertIsNone(choose_question(found.causes[:1], signs))
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
            rank(list_signs(Actual(of(), typed(samples.run(dict(of().joint))), ASSUMED))), ()
        )


class Attempts(unittest.TestCase):
    def test_runs_without_a_recommended_change(self) -> None:
        """The differences of two runs explain the result."""
        words = {key: Sentence(key) for key in ("gas", "current", "pace")}
        for keys, repeated, expected in (
            ((), (), ""),
            (("gas",), (), "Better through this change."),
            (("gas", "current"), (), "Better, but several changes may be the cause."),
            (("gas", "current", "pace"), (), "Better, but several changes may be the cause."),
            (("gas", "current"), ("grey",), ""),
        ):
            differs = {key: words[key] for key in keys}
            found = attempts._judge_change(None, None, "acceptable", None, differs, repeated)
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
            keys = dict(attempts.find_differences(typed(base), typed(other)))
            self.assertEqual(told in keys, found, (key, value))
