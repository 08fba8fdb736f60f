"""A full disk: the library is read-only, writes are refused, and free space ends this state."""

import errno
import io
import shutil
import sqlite3
import tempfile
import unittest
from contextlib import ExitStack, closing, contextmanager
from pathlib import Path
from unittest import mock

import peewee

from tests.compiled import app_in
from tests.samples import run, typed
from tests.web.case import WebCase, build_client
from wisearc.services.runs import runs
from wisearc.store import database, folder, opening
from wisearc.store.database import db
from wisearc.store.errors import Broken, DiskFull, Failing, ReadOnly
from wisearc.store.folder import FILE_NAME, FolderLock
from wisearc.store.opening import Store

FULL = OSError(errno.ENOSPC, "No space left on device")
SENTENCE = "Not saved: the disk is full"
BANNER = "The disk is full: the library"


def disk_error() -> sqlite3.OperationalError:
    error = sqlite3.OperationalError("disk I/O error")
    error.sqlite_errorcode = sqlite3.SQLITE_IOERR | 0x1300
    return error


@contextmanager
def full():
    """Simulate a full disk: SQLite cannot create its files."""
    real = peewee.SqliteDatabase._connect

    def connect(database):
        connection = real(database)
        connection.close()
        raise disk_error()

    with ExitStack() as patched:
        for module in (database, opening):
            patched.enter_context(mock.patch.object(module, "has_room", return_value=False))
        patched.enter_context(mock.patch.object(peewee.SqliteDatabase, "_connect", connect))
        patched.enter_context(mock.patch.object(folder, "write_complete", side_effect=FULL))
        db.close()
        yield
    db.close()


class FullDisk(WebCase):
    def setUp(self) -> None:
        super().setUp()
        self.here = self.keep()
        runs.record_run("P-0001", "A", typed(run()))
        self.tokens()
        db.close()

    def test_pages_open_and_writes_are_refused(self) -> None:
        with full():
            for path in (
                "/",
                "/plan",
                "/?joint=tee",
                "/procedures/",
                self.here,
                "/shop/",
                "/weld/",
                "/jobs/",
            ):
                done = self.client.get(path)
                with self.subTest(path):
                    self.assertEqual(done.status_code, 200)
                    self.assertIn(BANNER, done.get_data(as_text=True))
            for path, form in (
                ("/procedures/draft", {"link": "joint=tee&length=321+mm"}),
                (f"{self.here}/runs", self.run_form()),
                ("/shop/name", {"name": "Ours"}),
            ):
                done = self.post(path, form)
                with self.subTest(path):
                    self.assertEqual(done.status_code, 507)
                    self.assertIn(SENTENCE, done.get_data(as_text=True))
                    self.assertNotIn("copy", done.get_data(as_text=True).replace("copyright", ""))
        # The same server works again with free space.
        self.assertEqual(self.post("/shop/name", {"name": "Ours"}).status_code, 303)
        self.assertNotIn(BANNER, self.client.get("/procedures/").get_data(as_text=True))

    def test_start_on_a_full_disk_after_a_kill(self) -> None:
        # After a kill the write-ahead log has newer data than the database.
        with closing(sqlite3.connect(self.folder / FILE_NAME)) as writer:
            writer.execute("PRAGMA wal_autocheckpoint = 0")
            writer.execute("UPDATE shop SET name = 'Written last'")
            writer.commit()
            killed = Path(self._folder.name) / "killed"
            killed.mkdir()
            for name in (FILE_NAME, f"{FILE_NAME}-wal"):
                shutil.copy(self.folder / name, killed / name)
        self.assertTrue((killed / f"{FILE_NAME}-wal").stat().st_size)
        with (
            full(),
            mock.patch.object(opening, "check_database", side_effect=disk_error()),
        ):
            app = app_in(killed, TESTING=True)
            page = build_client(app).get("/shop/").get_data(as_text=True)
            self.assertIn("Written last", page)
            self.assertIn(BANNER, page)
        db.close()
        self.assertFalse((killed / "secret").exists())
        page = build_client(app).get("/shop/").get_data(as_text=True)
        self.assertTrue("Written last" in page and BANNER not in page)

    def test_failing_disk_with_free_space_is_reported(self) -> None:
        with full(), mock.patch.object(database, "has_room", return_value=True):
            done = self.client.get("/procedures/")
        self.assertEqual(done.status_code, 507)
        self.assertIn("the disk reports an error", done.get_data(as_text=True))

    def test_new_library_on_a_full_disk_is_refused(self) -> None:
        with (
            full(),
            tempfile.TemporaryDirectory() as place,
            self.assertRaisesRegex(DiskFull, "cannot be created or upgraded"),
        ):
            Store(Path(place))

    def test_server_starts_without_its_address_file(self) -> None:
        with (
            tempfile.TemporaryDirectory() as place,
            mock.patch("os.pwrite", side_effect=FULL),
            FolderLock(Path(place)) as held,
        ):
            held.at("http://127.0.0.1:1/")

    def test_partial_uploads_are_deleted(self) -> None:
        self.post("/weld/acts", {})
        row = self.folder
        before = {p.relative_to(row) for p in row.rglob("*")}

        def sent(address: str, name: str, data: bytes, **more: str):
            form = {**self.tokens(), **more, name: (io.BytesIO(data), "given.csv")}
            return self.client.post(address, data=form, content_type="multipart/form-data")

        with mock.patch("werkzeug.datastructures.FileStorage.save", side_effect=FULL):
            for address, name in (("/shop/import", "file"), ("/shop/restore", "file")):
                done = sent(address, name, b"x" * 1000)
                self.assertEqual(done.status_code, 507, address)
                self.assertIn("disk", done.get_data(as_text=True).lower())
        with mock.patch("werkzeug.formparser.FormDataParser.parse", side_effect=FULL):
            done = sent("/shop/import", "file", b"x")
            self.assertEqual(done.status_code, 507)
            self.assertIn(SENTENCE, done.get_data(as_text=True))
        self.assertEqual({p.relative_to(row) for p in row.rglob("*")}, before)

    def test_messages_of_disk_errors(self) -> None:
        cases = (
            (sqlite3.SQLITE_IOERR, False, DiskFull),
            (sqlite3.SQLITE_IOERR, True, Failing),
            (sqlite3.SQLITE_READONLY, False, DiskFull),
            (sqlite3.SQLITE_READONLY, True, ReadOnly),
            (sqlite3.SQLITE_CANTOPEN, False, DiskFull),
            (sqlite3.SQLITE_CANTOPEN, True, ReadOnly),
            (sqlite3.SQLITE_FULL, True, DiskFull),
            (sqlite3.SQLITE_CORRUPT, False, Broken),
        )
        for code, room, kind in cases:
            error = sqlite3.OperationalError("x")
            error.sqlite_errorcode = code | 0x1300
            with (
                self.subTest(code=code, room=room),
                mock.patch.object(database, "has_room", return_value=room),
            ):
                said = database._describe_error(error)
                self.assertIs(type(said), kind)
                self.assertEqual("backup" in str(said), kind is Broken)

    def test_minimum_free_space(self) -> None:
        found = mock.Mock(f_frsize=4096, f_bavail=31)
        with mock.patch("os.statvfs", return_value=found):
            self.assertFalse(folder.has_room(self.folder))
            found.f_bavail = 32
            self.assertTrue(folder.has_room(self.folder))
        self.assertTrue(folder.has_room(self.folder / "does not exist"))


if __name__ == "__main__":
    unittest.main()
