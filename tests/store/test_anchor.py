"""The open connection keeps the write-ahead log, and copies it after a pause."""

import os
import shutil
import sqlite3
import time
from contextlib import closing
from pathlib import Path

from tests.store_case import StoreCase
from wisearc.services.planning import approaches
from wisearc.store.anchor import IDLE_S, Anchor
from wisearc.store.folder import FILE_NAME


class Anchored(StoreCase):
    def setUp(self) -> None:
        super().setUp()
        self.store.close()
        self.path = self.folder / FILE_NAME
        self.log, self.shared = Path(f"{self.path}-wal"), Path(f"{self.path}-shm")
        self.anchor = Anchor(self.path)
        self.addCleanup(self.anchor.close)

    def write(self, school: str = "needle") -> None:
        approaches.choose_approach("tip_school", school)
        self.store.close()

    def quiet(self) -> None:
        """Move the time of the last write back."""
        past = time.time() - IDLE_S - 1
        os.utime(self.log, (past, past))
        self.anchor.refresh()

    def test_write_ahead_log_stays_between_connections(self) -> None:
        self.write()
        self.assertTrue(self.shared.exists() and self.log.stat().st_size)
        same = self.shared.stat().st_ino
        self.write("table")
        self.assertEqual(self.shared.stat().st_ino, same)
        self.anchor.close()
        self.assertFalse(self.shared.exists() or self.log.exists())

    def test_database_file_is_complete_after_a_pause(self) -> None:
        self.write()
        self.anchor.refresh()
        self.assertTrue(self.log.stat().st_size)
        self.quiet()
        self.assertEqual(self.log.stat().st_size, 0)
        alone = self.folder / "alone.sqlite3"
        shutil.copyfile(self.path, alone)
        with closing(sqlite3.connect(alone)) as file:
            (value,) = file.execute("SELECT value FROM school").fetchone()
        self.assertEqual(value, "needle")

    def test_replaced_database_is_reopened(self) -> None:
        self.path.rename(self.folder / "moved.sqlite3")
        self.anchor.refresh()
        shutil.copyfile(self.folder / "moved.sqlite3", self.path)
        self.anchor.refresh()
        self.write()
        self.assertTrue(self.log.stat().st_size)
        self.quiet()
        self.assertEqual(self.log.stat().st_size, 0)

    def test_close_releases_the_database(self) -> None:
        self.anchor.close()
        self.anchor.refresh()
        self.anchor.run()
        self.write()
        self.assertFalse(self.log.exists())
