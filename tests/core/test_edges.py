"""Rules of diagnosis, history, jobs, arc logs, weld sessions, purges and templates at their limits.

Each is here because a wrong one once went unnoticed.
"""

import math
import unittest

import numpy as np
from msgspec.structs import replace

from tests.core.weld_session.test_steps import acts, build_case_steps, make_case_plan
from tests.jobs import job, seam
from tests.samples import CORNER, EVERY, run, typed
from wisearc.core import sources
from wisearc.core.arc_log.limits import get_limits
from wisearc.core.arc_log.readings import make_readings
from wisearc.core.diagnosis.actual import Actual
from wisearc.core.diagnosis.attempts import RecordedRun, list_earlier_changes
from wisearc.core.diagnosis.diagnosis import log_doubt
from wisearc.core.diagnosis.held_values import find_held
from wisearc.core.errors import InputError, UnknownName
from wisearc.core.jobs.job_data import make_job
from wisearc.core.jobs.job_plan import make_job_plan
from wisearc.core.joint.data import make_joint
from wisearc.core.physics.purge import MAX_OPEN_GAP_MM, gap_area_mm2
from wisearc.core.plan.plan import Plan, make_plan
from wisearc.core.reasons import Care, Estimate, Practice, Published, ShopHistory
from wisearc.core.run.run import Run
from wisearc.core.run.saved_reading import SavedReading
from wisearc.core.schema.documents import read_document
from wisearc.core.shop.shop import ASSUMED
from wisearc.core.templates.cut import has_knife_edge, make_cut
from wisearc.core.weld_session.course import replay_events, summarise_run
from wisearc.services.jobs.job_plans import plan_seams


def of(joint: dict = CORNER, **more) -> Plan:
    return make_plan(make_joint({**joint, **more}), ASSUMED)


class Reasons(unittest.TestCase):
    def test_unknown_source_is_refused(self) -> None:
        for kind in (Estimate, Published):
            with self.subTest(kind=kind), self.assertRaises(UnknownName):
                kind("not-in-the-catalogue", "Weld faster.")

    def test_class_gives_source_and_mark(self) -> None:
        for kind, source in (
            (Practice, "common practice, no source"),
            (ShopHistory, "this shop's history"),
        ):
            reason = kind("Weld {share} faster.", share="10 %")
            with self.subTest(kind=kind):
                self.assertEqual(reason.title, source)
                self.assertEqual(reason.sentence.text(), "Weld 10 % faster.")
                self.assertEqual((reason.formula, reason.worked, reason.cited), ("", None, ""))


class Marks(unittest.TestCase):
    def test_a_mark_or_source_that_is_not_known_is_refused(self) -> None:
        for source, mark, words in (
            ("wells-1952", "guess", "mark “guess”"),
            ("nobody-1900", "published", "source “nobody-1900”"),
            ("wells-1952", "estimate", "source “wells-1952”"),
        ):
            with self.assertRaisesRegex(UnknownName, words):
                sources.check(source, mark)
        sources.check("wells-1952", "published")
        sources.check("arms", "estimate")


class Letters(unittest.TestCase):
    def test_a_saved_reading_names_the_draft_by_its_letter(self) -> None:
        for letter, known in (
            ("B", True),
            ("AA", True),
            ("b", False),
            ("A1", False),
            ("A-", False),
        ):
            made = {"verdict": "not-good", "draft": letter}
            with self.subTest(letter=letter):
                if known:
                    self.assertEqual(read_document(SavedReading, made).draft, letter)
                else:
                    with self.assertRaisesRegex(InputError, "letter of a revision"):
                        read_document(SavedReading, made)


class LogBelieved(unittest.TestCase):
    """A log of another joint differs in arc time, current or frequency.

    The ratio is 1.4 for the time and 2 for the others: estimates. The comparison is with the record
    or the plan.
    """

    def doubted(self, plan: Plan, **arc) -> bool:
        made = run(CORNER, arc={"by": "log", **arc})
        made["measured"] = {"length_mm": 100, "arc_time_s": 50}
        return log_doubt(typed(made), plan) is not None

    def test_each_figure_either_way(self) -> None:
        plan = of()
        mean, rate = plan.slopes.mean_a, plan.pulse.rate_pps
        for key, known, most in (("arc_s", 50, 1.4), ("mean_a", mean, 2), ("rate_pps", rate, 2)):
            for share in (1 / most, most):
                inside, out = (0.98, 1.02) if share > 1 else (1.02, 0.98)
                with self.subTest(key=key, share=share):
                    self.assertFalse(self.doubted(plan, **{key: known * share * inside}))
                    self.assertTrue(self.doubted(plan, **{key: known * share * out}))

    def test_a_timer_is_not_a_log(self) -> None:
        made = typed(run(CORNER, arc={"by": "timer", "arc_s": 500}))
        self.assertIsNone(log_doubt(made, of()))


class AsSet(unittest.TestCase):
    def test_mean_of_a_pulse_that_was_set(self) -> None:
        """100 A, 30 % on, 10 % between: 100 · (0.3 + 0.1 · 0.7) = 37 A, by definition."""
        settings = {"current_a": 100, "on_pct": 30, "background_pct": 10, "rate_pps": 1.5}
        actual = Actual(of(), typed(run(CORNER, set=settings)), ASSUMED)
        self.assertAlmostEqual(actual.set_mean_a or 0, 37.0, 6)
        self.assertAlmostEqual(actual.mean_a or 0, 37.0, 6)

    def test_unpulsed_current_keeps_its_fraction_of_the_plan(self) -> None:
        plan = of(EVERY["butt"])
        told = typed(run(EVERY["butt"], set={"current_a": 1.1 * plan.slopes.machine_a}))
        actual = Actual(plan, told, ASSUMED)
        self.assertAlmostEqual((actual.set_mean_a or 0) / plan.slopes.mean_a, 1.1, 6)


class LastChange(unittest.TestCase):
    def made(self, number: int, change: dict | None = None) -> RecordedRun:
        told = run(CORNER, good=False, faults=["cold"])
        if change:
            told["reading"] = {"verdict": "not-good", "change": change}
        return RecordedRun(number, "A", typed(told), of())

    def test_only_the_change_right_before_was_just_tried(self) -> None:
        warmer = {"code": "set-as-planned", "key": "current", "text": "Warmer", "cause": "heat-low"}
        row = [self.made(1, warmer), self.made(2)]
        self.assertEqual([one.just for one in list_earlier_changes(row)], [True])
        self.assertEqual([one.just for one in list_earlier_changes([*row, self.made(3)])], [False])


class Held(unittest.TestCase):
    def test_nothing_is_held_that_raises_a_caution(self) -> None:
        today, kept = of(), of(pins={"flow_l_min": 11.0, "postflow_s": 9.0})

        def plan_with(sets: dict) -> Plan:
            plan = of(pins={key.removeprefix("pins."): value for key, value in sets.items()})
            if "pins.flow_l_min" in sets:
                more = Care("gas-turbulent", "gas", "It tears.")
                plan = replace(plan, cautions=(*plan.cautions, more))
            return plan

        held = find_held(kept, today, plan_with)
        self.assertNotIn("pins.flow_l_min", held.sets)
        self.assertIn("pins.postflow_s", held.sets)
        self.assertTrue(held.moved)


class SideNamed(unittest.TestCase):
    def test_the_caution_names_the_side_that_pulls_more(self) -> None:
        for more, less in (("left", "right"), ("right", "left")):
            rows = [seam(f"s{i}", side=more if i < 5 else less, joins=(f"p{i}",)) for i in range(7)]
            made = make_job(job(*rows))
            plan = make_job_plan(made, plan_seams(made, ASSUMED), ASSUMED, lambda: True)
            told = next(c for c in plan.cautions if c.code == "pulls-one-side")
            with self.subTest(side=more):
                self.assertIn(f"The {more} pulls", told.sentence.text())
                self.assertIn(f"bends towards the {more}", told.sentence.text())


class Session(unittest.TestCase):
    def setUp(self) -> None:
        self.score = build_case_steps(make_case_plan())

    def test_shortest_hold_is_the_post_flow(self) -> None:
        course = replay_events(self.score, acts((5, "bars-on", "skip")), 0.0)
        visits = [
            replace(course.visits[0], step="hold-1", start=a, end=a + b)
            for a, b in ((0.0, 9.0), (20.0, 4.0), (40.0, 7.0))
        ]
        held = replace(course, visits=tuple(visits))
        self.assertEqual(summarise_run(held, 100.0).held_s, 4.0)

    def test_an_act_stamped_too_early_ends_its_step_when_it_began(self) -> None:
        pressed = [(5, "bars-on", "skip"), (10, "ready-1", "main")]
        early = acts(*pressed)[-1]
        early = replace(early, id="early", at=2.0)
        course = replay_events(self.score, [acts(*pressed)[0], early], 0.0)
        for visit in course.visits:
            self.assertGreaterEqual(visit.end if visit.end is not None else math.inf, visit.start)
        self.assertEqual(course.visits[0].end, 5)


class Openings(unittest.TestCase):
    def test_gap_counts_over_300_mm_maximum(self) -> None:
        """A longer one is taped as it goes: common practice, no source; the length: estimate."""
        self.assertEqual(MAX_OPEN_GAP_MM, 300.0)
        for seam_mm, area in ((100, 50), (300, 150), (301, 150), (2000, 150)):
            self.assertEqual(gap_area_mm2(0.5, seam_mm), area)


class KnifeEdge(unittest.TestCase):
    def test_to_either_side(self) -> None:
        """A branch that reaches its run's own width ends in a knife edge: geometry."""
        tubes = {"branch_mm": 20, "wall_mm": 1, "run_mm": 40}
        for offset, edged in ((0, False), (9.9, False), (-9.9, False), (10, True), (-10, True)):
            with self.subTest(offset=offset):
                cut = make_cut({**tubes, "offset_mm": offset})
                self.assertEqual(has_knife_edge(cut), edged)


class Limits(unittest.TestCase):
    def test_the_background_is_held_as_its_share_of_the_peak(self) -> None:
        plan = of()
        low, high = get_limits(plan)["background_a"]
        share = plan.pulse.background_pct / 100 * plan.pulse.peak_a
        self.assertAlmostEqual((low or 0) / share, 0.8, 1)
        self.assertAlmostEqual((high or 0) / share, 1.25, 1)

    def test_readings_in_order(self) -> None:
        made = make_readings(np.array([0.0, 0.1, 0.2]), np.array([50.0, 50.0, 50.0]))
        self.assertEqual(made.rows, 3)


class NoRun(unittest.TestCase):
    def test_run_without_values_counts_as_planned(self) -> None:
        bare: Run = typed({})
        actual = Actual(of(), bare, ASSUMED)
        self.assertIsNone(actual.mean_a)
        self.assertIsNone(actual.travel_mm_s)
        self.assertEqual(actual.cup, of().torch.cup)


if __name__ == "__main__":
    unittest.main()
