"""Export and import of procedures."""

import json
import unittest
from unittest import mock

from tests.samples import COPE, CORNER, TEE, run, typed
from tests.schemas import check
from tests.store_case import StoreCase
from wisearc.core.errors import InputError
from wisearc.core.joint.data import make_joint
from wisearc.core.shop.shop import ASSUMED
from wisearc.formats.joint_json import MAX_BYTES
from wisearc.formats.procedure_json import write_procedure_file
from wisearc.presenters import procedure_page
from wisearc.services.procedures import book, faces, procedure_files, procedures
from wisearc.services.runs import runs
from wisearc.store import queries
from wisearc.store.models import Procedure, RunRow


class Files(StoreCase):
    def written(self, label: str = "P-0001") -> dict:
        """A procedure file for another shop."""
        return json.loads(
            json.dumps(
                write_procedure_file(procedure_files.build_file(queries.get_revision(label)))
            )
        )

    def sent(self) -> dict:
        """The file of a verified procedure of another library; this library has another P-0001."""
        procedures.keep_draft(make_joint(COPE), ASSUMED)
        runs.record_run("P-0001", "A", typed(run(COPE, notes="Ä\n<b>")))
        data = self.written()
        check("procedure", data)
        self.other_shop()
        procedures.keep_draft(make_joint(CORNER), ASSUMED)
        return data

    def test_out_and_in(self) -> None:
        data = self.sent()
        taken, how = procedure_files.import_procedure(data)
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

    def test_a_form_sent_twice_is_taken_once(self) -> None:
        data = self.sent()
        first, how = procedure_files.import_procedure(data, "one-form")
        again, known = procedure_files.import_procedure(data, "one-form")
        self.assertEqual((again.id, how, known), (first.id, "renumbered", "own"))

    def test_taken_twice_is_one_procedure(self) -> None:
        data = self.sent()
        first, _ = procedure_files.import_procedure(data)
        again, how = procedure_files.import_procedure(data)
        self.assertEqual((again.id, how, Procedure.select().count()), (first.id, "known", 2))
        self.assertEqual(procedure_files.import_procedure(self.written("P-0001"))[1], "known")

    def test_the_same_number_with_more_in_it_is_another(self) -> None:
        data = self.sent()
        procedure_files.import_procedure(data)
        more = {**data, "runs": [*data["runs"], {**data["runs"][0], "when": "2026-05-01"}]}
        self.assertEqual(procedure_files.import_procedure(more)[1], "renumbered")
        self.assertEqual(
            procedure_files.import_procedure({**data, "title": "Add"})[1], "renumbered"
        )

    def test_nothing_of_a_file_is_dropped(self) -> None:
        signed = [
            {
                "role": "checker",
                "who": "K.S.",
                "when": "2026-05-02T08:00:00Z",
                "content_sha256": "0" * 64,
                "signature": "AAAA",
                "key_id": "1" * 32,
                "vouched_by": "M.O.",
            }
        ]
        taken, _ = procedure_files.import_procedure({**self.sent(), "signatures": signed})
        self.assertEqual(self.written(taken.procedure.label)["signatures"], signed)

    def test_a_stop_cannot_be_taken_in_as_proved(self) -> None:
        procedures.keep_draft(make_joint({**TEE, "filler": "ER70S-2"}), ASSUMED)
        whole = {
            **self.written(),
            "status": "proved",
            "proved": "2026-03-04T16:00:00Z",
            "runs": [{"format": "wisearc/run", "version": 1, **run()}],
        }
        with self.assertRaisesRegex(InputError, "has a stop"):
            procedure_files.import_procedure(whole)

    def test_unreadable_procedure_is_not_imported(self) -> None:
        data = self.sent()
        for error in (KeyError("hat"), ZeroDivisionError("float division"), ValueError("nan")):
            with (
                mock.patch.object(faces, "draw", side_effect=error),
                self.assertRaisesRegex(InputError, "cannot be shown"),
            ):
                procedure_files.import_procedure(data)
        self.assertEqual(Procedure.select().count(), 1)

    def test_voided_runs_and_times_are_imported(self) -> None:
        data = self.sent()
        bad = {
            **data["runs"][0],
            "good": False,
            "voided": "2026-05-01T08:00:00Z",
            "voided_by": "K.S.",
            "kept": "2026-04-01T08:00:00Z",
        }
        taken, _ = procedure_files.import_procedure(
            {
                **data,
                "runs": [bad, *data["runs"]],
                "created": "2026-01-01T08:00:00Z",
                "verified_by": 1,
            }
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
        text = book.procedure_text(queries.get_revision("P-0001"))
        self.assertLess(len(text.encode()), MAX_BYTES)
        self.other_shop()
        self.assertEqual(procedure_files.take_procedure_text(text)[1], "own")
        self.assertEqual(RunRow.select().count(), 820)

    def test_keeps_its_number_where_free(self) -> None:
        data = {**self.sent(), "number": "P-0040"}
        taken, how = procedure_files.import_procedure(data)
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
            ({"signatures": [{"role": "author", "who": {"deep": 1}}]}, "signatures[0].who"),
            ({"signatures": [{"role": "boss"}]}, "signatures[0].role"),
            ({"keys": [{"key_id": "1" * 32, "public": "AAAA"}]}, "keys[0].public"),
            ({"keys": [{"key_id": "1" * 32, "public": "A" * 43 + "="}]}, "keys[0].key_id"),
            ({"runs": [good()], **proved, "verified_by": 1}, "verified_by"),
            ({"runs": [good()], **proved, "verified_by": True}, "verified_by"),
            ({"runs": [{}] * 3000}, "runs"),
            ({"runs": [good(when="2999-01-01")], **proved}, "runs[0].when"),
            ({"runs": [good(faults=["pores"])], **proved}, "good"),
            ({"runs": [good(good=False)], **proved}, "status"),
            ({"runs": [good(), good(voided="2026-03-05T10:00:00Z")]}, "status"),
            ({"runs": [good(voided="2026-03-05T10:00:00Z")], **proved}, "status"),
            ({"runs": [good(voided="soon")], **proved}, "runs[0].voided"),
            ({"runs": [good(voided_by="a\nb")], **proved}, "runs[0].voided_by"),
            ({"runs": [good()], **proved, "proved": None}, "proved"),
            ({"runs": [good(notes="x" * 4000)] * 900, **proved}, "runs"),
        ):
            with self.subTest(change=str(change)[:80]), self.assertRaises(InputError) as caught:
                procedure_files.import_procedure({**data, **change})
            self.assertEqual(caught.exception.field, field)
        with self.assertRaises(InputError):
            procedure_files.import_procedure([])
        self.assertEqual(Procedure.select().count(), 1)


class SpoiltFiles(StoreCase):
    """Any damaged value of a plan.

    The file is refused with a sentence, or the record can be displayed.
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
        whole = write_procedure_file(procedure_files.build_file(kept))
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
                    again, _ = procedure_files.import_procedure(data)
                except InputError as error:
                    refused += 1
                    self.assertTrue(error.field)
                    continue
                with self.subTest(path=path, bad=bad):
                    for habit in ("mm", "in"):
                        view = procedure_page.record(again, habit)
                        self.assertTrue(view.lines)
                        self.assertEqual(len(procedure_page.draw_for_paper(view)), 5)
        self.assertGreater(refused, 100)


if __name__ == "__main__":
    unittest.main()
