"""Saved tries, their owners, drills, and the course that real runs propose lessons for."""

import unittest
from typing import Any
from urllib.parse import parse_qsl

from tests.samples import member, run, typed
from tests.store_case import StoreCase
from wisearc.core import catalogue
from wisearc.core.errors import InputError
from wisearc.core.joint.data import make_joint
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.errors import Missing
from wisearc.services.practice import drills, tries
from wisearc.services.practice.course import Helped, build_course
from wisearc.services.practice.learners import (
    OPEN_S,
    Learner,
    LearnerSessions,
    create_secret,
    get_device_key,
)
from wisearc.services.practice.subjects import find_subject
from wisearc.services.procedures import procedures
from wisearc.services.runs import runs
from wisearc.store.models import PracticeTry, RunRow

BUTT = {"joint": "butt", "members": [member(), member()], "length_mm": 120}
MINE, OTHER = Learner("device:mine"), Learner("device:other")


def at(day: str) -> Any:
    return lambda: f"{day}T10:00:00Z"


class Tries(StoreCase):
    def save(
        self, score: float, lesson: str = "flat", day: str = "2026-05-04", once: str = ""
    ) -> int:
        row = tries.keep_try(
            MINE.key, "flat", tries.SEAM, "t", score, {"a": 1}, {"samples": []}, once, at(day)
        )
        return int(row.id)

    def test_progress(self) -> None:
        self.assertIsNone(tries.find_progress(MINE.key, "flat").best)
        for score in (40, 85, 60, 82, 91):
            self.save(score)
        progress = tries.find_progress(MINE.key, "flat")
        self.assertEqual((progress.best, progress.first, progress.in_a_row), (91, 40, 2))
        self.assertTrue(progress.passed)
        # A later bad day takes nothing away.
        self.save(10)
        self.assertTrue(tries.find_progress(MINE.key, "flat").passed)
        self.assertFalse(tries.find_progress(MINE.key, "pace").tries)

    def test_sent_twice_is_one_try(self) -> None:
        self.assertEqual(self.save(50, once="k"), self.save(50, once="k"))
        self.assertNotEqual(self.save(50, once="k2"), self.save(50, once="k3"))

    def test_bad_values(self) -> None:
        for score, kind in ((101, "seam"), (-1, "seam"), (50, "other")):
            with self.assertRaises(InputError):
                tries.keep_try(MINE.key, "", kind, "t", score, {})

    def test_nobody_sees_the_tries_of_another(self) -> None:
        number = self.save(50)
        self.assertEqual(tries.list_own(OTHER.key), [])
        with self.assertRaises(Missing):
            tries.read_saved_track(OTHER.key, number)
        tries.remove_try(OTHER.key, number, back=False)
        self.assertEqual(tries.delete_everything(OTHER.key), 0)
        self.assertEqual(len(tries.list_own(MINE.key)), 1)
        self.assertEqual(tries.read_saved_track(MINE.key, number), {"samples": []})

    def test_removed_and_restored(self) -> None:
        number = self.save(50)
        tries.remove_try(MINE.key, number, back=False)
        self.assertEqual(tries.list_own(MINE.key), [])
        tries.remove_try(MINE.key, number, back=True)
        self.assertEqual(len(tries.list_own(MINE.key)), 1)

    def test_weeks(self) -> None:
        for day, score in (("05-04", 40), ("05-06", 80), ("05-12", 70)):
            self.save(score, day=f"2026-{day}")
        self.save(9, day="2020-01-01")
        weeks = tries.list_weeks(MINE.key, "2026-05-14T00:00:00Z")
        self.assertEqual(
            [(w.monday, w.count, w.best, w.middle) for w in weeks],
            [("2026-05-04", 2, 80, 80), ("2026-05-11", 1, 70, 70)],
        )

    def test_export_and_deletion(self) -> None:
        self.save(50)
        drills.record_attempt("restart", MINE, 1.5, "n", "k")
        data = tries.export_tries(MINE.key, drills.list_all_attempts(MINE))
        self.assertEqual(data["tries"][0]["track"], {"samples": []})  # type: ignore[index,call-overload]
        self.assertEqual(data["drills"][0]["drill"], "restart")  # type: ignore[index,call-overload]
        self.assertEqual(tries.delete_everything(MINE.key), 1)
        empty = tries.export_tries(MINE.key, drills.list_all_attempts(MINE))
        self.assertEqual((empty["tries"], empty["drills"]), ([], []))

    def test_old_tracks_and_tries_are_forgotten(self) -> None:
        before = tries.MAX_TRACKS, tries.MAX_TRIES
        self.addCleanup(lambda: setattr(tries, "MAX_TRACKS", before[0]))
        self.addCleanup(lambda: setattr(tries, "MAX_TRIES", before[1]))
        tries.MAX_TRACKS, tries.MAX_TRIES = 2, 4
        for score in range(6):
            self.save(score)
        rows = list(PracticeTry.select().order_by(PracticeTry.id))
        self.assertEqual([row.score for row in rows], [2, 3, 4, 5])
        self.assertEqual([row.track is None for row in rows], [True, True, False, False])

    def test_a_device_becomes_a_person(self) -> None:
        self.save(50)
        drills.record_attempt("restart", MINE, 1.5, "", "")
        tries.transfer(MINE.key, "person:3")
        self.assertEqual(len(tries.list_own("person:3")), 1)
        self.assertEqual(tries.list_own(MINE.key), [])
        person = Learner("person:3", "R.T.")
        self.assertEqual(len(drills.build_drill_view("restart", person).tries), 1)


class Owners(unittest.TestCase):
    def test_the_secret_is_not_saved(self) -> None:
        secret = create_secret()
        self.assertNotIn(secret, get_device_key(secret))
        self.assertNotEqual(get_device_key(secret), get_device_key(create_secret()))

    def test_a_pin_opens_for_a_working_day(self) -> None:
        now = [0.0]
        sessions = LearnerSessions(lambda: now[0])
        self.assertEqual(sessions.open("s", 3, "R.T."), Learner("person:3", "R.T."))
        self.assertEqual(sessions.find("s").initials, "R.T.")
        self.assertEqual(sessions.find("t").initials, "")
        now[0] = OPEN_S + 1
        self.assertEqual(sessions.find("s"), Learner(get_device_key("s")))
        sessions.open("s", 3, "R.T.")
        sessions.close("s")
        self.assertEqual(sessions.find("s").initials, "")


class Drills(StoreCase):
    def test_three_in_a_row(self) -> None:
        for i, value in enumerate((3.0, 2.0, 1.9, 1.2)):
            drills.record_attempt("restart", MINE, value, "", f"k{i}")
        drills.record_attempt("restart", MINE, 1.2, "", "k3")
        view = drills.build_drill_view("restart", MINE)
        self.assertEqual((view.in_a_row, view.done), (3, True))
        self.assertEqual([one.met for one in view.tries], [1, 1, 1, 0])
        self.assertEqual(drills.list_done_drills(MINE), {"restart"})
        drills.remove_attempt(OTHER, "", view.tries[0].id)
        self.assertTrue(drills.build_drill_view("restart", MINE).done)
        drills.remove_attempt(MINE, "", view.tries[0].id)
        self.assertFalse(drills.build_drill_view("restart", MINE).done)
        self.assertEqual(drills.build_drill_view("restart", OTHER).tries, [])
        # An attempt of a drill verifies nothing.
        self.assertEqual(RunRow.select().count(), 0)

    def test_attempts_from_before_owners_belong_to_their_initials(self) -> None:
        row = drills.record_attempt("restart", MINE, 1.0, "", "")
        row.learner, row.hand = None, "RT"
        row.save()
        self.assertEqual(len(drills.build_drill_view("restart", OTHER, "r.t.").tries), 1)
        self.assertEqual(drills.build_drill_view("restart", OTHER, "k.s.").tries, [])
        self.assertEqual(drills.build_drill_view("restart", OTHER).tries, [])

    def test_bad_values(self) -> None:
        for key, value, note in (
            ("restart", -0.1, ""),
            ("restart", 10_000.1, ""),
            ("restart", 1.0, "x" * 301),
            ("touch", 0.5, ""),
        ):
            with self.assertRaises(InputError):
                drills.record_attempt(key, MINE, value, note, "")
        with self.assertRaises(Missing):
            drills.record_attempt("none", MINE, 1.0, "", "")
        for i in range(32):
            drills.record_attempt("restart", MINE, 1.0, "", f"m{i}")
        self.assertEqual(len(drills.build_drill_view("restart", MINE).tries), 30)


class TheCourse(StoreCase):
    def test_order_of_the_handbook(self) -> None:
        """Handbook 16: the teaching order; reading of beads at its end. Common practice."""
        self.assertEqual(
            list(catalogue.load_lessons()),
            [
                *("torch", "grind", "flat", "pace", "restart", "taper", "rod", "tacks"),
                *("corner", "lap", "tee", "butt", "tube", "reading"),
            ],
        )
        for lesson in catalogue.load_lessons().values():
            self.assertTrue(lesson.drills and lesson.mistakes and lesson.judge, lesson.key)
            self.assertEqual(lesson.seam is not None, lesson.exercise in ("seam", "tacks"))

    def test_done_by_evidence_on_screen_and_on_metal(self) -> None:
        def state() -> Any:
            return build_course(MINE, "").lessons[2]

        self.assertFalse(state().is_begun)
        for score in (85, 90):
            tries.keep_try(MINE.key, "flat", tries.SEAM, "t", score, {})
        self.assertEqual((state().on_screen, state().on_metal), (True, False))
        self.assertFalse(state().is_done)
        for i in range(3):
            drills.record_attempt("flat", MINE, 0.3, "", f"k{i}")
        self.assertTrue(state().is_done)
        course = build_course(MINE, "")
        self.assertEqual(course.done, 1)
        self.assertEqual(course.following and course.following.lesson.key, "torch")
        self.assertEqual(build_course(OTHER, "").done, 0)

    def weld(self, day: str, *flaws: str) -> None:
        data = run({key: value for key, value in BUTT.items() if key not in ("format", "version")})
        made = data | {"good": not flaws, "faults": list(flaws), "when": day, "who": "R.T."}
        runs.record_run("P-0001", "A", typed(made))

    def test_real_runs_propose_a_lesson_and_show_its_effect(self) -> None:
        procedures.keep_draft(make_joint(BUTT), ASSUMED)
        for n in range(4):
            self.weld(f"2026-04-0{n + 1}", *(["crater-crack"] if n < 3 else []))
        (proposal,) = build_course(MINE, "R.T.").proposals
        self.assertEqual((proposal.state.lesson.key, proposal.count, proposal.of), ("taper", 3, 4))
        self.assertIsNone(proposal.helped)
        self.assertEqual(build_course(MINE, "K.S.").proposals, ())
        self.assertEqual(build_course(MINE, "").proposals, ())
        tries.keep_try(MINE.key, "taper", tries.SEAM, "t", 50, {}, at=at("2026-04-10"))
        for n in range(3):
            self.weld(f"2026-04-2{n}")
        (proposal,) = build_course(MINE, "R.T.").proposals
        assert proposal.helped is not None
        self.assertEqual(proposal.helped, Helped(3, 4, 0, 3))
        self.assertTrue(proposal.helped.is_known and proposal.helped.is_better)

    def test_effect_needs_several_runs(self) -> None:
        self.assertFalse(Helped(1, 2, 0, 9).is_known)
        self.assertFalse(Helped(1, 4, 1, 4).is_better)


class Subjects(StoreCase):
    def test_lesson_link_and_errors(self) -> None:
        lesson = find_subject("restart")
        self.assertTrue(lesson.has_stop)
        self.assertEqual(lesson.query, {"lesson": "restart"})
        typed = "joint=lap&a.metal=304L&a.form=sheet&a.thickness=1.5+mm&length=300+mm"
        link = find_subject(link=parse_qsl(typed), has_stop=True)
        self.assertEqual(link.plan.joint["joint"], "lap")
        self.assertEqual(link.query["stop"], "yes")
        for wrong in ("", "joint=lap&gap=wide"):
            with self.assertRaises(Missing):
                find_subject(link=parse_qsl(wrong))
        for key in ("none", "torch"):
            with self.assertRaises(Missing):
                find_subject(key)
