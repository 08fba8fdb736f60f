"""A test case with a separate empty library."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path

from tests import quick_pins  # noqa: F401
from tests.folders import fill
from wisearc.store.database import db
from wisearc.store.opening import Store


class StoreCase(unittest.TestCase):
    """Opens a new data folder for each test."""

    def setUp(self) -> None:
        self._folder = tempfile.TemporaryDirectory()
        # Last, after the readers of a test, which write into the folder.
        self.addCleanup(self._folder.cleanup)
        self.folder = Path(self._folder.name)
        fill(self.folder)
        self.store = Store(self.folder)
        # The store that is open then.
        self.addCleanup(lambda: self.store.close())
        db.connect(reuse_if_open=True)

    def other_shop(self) -> None:
        """Continue in the data folder of another shop, an empty one."""
        self.store.close()
        self.folder = self.folder / "other"
        self.store = Store(self.folder)
        db.connect(reuse_if_open=True)
