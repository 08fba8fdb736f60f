"""Drafts, runs, proof, revisions: what is allowed, and that nothing is taken twice or lost."""

import json
import unittest
from unittest import mock

import peewee

from tests.samples import COPE, CORNER, TEE, run, typed
from tests.schemas import check
from tests.store_case import StoreCase
from wisearc.core.errors import BadInput
from wisearc.core.joint.data import make_joint
from wisearc.core.shop.shop import ASSUMED
from wisearc.formats.joint_json import MOST_BYTES
from wisearc.formats.procedure_json import procedure_file
from wisearc.presenters import procedure_page
from wisearc.services.maintenance import demo
from wisearc.services.procedures import book, faces, finding, procedures
from wisearc.services.runs import runs
from wisearc.store import queries
from wisearc.store.database import db
from wisearc.store.errors import Missing, NotAllowed, Stale
from wisearc.store.models import Procedure, RunRow

LONGER = {**CORNER, "length": "400 mm"}


class Keeping(StoreCase):
    def keep(self, data: dict = CORNER, **more):
        return procedures.keep_draft(make_joint(data), ASSUMED, **more)

    def test_the_whole_way(self) -> None:
        kept = self.keep()
        self.assertEqual((kept.procedure.label, kept.letter, kept.status), ("P-0001", "A", "draft"))
        _, proved = runs.record_run("P-0001", "A", typed(run(good=False)))
        self.assertFalse(proved)
        _, proved = runs.record_run("P-0001", "A", typed(run()))
        self.assertTrue(proved)
        self.assertEqual(queries.revision("P-0001").status, "proved")
        later = procedures.revise("P-0001", make_joint(LONGER), ASSUMED)
        self.assertEqual((later.letter, later.status), ("B", "draft"))
        runs.record_run("P-0001", "B", typed(run()))
        self.assertEqual(
            [(r.letter, r.status) for r in queries.revisions(kept.procedure)],
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
        self.assertEqual(len(queries.revisions(queries.procedure("P-0001"))), 2)

    def test_two_hands_on_one_draft(self) -> None:
        kept = self.keep()
        procedures.save_draft("P-0001", make_joint(LONGER), kept.edit, ASSUMED)
        with self.assertRaisesRegex(Stale, "another hand"):
            procedures.save_draft(
                "P-0001", make_joint({**CORNER, "length": "500 mm"}), kept.edit, ASSUMED
            )
        self.assertIn("400", json.dumps(queries.revision("P-0001").joint))
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
        with self.assertRaisesRegex(NotAllowed, "was not run yet"):
            procedures.attempt("P-0001", make_joint(LONGER), ASSUMED)
        runs.record_run("P-0001", "A", typed(run(good=False)))
        with self.assertRaisesRegex(NotAllowed, "Nothing differs"):
            procedures.attempt("P-0001", make_joint(CORNER), ASSUMED)
        made = procedures.attempt("P-0001", make_joint(LONGER), ASSUMED)
        self.assertEqual((made.letter, made.status), ("B", "draft"))

    def test_a_draft_with_runs_keeps_what_they_were_made_to(self) -> None:
        kept = self.keep()
        runs.record_run("P-0001", "A", typed(run(good=False)))
        with self.assertRaisesRegex(NotAllowed, "runs made to it"):
            procedures.save_draft("P-0001", make_joint(LONGER), kept.edit, ASSUMED)

    def test_what_cannot_prove(self) -> None:
        self.keep()
        for bad in (
            {"faults": ["crater-crack"]},
            {"back": {"colour": "sugar"}},
            {"front": {"colour": "grey"}},
        ):
            with self.subTest(bad=bad), self.assertRaisesRegex(BadInput, "cannot verify"):
                runs.record_run("P-0001", "A", typed(run(**bad)))
        self.keep({**TEE, "filler": "ER70S-2"})
        with self.assertRaisesRegex(BadInput, "holds a stop"):
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

    def test_a_day_to_come(self) -> None:
        self.keep()
        noon = lambda: "2026-03-04T12:00:00Z"  # noqa: E731
        with self.assertRaisesRegex(BadInput, "still to come"):
            runs.record_run("P-0001", "A", typed(run(when="2026-03-06")), at=noon)
        # somewhere it is the fifth already
        runs.record_run("P-0001", "A", typed(run(when="2026-03-05")), at=noon)

    def test_as_many_runs_as_a_revision_carries(self) -> None:
        self.keep()
        with mock.patch.object(runs, "MAX_RUNS", 2):
            for _ in range(2):
                runs.record_run("P-0001", "A", typed(run(good=False)))
            with self.assertRaisesRegex(
                NotAllowed, "holds 2 runs, as many as one revision carries"
            ):
                runs.record_run("P-0001", "A", typed(run(good=False)))
        with (
            mock.patch.object(runs, "MAX_RUNS_BYTES", 900),
            self.assertRaisesRegex(NotAllowed, "as many as"),
        ):
            runs.record_run("P-0001", "A", typed(run(good=False, notes="x" * 500)))

    def test_numbers_have_six_digits(self) -> None:
        for number, then in ((999_998, 999_999), (999_999, 1)):
            Procedure.get_or_create(number=number, defaults={"created_at": "x"})
            self.assertEqual(queries.next_number(), then)
        for number in (1, 2):
            Procedure.create(number=number, created_at="x")
        self.assertEqual(queries.next_number(), 3)
        with self.assertRaises(peewee.IntegrityError):
            Procedure.create(number=1_000_000, created_at="x")
        with mock.patch.object(queries, "MOST_NUMBER", 2):
            Procedure.delete().where(Procedure.number > 2).execute()
            with self.assertRaisesRegex(NotAllowed, "book is full"):
                queries.next_number()

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
            with self.subTest(bad=bad), self.assertRaises(BadInput) as caught:
                runs.record_run("P-0001", "A", typed(run(**bad)))
            self.assertEqual(caught.exception.field, field)


class PutAway(StoreCase):
    """Drafts put away and runs struck out: each can be undone, and nothing proved ever goes."""

    def setUp(self) -> None:
        super().setUp()
        procedures.keep_draft(make_joint(CORNER), ASSUMED)

    def listed(self, status: str = "") -> list[str]:
        return [
            f"{row.label} {row.letter} {row.runs}/{row.good}"
            for row in finding.listed(status=status)[0]
        ]

    def test_a_draft_away_and_back(self) -> None:
        runs.record_run("P-0001", "A", typed(run(good=False)))
        procedures.put_away("P-0001", "A")
        self.assertEqual((self.listed(), self.listed("removed")), ([], ["P-0001 A 1/0"]))
        self.assertEqual(finding.listed("304L"), ([], 0))
        self.assertEqual(finding.listed("304L", "removed")[1], 1)
        for write in (
            lambda: runs.record_run("P-0001", "A", typed(run())),
            lambda: procedures.save_draft("P-0001", make_joint(LONGER), 1, ASSUMED),
            lambda: procedures.revise("P-0001", make_joint(LONGER), ASSUMED),
        ):
            with self.assertRaisesRegex(NotAllowed, "P-0001 A was put away; put it back first"):
                write()
        self.assertEqual(
            procedures.keep_draft(make_joint(LONGER), ASSUMED).procedure.label, "P-0002"
        )
        procedures.put_back("P-0001", "A")
        self.assertEqual(self.listed(), ["P-0002 A 0/0", "P-0001 A 1/0"])

    def test_a_later_draft_has_a_letter_of_its_own(self) -> None:
        runs.record_run("P-0001", "A", typed(run()))
        procedures.revise("P-0001", make_joint(LONGER), ASSUMED)
        procedures.put_away("P-0001", "B")
        self.assertEqual(queries.revision("P-0001").letter, "A")
        self.assertEqual(procedures.revise("P-0001", make_joint(LONGER), ASSUMED).letter, "C")
        with self.assertRaisesRegex(NotAllowed, "has draft C by now"):
            procedures.put_back("P-0001", "B")
        procedures.put_away("P-0001", "C")
        self.assertIsNone(procedures.put_back("P-0001", "B").removed_at)

    def test_what_is_proved_stays_whoever_writes(self) -> None:
        runs.record_run("P-0001", "A", typed(run()))
        with self.assertRaisesRegex(NotAllowed, "stays in the book"):
            procedures.put_away("P-0001", "A")
        for statement in (
            "UPDATE revision SET removed_at = 'x'",
            "DELETE FROM revision",
            "DELETE FROM run",
            "UPDATE run SET record = '{}'",
            "UPDATE run SET good = 0",
        ):
            with self.subTest(statement), self.assertRaises(peewee.IntegrityError):
                db.execute_sql(statement)

    def test_a_run_struck_out_and_counted_again(self) -> None:
        for good in (False, True, True):
            runs.record_run("P-0001", "A", typed(run(good=good)))
        bad, first, last = RunRow.select().order_by(RunRow.id)
        for struck in (bad, first):
            runs.strike_out("P-0001", "A", struck.id, " K.S. ", lambda: "2026-05-01T08:00:00Z")
        self.assertEqual(self.listed(), ["P-0001 A 1/1"])
        with self.assertRaisesRegex(NotAllowed, "the run that proves P-0001 A"):
            runs.strike_out("P-0001", "A", last.id, "K.S.")
        told = procedures.file_of(queries.revision("P-0001")).runs
        self.assertEqual(
            [(r.get("voided"), r.get("voided_by")) for r in told],
            [("2026-05-01T08:00:00Z", "K.S.")] * 2 + [(None, None)],
        )
        runs.count_again("P-0001", "A", first.id)
        self.assertEqual(self.listed(), ["P-0001 A 2/2"])

    def test_signed(self) -> None:
        made, _ = runs.record_run("P-0001", "A", typed(run(good=False)))
        for who in ("", " ", "a\nb", "x" * 61):
            with self.subTest(who=who), self.assertRaises(BadInput):
                runs.strike_out("P-0001", "A", made.id, who)
        with self.assertRaises(Missing):
            runs.strike_out("P-0001", "A", made.id + 1, "K.S.")


class Files(StoreCase):
    def written(self, label: str = "P-0001") -> dict:
        """A procedure's file, as it is sent elsewhere."""
        return json.loads(json.dumps(procedure_file(procedures.file_of(queries.revision(label)))))

    def sent(self) -> dict:
        """The file of a proved procedure of another shop's book; this book holds its own P-0001."""
        procedures.keep_draft(make_joint(COPE), ASSUMED)
        runs.record_run("P-0001", "A", typed(run(COPE, notes="Ä\n<b>")))
        data = self.written()
        check("procedure", data)
        self.other_shop()
        procedures.keep_draft(make_joint(CORNER), ASSUMED)
        return data

    def test_out_and_in(self) -> None:
        data = self.sent()
        taken, how = procedures.take_procedure(data)
        self.assertEqual((taken.procedure.label, how), ("P-0002", "renumbered"))
        second = self.written("P-0002")
        for part in (
            "joint",
            "plan",
            "bands",
            "status",
            "revision",
            "title",
            "proved",
            "signatures",
        ):
            self.assertEqual(second[part], data[part], part)
        self.assertEqual(second["runs"][0]["notes"], "Ä\n<b>")

    def test_taken_twice_is_one_procedure(self) -> None:
        data = self.sent()
        first, _ = procedures.take_procedure(data)
        again, how = procedures.take_procedure(data)
        self.assertEqual((again.id, how, Procedure.select().count()), (first.id, "known", 2))
        self.assertEqual(procedures.take_procedure(self.written("P-0001"))[1], "known")

    def test_the_same_number_with_more_in_it_is_another(self) -> None:
        data = self.sent()
        procedures.take_procedure(data)
        more = {**data, "runs": [*data["runs"], {**data["runs"][0], "when": "2026-05-01"}]}
        self.assertEqual(procedures.take_procedure(more)[1], "renumbered")
        self.assertEqual(procedures.take_procedure({**data, "title": "Another"})[1], "renumbered")

    def test_nothing_of_a_file_is_dropped(self) -> None:
        signed = [{"who": "K.S.", "when": "2026-05-02", "as": "shop lead"}]
        taken, _ = procedures.take_procedure({**self.sent(), "signatures": signed})
        self.assertEqual(self.written(taken.procedure.label)["signatures"], signed)

    def test_a_stop_cannot_be_taken_in_as_proved(self) -> None:
        procedures.keep_draft(make_joint({**TEE, "filler": "ER70S-2"}), ASSUMED)
        whole = {
            **self.written(),
            "status": "proved",
            "proved": "2026-03-04T16:00:00Z",
            "runs": [{"format": "wisearc/run", "version": 1, **run()}],
        }
        with self.assertRaisesRegex(BadInput, "holds a stop"):
            procedures.take_procedure(whole)

    def test_what_cannot_be_shown_is_not_taken(self) -> None:
        data = self.sent()
        for error in (KeyError("hat"), ZeroDivisionError("float division"), ValueError("nan")):
            with (
                mock.patch.object(faces, "draw", side_effect=error),
                self.assertRaisesRegex(BadInput, "cannot be shown"),
            ):
                procedures.take_procedure(data)
        self.assertEqual(Procedure.select().count(), 1)

    def test_struck_out_and_times_come_along(self) -> None:
        data = self.sent()
        bad = {
            **data["runs"][0],
            "good": False,
            "voided": "2026-05-01T08:00:00Z",
            "voided_by": "K.S.",
            "kept": "2026-04-01T08:00:00Z",
        }
        taken, _ = procedures.take_procedure(
            {**data, "runs": [bad, *data["runs"]], "created": "2026-01-01T08:00:00Z"}
        )
        back = self.written(taken.procedure.label)
        self.assertEqual(
            {k: back["runs"][0][k] for k in ("voided", "voided_by", "kept")},
            {k: bad[k] for k in ("voided", "voided_by", "kept")},
        )
        self.assertEqual((back["created"], back["taken_as"]), ("2026-01-01T08:00:00Z", "P-0001"))

    def test_as_large_as_it_gets_goes_out_and_in(self) -> None:
        procedures.keep_draft(
            make_joint({**CORNER, "length": "20000 mm", "pins": {"tack_pitch_mm": 11}}), ASSUMED
        )
        once = {**run(good=False, notes="ä" * 900), "who": "R.T."}
        for _ in range(20):
            runs.record_run("P-0001", "A", typed(once))
        rows = [
            {
                "revision": 1,
                "made_on": "2026-03-04",
                "record": RunRow.get().record,
                "good": False,
                "kept_at": "2026-03-04T08:00:00Z",
            }
        ]
        queries.add_runs(rows * 800)
        text = book.procedure_text(queries.revision("P-0001"))
        self.assertLess(len(text.encode()), MOST_BYTES)
        self.other_shop()
        self.assertEqual(procedures.take_procedure_text(text)[1], "own")
        self.assertEqual(RunRow.select().count(), 820)

    def test_keeps_its_number_where_free(self) -> None:
        data = {**self.sent(), "number": "P-0040"}
        taken, how = procedures.take_procedure(data)
        self.assertEqual((taken.procedure.label, how), ("P-0040", "own"))

    def test_refused(self) -> None:
        procedures.keep_draft(make_joint(CORNER), ASSUMED)
        data = self.written()
        proved = {"status": "proved", "proved": "2026-03-04T16:00:00Z"}

        def good(**more: object) -> dict:
            return {"format": "wisearc/run", "version": 1, **run(**more)}

        for change, field in (
            ({"status": "proved"}, "status"),
            ({"number": "7"}, "number"),
            ({"joint": {**data["joint"], "members": [1, 2]}}, "joint.members[0]"),
            ({"more": 1}, "more"),
            ({"version": 2}, "version"),
            ({"number": "P-0000"}, "number"),
            ({"number": "P-00001"}, "number"),
            ({"number": "P-1234567"}, "number"),
            ({"revision": "A\n"}, "revision"),
            ({"status": "superseded"}, "status"),
            ({"proved": "2026-03-04T16:00:00Z"}, "proved"),
            ({"changed": "yesterday"}, "changed"),
            ({"changed": "2026-02-30T16:00:00Z"}, "changed"),
            ({"removed": "x"}, "removed"),
            ({"taken_as": "P-1"}, "taken_as"),
            ({"title": "two\nlines"}, "title"),
            ({"joint": {**data["joint"], "gap": "1 mm"}}, "joint"),
            ({"joint": {**data["joint"], "more": [1]}}, "joint.more"),
            ({"joint": {**data["joint"], "angle_deg": 10**400}}, "joint.angle_deg"),
            ({"joint": {**data["joint"], **{f"k{i}": 1 for i in range(99)}}}, "joint"),
            ({"bands": {}}, "bands.current_a"),
            ({"bands": {**data["bands"], "current_a": [90, 10]}}, "bands.current_a"),
            ({"bands": {**data["bands"], "current_a": [1, 2]}}, "bands.current_a"),
            ({"bands": {**data["bands"], "current_a": [1, 1e9]}}, "bands.current_a"),
            ({"bands": {**data["bands"], "x\n": [1, 2]}}, "bands"),
            ({"signatures": ["K.S."]}, "signatures[0]"),
            ({"signatures": [{"who": {"deep": 1}}]}, "signatures[0].who"),
            ({"runs": [{}] * 3000}, "runs"),
            ({"runs": [good(when="2999-01-01")], **proved}, "runs[0].when"),
            ({"runs": [good(faults=["pores"])], **proved}, "good"),
            ({"runs": [good(good=False)], **proved}, "status"),
            ({"runs": [good(), good(voided="2026-03-05T10:00:00Z")]}, "status"),
            ({"runs": [good(voided="2026-03-05T10:00:00Z")], **proved}, "status"),
            ({"runs": [good(voided="soon")], **proved}, "runs[0].voided"),
            ({"runs": [good(voided_by="a\nb")], **proved}, "runs[0].voided_by"),
            ({"runs": [good()], **proved, "proved": None}, "proved"),
            ({"runs": [good()], **proved, "removed": "2026-03-05T10:00:00Z"}, "removed"),
            ({"runs": [good(notes="x" * 4000)] * 900, **proved}, "runs"),
        ):
            with self.subTest(change=str(change)[:80]), self.assertRaises(BadInput) as caught:
                procedures.take_procedure({**data, **change})
            self.assertEqual(caught.exception.field, field)
        with self.assertRaises(BadInput):
            procedures.take_procedure([])
        self.assertEqual(Procedure.select().count(), 1)


class SpoiltFiles(StoreCase):
    """Any leaf of a plan spoilt: the file is refused with a sentence, or the record can be
    shown.
    """

    def leaves(self, value, path=()):
        """Every path to a number, word or null in nested data."""
        if isinstance(value, dict):
            for key, item in value.items():
                yield from self.leaves(item, (*path, key))
        elif not isinstance(value, list):
            yield path

    def test_each_leaf(self) -> None:
        kept = procedures.keep_draft(make_joint(COPE), ASSUMED)
        whole = procedure_file(procedures.file_of(kept))
        refused = 0
        every = (None, "hat", 0, -1, 1e300, True)
        for i, path in enumerate(self.leaves(whole["plan"])):
            for bad in every[i % 6 :: 6]:
                data = json.loads(json.dumps(whole))
                place = data["plan"]
                for key in path[:-1]:
                    place = place[key]
                place[path[-1]] = bad
                try:
                    again, _ = procedures.take_procedure(data)
                except BadInput as error:
                    refused += 1
                    self.assertTrue(error.field)
                    continue
                with self.subTest(path=path, bad=bad):
                    for habit in ("mm", "in"):
                        view = procedure_page.record(again, habit)
                        self.assertTrue(view.lines)
                        self.assertEqual(len(procedure_page.paper_drawings(view)), 5)
        self.assertGreater(refused, 100)


class Demo(StoreCase):
    def test_fills_once(self) -> None:
        self.assertTrue(demo.fill_if_empty(self.store))
        rows, found = finding.listed()
        self.assertEqual(found, len(rows))
        self.assertTrue(35 <= RunRow.select().count() <= 60)
        self.assertEqual({row.status for row in rows}, {"draft", "proved", "superseded"})
        self.assertFalse(demo.fill_if_empty(self.store))


if __name__ == "__main__":
    unittest.main()
