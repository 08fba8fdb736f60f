"""Maintenance: backups, restores, archives out and in, a complete check."""

import io
import json
import signal
import sqlite3
import stat
import threading
import unittest
import zipfile
from collections.abc import Callable
from contextlib import closing
from pathlib import Path
from typing import Any
from unittest import mock

from tests.care_case import CareCase
from tests.samples import COPE, CORNER
from wisearc.core.errors import InputError
from wisearc.core.joint.data import make_joint
from wisearc.core.shop.shop import ASSUMED
from wisearc.formats import archive
from wisearc.services.maintenance import (
    archive_export,
    archive_import,
    backup_files,
    long_work,
    maintenance,
)
from wisearc.services.maintenance.archive_import import ImportSummary
from wisearc.services.maintenance.opening import is_large
from wisearc.services.planning import approaches
from wisearc.services.procedures import procedures
from wisearc.store import copies as store_copies
from wisearc.store import listings, queries
from wisearc.store.database import db, open_transaction
from wisearc.store.errors import Broken, Cancelled, DatabaseBusy, EditConflict, Missing, StoreError
from wisearc.store.folder import COPIES, FILE_NAME, lock_all_writes, lock_for_write
from wisearc.store.models import Procedure, RunRow
from wisearc.store.opening import SOON_LOOKED_THROUGH


class Backup(CareCase):
    def test_while_it_is_written_to(self) -> None:
        """Every concurrent backup is valid and has complete transactions."""
        over = threading.Event()

        def write() -> None:
            while not over.is_set():
                with open_transaction():
                    for _ in range(2):
                        Procedure.create(number=queries.find_next_number(), created_at="x")
            db.close()

        writer = threading.Thread(target=write)
        writer.start()
        made = [maintenance.create_backup(self.folder, self.at / "copies") for _ in range(5)]
        over.set()
        writer.join()
        self.assertEqual(len(set(made)), 5)
        for path in made:
            with closing(sqlite3.connect(path)) as file:
                self.assertEqual(file.execute("PRAGMA integrity_check").fetchone(), ("ok",))
                self.assertEqual(
                    file.execute("SELECT count(*) % 2 FROM procedure").fetchone(), (1,)
                )
            self.assertEqual(stat.S_IMODE(path.stat().st_mode), 0o600)

    def test_invalid_backup_is_deleted(self) -> None:
        with (
            mock.patch.object(maintenance, "check_database", side_effect=Broken("x")),
            self.assertRaises(Broken),
        ):
            maintenance.create_backup(self.folder, self.at / "copies")
        self.assertEqual(list((self.at / "copies").iterdir()), [])

    def test_copying_creates_no_library(self) -> None:
        with self.assertRaisesRegex(Missing, "no library in"):
            maintenance.create_backup(self.at / "nowhere", self.at / "copies")
        self.assertFalse((self.at / "nowhere").exists())

    def test_stopped_leaves_nothing(self) -> None:
        large = self.at / "large.sqlite3"
        with closing(sqlite3.connect(large, isolation_level=None)) as file:
            file.execute("CREATE TABLE much (what BLOB)")
            file.executemany("INSERT INTO much VALUES (randomblob(1000000))", [()] * 60)

        def interrupt(share: float) -> bool:
            raise KeyboardInterrupt

        for watch, error in ((lambda share: False, Cancelled), (interrupt, KeyboardInterrupt)):
            with (
                mock.patch.multiple(store_copies, _REPORT_EVERY_S=0, _SQLITE_STEPS=1),
                self.assertRaises(error),
            ):
                store_copies.copy_to(large, self.at / "copy.sqlite3", watch)
            self.assertEqual(sorted(p.name for p in self.at.glob("*copy*")), [])


class Restore(CareCase):
    def test_restored_state_is_the_earlier_state(self) -> None:
        before = self.rows()
        copy = maintenance.create_backup(self.folder, self.at / "copies")
        procedures.keep_draft(make_joint(CORNER), ASSUMED)
        after = self.rows()
        kept = maintenance.restore(self.folder, copy)
        self.open(self.folder)
        self.assertEqual(self.rows(), before)
        maintenance.restore(self.folder, kept)
        self.open(self.folder)
        self.assertEqual(self.rows(), after)
        self.assertEqual([p.name for p in self.folder.iterdir() if "part" in p.name], [])

    def test_into_an_empty_shop(self) -> None:
        before = self.rows()
        maintenance.restore(
            self.at / "new", maintenance.create_backup(self.folder, self.at / "copies")
        )
        self.open(self.at / "new")
        self.assertEqual(self.rows(), before)

    def test_concurrent_readers_are_served(self) -> None:
        copy = maintenance.create_backup(self.folder, self.at / "copies")
        procedures.keep_draft(make_joint(CORNER), ASSUMED)
        db.close()
        with closing(sqlite3.connect(self.folder / FILE_NAME)) as reader:
            self.assertEqual(reader.execute("SELECT count(*) FROM procedure").fetchone(), (4,))
            maintenance.restore(self.folder, copy)
            self.assertEqual(reader.execute("SELECT count(*) FROM procedure").fetchone(), (3,))

    def test_whatever_the_folders_are_called(self) -> None:
        before = self.rows()
        strange = self.at / "what? #1 %41"
        maintenance.restore(strange / "new", maintenance.create_backup(self.folder, strange))
        self.open(strange / "new")
        self.assertEqual(self.rows(), before)

    def test_no_write_interleaves(self) -> None:
        with (
            lock_all_writes(self.folder),
            mock.patch("wisearc.store.database.WAIT_MS", 50),
            self.assertRaises(DatabaseBusy),
        ):
            self.open(self.folder)
            procedures.keep_draft(make_joint(CORNER), ASSUMED)

    def test_no_write_during_replacement(self) -> None:
        copy = maintenance.create_backup(self.folder, self.at / "copies")
        tried: list[str] = []

        def put(source: Path, target: Path) -> None:
            with self.assertRaises(DatabaseBusy), lock_for_write(self.folder, 0.01):
                tried.append("written")
            tried.append("held")

        with mock.patch.object(maintenance, "copy_into", put):
            maintenance.restore(self.folder, copy)
        self.assertEqual(tried, ["held"])
        with lock_for_write(self.folder, 0.01):
            pass

    def test_files_that_are_not_backups(self) -> None:
        other = self.at / "other.sqlite3"
        with closing(sqlite3.connect(other)) as file:
            file.execute("CREATE TABLE shopping (what TEXT)")
        (self.at / "list.sqlite3").write_bytes(b"flour, eggs " * 900)
        half = self.at / "half.sqlite3"
        half.write_bytes(
            maintenance.create_backup(self.folder, self.at / "copies").read_bytes()[:20000]
        )
        before = self.rows()
        for path, words in (
            (other, "not a Wise Arc library"),
            (self.at / "list.sqlite3", "not a valid"),
            (half, "not a valid"),
            (self.at / "none", "does not exist"),
        ):
            with (
                self.subTest(path=path.name),
                self.assertRaisesRegex((InputError, StoreError), words),
            ):
                maintenance.restore(self.folder, path)
        self.open(self.folder)
        self.assertEqual(self.rows(), before)


class OutAndIn(CareCase):
    def archived(self, name: str = "book.zip", at: str = "2026-06-01T08:00:00Z") -> Path:
        archive_export.export(
            self.folder if name == "book.zip" else self.at / "new", self.at / name, at=lambda: at
        )
        return self.at / name

    def test_into_an_empty_shop_as_it_was(self) -> None:
        before = self.rows()
        path = self.archived()
        summary = archive_import.import_archive(self.at / "new", path)
        self.assertEqual(summary, ImportSummary(taken=3))
        self.open(self.at / "new")
        self.assertEqual(self.rows(), before)
        self.assertEqual([r.label for r in listings.list_library()], ["P-0002", "P-0001", "P-0001"])
        again = self.archived("again.zip")
        self.assertEqual(again.read_bytes(), path.read_bytes())

    def test_the_same_but_for_the_time(self) -> None:
        path = self.archived()
        first = path.read_bytes()
        later = self.archived(at="2026-06-02T08:00:00Z")
        a, b = zipfile.ZipFile(io.BytesIO(first)), zipfile.ZipFile(later)
        differs = [name for name in a.namelist() if a.read(name) != b.read(name)]
        self.assertEqual((a.namelist(), differs), (b.namelist(), [archive.HEAD]))
        self.assertEqual(a.namelist()[:2], ["procedures/P-0001-A.json", "procedures/P-0001-B.json"])

    def test_existing_records_are_kept(self) -> None:
        before = self.rows()
        self.assertEqual(
            archive_import.import_archive(self.folder, self.archived()),
            ImportSummary(known=3),
        )
        self.open(self.folder)
        self.assertEqual(self.rows(), before)

    def test_import_into_another_library(self) -> None:
        path = self.archived()
        self.open(self.at / "other")
        procedures.keep_draft(make_joint({**COPE, "title": "Mine"}), ASSUMED)
        db.close()
        self.assertEqual(
            archive_import.import_archive(self.at / "other", path),
            ImportSummary(taken=2, renumbered=1),
        )
        self.open(self.at / "other")
        self.assertEqual(
            [
                (r.procedure.label, r.letter, r.taken_as)
                for r in queries.list_revisions_by_id(queries.list_ids_in_order())
            ],
            [
                ("P-0001", "A", None),
                ("P-0002", "A", None),
                ("P-0003", "A", None),
                ("P-0004", "A", "P-0001"),
                ("P-0004", "B", "P-0001"),
            ],
        )
        self.assertEqual(approaches.load_preferences()["tip_school"], "table")
        db.close()
        self.assertEqual(archive_import.import_archive(self.at / "other", path).known, 3)

    def test_all_of_it_or_nothing(self) -> None:
        path = self.archived()
        with zipfile.ZipFile(path) as whole:
            entries = {name: whole.read(name) for name in whole.namelist()}
        spoilt = json.loads(entries["procedures/P-0002-A.json"])
        entries["procedures/P-0002-A.json"] = json.dumps({**spoilt, "status": "proved"}).encode()
        with zipfile.ZipFile(path, "w") as out:
            for name, data in entries.items():
                out.writestr(name, data)
        with self.assertRaisesRegex(InputError, "P-0002 A: status “proved” needs a good run"):
            archive_import.import_archive(self.at / "new", path)
        self.open(self.at / "new")
        self.assertEqual((Procedure.select().count(), RunRow.select().count()), (0, 0))

    def test_concurrent_write(self) -> None:
        path = self.archived()
        (self.at / "new").mkdir()
        real = archive_import._import_procedures

        def slow(*args: object) -> dict[str, int]:
            summary = real(*args)
            with closing(sqlite3.connect(self.at / "new" / FILE_NAME)) as other:
                other.execute("UPDATE book SET writes = writes + 1")
                other.commit()
            return summary

        with (
            mock.patch.object(archive_import, "_import_procedures", slow),
            self.assertRaisesRegex(EditConflict, "changed during the import"),
        ):
            archive_import.import_archive(self.at / "new", path)
        calls: list[int] = []

        def once(*args: object) -> dict[str, int]:
            calls.append(1)
            return slow(*args) if len(calls) == 1 else real(*args)

        with mock.patch.object(archive_import, "_import_procedures", once):
            self.assertEqual(archive_import.import_archive(self.at / "new", path).taken, 3)
        self.assertEqual(len(calls), 2)

    def test_stopped_on_the_way(self) -> None:
        path = self.archived()
        for act in (
            lambda watch: archive_export.export(self.folder, self.at / "b.zip", watch),
            lambda watch: archive_import.import_archive(self.at / "new", path, watch),
            lambda watch: maintenance.check_library(self.folder, watch),
        ):
            with self.assertRaises(Cancelled):
                act(lambda done, of: done < 2)
        self.assertEqual([p.name for p in self.at.rglob("*.part*")], [])
        self.assertFalse((self.at / "b.zip").exists())
        self.open(self.at / "new")
        self.assertEqual(Procedure.select().count(), 0)


class AskedToStopTooLate(CareCase):
    """The last step is completed, and no message claims that nothing changed."""

    def setUp(self) -> None:
        super().setUp()
        for asked in (signal.SIGINT, signal.SIGTERM):
            self.addCleanup(signal.signal, asked, signal.signal(asked, signal.default_int_handler))

    def stop_after(self, act: Any) -> Any:
        """An act during which the process is asked to stop, as by Ctrl+C and by the page."""

        def done(*given: Any) -> None:
            act(*given)
            for asked in (signal.SIGINT, signal.SIGTERM):
                signal.raise_signal(asked)

        return done

    def test_restoring(self) -> None:
        copy, before = maintenance.create_backup(self.folder, self.at / "copies"), self.rows()
        procedures.keep_draft(make_joint(CORNER), ASSUMED)
        with mock.patch.object(maintenance, "copy_into", self.stop_after(maintenance.copy_into)):
            maintenance.restore(self.folder, copy)
        self.assertIs(signal.getsignal(signal.SIGTERM), signal.default_int_handler)
        self.open(self.folder)
        self.assertEqual(self.rows(), before)

    def test_taking_in(self) -> None:
        archive_export.export(self.folder, self.at / "book.zip")
        with mock.patch.object(
            archive_import.merging, "add_new", self.stop_after(archive_import.merging.add_new)
        ):
            self.assertEqual(
                archive_import.import_archive(self.at / "new", self.at / "book.zip").taken, 3
            )

    def test_in_time_it_stops(self) -> None:
        copy = maintenance.create_backup(self.folder, self.at / "copies")
        procedures.keep_draft(make_joint(CORNER), ASSUMED)
        before = self.rows()
        with (
            mock.patch.object(backup_files, "is_library", self.stop_after(backup_files.is_library)),
            self.assertRaises(KeyboardInterrupt),
        ):
            maintenance.restore(self.folder, copy)
        self.open(self.folder)
        self.assertEqual(self.rows(), before)


class Progress(CareCase):
    """Progress reports: completed steps and their number."""

    def told(self, do: Callable[[long_work.Watch], object]) -> list[tuple[int, int]]:
        found: list[tuple[int, int]] = []

        def watch(done: int, of: int) -> bool:
            found.append((done, of))
            return True

        do(watch)
        return found

    def test_of_each_task(self) -> None:
        copy = maintenance.create_backup(self.folder, self.at / "copies")
        restored = self.told(lambda watch: maintenance.restore(self.folder, copy, watch))
        self.assertEqual(restored, [(1, 4), (2, 4), (3, 4), (4, 4)])
        looked = self.told(lambda watch: maintenance.check_library(self.folder, watch))
        count = len(looked)
        self.assertEqual(looked, [(i, count) for i in range(1, count + 1)])
        begun = self.told(lambda watch: maintenance.create_library(self.folder, watch))
        self.assertEqual(begun, [(1, 2), (2, 2)])


class LibraryCheck(CareCase):
    def test_accepted_values(self) -> None:
        self.assertEqual(maintenance.check_library(self.folder).problems, [])

    def test_each_thing_that_is_wrong_is_named(self) -> None:
        with closing(sqlite3.connect(self.folder / FILE_NAME, isolation_level=None)) as file:
            file.execute("UPDATE revision SET plan = '{}' WHERE letter = 'B'")
            file.execute("DROP TRIGGER run_corrected")
            file.execute("UPDATE run SET record = '{}' WHERE good = 0")
            file.execute("DELETE FROM listing WHERE number = 3")
        self.open(self.folder)
        found = maintenance.check_library(self.folder).problems
        self.assertEqual([sentence[:8] for sentence in found], ["P-0001 B", "P-0002 A"])

    def test_a_file_that_is_broken(self) -> None:
        path = self.folder / FILE_NAME
        raw = bytearray(path.read_bytes())
        raw[8192:12288] = b"\x07" * 4096
        path.write_bytes(raw)
        try:
            found = maintenance.check_library(self.folder).problems
            self.assertRegex(found[0], "not a valid database")
        except Broken as error:
            self.assertRegex(str(error), "not a valid database")


class LargeDatabase(CareCase):
    def test_size_limit(self) -> None:
        self.at.mkdir(exist_ok=True)
        path = self.at / FILE_NAME
        for size, large in ((SOON_LOOKED_THROUGH, False), (SOON_LOOKED_THROUGH + 1, True)):
            with path.open("wb") as file:
                file.truncate(size)
            self.assertEqual(is_large(self.at), large)
        path.unlink()
        self.assertFalse(is_large(self.at))


class Copies(CareCase):
    def test_in_one_second_are_numbered_from_two(self) -> None:
        into = self.at / "copies"
        with mock.patch.object(maintenance, "format_stamp", return_value="20260712-091500"):
            made = [maintenance.create_backup(self.folder, into).stem for _ in range(3)]
        self.assertEqual(made, [made[0], f"{made[0]}-2", f"{made[0]}-3"])

    def test_by_name_and_no_other(self) -> None:
        maintenance.create_backup(self.folder, self.folder / COPIES)
        (self.folder / COPIES / "notes.txt").write_text("x")
        ((name, size),) = maintenance.list_copies(self.folder)
        self.assertGreater(size, 10000)
        self.assertTrue(maintenance.copy_named(self.folder, name).exists())
        for bad in ("notes.txt", "../secret", f"../{FILE_NAME}", ""):
            with self.assertRaises(Missing):
                maintenance.copy_named(self.folder, bad)


if __name__ == "__main__":
    unittest.main()
