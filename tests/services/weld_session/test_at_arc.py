"""Actions of a run that a device sends: each is accepted once, in order."""

from unittest import mock

from tests.samples import typed
from tests.services.weld_session.case import LINK, Case
from wisearc.core.errors import InputError
from wisearc.core.physics.purge import PurgeRequest
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.purge import purge_run
from wisearc.services.set_up.tacking import TACKS
from wisearc.services.weld_session import session_messages, session_view, weld_session
from wisearc.services.weld_session.arc_source import Sources
from wisearc.store import purges


class Taken(Case):
    def test_taken_once_however_often_it_is_sent(self) -> None:
        told = self.whole()
        for upto in (2, 2, 4, 6, 6):
            row = self.take(self.sent(told[:upto]))
        self.assertEqual(len(weld_session.list_acts(row)), 6)
        self.assertEqual(self.steps(row)[-1], "wait")
        self.assertEqual(
            [(r.id, on) for r, on in weld_session.list_unrecorded(clock=lambda: self.now)],
            [(row.id, True)],
        )

    def test_as_long_as_initials_and_a_job_may_be(self) -> None:
        for key, most, end in (("who", 60, ""), ("job", 80, "/1")):
            text = f"3:{'x' * (most - 2 - len(end))}{end}"
            self.sent(**{key: text})
            with self.subTest(key=key), self.assertRaisesRegex(InputError, str(most)):
                self.sent(**{key: f"3{text}"})

    def test_invalid_job_name_is_refused(self) -> None:
        for name in ("plainword", "3", "3:c1", "x:c1/1", "3:/1", "3:c1/x", "1234567890:c1/1"):
            with self.subTest(name), self.assertRaisesRegex(InputError, "must be a run of a job"):
                self.sent(job=name)
        self.assertEqual(self.sent(job="3:c/1/12").job, "3:c/1/12")

    def test_future_actions_are_refused(self) -> None:
        day = 24 * 3600.0
        for late in (0.0, 500.0):
            at = 1000.0 + day - late
            self.now = 201_000_000.0
            self.take(self.sent([(at - 1, "bars-on", "skip")], once=f"run-{late:g}-ok"))
            for more in (
                {"acts": [(1000.0 + day + 1, "bars-on", "skip")]},
                {"began": 1001.0 + day},
            ):
                with self.assertRaisesRegex(InputError, "more than a day in the future"):
                    self.take(self.sent(**more, once=f"run-{late:g}-no"))
        self.assertEqual(len(weld_session.list_unrecorded(clock=lambda: self.now)), 2)

    def test_a_clock_that_is_out_by_ten_years_is_none(self) -> None:
        ten_years, self.now = 10 * 365 * 24 * 3600, 1e9
        for out, refused in ((ten_years - 60, False), (ten_years + 60, True)):
            for now in (self.now - out, self.now + out):
                sent = self.sent([], now=now, once=f"clock-{round(now)}")
                with self.subTest(now=now):
                    if refused:
                        with self.assertRaisesRegex(InputError, "wrong by years"):
                            self.take(sent)
                    else:
                        self.take(sent)

    def test_wrong_device_clock_is_corrected(self) -> None:
        row = self.take(self.sent(self.whole()[:2]))
        # 1000 on the device is now here
        self.assertAlmostEqual(row.began, self.now - 100)
        self.assertAlmostEqual(weld_session.list_acts(row)[0].at, self.now - 90)

    def test_delayed_events_keep_their_order(self) -> None:
        told = [*self.whole()[:1], (920.0, "ready-1", "main"), (920.4, "pool-1", "main")]
        # the second took 0.9 s to come, the third no time
        self.take(self.sent(told[:1], now=910.1))
        self.now += 10.9
        self.take(self.sent(told[:2], now=920.1))
        self.now -= 0.5
        row = self.take(self.sent(told, now=920.5))
        self.assertEqual(self.steps(row)[-1], "seam-1")
        at = [a.at for a in weld_session.list_acts(row)]
        self.assertAlmostEqual(at[2] - at[1], 0.4, places=6)

    def test_late_event_next_to_another_persons_event(self) -> None:
        told = self.whole()
        row = self.take(self.sent(told[:1]))
        other = self.sent([(925.0, "seam-1", "main")], device="device-two")
        self.take(other)
        row = self.take(self.sent(told))
        course = session_view.view(
            row, LINK, "", self.plan, ASSUMED, "mm", None, lambda: self.now
        ).course
        # The event of the other device came before this step by its clock: reported, and rejected.
        self.assertEqual([a.device for a in course.rejected], ["device-two"])
        self.assertEqual(course.step.key, "wait")

    def test_impossible_event_is_refused_and_nothing_saved(self) -> None:
        for more in (
            {"once": "x"},
            {"device": "<b>"},
            {"now": float("nan")},
            {"began": "then"},
            {"acts": [{"id": "a" * 9}]},
            {"acts": [{}] * 3000},
            {"more": 1},
            {"what": 3},
        ):
            with self.subTest(str(more)[:60]), self.assertRaises(InputError):
                session_messages.read_sent(
                    {
                        "what": LINK,
                        "job": "",
                        "once": "run-number-1",
                        "who": "",
                        "device": "device-one",
                        "began": 1.0,
                        "now": 1.0,
                        "acts": [],
                        **more,
                    }
                )
        self.take(self.sent())
        with self.assertRaisesRegex(InputError, "belongs to another run"):
            self.take(self.sent(what="joint=lap"))
        with self.assertRaisesRegex(InputError, "wrong by years"):
            self.take(self.sent(now=1e10, once="run-number-2"))

    def test_maximum_number_of_actions(self) -> None:
        with mock.patch.object(weld_session, "MAX_ACTS", 6):
            self.take(self.sent(self.whole()[:3]))
            self.take(self.sent(self.whole()[:3], device="device-two"))
            with self.assertRaisesRegex(InputError, "exceed the maximum"):
                self.take(self.sent(self.whole()[:1], device="device-three"))

    def test_lines_are_ticked_and_completion_is_reported(self) -> None:
        row = self.take(
            self.sent(
                [
                    (905.0, "bars-on", "main"),
                    (906.0, "tack-1", "main"),
                    (907.0, "tack-2", "skip"),
                    *[(t, s, k) for t, s, k in self.whole() if s != "bars-on"],
                ]
            )
        )
        # Passed steps are ticked: a skipped step means existing tacks.
        self.assertEqual(
            set(purges.list_ticks(LINK, TACKS)), {"bars-on", "tack-1", "tack-2", "weld-1"}
        )
        self.assertIsNone(row.ended)
        done = self.take(self.sent([(990.0, "wait", "main")], device="device-two"))
        self.assertAlmostEqual(done.ended, self.now - 10)

    def test_purge_records_the_arc_start(self) -> None:
        number = purge_run.begin(LINK, "A corner", PurgeRequest(), None, lambda: self.now - 95)
        self.take(self.sent(self.whole()))
        purge = purges.purge(number)
        self.assertAlmostEqual(purge.started, self.now - 80)
        self.assertAlmostEqual(purge.arc_off, self.now - 50)

    def test_session_is_resumed_unchanged(self) -> None:
        sources = Sources(self.folder)
        self.addCleanup(sources.close)
        clock = lambda: self.now  # noqa: E731
        row = self.take(self.sent(self.whole()[:3]))
        weld_session.connect(row, "9999")
        row = weld_session.get_run(row.id)
        source = weld_session.get_source(row, self.plan, sources)
        began = row.began
        weld_session.stop_run(row, sources, clock)
        self.assertTrue(source._closed.is_set())
        self.assertIsNone(weld_session.find_current(LINK, "", clock))
        self.assertEqual(weld_session.list_unrecorded(clock=clock), [])
        self.assertEqual(weld_session.find_left_run(row.id).id, row.id)
        self.assertIsNone(weld_session.get_source(weld_session.get_run(row.id), self.plan, sources))
        # Pending events of a device are saved, and do not resume the session; new ones do.
        self.take(self.sent(self.whole()[:4]))
        self.assertIsNotNone(weld_session.find_left_run(row.id))
        weld_session.resume_run(row)
        again = weld_session.find_current(LINK, "", clock)
        self.assertEqual((again.id, again.began), (row.id, began))
        self.assertIsNone(weld_session.find_left_run(row.id))
        weld_session.stop_run(row, sources, clock)
        self.now += 20
        self.take(self.sent([*self.whole()[:4], (1010.0, "taper-1", "main")], now=1020.0))
        self.assertEqual(weld_session.find_current(LINK, "", clock).id, row.id)

    def test_each_that_is_not_written_down_can_be_reached(self) -> None:
        clock = lambda: self.now  # noqa: E731
        first = self.take(self.sent(self.whole()[:3]))
        second = self.take(self.sent(self.whole()[:1], device="device-two", once="run-number-2"))
        # The page of the subject continues with the newest.
        self.assertEqual(
            [(r.id, on) for r, on in weld_session.list_unrecorded(clock=clock)],
            [(second.id, True), (first.id, False)],
        )
        self.now += weld_session.FRESH_S
        self.assertEqual(
            [on for _, on in weld_session.list_unrecorded(clock=clock)], [False, False]
        )

    def test_source_is_released_when_the_run_is_finished(self) -> None:
        sources = Sources(self.folder)
        self.addCleanup(sources.close)
        row = self.take(self.sent(self.whole()))
        weld_session.connect(row, "9999")
        source = weld_session.get_source(weld_session.get_run(row.id), self.plan, sources)
        self.assertFalse(source._closed.is_set())
        done = self.take(self.sent([(990.0, "wait", "main")], device="device-two"))
        self.assertIsNone(weld_session.get_source(done, self.plan, sources))
        self.assertTrue(source._closed.is_set())

    def test_difference_from_the_last_run_is_marked(self) -> None:
        plan = self.plan
        told = {"current_a": plan.slopes.dial_a * 1.1, "flow_l_min": plan.gas.flow_l_min}
        last = typed({"set": told})
        figures = session_view.view(None, LINK, "run-number-1", plan, ASSUMED, "mm", last).figures[
            "ready-1"
        ]
        self.assertEqual([bool(f.was) for f in figures], [True, False, False])
