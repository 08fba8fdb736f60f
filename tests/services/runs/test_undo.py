"""Undo of the last act on a record, and two people who correct one run."""

import unittest

from tests.samples import CORNER, run, typed
from tests.store_case import StoreCase
from wisearc.core.joint.data import make_joint
from wisearc.core.run.inspection import Inspection
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.errors import EditConflict, NotAllowed
from wisearc.services.people.people import Person
from wisearc.services.procedures import procedures
from wisearc.services.procedures.signatures import add_signature
from wisearc.services.runs import later_entries, runs
from wisearc.services.runs.undo import find_last_act, undo_act
from wisearc.store import queries, record_acts
from wisearc.store.models import RecordAct, Revision, RunRow

LONGER = {**CORNER, "length": "400 mm"}


class Undo(StoreCase):
    def setUp(self) -> None:
        super().setUp()
        procedures.keep_draft(make_joint(CORNER), ASSUMED)

    def revision(self, letter: str = "A") -> Revision:
        return queries.get_revision("P-0001", letter)

    def undo(self) -> Revision:
        act = find_last_act(self.revision())
        return undo_act("P-0001", act.id, "K.S.")

    def state(self, letter: str = "A") -> tuple[object, ...]:
        row = self.revision(letter)
        valid = [one.id for one in queries.list_runs(row) if one.voided_at is None]
        return row.status, row.proved_at, row.verifying_run, row.removed_at, row.title, valid

    def record(self, letter: str = "A", **more: object) -> RunRow:
        joint = CORNER if letter == "A" else LONGER
        return runs.record_run("P-0001", letter, typed(run(joint, **more)))[0]

    def test_new_draft(self) -> None:
        self.undo()
        self.assertTrue(self.revision().removed_at)
        self.assertIsNone(find_last_act(self.revision()))

    def test_edit_of_a_draft(self) -> None:
        before = self.revision()
        procedures.save_draft("P-0001", make_joint(LONGER), before.edit, ASSUMED)
        self.assertNotEqual(self.revision().joint, before.joint)
        after = self.undo()
        for key in ("title", "joint", "plan", "bands"):
            self.assertEqual(getattr(after, key), getattr(before, key), key)
        self.assertEqual(after.edit, 3)
        self.assertIn("was saved", find_last_act(self.revision()).text)

    def test_run_that_verified_a_revision(self) -> None:
        before = self.state()
        self.record()
        self.assertEqual(self.state()[0], "proved")
        self.undo()
        self.assertEqual(self.state(), before)
        (row,) = queries.list_runs(self.revision())
        self.assertEqual(row.voided_by, "K.S.")

    def test_run_that_superseded_another_revision(self) -> None:
        self.record()
        procedures.revise("P-0001", make_joint(LONGER), ASSUMED)
        before = self.state("A"), self.state("B")
        self.record("B")
        self.assertEqual([self.state(x)[0] for x in "AB"], ["superseded", "proved"])
        self.undo()
        self.assertEqual((self.state("A"), self.state("B")), before)

    def test_correction(self) -> None:
        made = self.record()
        changed = typed({**made.record, "notes": "another", "machine": "field"})
        runs.correct("P-0001", "A", made.id, changed, "R.T.")
        self.undo()
        (row,) = queries.list_runs(self.revision())
        self.assertEqual(row.record, made.record)
        # The trace has both changes.
        self.assertEqual(len(row.corrections), 2)

    def test_correction_to_not_good(self) -> None:
        made = self.record()
        before = self.state()
        runs.correct("P-0001", "A", made.id, typed({**made.record, "good": False}), "R.T.")
        self.assertEqual(self.state()[0], "draft")
        self.undo()
        self.assertEqual(self.state()[0], before[0])
        self.assertEqual(self.state()[2], made.id)

    def test_voiding_archiving_retiring_and_inspection(self) -> None:
        self.record()
        made = self.record(good=False)
        for act in (
            lambda: runs.void_run("P-0001", "A", made.id, "K.S."),
            lambda: procedures.retire_procedure("P-0001"),
            lambda: later_entries.keep_reading(
                "P-0001", "A", made.id, Inspection(front_tint="blue"), None
            ),
        ):
            before = self.state(), RunRow.get_by_id(made.id).record
            act()
            after = self.state(), RunRow.get_by_id(made.id).record
            self.assertNotEqual(after, before)
            self.undo()
            self.assertEqual((self.state(), RunRow.get_by_id(made.id).record), before)
        procedures.revise("P-0001", make_joint(LONGER), ASSUMED)
        procedures.archive_draft("P-0001", "B")
        self.undo()
        self.assertIsNone(self.revision("B").removed_at)

    def test_acts_are_undone_from_the_last_to_the_first(self) -> None:
        self.record(good=False)
        first = find_last_act(self.revision())
        self.record()
        with self.assertRaisesRegex(EditConflict, "was changed after that"):
            undo_act("P-0001", first.id, "K.S.")
        self.undo()
        self.assertEqual(find_last_act(self.revision()).id, first.id)
        self.undo()
        # Both runs are void and still there.
        self.assertEqual(len(queries.list_runs(self.revision())), 2)
        with self.assertRaisesRegex(NotAllowed, "has runs"):
            self.undo()

    def test_signed_run_stays(self) -> None:
        self.record()
        add_signature("P-0001", "A", "checker", Person(0, "K.S.", "", "lead", True), "K.S.")
        with self.assertRaisesRegex(NotAllowed, "was signed with this run"):
            self.undo()
        self.assertEqual(self.state()[0], "proved")

    def test_same_undo_twice_happens_once(self) -> None:
        self.record(good=False)
        self.record(good=False, when="2026-03-09")
        act = find_last_act(self.revision())
        undo_act("P-0001", act.id, "K.S.")
        with self.assertRaises(EditConflict):
            undo_act("P-0001", act.id, "K.S.")
        self.assertEqual(len(self.state()[-1]), 1)

    def test_only_the_last_acts_are_saved(self) -> None:
        for _ in range(record_acts.MAX_ACTS + 5):
            self.record(good=False)
        self.assertEqual(RecordAct.select().count(), record_acts.MAX_ACTS)


class TwoPeople(StoreCase):
    def test_second_correction_is_held_back(self) -> None:
        procedures.keep_draft(make_joint(CORNER), ASSUMED)
        made, _ = runs.record_run("P-0001", "A", typed(run()))
        first = typed({**made.record, "machine": "field"})
        second = typed({**made.record, "notes": "by the second"})
        runs.correct("P-0001", "A", made.id, first, "R.T.", known=0)
        with self.assertRaisesRegex(EditConflict, "corrected this run after you opened it"):
            runs.correct("P-0001", "A", made.id, second, "R.T.", known=0)
        runs.correct("P-0001", "A", made.id, second, "R.T.", known=1)
        self.assertEqual(len(RunRow.get_by_id(made.id).corrections), 2)


if __name__ == "__main__":
    unittest.main()
