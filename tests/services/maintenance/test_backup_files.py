"""A backup as one file: database, photographs and logs, carried to a fresh machine."""

import json
import unittest
import zipfile
from pathlib import Path
from unittest import mock

from tests.care_case import CareCase
from tests.services.maintenance.test_file_copies import (
    LOG_SHA256,
    PHOTOGRAPH_SHA256,
    build_with_files,
)
from wisearc.core.errors import InputError
from wisearc.services.errors import Cancelled, Missing
from wisearc.services.maintenance import backup_files, maintenance
from wisearc.services.maintenance.backup_files import (
    create_backup_file,
    read_backup_head,
    summarise_library,
)
from wisearc.services.people import shop_key
from wisearc.store import shop_keys


class OneFile(CareCase):
    build = staticmethod(build_with_files)

    def there(self, folder: Path) -> set[str]:
        return {path.name for path in (folder / "files").iterdir()}

    def backup(self) -> Path:
        return create_backup_file(self.folder, self.folder / "copies")

    def test_carried_to_a_fresh_machine_with_everything(self) -> None:
        path = self.backup()
        other = self.folder / "fresh" / "data"
        maintenance.restore(other, path)
        self.assertEqual(self.there(other), {f"{LOG_SHA256}.csv.gz", f"{PHOTOGRAPH_SHA256}.jpg"})
        self.assertEqual(maintenance.check_library(other).problems, [])

    def test_head_has_counts_and_dates(self) -> None:
        path = self.backup()
        head = read_backup_head(path)
        present = summarise_library(self.folder)
        self.assertEqual((head.procedures, head.runs), (present.procedures, present.runs))
        self.assertEqual((head.photographs, head.logs), (1, 1))
        self.assertEqual(head.changed, present.changed)
        self.assertIn("1 photograph, 1 arc log; last change 20", head.text)
        older = maintenance.create_backup(self.folder, self.folder / "copies")
        self.assertEqual(read_backup_head(older).runs, present.runs)

    def test_neither_key_nor_pins_are_in_it(self) -> None:
        shop_key.load_signing_key()
        secret = shop_keys.get_file().read_bytes()
        path = self.backup()
        with zipfile.ZipFile(path) as whole:
            names = whole.namelist()
            self.assertNotIn(secret[40:80], b"".join(whole.read(name) for name in names))
        self.assertEqual(path.stat().st_mode & 0o777, 0o600)
        self.assertEqual(names[:2], ["backup.json", "wisearc.sqlite3"])

    def test_damaged_files_are_repaired_from_it(self) -> None:
        path = self.backup()
        (self.folder / "files" / f"{LOG_SHA256}.csv.gz").unlink()
        self.assertTrue(maintenance.check_library(self.folder).problems)
        result = maintenance.check_library(self.folder, repair=path)
        self.assertEqual(result.problems, [])
        self.assertIn("Repaired from the backup", " ".join(result.notices))

    def test_stopped_on_the_way_leaves_nothing(self) -> None:
        with self.assertRaises(Cancelled):
            create_backup_file(self.folder, self.folder / "copies", lambda done, _of: done < 70)
        self.assertEqual(list((self.folder / "copies").iterdir()), [])
        self.assertEqual(list(self.folder.glob("*.part")), [])
        with self.assertRaises(Missing):
            create_backup_file(self.folder / "nowhere", self.folder / "copies")

    def altered(self, path: Path, **entries: object) -> Path:
        """A copy of a backup with other or more entries; None leaves one out."""
        changed = path.with_name("altered.zip")
        with zipfile.ZipFile(path) as whole, zipfile.ZipFile(changed, "w") as out:
            for name in whole.namelist():
                if name not in entries:
                    out.writestr(name, whole.read(name))
            for name, data in entries.items():
                if data is not None:
                    out.writestr(name, data)
        return changed

    def test_hostile_backups_change_nothing(self) -> None:
        path = self.backup()
        with zipfile.ZipFile(path) as whole:
            head = json.loads(whole.read("backup.json"))
        before = summarise_library(self.folder)
        for entries in (
            {"backup.json": None},
            {"backup.json": "{"},
            {"backup.json": json.dumps({**head, "runs": -1})},
            {"backup.json": json.dumps({**head, "more": 1})},
            {"wisearc.sqlite3": None},
            {"wisearc.sqlite3": b"x" * 4096},
            {"files/../../secret.jpg": b"x"},
            {"signing-key.pem": b"x"},
            {"files/x.jpg": b"x"},
        ):
            bad = self.altered(path, **entries)
            with self.subTest(list(entries)), self.assertRaises(InputError):
                maintenance.restore(self.folder, bad)
            self.assertEqual(summarise_library(self.folder), before)
        with (
            mock.patch.object(backup_files, "MAX_BYTES", 10),
            self.assertRaises(InputError),
        ):
            maintenance.restore(self.folder, path)
        broken = path.with_name("broken.zip")
        data = bytearray(path.read_bytes())
        data[len(data) // 3] ^= 255
        broken.write_bytes(bytes(data))
        with self.assertRaises(InputError):
            maintenance.restore(self.folder, broken)


if __name__ == "__main__":
    unittest.main()
