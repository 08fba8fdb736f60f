"""A log as data: progress, and refused logs."""

import errno
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from tests.samples import CORNER
from tests.waves import Wave, format_csv
from wisearc.core.errors import InputError
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.core.shop.shop import ASSUMED
from wisearc.formats.arc_log import arc_csv
from wisearc.services.runs.arc_logs import log_as_data
from wisearc.store.errors import DiskFull


class LogData(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "log.csv"
        time, current, gas = Wave(peak=60, hz=50, arc=30, noise=0.5, down=1.5).rows()
        self.path.write_text(format_csv(time, current, gas=gas))

    def test_progress(self) -> None:
        told: list[float] = []
        log_as_data(self.path, None, None, told.append)
        self.assertEqual(told, sorted(told))
        self.assertEqual(told[-1], 1.0)
        # estimate: reading is 70 % of the work
        self.assertIn(0.7, told)

    def test_columns_are_not_held_in_memory(self) -> None:
        in_memory = AssertionError("in memory")
        with mock.patch.object(arc_csv, "_MemoryColumns", side_effect=in_memory):
            log_as_data(self.path, None, None)

    def test_full_disk(self) -> None:
        full = OSError(errno.ENOSPC, "No space left on device")
        with (
            mock.patch.object(arc_csv, "_FileColumns", side_effect=full),
            self.assertRaisesRegex(DiskFull, "Free some space in the temporary folder"),
        ):
            log_as_data(self.path, None, None)

    def test_length_welded(self) -> None:
        plan = make_plan(make_joint(CORNER), ASSUMED)
        heat = {
            given: log_as_data(self.path, plan, given)["heat_input_kj_mm"]
            for given in (None, 380.0, 190.0, 1e6)
        }
        self.assertEqual(heat[None], heat[380.0])
        self.assertAlmostEqual(heat[190.0] / heat[380.0], 2.0, delta=0.02)
        for given in (0.0, -1.0, 1e6 + 1):
            with self.assertRaisesRegex(InputError, "must be a length in mm above 0"):
                log_as_data(self.path, None, given)
        with self.assertRaisesRegex(InputError, "cannot be read"):
            log_as_data(self.path.parent / "none.csv", None, None)


if __name__ == "__main__":
    unittest.main()
