"""Photographs and logs follow the library, each checked by its name."""

import hashlib
import os
import time
import zipfile
from pathlib import Path
from unittest import mock

from tests.care_case import CareCase, build_library
from tests.samples import run, typed
from wisearc.core.errors import InputError
from wisearc.core.joint.data import make_joint
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.maintenance import archive_export, archive_import, maintenance
from wisearc.services.maintenance.file_copies import delete_unreferenced
from wisearc.services.procedures import procedures
from wisearc.services.runs import runs
from wisearc.services.runs.kept_files import KeptFiles
from wisearc.store import queries, weld_sessions
from wisearc.store.folder import clear_parts
from wisearc.store.opening import Store

SHEET = {"metal": "304L", "form": "sheet", "thickness_mm": 1.59}
LOG = "time_s,current_a\n" + "".join(f"{i / 10},{50 if 5 < i < 90 else 0}\n" for i in range(100))


PHOTOGRAPH = b"\xff\xd8 a photograph"
PHOTOGRAPH_SHA256 = hashlib.sha256(PHOTOGRAPH).hexdigest()
LOG_SHA256 = hashlib.sha256(LOG.encode()).hexdigest()


def build_with_files(folder: Path) -> None:
    """Create a library with one run that has a photograph and an arc log."""
    build_library(folder)
    store, files = Store(folder), KeptFiles(folder)
    log = folder / "log.csv"
    log.write_text(LOG)
    files.put_log(log)
    files.put_photograph(PHOTOGRAPH)
    made = {
        "photographs": [{"file": "photograph-1.jpg", "sha256": PHOTOGRAPH_SHA256}],
        "arc_log": {"file": "log.csv", "sha256": LOG_SHA256},
    }
    joint = {"joint": "butt", "length_mm": 90, "members": [SHEET, SHEET]}
    draft = procedures.keep_draft(make_joint(joint), ASSUMED)
    runs.record_run(draft.procedure.label, "A", typed(run(**made, good=False)))
    store.close()


class Files(CareCase):
    build = staticmethod(build_with_files)
    sha, photograph = LOG_SHA256, PHOTOGRAPH_SHA256
    names = frozenset({f"{LOG_SHA256}.csv.gz", f"{PHOTOGRAPH_SHA256}.jpg"})

    def there(self, folder: Path) -> set[str]:
        return (
            {p.name for p in (folder / "files").iterdir()} if (folder / "files").is_dir() else set()
        )

    def test_the_same_log_is_the_same_file(self) -> None:
        log = self.folder / "again.csv"
        log.write_text(LOG)
        before = (self.folder / "files" / f"{self.sha}.csv.gz").read_bytes()
        self.assertEqual(KeptFiles(self.folder).put_log(log), self.sha)
        self.assertEqual((self.folder / "files" / f"{self.sha}.csv.gz").read_bytes(), before)
        self.assertEqual(b"".join(KeptFiles(self.folder).log(self.sha)).decode(), LOG)

    def test_partial_files_of_a_killed_process_are_removed(self) -> None:
        half = self.folder / "files" / "x.csv.gz.part"
        half.write_bytes(b"half")
        clear_parts(self.folder)
        self.assertFalse(half.exists())
        self.assertEqual(self.there(self.folder), self.names)

    def test_into_a_backup_and_back(self) -> None:
        copy = maintenance.create_backup(self.folder, self.folder / "copies")
        self.assertEqual(self.there(self.folder / "copies"), self.names)
        other = self.folder / "other"
        maintenance.restore(other, copy)
        self.assertEqual(self.there(other), self.names)

    def test_into_an_archive_and_back_the_same_bytes(self) -> None:
        at = lambda: "2026-06-01T08:00:00Z"  # noqa: E731
        archive_export.export(self.folder, self.folder / "book.zip", at=at)
        other = self.folder / "other"
        archive_import.import_archive(other, self.folder / "book.zip")
        self.assertEqual(self.there(other), self.names)
        archive_export.export(other, self.folder / "again.zip", at=at)
        self.assertEqual(
            (self.folder / "again.zip").read_bytes(), (self.folder / "book.zip").read_bytes()
        )

    def test_archive_with_a_misnamed_file_is_refused(self) -> None:
        archive_export.export(self.folder, self.folder / "book.zip")
        for name in self.names:
            bad = self.folder / "bad.zip"
            with (
                zipfile.ZipFile(self.folder / "book.zip") as whole,
                zipfile.ZipFile(bad, "w") as out,
            ):
                for info in whole.infolist():
                    data = whole.read(info)
                    out.writestr(
                        info, data[:-9] + b"another" if info.filename.endswith(name) else data
                    )
            other = self.folder / f"other-{name[:4]}"
            with self.assertRaisesRegex(InputError, "does not match its name"):
                archive_import.import_archive(other, bad)
            self.assertNotIn(name, self.there(other))
        odd = self.folder / "odd.zip"
        with zipfile.ZipFile(self.folder / "book.zip") as whole, zipfile.ZipFile(odd, "w") as out:
            for info in whole.infolist():
                out.writestr(info, whole.read(info))
            out.writestr("files/../../secret.jpg", b"x")
        with self.assertRaisesRegex(InputError, "is not a part of an archive"):
            archive_import.import_archive(self.folder / "odd", odd)

    def test_missing_or_damaged_files_are_reported(self) -> None:
        self.assertEqual(maintenance.check_library(self.folder).problems, [])
        (self.folder / "files" / f"{self.photograph}.jpg").write_bytes(b"other")
        (self.folder / "files" / f"{self.sha}.csv.gz").unlink()
        found = " ".join(maintenance.check_library(self.folder).problems)
        self.assertIn("photograph of the run of", found)
        self.assertIn("is damaged", found)
        self.assertIn("arc log of the run of", found)
        self.assertIn("is missing", found)

    def damage(self) -> None:
        (self.folder / "files" / f"{self.photograph}.jpg").write_bytes(b"other")
        (self.folder / "files" / f"{self.sha}.csv.gz").unlink()

    def test_repair_from_a_backup(self) -> None:
        copy = maintenance.create_backup(self.folder, self.folder / "copies")
        for given in (copy, copy.parent):
            self.damage()
            looked = maintenance.check_library(self.folder, repair=given)
            self.assertEqual((looked.problems, len(looked.notices)), ([], 2))
            self.assertIn("Repaired from the backup", looked.notices[0])
            self.assertEqual(maintenance.check_library(self.folder).problems, [])
        self.assertEqual(b"".join(KeptFiles(self.folder).log(self.sha)).decode(), LOG)

    def test_repair_skips_damaged_files_of_the_backup(self) -> None:
        copy = maintenance.create_backup(self.folder, self.folder / "copies")
        (copy.parent / "files" / f"{self.photograph}.jpg").write_bytes(b"another")
        self.damage()
        looked = maintenance.check_library(self.folder, repair=copy)
        self.assertEqual((len(looked.problems), len(looked.notices)), (1, 1))
        self.assertIn("photograph", looked.problems[0])
        self.assertEqual((self.folder / "files" / f"{self.photograph}.jpg").read_bytes(), b"other")
        with self.assertRaisesRegex(InputError, "has no “files” folder next to it"):
            maintenance.check_library(self.folder, repair=self.folder / "nowhere.sqlite3")

    def test_same_upload_repairs_a_damaged_file(self) -> None:
        files, log = KeptFiles(self.folder), self.folder / "again.csv"
        log.write_text(LOG)
        copy = maintenance.create_backup(self.folder, self.folder / "copies")
        archive_export.export(self.folder, self.folder / "book.zip")
        ways = {
            "given again": lambda: (
                files.put_photograph(PHOTOGRAPH),
                files.put_log(log),
            ),
            "restored": lambda: maintenance.restore(self.folder, copy),
            "from an archive": lambda: archive_import.import_archive(
                self.folder, self.folder / "book.zip"
            ),
        }
        for name, way in ways.items():
            with self.subTest(name):
                self.damage()
                way()
                self.assertEqual(maintenance.check_library(self.folder).problems, [])

    def test_damaged_backup_does_not_replace_valid_files(self) -> None:
        copy = maintenance.create_backup(self.folder, self.folder / "copies")
        for path in (copy.parent / "files").iterdir():
            path.write_bytes(b"harmed")
        maintenance.restore(self.folder, copy)
        self.assertEqual(maintenance.check_library(self.folder).problems, [])

    def test_content_is_on_disk_before_the_rename(self) -> None:
        seen: list[tuple[str, str]] = []
        real_replace, real_fsync = Path.replace, os.fsync

        def fsync(handle: int) -> None:
            seen.append(("disk", str(Path(f"/proc/self/fd/{handle}").readlink())))
            real_fsync(handle)

        def replace(path: Path, target: Path) -> Path:
            seen.append(("name", str(path)))
            return real_replace(path, target)

        log = self.folder / "again.csv"
        log.write_text(LOG + "10.1,0\n")
        ways = (
            lambda: KeptFiles(self.folder).put_photograph(b"another"),
            lambda: KeptFiles(self.folder).put_log(log),
            lambda: maintenance.create_backup(self.folder, self.folder / "fresh"),
            lambda: archive_export.export(self.folder, self.folder / "fresh.zip"),
        )
        for way in ways:
            seen.clear()
            with (
                mock.patch("os.fsync", fsync),
                mock.patch.object(Path, "replace", replace),
            ):
                way()
            named = [i for i, (what, _) in enumerate(seen) if what == "name"]
            self.assertTrue(named)
            for i in named:
                self.assertIn(("disk", seen[i][1]), seen[:i])
                self.assertEqual(seen[i + 1][0], "disk")

    def test_unreferenced_files_are_deleted_after_a_day(self) -> None:
        spare = KeptFiles(self.folder).put_photograph(b"of no run")
        place = self.folder / "files" / f"{spare}.jpg"
        self.assertEqual(maintenance.check_library(self.folder).notices, [])
        self.assertEqual(maintenance.delete_unreferenced_files(self.folder), 0)
        for path in (self.folder / "files").iterdir():
            os.utime(path, (time.time() - 23.9 * 3600,) * 2)
        self.assertEqual(maintenance.check_library(self.folder).notices, [])
        self.open(self.folder)
        self.assertEqual(maintenance.delete_unreferenced_files(self.folder), 0)
        yesterday = time.time() - 24 * 3600 - 60
        for path in (self.folder / "files").iterdir():
            os.utime(path, (yesterday, yesterday))
        self.assertIn(place.name, maintenance.check_library(self.folder).notices[0])
        self.open(self.folder)
        KeptFiles(self.folder).put_photograph(b"of no run")
        self.assertEqual(maintenance.delete_unreferenced_files(self.folder), 0)
        os.utime(place, (yesterday, yesterday))
        self.assertEqual(maintenance.delete_unreferenced_files(self.folder), 1)
        self.assertEqual(self.there(self.folder), self.names)

    def test_resaved_file_is_not_deleted(self) -> None:
        spare = KeptFiles(self.folder).put_photograph(b"of no run")
        place = self.folder / "files" / f"{spare}.jpg"
        self.assertEqual(delete_unreferenced(self.folder, [place, place.with_name("gone.jpg")]), 0)
        self.assertTrue(place.exists())
        self.assertEqual(delete_unreferenced(self.folder, [place], time.time() + 24 * 3600 + 60), 1)

    def test_open_and_corrected_runs_keep_their_files(self) -> None:
        row = weld_sessions.begin("joint=butt", "", "", "once", "", 1.0)
        weld_sessions.change(row.id, log={"file": "a", "sha256": "a" * 64})
        self.assertEqual(queries.find_referenced_files(), {"a" * 64, self.sha, self.photograph})

    def test_archive_imports_only_referenced_files(self) -> None:
        archive_export.export(self.folder, self.folder / "book.zip")
        data = b"nobody asked for this"
        name = f"{hashlib.sha256(data).hexdigest()}.jpg"
        with zipfile.ZipFile(self.folder / "book.zip", "a") as archive:
            archive.writestr(f"files/{name}", data)
        other = self.folder / "other"
        archive_import.import_archive(other, self.folder / "book.zip")
        self.assertEqual(self.there(other), self.names)
