"""Runs corrected by their author, a draft from a run, and constraints of the store."""

import json
import unittest

import peewee
from msgspec.structs import replace

from tests.samples import CORNER, TEE, member, run, typed
from tests.schemas import check
from tests.store_case import StoreCase
from wisearc.core.errors import InputError
from wisearc.core.joint.data import make_joint
from wisearc.core.run.verification import OutsideBands
from wisearc.core.shop.shop import ASSUMED
from wisearc.formats.run_json import read_record
from wisearc.presenters import procedure_page
from wisearc.presenters.runs import RunView
from wisearc.services.maintenance import demo, maintenance
from wisearc.services.procedures import book, library_search, procedure_files, procedures
from wisearc.services.runs import runs
from wisearc.store import queries
from wisearc.store.database import db
from wisearc.store.errors import NotAllowed
from wisearc.store.models import Procedure, Revision, RunRow
from wisearc.store.opening import Store

AT = lambda: "2026-03-05T08:00:00Z"  # noqa: E731


class Corrected(StoreCase):
    @staticmethod
    def rows(revision: Revision) -> list[RunView]:
        """The runs of a revision as its page shows them."""
        return procedure_page.list_run_views(procedure_page.record(revision, "mm")).runs

    def setUp(self) -> None:
        super().setUp()
        procedures.keep_draft(make_joint(CORNER), ASSUMED)
        self.made, _ = runs.record_run(
            "P-0001", "A", typed(run(good=False, notes="as it was", faults=["pores"]))
        )

    def correct(self, who: str = "R.T.", **changed) -> RunRow:
        return runs.correct(
            "P-0001", "A", self.made.id, typed({**self.made.record, **changed}), who, AT
        )

    def test_diagnosis_is_saved_with_person_and_time(self) -> None:
        done = self.correct(
            "rt", notes="as it is", measured={"length_mm": 100, "arc_time_s": 31.0}, faults=[]
        )
        (made,) = done.corrections
        self.assertEqual((made["who"], made["when"]), ("rt", "2026-03-05T08:00:00Z"))
        self.assertEqual(
            made["was"],
            {
                "notes": "as it was",
                "measured.arc_time_s": run()["measured"]["arc_time_s"],
                "faults": ["pores"],
            },
        )
        self.made = done
        again = self.correct(notes="once more", when="2026-03-03")
        self.assertEqual(
            [c["was"].get("notes") for c in again.corrections], ["as it was", "as it is"]
        )
        self.assertEqual(queries.list_runs(queries.get_revision("P-0001"))[0].made_on, "2026-03-03")
        self.assertEqual(library_search.list_procedures("once more")[1], 1)
        row = self.rows(queries.get_revision("P-0001"))[0]
        struck = {told.label: told.struck for told in (*row.figures, *row.corrected) if told.struck}
        self.assertEqual(
            struck["Notes"], (("as it was", "rt 2026-03-05"), ("as it is", "R.T. 2026-03-05"))
        )
        self.assertEqual(struck["Flaws"], (("pores", "rt 2026-03-05"),))

    def test_goes_out_and_in(self) -> None:
        self.correct(notes="as it is")
        text = book.procedure_text(queries.get_revision("P-0001"))
        check("procedure", json.loads(text))
        self.other_shop()
        taken, _ = procedure_files.take_procedure_text(text)
        self.assertEqual(queries.list_runs(taken)[0].corrections[0]["was"], {"notes": "as it was"})
        bad = json.loads(text)
        for spoil in (
            {"when": "soon"},
            {"was": {}},
            {"was": {"notes": {"a": 1}}},
            {"who": "a\nb"},
            {"more": 1},
        ):
            bad["runs"][0]["corrections"] = [
                {"when": "2026-03-05T08:00:00Z", "who": "R.T.", "was": {"notes": "x"}, **spoil}
            ]
            with self.subTest(spoil=spoil), self.assertRaises(InputError):
                procedure_files.import_procedure(bad)

    def test_by_its_writer_alone(self) -> None:
        for who, error in (("K.S.", NotAllowed), ("", InputError), ("a\nb", InputError)):
            with self.subTest(who=who), self.assertRaises(error):
                self.correct(who, notes="x")
        self.assertEqual(self.correct().corrections, [])
        for changed in (
            {"when": "2999-01-01"},
            {"measured": {"arc_time_s": 0}},
            {"front": {"colour": "pink"}},
        ):
            with self.subTest(changed=changed), self.assertRaises(InputError):
                self.correct(**changed)
        runs.void_run("P-0001", "A", self.made.id, "K.S.")
        with self.assertRaisesRegex(NotAllowed, "is void"):
            self.correct(notes="x")

    def test_a_good_run_stays_one_that_proves(self) -> None:
        self.made, _ = runs.record_run("P-0001", "A", typed(run()))
        self.assertEqual(len(self.correct(notes="clean").corrections), 1)
        for changed in (
            {"set": {**run()["set"], "current_a": 20.0}},
            {"back": {"colour": "not-seen"}},
            {"measured": {}},
        ):
            with (
                self.subTest(changed=changed),
                self.assertRaisesRegex(NotAllowed, "You can also correct the entries"),
            ):
                self.correct(**changed)

    def test_good_to_not_good_and_back_with_its_trace(self) -> None:
        """A run that was wrongly good verifies nothing after its correction.

        It keeps its earlier value.
        """
        self.made, _ = runs.record_run("P-0001", "A", typed(run()))
        self.assertEqual(queries.get_revision("P-0001", "A").status, "proved")
        made = self.correct(good=False)
        standing = queries.get_revision("P-0001", "A")
        self.assertEqual((made.good, standing.status, standing.proved_at), (False, "draft", None))
        self.assertEqual(made.corrections[-1]["was"], {"good": True})
        self.assertEqual(made.corrections[-1]["who"], "R.T.")
        row = self.rows(standing)[-1]
        self.assertEqual(
            [(t.label, t.text, t.struck[0][0]) for t in row.corrected],
            [("Recorded as", "not good", "good")],
        )
        made = self.correct(good=True)
        self.assertEqual((made.good, queries.get_revision("P-0001", "A").status), (True, "proved"))
        self.assertEqual(len(made.corrections), 2)
        with self.assertRaisesRegex(NotAllowed, "Record the run as not good"):
            self.correct(faults=["pores"])
        again = json.loads(book.procedure_text(queries.get_revision("P-0001", "A")))
        self.other_shop()
        self.assertEqual(procedure_files.import_procedure(again)[0].status, "proved")

    def test_previous_version_is_restored(self) -> None:
        runs.record_run("P-0001", "A", typed(run()))
        longer = {**CORNER, "length": "400 mm"}
        procedures.revise("P-0001", make_joint(longer), ASSUMED)
        last, _ = runs.record_run("P-0001", "B", typed(run(longer)))
        states = [r.status for r in queries.list_revisions(queries.get_procedure("P-0001"))]
        self.assertEqual(states, ["superseded", "proved"])
        runs.correct("P-0001", "B", last.id, typed({**last.record, "good": False}), "R.T.")
        states = [r.status for r in queries.list_revisions(queries.get_procedure("P-0001"))]
        self.assertEqual(states, ["proved", "draft"])
        with self.assertRaises(peewee.IntegrityError):
            db.execute_sql("UPDATE revision SET status = 'draft' WHERE letter = 'A'")

    def test_superseded_revision_without_good_runs(self) -> None:
        first, _ = runs.record_run("P-0001", "A", typed(run()))
        longer = {**CORNER, "length": "400 mm"}
        procedures.revise("P-0001", make_joint(longer), ASSUMED)
        last, _ = runs.record_run("P-0001", "B", typed(run(longer)))
        for letter, made in (("A", first), ("B", last)):
            data = typed({**made.record, "good": False})
            runs.correct("P-0001", letter, made.id, data, "R.T.")
        states = [r.status for r in queries.list_revisions(queries.get_procedure("P-0001"))]
        self.assertNotIn("proved", states)

    def test_whoever_writes(self) -> None:
        self.correct(notes="as it is")
        for statement in (
            "UPDATE run SET record = '{}'",
            "UPDATE run SET made_on = '2026-01-01'",
            "UPDATE run SET corrections = '[]'",
            "UPDATE run SET good = 1",
            "UPDATE run SET corrections = json_array(json('{}'), json('{}')), record = '{}'",
        ):
            with self.subTest(statement), self.assertRaises(peewee.IntegrityError):
                db.execute_sql(statement)


class Files(StoreCase):
    def test_a_good_run_of_a_file_goes_by_the_rules_it_was_written_under(self) -> None:
        procedures.keep_draft(make_joint(CORNER), ASSUMED)
        runs.record_run("P-0001", "A", typed(run()))
        data = json.loads(book.procedure_text(queries.get_revision("P-0001")))
        self.other_shop()
        for spoil, words in (
            ({"set": {**run()["set"], "current_a": 20.0}}, "This run differs from the plan"),
            ({"measured": {}}, "Missing: welded length, arc time"),
        ):
            data["runs"][0] |= spoil
            with self.subTest(spoil=spoil), self.assertRaisesRegex(InputError, words):
                procedure_files.import_procedure(data)
        data["runs"][0]["minor"] = 1
        taken = procedure_files.import_procedure(data)[0]
        self.assertEqual(taken.status, "proved")
        (old,) = queries.list_runs(taken)
        done = runs.correct(
            taken.procedure.label, "A", old.id, typed({**old.record, "notes": "put right"}), "R.T."
        )
        self.assertEqual((done.record["notes"], done.record["minor"]), ("put right", 1))


class DraftFromRun(StoreCase):
    def off(self, joint: dict = CORNER) -> dict:
        made = run(joint)
        made["set"]["current_a"] = round(1.3 * made["set"]["current_a"], 1)
        return made

    def keep(self, joint: dict = CORNER) -> None:
        procedures.keep_draft(make_joint(joint), ASSUMED)

    def done(self, joint: dict = CORNER, **more) -> tuple[str, str, str]:
        draft = runs.keep_as_done(
            "P-0001", "A", typed({**self.off(joint), **more}), ASSUMED, once="t1"
        )
        return draft.procedure.label, draft.letter, draft.status

    def test_draft_has_the_run_values_and_run_has_the_change(self) -> None:
        self.keep()
        self.assertEqual(self.done(), ("P-0001", "B", "draft"))
        draft, tried = queries.get_revision("P-0001", "B"), queries.get_revision("P-0001", "A")
        self.assertEqual(round(draft.plan["current"]["machine_a"]), 143)
        (made,) = queries.list_runs(tried)
        self.assertEqual((made.good, made.record["as_done"]), (False, True))
        self.assertEqual((tried.status, tried.removed_at), ("draft", None))
        self.assertEqual(self.done()[:2], ("P-0001", "B"))
        self.assertEqual((Procedure.select().count(), RunRow.select().count()), (1, 1))

    def test_never_a_verified_revision_with_a_cup_nobody_used(self) -> None:
        """A butt of 1.2 mm 304L, 200 mm in 160 s, silver on both faces, not good at 1.25 mm/s."""
        butt = {
            "joint": "butt",
            "members": [member("304L", "1.2 mm")] * 2,
            "length_mm": 200,
        }
        self.keep(butt)
        made = run(butt, front={"colour": "silver"})
        made["measured"] = {"length_mm": 200, "arc_time_s": 160}
        with self.assertRaises(OutsideBands):
            runs.record_run("P-0001", "A", typed(made))
        draft = runs.keep_as_done("P-0001", "A", typed(made), ASSUMED)
        self.assertEqual((draft.letter, draft.status), ("B", "draft"))
        plan = procedures.get_plan(draft)
        self.assertEqual(plan.torch.cup, made["used"]["cup"])
        self.assertAlmostEqual(plan.gas.flow_l_min, made["set"]["flow_l_min"], 1)
        self.assertAlmostEqual(plan.travel.speed_mm_s, 1.25, 2)
        self.assertAlmostEqual(plan.slopes.machine_a, made["set"]["current_a"], delta=1)

    def test_verified_procedure_is_kept_and_next_revision_is_a_draft(self) -> None:
        self.keep()
        runs.record_run("P-0001", "A", typed(run()))
        self.assertEqual(self.done(), ("P-0001", "B", "draft"))
        states = [r.status for r in queries.list_revisions(queries.get_procedure("P-0001"))]
        self.assertEqual(states, ["proved", "draft"])

    def test_as_planned_after_all_is_a_good_run(self) -> None:
        self.keep()
        made = runs.keep_as_done("P-0001", "A", typed(run()), ASSUMED)
        self.assertEqual((made.letter, made.status), ("A", "proved"))

    def test_corrected_to_as_planned_it_is_good_and_still_read(self) -> None:
        """The current was recorded wrongly: after the correction, the run is as planned."""
        self.keep()
        self.done()
        tried = queries.get_revision("P-0001", "A")
        (made,) = queries.list_runs(tried)
        right = replace(made.document, set=typed(run()).set, good=True)
        runs.correct("P-0001", "A", made.id, right, right.who)
        (made,) = queries.list_runs(tried)
        told = read_record(made.record)
        self.assertEqual((made.good, told.good, told.as_done), (True, True, False))
        # And not good again: a deviation, for a welder who marks it as failed.
        runs.correct("P-0001", "A", made.id, replace(told, good=False), told.who)
        told = read_record(queries.list_runs(tried)[0].record)
        self.assertEqual((told.good, told.as_done), (False, False))

    def test_bad_run_saves_no_procedure(self) -> None:
        self.keep(TEE)
        for bad in ({"back": {"colour": "not-seen"}}, {"faults": ["pores"]}):
            with self.subTest(bad=bad), self.assertRaises(InputError):
                self.done(TEE, **bad)
        self.assertEqual(
            (RunRow.select().count(), queries.get_revision("P-0001").plan["filler"]["rod"]),
            (0, "ER309L"),
        )


class ShopHistory(StoreCase):
    def again(self) -> None:
        self.store = Store(self.folder)
        db.connect(reuse_if_open=True)

    def test_empty_library_next_to_the_demo(self) -> None:
        demo.fill_if_empty(self.store)
        self.assertEqual(library_search.find_library_kind(), "demo")
        copy = maintenance.create_library(self.folder)
        self.again()
        self.assertEqual((library_search.find_library_kind(), queries.is_empty()), ("empty", True))
        self.assertFalse(demo.fill_if_empty(self.store))
        maintenance.restore(self.folder, copy)
        self.again()
        self.assertEqual(library_search.find_library_kind(), "demo")

    def test_bad_demo_runs_differ_from_good_runs(self) -> None:
        """A bad run differs from the plan, or its notes name the cause.

        Settings, fit-up and travel speed are compared.
        """
        demo.fill_if_empty(self.store)
        for made in RunRow.select():
            if not made.good:
                self.assertTrue(made.record["notes"], made.record)
            elif made.record["set"].get("postflow_s"):
                self.assertEqual(
                    runs.list_outside(
                        made.revision, procedures.get_plan(made.revision), typed(made.record)
                    ),
                    [],
                )


if __name__ == "__main__":
    unittest.main()
