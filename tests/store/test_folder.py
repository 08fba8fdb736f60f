"""The data folder: private, served by one process, with a complete secret and file or none."""

import os
import shutil
import sqlite3
import stat
import subprocess
import sys
import tempfile
import threading
import time
import unittest
from contextlib import closing
from pathlib import Path
from unittest import mock

import tests
from tests.frozen import read_first_library
from tests.samples import CORNER, run, typed
from wisearc.core.joint.data import make_joint
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.maintenance.opening import lock_folder, open_data
from wisearc.services.procedures import procedures
from wisearc.services.runs import runs
from wisearc.store import database, listings, opening, queries
from wisearc.store.database import db, open_transaction
from wisearc.store.errors import (
    AlreadyRunning,
    Broken,
    DatabaseBusy,
    DataFileReplaced,
    DiskFull,
    ReadOnly,
)
from wisearc.store.folder import (
    COPIES,
    FILE_NAME,
    LOCK,
    PART,
    SECRET,
    TURN,
    FolderLock,
    load_secret,
    make_folder,
    write_complete,
)
from wisearc.store.models import Procedure
from wisearc.store.opening import Store


def mode(path: Path) -> int:
    return stat.S_IMODE(path.stat().st_mode)


class FolderCase(unittest.TestCase):
    def setUp(self) -> None:
        whole = tempfile.TemporaryDirectory()
        self.addCleanup(whole.cleanup)
        self.folder = Path(whole.name) / "data"
        self.addCleanup(lambda: db.is_closed() or db.close())

    def keep(self):
        return procedures.keep_draft(make_joint(CORNER), ASSUMED)

    def with_records(self) -> tuple[Path, bytes]:
        """Return a library file with some records, and its contents."""
        open_data(self.folder)
        for _ in range(4):
            self.keep()
        db.close()
        path = self.folder / FILE_NAME
        return path, path.read_bytes()


class ItsOwners(FolderCase):
    def test_for_the_owner_alone(self) -> None:
        umask = os.umask(0)
        self.addCleanup(os.umask, umask)
        store = open_data(self.folder)
        load_secret(self.folder)
        db.connect()
        self.keep()
        seen = {path.name: mode(path) for path in self.folder.iterdir()}
        store.close()
        self.assertEqual(mode(self.folder), 0o700)
        self.assertEqual(
            seen,
            dict.fromkeys((FILE_NAME, f"{FILE_NAME}-wal", f"{FILE_NAME}-shm", SECRET, TURN), 0o600),
        )

    def test_an_older_folder_is_closed_to_others(self) -> None:
        open_data(self.folder)
        self.folder.chmod(0o755)
        (self.folder / FILE_NAME).chmod(0o644)
        open_data(self.folder)
        self.assertEqual((mode(self.folder), mode(self.folder / FILE_NAME)), (0o700, 0o600))

    def test_a_folder_of_other_things_is_left_as_it_is(self) -> None:
        self.folder.mkdir(mode=0o755)
        make_folder(self.folder)
        self.assertEqual(mode(self.folder), 0o755)


class Secret(FolderCase):
    def test_kept(self) -> None:
        make_folder(self.folder)
        self.assertEqual(load_secret(self.folder), load_secret(self.folder))
        self.assertRegex(load_secret(self.folder), "^[0-9a-f]{64}$")

    def test_partial_database_is_recreated(self) -> None:
        make_folder(self.folder)
        for left in (b"", b"abc", b"\xff" * 64, b"g" * 64):
            (self.folder / SECRET).write_bytes(left)
            self.assertRegex(load_secret(self.folder), "^[0-9a-f]{64}$")

    def test_write_is_complete_or_absent(self) -> None:
        """A kill before the rename leaves nothing under the name."""
        make_folder(self.folder)
        with (
            mock.patch("os.fsync", side_effect=KeyboardInterrupt),
            self.assertRaises(KeyboardInterrupt),
        ):
            write_complete(self.folder / SECRET, b"x" * 64)
        self.assertEqual(list(self.folder.iterdir()), [])


class ServedOnce(FolderCase):
    def test_second_start_reports_the_address(self) -> None:
        with lock_folder(self.folder) as first:
            first.at("http://127.0.0.1:1234/")
            with self.assertRaisesRegex(AlreadyRunning, "at http://127.0.0.1:1234/"):
                FolderLock(self.folder)
        FolderLock(self.folder).close()

    def test_lock_of_a_killed_process_is_released(self) -> None:
        code = (
            "import sys, time\nfrom pathlib import Path\n"
            "from wisearc.store.folder import FolderLock\nh"
            f" = FolderLock(Path({str(self.folder)!r}))\nprint('held', flush=True)\ntime.sleep(60)"
        )
        with subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE) as other:
            other.stdout.readline()
            with self.assertRaises(AlreadyRunning):
                FolderLock(self.folder)
            other.kill()
        FolderLock(self.folder).close()

    def test_nothing_is_migrated_while_another_serves_it(self) -> None:
        make_folder(self.folder)
        (self.folder / FILE_NAME).write_bytes(read_first_library())
        with FolderLock(self.folder) as held:
            with self.assertRaises(AlreadyRunning):
                open_data(self.folder)
            open_data(self.folder, held)


class FirstStart(FolderCase):
    def test_remains_of_a_full_disk_or_a_kill_are_repaired(self) -> None:
        self.folder.mkdir()
        for name, left in (
            (FILE_NAME, b""),
            (SECRET, b""),
            (f"{SECRET}x{PART}", b"12"),
            (LOCK, b""),
        ):
            (self.folder / name).write_bytes(left)
        (self.folder / COPIES).mkdir()
        (self.folder / COPIES / f"a{PART}").write_bytes(b"half")
        with FolderLock(self.folder) as held:
            open_data(self.folder, held)
        self.assertEqual([p.name for p in self.folder.rglob(f"*{PART}*")], [])
        self.keep()

    def test_looked_at_before_it_is_opened(self) -> None:
        path, whole = self.with_records()
        path.write_bytes(whole[:8192] + b"\x07" * 8192 + whole[16384:])
        with self.assertRaisesRegex(Broken, "not a valid database"):
            open_data(self.folder)

    def test_a_large_one_is_looked_through_before_it_is_served(self) -> None:
        path, whole = self.with_records()
        page = next(
            at
            for at in range(4096, len(whole), 4096)
            if whole[at] == 13 and b"outside-corner" in whole[at : at + 4096]
        )
        path.write_bytes(whole[: page + 8] + b"\xff" * 200 + whole[page + 208 :])
        with mock.patch.object(opening, "SOON_LOOKED_THROUGH", 1000):
            Store(self.folder).close()
            with FolderLock(self.folder) as held, self.assertRaises(Broken):
                Store(self.folder, held)

    def test_a_row_that_belongs_to_nothing(self) -> None:
        open_data(self.folder)
        with closing(sqlite3.connect(self.folder / FILE_NAME, isolation_level=None)) as file:
            file.execute(
                "INSERT INTO run (revision_id, made_on, record, good, kept_at) VALUES (9,"
                " '2026-01-01', '{}', 0, 'x')"
            )
        with self.assertRaisesRegex(Broken, "have no parent record"):
            open_data(self.folder)

    def test_copied_before_it_is_migrated(self) -> None:
        make_folder(self.folder)
        other_folder = tempfile.TemporaryDirectory()
        self.addCleanup(other_folder.cleanup)
        old = Path(other_folder.name) / "old.sqlite3"
        for path in (old, self.folder / FILE_NAME):
            path.write_bytes(read_first_library())
        open_data(self.folder)
        (copy,) = (self.folder / COPIES).iterdir()
        with closing(sqlite3.connect(copy)) as file, closing(sqlite3.connect(old)) as before:
            ask = "SELECT plan FROM revision ORDER BY id"
            self.assertEqual(file.execute(ask).fetchall(), before.execute(ask).fetchall())
            self.assertEqual(mode(copy), 0o600)
        open_data(self.folder)
        self.assertEqual(len(list((self.folder / COPIES).iterdir())), 1)


class ReadOnlyFolder(FolderCase):
    """A read-only folder still has a readable library."""

    def spoilt_for_writing(self):
        return mock.patch.object(opening, "is_writable", return_value=False)

    def before(self) -> list[str]:
        return sorted(path.name for path in self.folder.iterdir())

    def test_read_as_it_lies(self) -> None:
        open_data(self.folder)
        self.keep()
        db.close()
        there = self.before()
        with self.spoilt_for_writing():
            store = open_data(self.folder)
        self.assertTrue(store.reads_only)
        self.assertEqual(queries.get_revision("P-0001", "A").letter, "A")
        with self.assertRaises(ReadOnly):
            self.keep()
        store.close()
        self.assertEqual(self.before(), there)

    def test_read_includes_the_pending_write(self) -> None:
        open_data(self.folder)
        db.connect()
        self.keep()
        copy = self.folder.parent / "copy"
        shutil.copytree(self.folder, copy)
        (copy / f"{FILE_NAME}-shm").unlink()
        db.close()
        with mock.patch.object(opening, "is_writable", side_effect=lambda folder: folder != copy):
            store = open_data(copy)
        self.assertTrue(store.reads_only)
        self.assertEqual(queries.get_revision("P-0001", "A").letter, "A")
        store.close()

    def test_read_from_an_older_version(self) -> None:
        make_folder(self.folder)
        (self.folder / FILE_NAME).write_bytes(read_first_library())
        old = (self.folder / FILE_NAME).read_bytes()
        with mock.patch.object(
            opening, "is_writable", side_effect=lambda folder: folder != self.folder
        ):
            store = open_data(self.folder)
        self.assertEqual(queries.get_revision("P-0001", "A").letter, "A")
        self.assertTrue(store.reads_only)
        store.close()
        self.assertEqual((self.folder / FILE_NAME).read_bytes(), old)


class UnderOnesFeet(FolderCase):
    """A write counts as saved only in the current file."""

    def setUp(self) -> None:
        super().setUp()
        open_data(self.folder)
        self.path = self.folder / FILE_NAME
        other = self.folder.parent / "other"
        open_data(other)
        self.other = other / FILE_NAME
        open_data(self.folder)

    def test_kept_is_read_by_another_connection(self) -> None:
        self.keep()
        with closing(sqlite3.connect(self.path)) as file:
            self.assertEqual(
                file.execute(
                    "SELECT count(*), (SELECT writes FROM book) FROM procedure"
                ).fetchone(),
                (1, 1),
            )

    def test_on_the_disk_before_it_counts(self) -> None:
        with mock.patch.dict(database.PRAGMAS, synchronous=tests.ON_DISK):
            open_data(self.folder)
        with open_transaction():
            self.assertEqual(db.pragma("synchronous"), 2)

    def test_changed_in_mid_write(self) -> None:
        for number, act in enumerate((lambda: self.other.replace(self.path), self.path.unlink), 7):
            with (
                self.subTest(number),
                self.assertRaisesRegex(DataFileReplaced, "was replaced"),
                open_transaction(),
            ):
                Procedure.create(number=number, created_at="x")
                act()
            db.close()

    def test_changed_between_writes(self) -> None:
        self.keep()
        db.close()
        self.other.replace(self.path)
        kept = self.keep()
        db.close()
        with closing(sqlite3.connect(self.path)) as file:
            self.assertEqual(file.execute("SELECT number FROM procedure").fetchall(), [(1,)])
        self.assertEqual(kept.procedure.number, 1)

    def test_changed_while_it_is_opened(self) -> None:
        db.close()
        with (
            mock.patch.object(db, "identity", side_effect=[(1, 1), (1, 2)]),
            self.assertRaises(DataFileReplaced),
        ):
            db.connect()
        self.assertTrue(db.is_closed())

    def test_deleted_database_is_not_recreated(self) -> None:
        db.close()
        self.path.unlink()
        with self.assertRaisesRegex(DataFileReplaced, "no longer in the data folder"):
            self.keep()
        with self.assertRaises(DataFileReplaced):
            listings.list_library()
        self.assertFalse(self.path.exists())

    def test_of_another_version(self) -> None:
        db.close()
        self.path.write_bytes(read_first_library())
        with self.assertRaisesRegex(DataFileReplaced, "another version"):
            listings.list_library()

    def test_an_older_copy_written_over_in_mid_write(self) -> None:
        """The same file by name and place, without the written data."""
        self.keep()
        with self.assertRaises(DataFileReplaced), open_transaction():
            Procedure.create(number=9, created_at="x")
            found = database._check_written
            with mock.patch.object(db, "is_current", return_value=True):
                found(db.execute_sql("SELECT id FROM book").fetchone()[0], 99)


class Waiting(FolderCase):
    def test_writers_of_one_process_wait_their_turn(self) -> None:
        open_data(self.folder)
        wrong: list[Exception] = []

        def write() -> None:
            try:
                for _ in range(15):
                    with open_transaction():
                        Procedure.create(number=queries.find_next_number(), created_at="x")
            except Exception as error:  # noqa: BLE001
                wrong.append(error)
            finally:
                db.close()

        threads = [threading.Thread(target=write) for _ in range(8)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual((wrong, Procedure.select().count()), ([], 120))

    def test_writers_get_their_turn_in_order(self) -> None:
        queue, order, threads = database._Queue(), [], []
        self.assertTrue(queue.enter(0))

        def write(number: int) -> None:
            if queue.enter(60 if number != 1 else 0.01):
                order.append(number)
                queue.leave()

        waiting = 0
        for number in range(5):
            threads.append(threading.Thread(target=write, args=(number,)))
            threads[-1].start()
            if number == 1:
                # It stops waiting.
                threads[1].join()
                continue
            waiting += 1
            while len(queue._waiting) < waiting:
                time.sleep(0.001)
        queue.leave()
        for thread in threads:
            thread.join()
        self.assertEqual(order, [0, 2, 3, 4])
        self.assertTrue(queue.enter(0))

    def test_not_for_ever(self) -> None:
        open_data(self.folder)
        started, over = threading.Event(), threading.Event()

        def write() -> None:
            with open_transaction():
                started.set()
                over.wait(10)
            db.close()

        thread = threading.Thread(target=write)
        thread.start()
        started.wait(10)
        with mock.patch.object(database, "QUEUE_S", 0.05), self.assertRaises(DatabaseBusy):
            self.keep()
        over.set()
        thread.join()

    def test_full(self) -> None:
        open_data(self.folder)
        with self.assertRaisesRegex(DiskFull, "disk is full"):
            db.execute_sql(f"PRAGMA max_page_count = {db.pragma('page_count')}")
            for _ in range(50):
                self.keep()
        db.close()
        kept = Procedure.select().count()
        runs.record_run(self.keep().procedure.label, "A", typed(run(good=False)))
        self.assertEqual(Procedure.select().count(), kept + 1)


if __name__ == "__main__":
    unittest.main()
