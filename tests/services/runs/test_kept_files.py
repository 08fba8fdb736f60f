"""Permissions of files and folders: the owner only."""

from __future__ import annotations

import os
import stat
import tempfile
import unittest
from pathlib import Path

from wisearc.services.devices.device_reader import append_rows
from wisearc.services.runs.kept_files import KeptFiles


def get_mode(path: Path) -> int:
    return stat.S_IMODE(path.stat().st_mode)


class Owner(unittest.TestCase):
    def setUp(self) -> None:
        self._folder = tempfile.TemporaryDirectory()
        self.addCleanup(self._folder.cleanup)
        self.folder = Path(self._folder.name)

    def test_readings_of_a_device(self) -> None:
        file = self.folder / "oxygen" / "1.csv"
        append_rows(file, "time_s,ppm", ["1,2"], 3)
        append_rows(file, "time_s,ppm", ["2,3"], 3)
        self.assertEqual(file.read_text(), "time_s,ppm\n1,2\n2,3\n")
        self.assertEqual((get_mode(file.parent), get_mode(file)), (0o700, 0o600))

    def test_old_readings_are_removed(self) -> None:
        for i in range(5):
            append_rows(self.folder / f"{i}.csv", "time_s,ppm", ["1,2"], 3)

            os.utime(self.folder / f"{i}.csv", (1000 + i, 1000 + i))
        self.assertEqual(
            sorted(p.name for p in self.folder.glob("*.csv")), ["1.csv", "2.csv", "3.csv", "4.csv"]
        )

    def test_photographs(self) -> None:
        files = KeptFiles(self.folder)
        files.put_photograph(b"a photograph")
        self.assertEqual(get_mode(files.folder), 0o700)


if __name__ == "__main__":
    unittest.main()
