"""Drafts, runs, proof, revisions: what is allowed, and that nothing is taken twice or lost."""

import json
import unittest

from tests.samples import COPE, CORNER, TEE, run
from tests.schemas import check
from tests.store_case import StoreCase
from wisearc.core.errors import BadInput
from wisearc.core.joint_data import make_joint
from wisearc.core.shop import ASSUMED
from wisearc.formats.procedure_json import procedure_file
from wisearc.services import book, demo, finding, keeping
from wisearc.store import queries
from wisearc.store.errors import NotAllowed, Stale
from wisearc.store.models import Procedure, Run

LONGER = {**CORNER, "length": "400 mm"}


class Keeping(StoreCase):
    def keep(self, data: dict = CORNER, **more):
        return keeping.keep_draft(make_joint(data), ASSUMED, **more)

    def test_the_whole_way(self) -> None:
        kept = self.keep()
        self.assertEqual((kept.procedure.label, kept.letter, kept.status), ("P-0001", "A", "draft"))
        _, proved = keeping.record_run("P-0001", "A", run(good=False))
        self.assertFalse(proved)
        _, proved = keeping.record_run("P-0001", "A", run())
        self.assertTrue(proved)
        self.assertEqual(queries.revision("P-0001").status, "proved")
        later = keeping.revise("P-0001", make_joint(LONGER), ASSUMED)
        self.assertEqual((later.letter, later.status), ("B", "draft"))
        keeping.record_run("P-0001", "B", run())
        self.assertEqual(
            [(r.letter, r.status) for r in queries.revisions(kept.procedure)], [("A", "superseded"), ("B", "proved")]
        )

    def test_sent_twice_is_kept_once(self) -> None:
        self.assertEqual(self.keep(once="t1").id, self.keep(once="t1").id)
        for _ in range(2):
            keeping.record_run("P-0001", "A", run(good=False), once="r1")
        self.assertEqual((Procedure.select().count(), Run.select().count()), (1, 1))
        keeping.record_run("P-0001", "A", run())
        for _ in range(2):
            keeping.revise("P-0001", make_joint(LONGER), ASSUMED, once="v1")
        self.assertEqual(len(queries.revisions(queries.procedure("P-0001"))), 2)

    def test_two_hands_on_one_draft(self) -> None:
        kept = self.keep()
        keeping.save_draft("P-0001", make_joint(LONGER), kept.edit, ASSUMED)
        with self.assertRaisesRegex(Stale, "another hand"):
            keeping.save_draft("P-0001", make_joint({**CORNER, "length": "500 mm"}), kept.edit, ASSUMED)
        self.assertIn("400", json.dumps(queries.revision("P-0001").joint))
        keeping.save_draft("P-0001", make_joint({**CORNER, "length": "500 mm"}), kept.edit + 1, ASSUMED)

    def test_saving_the_same_is_nothing(self) -> None:
        kept = self.keep()
        self.assertEqual(keeping.save_draft("P-0001", make_joint(CORNER), 99, ASSUMED).edit, kept.edit)

    def test_proved_is_not_edited(self) -> None:
        kept = self.keep()
        keeping.record_run("P-0001", "A", run())
        with self.assertRaises(NotAllowed):
            keeping.save_draft("P-0001", make_joint(LONGER), kept.edit, ASSUMED)
        with self.assertRaisesRegex(NotAllowed, "Nothing differs"):
            keeping.revise("P-0001", make_joint(CORNER), ASSUMED)
        keeping.revise("P-0001", make_joint(LONGER), ASSUMED)
        with self.assertRaisesRegex(NotAllowed, "already has draft B"):
            keeping.revise("P-0001", make_joint({**CORNER, "length": "500 mm"}), ASSUMED)

    def test_a_draft_with_runs_keeps_what_they_were_made_to(self) -> None:
        kept = self.keep()
        keeping.record_run("P-0001", "A", run(good=False))
        with self.assertRaisesRegex(NotAllowed, "runs made to it"):
            keeping.save_draft("P-0001", make_joint(LONGER), kept.edit, ASSUMED)

    def test_what_cannot_prove(self) -> None:
        self.keep()
        for bad in ({"faults": ["crater-crack"]}, {"back": {"colour": "sugar"}}, {"front": {"colour": "grey"}}):
            with self.subTest(bad=bad), self.assertRaisesRegex(BadInput, "cannot prove"):
                keeping.record_run("P-0001", "A", run(**bad))
        self.keep({**TEE, "filler": "ER70S-2"})
        with self.assertRaisesRegex(BadInput, "holds a stop"):
            keeping.record_run("P-0002", "A", run())
        self.assertEqual(Run.select().count(), 0)

    def test_superseded_takes_no_run(self) -> None:
        self.keep()
        keeping.record_run("P-0001", "A", run())
        keeping.revise("P-0001", make_joint(LONGER), ASSUMED)
        keeping.record_run("P-0001", "B", run())
        with self.assertRaisesRegex(NotAllowed, "superseded"):
            keeping.record_run("P-0001", "A", run())

    def test_bad_runs(self) -> None:
        self.keep()
        for bad, field in (
            ({"when": "yesterday"}, "when"),
            ({"who": ""}, "who"),
            ({"who": " "}, "who"),
            ({"front": {"colour": "pink"}}, "front.colour"),
            ({"faults": ["rain"]}, "faults[0]"),
            ({"set": {"current_a": -1}}, "set.current_a"),
            ({"measured": {"speed": 1}}, "measured.speed"),
            ({"extra": 1}, "extra"),
        ):
            with self.subTest(bad=bad), self.assertRaises(BadInput) as caught:
                keeping.record_run("P-0001", "A", run(**bad))
            self.assertEqual(caught.exception.field, field)


class Files(StoreCase):
    def written(self, label: str = "P-0001") -> dict:
        """A procedure's file, as it is sent elsewhere."""
        return json.loads(json.dumps(procedure_file(keeping.file_of(queries.revision(label)))))

    def sent(self) -> dict:
        """The file of a proved procedure of another shop's book; this book holds its own P-0001."""
        keeping.keep_draft(make_joint(COPE), ASSUMED)
        keeping.record_run("P-0001", "A", run(set={"current_a": 90}, measured={"arc_time_s": 33.5}, notes="Ä\n<b>"))
        data = self.written()
        check("procedure", data)
        self.other_shop()
        keeping.keep_draft(make_joint(CORNER), ASSUMED)
        return data

    def test_out_and_in(self) -> None:
        data = self.sent()
        taken, how = keeping.take_procedure(data)
        self.assertEqual((taken.procedure.label, how), ("P-0002", "renumbered"))
        second = self.written("P-0002")
        for part in ("joint", "plan", "bands", "status", "revision", "title", "proved", "signatures"):
            self.assertEqual(second[part], data[part], part)
        self.assertEqual(second["runs"][0]["notes"], "Ä\n<b>")

    def test_taken_twice_is_one_procedure(self) -> None:
        data = self.sent()
        first, _ = keeping.take_procedure(data)
        again, how = keeping.take_procedure(data)
        self.assertEqual((again.id, how, Procedure.select().count()), (first.id, "known", 2))
        self.assertEqual(keeping.take_procedure(self.written("P-0001"))[1], "known")

    def test_the_same_number_with_more_in_it_is_another(self) -> None:
        data = self.sent()
        keeping.take_procedure(data)
        more = {**data, "runs": [*data["runs"], {**data["runs"][0], "when": "2026-05-01"}]}
        self.assertEqual(keeping.take_procedure(more)[1], "renumbered")
        self.assertEqual(keeping.take_procedure({**data, "title": "Another"})[1], "renumbered")

    def test_nothing_of_a_file_is_dropped(self) -> None:
        signed = [{"who": "K.S.", "when": "2026-05-02", "as": "shop lead"}]
        taken, _ = keeping.take_procedure({**self.sent(), "signatures": signed})
        self.assertEqual(self.written(taken.procedure.label)["signatures"], signed)

    def test_keeps_its_number_where_free(self) -> None:
        data = {**self.sent(), "number": "P-0040"}
        taken, how = keeping.take_procedure(data)
        self.assertEqual((taken.procedure.label, how), ("P-0040", "own"))

    def test_refused(self) -> None:
        keeping.keep_draft(make_joint(CORNER), ASSUMED)
        data = self.written()
        for change, field in (
            ({"status": "proved"}, "status"),
            ({"number": "7"}, "number"),
            ({"joint": {**data["joint"], "members": [1, 2]}}, "joint.members[0]"),
            ({"more": 1}, "more"),
            ({"version": 2}, "version"),
        ):
            with self.subTest(change=list(change)), self.assertRaises(BadInput) as caught:
                keeping.take_procedure({**data, **change})
            self.assertEqual(caught.exception.field, field)
        with self.assertRaises(BadInput):
            keeping.take_procedure([])
        self.assertEqual(Procedure.select().count(), 1)


class SpoiltFiles(StoreCase):
    """Any leaf of a plan spoilt: the file is refused with a sentence, or the record can be shown."""

    def leaves(self, value, path=()):
        """Every path to a number, word or null in nested data."""
        if isinstance(value, dict):
            for key, item in value.items():
                yield from self.leaves(item, (*path, key))
        elif not isinstance(value, list):
            yield path

    def test_each_leaf(self) -> None:
        kept = keeping.keep_draft(make_joint(COPE), ASSUMED)
        whole = procedure_file(keeping.file_of(kept))
        refused = 0
        for path in self.leaves(whole["plan"]):
            for bad in (None, "hat", 0, -1, 1e300, True):
                data = json.loads(json.dumps(whole))
                place = data["plan"]
                for key in path[:-1]:
                    place = place[key]
                place[path[-1]] = bad
                try:
                    again, _ = keeping.take_procedure(data)
                except BadInput as error:
                    refused += 1
                    self.assertTrue(error.field)
                    continue
                with self.subTest(path=path, bad=bad):
                    for habit in ("mm", "in"):
                        view = book.record(again, habit)
                        self.assertTrue(view.lines)
                        self.assertEqual(len(book.paper_drawings(view)), 5)
        self.assertGreater(refused, 200)


class Demo(StoreCase):
    def test_fills_once(self) -> None:
        self.assertTrue(demo.fill_if_empty(self.store))
        rows, found = finding.listed()
        self.assertEqual(found, len(rows))
        self.assertTrue(35 <= Run.select().count() <= 60)
        self.assertEqual({row.status for row in rows}, {"draft", "proved", "superseded"})
        self.assertFalse(demo.fill_if_empty(self.store))


if __name__ == "__main__":
    unittest.main()
