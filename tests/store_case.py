"""A test case over an empty book of its own."""

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
        # last, after the listeners of a test, which write into the folder
        self.addCleanup(self._folder.cleanup)
        self.folder = Path(self._folder.name)
        fill(self.folder)
        self.store = Store(self.folder)
        # the store that is open by then
        self.addCleanup(lambda: self.store.close())
        db.connect(reuse_if_open=True)

    def other_shop(self) -> None:
        """Go on in another shop's data folder, an empty one."""
        self.store.close()
        self.folder = self.folder / "other"
        self.store = Store(self.folder)
        db.connect(reuse_if_open=True)
