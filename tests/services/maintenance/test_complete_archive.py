"""A whole shop as an archive and back: jobs, shop, signatures; a part of it; its preview."""

import json
import unittest
import zipfile
from pathlib import Path

from tests.care_case import CareCase
from tests.folders import fill
from tests.samples import COPE
from wisearc.core.errors import InputError
from wisearc.core.joint.data import make_joint
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.errors import Missing
from wisearc.services.inventory import shop
from wisearc.services.jobs import jobs
from wisearc.services.maintenance import archive_export, archive_import
from wisearc.services.maintenance.archive_export import ExportChoice
from wisearc.services.maintenance.archive_import import ImportChoice, ImportSummary
from wisearc.services.maintenance.demo import fill_if_empty
from wisearc.services.people.people import Person
from wisearc.services.procedures import procedures
from wisearc.services.procedures.judged_signatures import judge_signatures
from wisearc.services.procedures.signatures import add_signature
from wisearc.store import jobs as store_jobs
from wisearc.store import queries
from wisearc.store.database import db, open_transaction
from wisearc.store.models import JobTick, Revision
from wisearc.store.opening import Store

WITH_SHOP = ExportChoice(with_shop=True)
AT = "2026-06-01T08:00:00Z"


class ArchiveCase(CareCase):
    def shop(self, name: str) -> Path:
        """An empty folder of another shop."""
        folder = self.at / name
        folder.mkdir()
        fill(folder)
        return folder

    def export(self, folder: Path, name: str, choice: ExportChoice = WITH_SHOP) -> Path:
        archive_export.export(folder, self.at / name, at=lambda: AT, choice=choice)
        return self.at / name

    def altered(self, path: Path, entry: str, data: object) -> Path:
        """A copy of an archive with another entry."""
        changed = self.at / "altered.zip"
        with zipfile.ZipFile(path) as whole, zipfile.ZipFile(changed, "w") as out:
            for info in whole.infolist():
                text = json.dumps(data) if info.filename == entry else whole.read(info)
                out.writestr(info.filename, text)
        return changed


class RoundTrip(ArchiveCase):
    def test_demo_shop_byte_for_byte(self) -> None:
        """Procedures, runs, revisions, signatures, a job with its ticks, and the shop."""
        first = self.at / "first"
        fill_if_empty(Store(first))
        self.open(first)
        revision = queries.get_revision("P-0004", "A")
        (row,) = store_jobs.list_all()
        with open_transaction():
            ticked = queries.list_runs(revision)[3]
            for piece, who, run_row in ((1, "R.T.", ticked), (2, "", None)):
                values = {"seam": "c1", "piece": piece, "who": who, "at": AT, "run": run_row}
                JobTick.create(job=row, **values)
        db.close()
        path = self.export(first, "first.zip")
        second = self.shop("second")
        summary = archive_import.import_archive(second, path)
        self.assertEqual((summary.jobs, summary.has_shop, summary.known), (1, True, 0))
        again = self.export(second, "again.zip")
        self.assertEqual(again.read_bytes(), path.read_bytes())
        self.open(second)
        (copied,) = store_jobs.list_all()
        ticks = {tick.piece: tick for tick in store_jobs.list_ticks(copied.id)}
        self.assertEqual(ticks[1].run.record["when"], ticked.record["when"])
        self.assertIsNone(getattr(ticks[2], "run_id", None))
        state = judge_signatures(queries.get_revision("P-0004", "A"))
        self.assertEqual([judged.result for judged in state.signatures], ["matches"] * 3)
        self.assertEqual(shop.load_shop().name, "Saltmarsh Instrument Works (demo)")
        self.assertFalse((second / "signing-key.pem").exists())
        db.close()
        # A second import adds nothing.
        twice = archive_import.import_archive(second, path)
        self.assertEqual((twice.known, twice.known_jobs, twice.jobs), (8, 1, 0))

    def test_no_key_pin_or_drill_is_in_it(self) -> None:
        with zipfile.ZipFile(self.export(self.folder, "a.zip")) as whole:
            text = b"".join(whole.read(name) for name in whole.namelist())
        for secret in (b"PRIVATE KEY", b"argon2", b"drill"):
            self.assertNotIn(secret, text)


class OtherShop(ArchiveCase):
    """An import into a shop that has records."""

    def setUp(self) -> None:
        super().setUp()
        self.open(self.folder)
        shop.set_name("Saltmarsh")
        job = jobs.begin("Frame", at=lambda: AT)
        data = {
            "title": "Frame",
            "quantity": 1,
            "parts": ["a", "b"],
            "seams": [{"key": "s1", "procedure": "P-0001 A", "joins": ["a", "b"]}],
        }
        store_jobs.put(job, data, AT)
        db.close()
        self.path = self.export(self.folder, "sent.zip")
        self.other = self.shop("other")
        self.open(self.other)
        shop.set_name("Northbank")
        procedures.keep_draft(make_joint({**COPE, "title": "Mine"}), ASSUMED)
        db.close()

    def test_numbers_jobs_and_provenance(self) -> None:
        summary = archive_import.import_archive(self.other, self.path)
        self.assertEqual(summary, ImportSummary(taken=2, renumbered=1, jobs=1))
        self.open(self.other)
        moved = queries.get_revision("P-0004", "A")
        self.assertEqual((moved.taken_as, moved.received_from), ("P-0001", "Saltmarsh"))
        self.assertIsNone(queries.get_revision("P-0001", "A").received_from)
        (job,) = store_jobs.list_all()
        self.assertEqual(job.data["seams"][0]["procedure"], "P-0004 A")
        self.assertEqual([row.title for row in store_jobs.list_users("P-0004", "A")], ["Frame"])
        self.assertEqual(shop.load_shop().name, "Northbank")
        db.close()
        # It stays with the record when that is sent on.
        onward = self.export(self.other, "on.zip", ExportChoice(("P-0004",)))
        with zipfile.ZipFile(onward) as whole:
            data = json.loads(whole.read("procedures/P-0004-A.json"))
        self.assertEqual(data["from"], "Saltmarsh")

    def test_preview_lists_every_result_without_changes(self) -> None:
        self.open(self.other)
        before = queries.list_ids_in_order()
        db.close()
        preview = archive_import.preview_archive(self.other, self.path)
        self.assertEqual((preview.shop, preview.jobs, preview.has_shop), ("Saltmarsh", 1, True))
        found = {row.number: (row.result, row.ours, row.runs) for row in preview.rows}
        self.assertEqual(
            found,
            {
                "P-0001": ("conflict", "P-0001", 1),
                "P-0002": ("new", "", 1),
                "P-0003": ("new", "", 0),
            },
        )
        self.open(self.other)
        self.assertEqual(queries.list_ids_in_order(), before)
        db.close()
        archive_import.import_archive(self.other, self.path)
        again = archive_import.preview_archive(self.other, self.path)
        self.assertEqual({row.result for row in again.rows}, {"same"})

    def test_decisions(self) -> None:
        skipped = ImportChoice(skipped=frozenset({"P-0001"}))
        summary = archive_import.import_archive(self.other, self.path, choice=skipped)
        self.assertEqual((summary.skipped, summary.taken, summary.renumbered), (1, 2, 0))
        replaced = ImportChoice(replaced=frozenset({"P-0001", "P-0002"}), with_shop=True)
        summary = archive_import.import_archive(self.other, self.path, choice=replaced)
        self.assertEqual((summary.retired, summary.renumbered, summary.known), (1, 1, 2))
        self.open(self.other)
        self.assertTrue(queries.get_revision("P-0001", "A").removed_at)
        self.assertEqual(shop.load_shop().name, "Saltmarsh")

    def test_new_signatures_reach_a_known_procedure(self) -> None:
        archive_import.import_archive(self.other, self.path)
        self.open(self.folder)
        person = Person(0, "K.S.", "", "lead", True)
        add_signature("P-0001", "B", "author", person, "K.S.")
        db.close()
        later = self.export(self.folder, "later.zip", ExportChoice(("P-0001",)))
        self.assertEqual(archive_import.import_archive(self.other, later), ImportSummary(known=1))
        self.open(self.other)
        (judged,) = judge_signatures(queries.get_revision("P-0004", "B")).signatures
        self.assertEqual((judged.result, judged.key.shop), ("matches", "Saltmarsh"))

    def test_failing_signature_is_in_the_preview(self) -> None:
        self.open(self.folder)
        person = Person(0, "K.S.", "", "lead", True)
        add_signature("P-0001", "B", "author", person, "K.S.")
        db.close()
        path = self.export(self.folder, "signed.zip")
        with zipfile.ZipFile(path) as whole:
            data = json.loads(whole.read("procedures/P-0001-B.json"))
        data["title"] = "Another title"
        preview = archive_import.preview_archive(
            self.other, self.altered(path, "procedures/P-0001-B.json", data)
        )
        counts = {row.number: (row.signatures, row.bad_signatures) for row in preview.rows}
        self.assertEqual(counts["P-0001"], (1, 1))

    def test_part_of_a_library(self) -> None:
        path = self.export(self.folder, "one.zip", ExportChoice(("P-0002", "p-0002")))
        with zipfile.ZipFile(path) as whole:
            self.assertEqual(whole.namelist(), ["procedures/P-0002-A.json", "book.json"])
        with self.assertRaises(Missing):
            self.export(self.folder, "none.zip", ExportChoice(("P-0099",)))

    def test_hostile_jobs_and_shops_change_nothing(self) -> None:
        with zipfile.ZipFile(self.path) as whole:
            job = json.loads(whole.read("jobs/J-0001.json"))
        tick = {"seam": "s1", "piece": 1, "at": AT}
        for entry, data in (
            ("jobs/J-0001.json", {}),
            ("jobs/J-0001.json", {**job, "more": 1}),
            ("jobs/J-0001.json", {**job, "created": "soon"}),
            ("jobs/J-0001.json", {**job, "job": {"title": "x", "seams": [{}]}}),
            ("jobs/J-0001.json", {**job, "ticks": [{**tick, "piece": -1}]}),
            ("jobs/J-0001.json", {**job, "ticks": [{**tick, "procedure": "x"}]}),
            ("shop.json", {"format": "wisearc/shop", "version": 1, "machines": 7}),
        ):
            with self.subTest(data=str(data)[:60]):
                with self.assertRaises(InputError):
                    archive_import.import_archive(self.other, self.altered(self.path, entry, data))
                self.open(self.other)
                self.assertEqual((Revision.select().count(), store_jobs.list_all()), (1, []))
                db.close()

    def test_verifying_run_stays_the_same(self) -> None:
        archive_import.import_archive(self.other, self.path)
        self.open(self.folder)
        kept = queries.find_verifying_run(queries.get_revision("P-0001", "A"))
        db.close()
        self.open(self.other)
        copied = queries.find_verifying_run(queries.get_revision("P-0004", "A"))
        self.assertEqual(copied.record["when"], kept.record["when"])


if __name__ == "__main__":
    unittest.main()
