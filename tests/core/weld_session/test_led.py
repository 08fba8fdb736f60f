"""A run led by the arc, one step back, timed mode, and the cues."""

import unittest

from tests.core.weld_session.test_steps import TUBE, acts, build_case_steps, make_case_plan
from wisearc.core import catalogue
from wisearc.core.weld_session.course import (
    ANY_STEP,
    SIGNALS,
    Course,
    RunEvent,
    replay_events,
    summarise_run,
)
from wisearc.core.weld_session.cues import list_cues
from wisearc.core.weld_session.pacer import build_pacer
from wisearc.core.weld_session.steps import COUNT_IN_S, RunSteps


def signals(*events: tuple[float, str]) -> list[RunEvent]:
    return [
        RunEvent(f"source-{i:04}", "source", at, ANY_STEP, k) for i, (at, k) in enumerate(events)
    ]


def tack(at: float) -> list[tuple[float, str]]:
    return [(at, "strike"), (at + 0.8, "tack")]


class LedByTheArc(unittest.TestCase):
    def setUp(self) -> None:
        self.plan = make_case_plan(joint="butt", length_mm=60, pulse="none", back="open")
        self.steps = build_case_steps(self.plan)
        self.part_s = self.steps.step("seam-1").part_s or 0.0

    def play(self, *events: tuple[float, str], more: list[RunEvent] | None = None) -> Course:
        return replay_events(self.steps, [*signals(*events), *(more or [])], 0.0)

    def weld(self, at: float, lasted_s: float, tapered: bool = True) -> list[tuple[float, str]]:
        end = at + 0.6 + lasted_s
        return [
            (at, "strike"),
            (at, "long"),
            (at + 0.6, "full"),
            *([(end, "taper")] if tapered else []),
            (end + 1.5, "off"),
        ]

    def test_every_step_knows_only_signals_of_the_arc(self) -> None:
        tube = make_case_plan(joint="tube-butt", members=[TUBE, TUBE], length="all-round")
        for steps in (self.steps, build_case_steps(tube)):
            known = set(steps.keys)
            for step in steps.steps:
                self.assertLessEqual(
                    {key.removesuffix("-broken").removesuffix("-unformed") for key in step.led},
                    set(SIGNALS),
                )
                self.assertLessEqual(set(step.led.values()), known, step.key)
                # From any phase a long arc or a strike leads on; only the end has none.
                leads = {"strike", "long", "off"} & set(step.led)
                self.assertTrue(leads or step.key in ("done", "purge-off"), step.key)

    def test_tacks_then_the_seam_without_a_tap(self) -> None:
        count = self.plan.tacks.count
        events = [one for n in range(count) for one in tack(10.0 * (n + 1))]
        start = 10.0 * (count + 2)
        course = self.play(*events, *self.weld(start, self.part_s), (start + 30, "gas-off"))
        summary = summarise_run(course, start + 100)
        self.assertEqual(summary.tacks, count)
        self.assertEqual([round(t, 6) for t in summary.pool_s], [0.6])
        self.assertTrue(summary.is_pool_from_log)
        self.assertEqual((summary.restarts, summary.length_mm), (0, 60.0))
        self.assertEqual(course.rejected, ())
        self.assertIn(course.step.key, ("wait", "done"))

    def test_a_long_arc_starts_the_seam_from_any_phase(self) -> None:
        tube = build_case_steps(
            make_case_plan(joint="tube-butt", members=[TUBE, TUBE], length="all-round")
        )
        for steps, before in (
            (self.steps, []),
            (tube, []),
            (tube, acts((5, "purge", "main"), (50, "purge-filling", "main"))),
        ):
            events = [*before, *signals((90.0, "strike"), (90.0, "long"), (90.7, "full"))]
            self.assertEqual(replay_events(steps, events, 0.0).step.key, "seam-1")

    def test_a_tack_during_the_purge(self) -> None:
        tube = build_case_steps(
            make_case_plan(joint="tube-butt", members=[TUBE, TUBE], length="all-round")
        )
        course = replay_events(tube, [*acts((5, "purge", "main")), *signals(*tack(95.0))], 0.0)
        self.assertEqual([v.step for v in course.visits][-2:], ["tack-1", "tack-2"])
        self.assertEqual(summarise_run(course, 100.0).tacks, 1)
        self.assertEqual(summarise_run(course, 100.0).purge_s, 90.0)

    def test_more_tacks_than_planned(self) -> None:
        count = self.plan.tacks.count
        events = [one for n in range(count + 2) for one in tack(10.0 * (n + 1))]
        course = self.play(*events)
        self.assertEqual(summarise_run(course, 500.0).tacks, count + 2)
        # After the last line a short arc is a tack too, and no strike or arc time of the seam.
        skip = acts((1, self.steps.steps[0].key, "skip"))
        course = self.play(*tack(10.0), *self.weld(30.0, self.part_s), more=skip)
        summary = summarise_run(course, 500.0)
        self.assertEqual((summary.tacks, summary.restarts), (1, 0))
        self.assertAlmostEqual(summary.arc_s, 0.6 + self.part_s + 1.5)

    def test_a_break_restarts_and_an_end_ends(self) -> None:
        # The arc is still on for 1.5 s after the taper or the share.
        for share, tapered, step in (
            (0.7, False, "broke-1"),
            (0.9, False, "hold-1"),
            (0.4, True, "broke-1"),
            (0.6, True, "hold-1"),
        ):
            course = self.play(*self.weld(10.0, share * self.part_s - 1.5, tapered))
            self.assertEqual(course.step.key, step, (share, tapered))

    def test_restart_continues_the_part(self) -> None:
        first = self.weld(10.0, 0.5 * self.part_s - 1.5, False)
        then = [(60.0, "strike"), (60.6, "full"), (60.6 + 0.4 * self.part_s, "off")]
        course = self.play(*first, (30.0, "gas-off"), *then)
        self.assertIn("again-1", [v.step for v in course.visits])
        self.assertEqual(course.step.key, "hold-1")
        summary = summarise_run(course, 200.0)
        self.assertEqual(summary.restarts, 1)
        self.assertEqual([round(t, 6) for t in summary.pool_s], [0.6, 0.6])

    def test_an_arc_without_a_pool_is_no_weld(self) -> None:
        skip = acts((1, self.steps.steps[0].key, "skip"))
        course = self.play((10, "strike"), (10, "long"), (13, "off"), more=skip)
        self.assertEqual(course.step.key, "hold-1-again")
        self.assertEqual(summarise_run(course, 20).pool_s, ())

    def test_the_taper_that_was_none(self) -> None:
        events = [(10, "strike"), (10, "long"), (10.5, "full"), (12, "taper"), (13, "rise")]
        self.assertEqual(self.play(*events).step.key, "seam-1")

    def test_a_late_tap_is_no_time_of_a_pool(self) -> None:
        start = [(1, self.steps.steps[0].key, "skip"), (10, "ready-1", "main")]
        for at, times in ((12.0, (2.0,)), (15.9, (5.9,)), (49.8, ())):
            course = replay_events(self.steps, acts(*start, (at, "pool-1", "main")), 0.0)
            self.assertEqual(len(summarise_run(course, 60.0).pool_s), len(times), at)
        late = self.play((10, "strike"), (10, "long"), (16, "late"))
        self.assertEqual(late.step.key, "seam-1")
        self.assertEqual(summarise_run(late, 60.0).pool_s, ())

    def test_signals_and_taps_together(self) -> None:
        skip = acts((1, self.steps.steps[0].key, "skip"), (10.2, "ready-1", "main"))
        course = self.play((10, "strike"), (10, "long"), (10.6, "full"), more=skip)
        # The tap "Arc is on" came after the strike that the source reported.
        self.assertEqual(course.step.key, "seam-1")
        self.assertEqual([a.key for a in course.rejected], ["main"])


class OneStepBack(unittest.TestCase):
    def setUp(self) -> None:
        self.steps = build_case_steps(make_case_plan())

    def play(self, *pressed: tuple[float, str, str]) -> Course:
        return replay_events(self.steps, acts(*pressed), 0.0)

    def test_back_continues_the_step_before_with_its_clock(self) -> None:
        start = [(5, "bars-on", "skip"), (10, "ready-1", "main")]
        course = self.play(*start, (11, "pool-1", "back"))
        self.assertEqual(
            [(v.step, v.start) for v in course.visits], [("bars-on", 0), ("ready-1", 5)]
        )
        course = self.play(*start, (11, "pool-1", "back"), (12, "ready-1", "back"))
        self.assertEqual([(v.step, v.start) for v in course.visits], [("bars-on", 0)])
        # An undone step counts for nothing.
        course = self.play(*start, (11, "pool-1", "back"), (20, "ready-1", "main"))
        self.assertEqual(summarise_run(course, 21.0).arc_s, 1.0)

    def test_nothing_before_the_first_step(self) -> None:
        course = self.play((5, "bars-on", "back"))
        self.assertEqual((course.step.key, len(course.rejected)), ("bars-on", 1))

    def test_back_for_another_step_is_rejected(self) -> None:
        course = self.play((5, "bars-on", "skip"), (6, "seam-1", "back"))
        self.assertEqual((course.step.key, len(course.rejected)), ("ready-1", 1))


class ByTheClock(unittest.TestCase):
    def play_timed(self, steps: RunSteps) -> Course:
        """Let the clock move every step that it can, and press the main key at the others."""
        events: list[RunEvent] = []
        now = 0.0
        course = replay_events(steps, events, 0.0)
        while course.step.keys and len(events) < 200:
            i, step = len(events), course.step
            if step.timed_s is not None:
                now, key = now + step.timed_s, "timed"
            elif step.down_s is not None and step.then:
                now, key = now + step.down_s, "counted"
            else:
                now, key = now + 1, "main"
            events += [RunEvent(f"event-{i:04}", "device-1", now, step.key, key)]
            course = replay_events(steps, events, 0.0)
        self.assertTrue(course.done)
        return course

    def test_the_planned_times_lead_to_the_end(self) -> None:
        plan = make_case_plan()
        course = self.play_timed(build_case_steps(plan))
        lasted = {v.step: v.lasted_s(0) for v in course.visits if v.end is not None}
        self.assertAlmostEqual(lasted["ready-1"], COUNT_IN_S)
        self.assertAlmostEqual(lasted["seam-1"], 190 / plan.travel.speed_mm_s)
        self.assertEqual(lasted["pool-1"], 2.0)
        summary = summarise_run(course, 1e4)
        self.assertTrue(summary.is_timed)
        # Planned times are no measured ones.
        self.assertEqual(summary.pool_s, ())

    def test_only_a_strike_is_counted_in(self) -> None:
        steps = build_case_steps(make_case_plan())
        counted = {s.key.partition("-")[0] for s in steps.steps if s.counted_in}
        self.assertEqual(counted, {"ready", "again", "touched"})


class Cues(unittest.TestCase):
    def cues(self, key: str, **joint: object) -> list[tuple[str, float]]:
        plan = make_case_plan(**joint)
        step = build_case_steps(plan).step(key)
        return [(c.key, round(c.at_s, 1)) for c in list_cues(step, build_pacer(plan).speed_mm_s)]

    def test_cues_of_a_seam(self) -> None:
        plan = make_case_plan(joint="butt", length_mm=250, back="open")
        speed = plan.travel.speed_mm_s
        stops = [stop.at_mm for stop in plan.technique.stops]
        cues = self.cues("seam-1", joint="butt", length_mm=250, back="open")
        expected = [("half", 125 / speed), ("taper", 250 / speed)]
        expected += [("pause", (stop - 10) / speed) for stop in stops]
        self.assertEqual(cues, sorted(((k, round(t, 1)) for k, t in expected), key=lambda c: c[1]))

    def test_a_short_seam_has_no_half(self) -> None:
        self.assertEqual([k for k, _ in self.cues("seam-1", joint="butt", length_mm=40)], ["taper"])

    def test_cues_of_the_other_steps(self) -> None:
        tube = {"joint": "tube-butt", "members": [TUBE, TUBE], "length": "all-round"}
        self.assertEqual(self.cues("tack-2"), [("tack", 0.0)])
        self.assertEqual(self.cues("look"), [("square", 0.0)])
        self.assertEqual(self.cues("pool-1"), [("no-pool", 2.0)])
        self.assertEqual(self.cues("bars-2"), [("bars", 0.0)])
        self.assertEqual(self.cues("again-1"), [("restart", 0.0)])
        self.assertEqual(self.cues("done"), [("done", 0.0)])
        self.assertEqual([k for k, _ in self.cues("hold-1")], ["hold", "gas-off"])
        self.assertEqual([k for k, _ in self.cues("purge-filling", **tube)], ["purge"])
        self.assertEqual(self.cues("purge-weld", **tube), [("purge-down", 0.0)])
        self.assertEqual([k for k, _ in self.cues("purge-off", **tube)], ["purge-off"])
        plan = make_case_plan()
        hold = list_cues(build_case_steps(plan).step("hold-1"), 3.0)[0]
        self.assertEqual(hold.values["s"], round(plan.gas.postflow_s))

    def test_every_cue_in_every_language_with_its_figures(self) -> None:
        texts = catalogue.load_cues()
        tube = make_case_plan(joint="tube-butt", members=[TUBE, TUBE], length="all-round")
        used = {"strike", "range"}
        for plan in (make_case_plan(), tube, make_case_plan(joint="butt", length_mm=250)):
            for step in build_case_steps(plan).steps:
                used |= {cue.key for cue in list_cues(step, 3.0)}
        self.assertEqual(used, set(texts))
        for key, cue in texts.items():
            self.assertEqual(set(cue.texts), set(catalogue.load_cue_languages()))
            figures = {text.count("{") for text in cue.texts.values()}
            self.assertEqual(len(figures), 1, key)
        # No two cues sound the same.
        self.assertEqual(len({cue.tones for cue in texts.values()}), len(texts))
