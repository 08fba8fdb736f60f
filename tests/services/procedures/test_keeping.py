"""Drafts, revisions and archived procedures."""

import json
import unittest
from unittest import mock

import peewee

from tests.samples import CORNER, TEE, run, typed
from tests.store_case import StoreCase
from wisearc.core.errors import InputError
from wisearc.core.joint.data import make_joint
from wisearc.core.shop.shop import ASSUMED
from wisearc.formats.procedure_json import write_procedure_file
from wisearc.services.maintenance import demo
from wisearc.services.procedures import library_search, procedure_files, procedures
from wisearc.services.runs import runs
from wisearc.store import queries
from wisearc.store.database import db
from wisearc.store.errors import EditConflict, Missing, NotAllowed
from wisearc.store.models import Procedure, RunRow

LONGER = {**CORNER, "length": "400 mm"}


class SavedDrafts(StoreCase):
    def keep(self, data: dict = CORNER, **more):
        return procedures.keep_draft(make_joint(data), ASSUMED, **more)

    def test_complete_sequence(self) -> None:
        kept = self.keep()
        self.assertEqual((kept.procedure.label, kept.letter, kept.status), ("P-0001", "A", "draft"))
        _, proved = runs.record_run("P-0001", "A", typed(run(good=False)))
        self.assertFalse(proved)
        _, proved = runs.record_run("P-0001", "A", typed(run()))
        self.assertTrue(proved)
        self.assertEqual(queries.get_revision("P-0001").status, "proved")
        later = procedures.revise("P-0001", make_joint(LONGER), ASSUMED)
        self.assertEqual((later.letter, later.status), ("B", "draft"))
        runs.record_run("P-0001", "B", typed(run()))
        self.assertEqual(
            [(r.letter, r.status) for r in queries.list_revisions(kept.procedure)],
            [("A", "superseded"), ("B", "proved")],
        )

    def test_sent_twice_is_kept_once(self) -> None:
        self.assertEqual(self.keep(once="t1").id, self.keep(once="t1").id)
        for _ in range(2):
            runs.record_run("P-0001", "A", typed(run(good=False)), once="r1")
        self.assertEqual((Procedure.select().count(), RunRow.select().count()), (1, 1))
        runs.record_run("P-0001", "A", typed(run()))
        for _ in range(2):
            procedures.revise("P-0001", make_joint(LONGER), ASSUMED, once="v1")
        self.assertEqual(len(queries.list_revisions(queries.get_procedure("P-0001"))), 2)

    def test_two_people_edit_one_draft(self) -> None:
        kept = self.keep()
        procedures.save_draft("P-0001", make_joint(LONGER), kept.edit, ASSUMED)
        with self.assertRaisesRegex(EditConflict, "changed by someone else"):
            procedures.save_draft(
                "P-0001", make_joint({**CORNER, "length": "500 mm"}), kept.edit, ASSUMED
            )
        self.assertIn("400", json.dumps(queries.get_revision("P-0001").joint))
        procedures.save_draft(
            "P-0001", make_joint({**CORNER, "length": "500 mm"}), kept.edit + 1, ASSUMED
        )

    def test_saving_the_same_is_nothing(self) -> None:
        kept = self.keep()
        self.assertEqual(
            procedures.save_draft("P-0001", make_joint(CORNER), 99, ASSUMED).edit, kept.edit
        )

    def test_proved_is_not_edited(self) -> None:
        kept = self.keep()
        runs.record_run("P-0001", "A", typed(run()))
        with self.assertRaises(NotAllowed):
            procedures.save_draft("P-0001", make_joint(LONGER), kept.edit, ASSUMED)
        with self.assertRaisesRegex(NotAllowed, "Nothing differs"):
            procedures.revise("P-0001", make_joint(CORNER), ASSUMED)
        procedures.revise("P-0001", make_joint(LONGER), ASSUMED)
        with self.assertRaisesRegex(NotAllowed, "already has draft B"):
            procedures.revise("P-0001", make_joint({**CORNER, "length": "500 mm"}), ASSUMED)

    def test_the_same_is_no_attempt(self) -> None:
        self.keep()
        with self.assertRaisesRegex(NotAllowed, "has no run yet"):
            procedures.save_next_draft("P-0001", make_joint(LONGER), ASSUMED)
        runs.record_run("P-0001", "A", typed(run(good=False)))
        with self.assertRaisesRegex(NotAllowed, "Nothing differs"):
            procedures.save_next_draft("P-0001", make_joint(CORNER), ASSUMED)
        made = procedures.save_next_draft("P-0001", make_joint(LONGER), ASSUMED)
        self.assertEqual((made.letter, made.status), ("B", "draft"))

    def test_draft_with_runs_keeps_their_plan(self) -> None:
        kept = self.keep()
        runs.record_run("P-0001", "A", typed(run(good=False)))
        with self.assertRaisesRegex(NotAllowed, "has runs"):
            procedures.save_draft("P-0001", make_joint(LONGER), kept.edit, ASSUMED)

    def test_runs_that_cannot_verify(self) -> None:
        self.keep()
        for bad in (
            {"faults": ["crater-crack"]},
            {"back": {"colour": "sugar"}},
            {"front": {"colour": "grey"}},
        ):
            with (
                self.subTest(bad=bad),
                self.assertRaisesRegex(InputError, "Record the run as not good"),
            ):
                runs.record_run("P-0001", "A", typed(run(**bad)))
        self.keep({**TEE, "filler": "ER70S-2"})
        with self.assertRaisesRegex(InputError, "has a stop"):
            runs.record_run("P-0002", "A", typed(run(TEE)))
        self.assertEqual(RunRow.select().count(), 0)

    def test_superseded_takes_no_run(self) -> None:
        self.keep()
        runs.record_run("P-0001", "A", typed(run()))
        procedures.revise("P-0001", make_joint(LONGER), ASSUMED)
        runs.record_run("P-0001", "B", typed(run()))
        with self.assertRaisesRegex(NotAllowed, "superseded"):
            runs.record_run("P-0001", "A", typed(run()))

    def test_the_same_token_with_other_content_is_not_dropped(self) -> None:
        self.keep(once="t1")
        self.keep(LONGER, once="t1")
        self.assertEqual(Procedure.select().count(), 2)
        for notes in ("one", "two", "one"):
            runs.record_run("P-0001", "A", typed(run(good=False, notes=notes)), once="r1")
        self.assertEqual([r.record["notes"] for r in RunRow.select()], ["one", "two"])

    def test_future_date(self) -> None:
        self.keep()
        noon = lambda: "2026-03-04T12:00:00Z"  # noqa: E731
        with self.assertRaisesRegex(InputError, "in the future"):
            runs.record_run("P-0001", "A", typed(run(when="2026-03-06")), at=noon)
        # somewhere it is the fifth already
        runs.record_run("P-0001", "A", typed(run(when="2026-03-05")), at=noon)

    def test_as_many_runs_as_a_revision_carries(self) -> None:
        self.keep()
        with mock.patch.object(runs, "MAX_RUNS", 2):
            for _ in range(2):
                runs.record_run("P-0001", "A", typed(run(good=False)))
            with self.assertRaisesRegex(NotAllowed, "has 2 runs, which is the maximum"):
                runs.record_run("P-0001", "A", typed(run(good=False)))
        with (
            mock.patch.object(runs, "MAX_RUNS_BYTES", 900),
            self.assertRaisesRegex(NotAllowed, "which is the maximum"),
        ):
            runs.record_run("P-0001", "A", typed(run(good=False, notes="x" * 500)))

    def test_numbers_have_six_digits(self) -> None:
        for number, then in ((999_998, 999_999), (999_999, 1)):
            Procedure.get_or_create(number=number, defaults={"created_at": "x"})
            self.assertEqual(queries.find_next_number(), then)
        for number in (1, 2):
            Procedure.create(number=number, created_at="x")
        self.assertEqual(queries.find_next_number(), 3)
        with self.assertRaises(peewee.IntegrityError):
            Procedure.create(number=1_000_000, created_at="x")
        with mock.patch.object(queries, "MAX_NUMBER", 2):
            Procedure.delete().where(Procedure.number > 2).execute()
            with self.assertRaisesRegex(NotAllowed, "library is full"):
                queries.find_next_number()

    def test_bad_runs(self) -> None:
        self.keep()
        for bad, field in (
            ({"when": "yesterday"}, "when"),
            ({"who": ""}, "who"),
            ({"who": " "}, "who"),
            ({"who": "R.T.\n"}, "who"),
            ({"machine": "a\tb"}, "machine"),
            ({"when": "2026-02-30"}, "when"),
            ({"when": "2026-03-04\n"}, "when"),
            ({"measured": {"bead_mm": 10**400}}, "measured.bead_mm"),
            ({"measured": {"bead_mm": float("nan")}}, "measured.bead_mm"),
            ({"measured": {"bead_mm": float("inf")}}, "measured.bead_mm"),
            ({"front": {"colour": "pink"}}, "front.colour"),
            ({"faults": ["rain"]}, "faults[0]"),
            ({"set": {"current_a": -1}}, "set.current_a"),
            ({"measured": {"speed": 1}}, "measured.speed"),
            ({"extra": 1}, "extra"),
        ):
            with self.subTest(bad=bad), self.assertRaises(InputError) as caught:
                runs.record_run("P-0001", "A", typed(run(**bad)))
            self.assertEqual(caught.exception.field, field)


class ArchivedDrafts(StoreCase):
    """Archived drafts and voided runs: each can be undone, and nothing verified is ever lost."""

    def setUp(self) -> None:
        super().setUp()
        procedures.keep_draft(make_joint(CORNER), ASSUMED)

    def listed(self, status: str = "") -> list[str]:
        return [
            f"{row.label} {row.letter} {row.runs}/{row.good}"
            for row in library_search.list_procedures(status=status)[0]
        ]

    def test_a_draft_away_and_back(self) -> None:
        runs.record_run("P-0001", "A", typed(run(good=False)))
        procedures.archive_draft("P-0001", "A")
        self.assertEqual((self.listed(), self.listed("removed")), ([], ["P-0001 A 1/0"]))
        self.assertEqual(library_search.list_procedures("304L"), ([], 0))
        self.assertEqual(library_search.list_procedures("304L", "removed")[1], 1)
        for write in (
            lambda: runs.record_run("P-0001", "A", typed(run())),
            lambda: procedures.save_draft("P-0001", make_joint(LONGER), 1, ASSUMED),
            lambda: procedures.revise("P-0001", make_joint(LONGER), ASSUMED),
        ):
            with self.assertRaisesRegex(NotAllowed, "P-0001 A is archived. Restore it first"):
                write()
        self.assertEqual(
            procedures.keep_draft(make_joint(LONGER), ASSUMED).procedure.label, "P-0002"
        )
        procedures.restore_draft("P-0001", "A")
        self.assertEqual(self.listed(), ["P-0002 A 0/0", "P-0001 A 1/0"])

    def test_a_later_draft_has_a_letter_of_its_own(self) -> None:
        runs.record_run("P-0001", "A", typed(run()))
        procedures.revise("P-0001", make_joint(LONGER), ASSUMED)
        procedures.archive_draft("P-0001", "B")
        self.assertEqual(queries.get_revision("P-0001").letter, "A")
        self.assertEqual(procedures.revise("P-0001", make_joint(LONGER), ASSUMED).letter, "C")
        with self.assertRaisesRegex(NotAllowed, "already has draft C"):
            procedures.restore_draft("P-0001", "B")
        procedures.archive_draft("P-0001", "C")
        self.assertIsNone(procedures.restore_draft("P-0001", "B").removed_at)

    def test_retired_procedure_is_out_of_the_list_and_restored(self) -> None:
        runs.record_run("P-0001", "A", typed(run()))
        procedures.revise("P-0001", make_joint(LONGER), ASSUMED)
        procedures.archive_draft("P-0001", "B", lambda: "2026-03-01T08:00:00Z")
        retired = procedures.retire_procedure("P-0001", lambda: "2026-05-01T08:00:00Z")
        self.assertEqual((retired.letter, self.listed()), ("B", []))
        with self.assertRaisesRegex(NotAllowed, "is archived"):
            runs.record_run("P-0001", "A", typed(run()))
        data = write_procedure_file(procedure_files.build_file(queries.get_revision("P-0001", "A")))
        self.assertEqual(data["removed"], "2026-05-01T08:00:00Z")
        procedures.restore_procedure("P-0001")
        # The draft was archived before, so it stays archived.
        self.assertEqual(self.listed(), ["P-0001 A 1/1"])
        self.assertTrue(queries.get_revision("P-0001", "B").removed_at)

    def test_verified_stays_under_concurrent_writes(self) -> None:
        runs.record_run("P-0001", "A", typed(run()))
        with self.assertRaisesRegex(NotAllowed, "only a draft can"):
            procedures.archive_draft("P-0001", "A")
        for statement in (
            "UPDATE revision SET status = 'draft'",
            "DELETE FROM revision",
            "DELETE FROM run",
            "UPDATE run SET record = '{}'",
            "UPDATE run SET good = 0",
        ):
            with self.subTest(statement), self.assertRaises(peewee.IntegrityError):
                db.execute_sql(statement)

    def test_run_voided_and_restored(self) -> None:
        for good in (False, True, True):
            runs.record_run("P-0001", "A", typed(run(good=good)))
        bad, first, last = RunRow.select().order_by(RunRow.id)
        for struck in (bad, first):
            runs.void_run("P-0001", "A", struck.id, " K.S. ", lambda: "2026-05-01T08:00:00Z")
        self.assertEqual(self.listed(), ["P-0001 A 1/1"])
        with self.assertRaisesRegex(NotAllowed, "This run verifies P-0001 A"):
            runs.void_run("P-0001", "A", last.id, "K.S.")
        told = procedure_files.build_file(queries.get_revision("P-0001")).runs
        self.assertEqual(
            [(r.get("voided"), r.get("voided_by")) for r in told],
            [("2026-05-01T08:00:00Z", "K.S.")] * 2 + [(None, None)],
        )
        runs.restore_run("P-0001", "A", first.id)
        self.assertEqual(self.listed(), ["P-0001 A 2/2"])

    def test_signed(self) -> None:
        made, _ = runs.record_run("P-0001", "A", typed(run(good=False)))
        for who in ("", " ", "a\nb", "x" * 61):
            with self.subTest(who=who), self.assertRaises(InputError):
                runs.void_run("P-0001", "A", made.id, who)
        with self.assertRaises(Missing):
            runs.void_run("P-0001", "A", made.id + 1, "K.S.")


class Demo(StoreCase):
    def test_fills_once(self) -> None:
        self.assertTrue(demo.fill_if_empty(self.store))
        rows, found = library_search.list_procedures()
        self.assertEqual(found, len(rows))
        self.assertTrue(35 <= RunRow.select().count() <= 60)
        self.assertEqual({row.status for row in rows}, {"draft", "proved", "superseded"})
        self.assertFalse(demo.fill_if_empty(self.store))


if __name__ == "__main__":
    unittest.main()
