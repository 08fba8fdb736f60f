"""Photographs and logs go where the book goes, each held against what its name says."""

import zipfile
from pathlib import Path

from tests.care_case import CareCase
from tests.samples import run, typed
from wisearc.core.errors import BadInput
from wisearc.core.joint.data import make_joint
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.maintenance import maintenance
from wisearc.services.procedures import procedures
from wisearc.services.runs import runs
from wisearc.services.runs.kept_files import KeptFiles
from wisearc.store.folder import clear_parts

SHEET = {"metal": "304L", "form": "sheet", "thickness_mm": 1.59}
LOG = "time_s,current_a\n" + "".join(f"{i / 10},{50 if 5 < i < 90 else 0}\n" for i in range(100))


class Files(CareCase):
    def setUp(self) -> None:
        super().setUp()
        self.open(self.folder)
        files = KeptFiles(self.folder)
        log = self.folder / "log.csv"
        log.write_text(LOG)
        self.sha = files.put_log(log)
        self.photograph = files.put_photograph(b"\xff\xd8 a photograph")
        made = {
            "photographs": [{"file": "photograph-1.jpg", "sha256": self.photograph}],
            "arc_log": {"file": "log.csv", "sha256": self.sha},
        }
        draft = procedures.keep_draft(
            make_joint({"joint": "butt", "length_mm": 90, "members": [SHEET, SHEET]}), ASSUMED
        )
        runs.record_run(draft.procedure.label, "A", typed(run(**made, good=False)))
        self.names = {f"{self.sha}.csv.gz", f"{self.photograph}.jpg"}

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

    def test_what_a_kill_left_half_written_is_taken_away(self) -> None:
        half = self.folder / "files" / "x.csv.gz.part"
        half.write_bytes(b"half")
        clear_parts(self.folder)
        self.assertFalse(half.exists())
        self.assertEqual(self.there(self.folder), self.names)

    def test_into_a_backup_and_back(self) -> None:
        copy = maintenance.backup(self.folder, self.folder / "copies")
        self.assertEqual(self.there(self.folder / "copies"), self.names)
        other = self.folder / "other"
        maintenance.restore(other, copy)
        self.assertEqual(self.there(other), self.names)

    def test_into_an_archive_and_back_the_same_bytes(self) -> None:
        at = lambda: "2026-06-01T08:00:00Z"  # noqa: E731
        maintenance.export(self.folder, self.folder / "book.zip", at=at)
        other = self.folder / "other"
        maintenance.take_archive(other, self.folder / "book.zip")
        self.assertEqual(self.there(other), self.names)
        maintenance.export(other, self.folder / "again.zip", at=at)
        self.assertEqual(
            (self.folder / "again.zip").read_bytes(), (self.folder / "book.zip").read_bytes()
        )

    def test_what_is_not_what_its_name_says_is_refused_whole(self) -> None:
        maintenance.export(self.folder, self.folder / "book.zip")
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
            with self.assertRaisesRegex(BadInput, "not what its name says"):
                maintenance.take_archive(other, bad)
            self.assertNotIn(name, self.there(other))
        odd = self.folder / "odd.zip"
        with zipfile.ZipFile(self.folder / "book.zip") as whole, zipfile.ZipFile(odd, "w") as out:
            for info in whole.infolist():
                out.writestr(info, whole.read(info))
            out.writestr("files/../../secret.jpg", b"x")
        with self.assertRaisesRegex(BadInput, "not a part of an archive"):
            maintenance.take_archive(self.folder / "odd", odd)

    def test_what_is_gone_or_damaged_is_told(self) -> None:
        self.assertEqual(maintenance.look_through_all(self.folder), [])
        (self.folder / "files" / f"{self.photograph}.jpg").write_bytes(b"other")
        (self.folder / "files" / f"{self.sha}.csv.gz").unlink()
        found = " ".join(maintenance.look_through_all(self.folder))
        self.assertIn("photograph of the run of", found)
        self.assertIn("is damaged", found)
        self.assertIn("arc log of the run of", found)
        self.assertIn("is not beside the book", found)
