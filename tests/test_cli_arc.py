"""The commands for the arc, as they are typed."""

import contextlib
import io
import json
import tempfile
import unittest
from pathlib import Path

from wisearc.cli import main

from tests.waves import Wave, csv_of


class Log(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        time, current, gas = Wave(rate=2.0, on=0.3, peak=150, background=11, hz=200, arc=20, noise=1.0).rows()
        self.log = self.folder / "log.csv"
        self.log.write_text(csv_of(time, current, gas=gas))
        sheet = {"metal": "304L", "form": "sheet", "thickness_mm": 1.59}
        self.joint = self.folder / "joint.json"
        self.joint.write_text(
            json.dumps(
                {"format": "wisearc/joint", "version": 1, "joint": "outside-corner", "pulse": "slow-cold", "length_mm": 60, "members": [sheet, sheet]}
            )
        )

    def run_it(self, *words: str) -> tuple[int, str, str]:
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            code = main(["log", *words])
        return code, out.getvalue(), err.getvalue()

    def test_a_log_read(self) -> None:
        code, out, err = self.run_it(str(self.log), "--length-mm", "100")
        data = json.loads(out)
        self.assertEqual((code, err, data["format"], data["restarts"]), (0, "", "wisearc/arc-log", 0))
        self.assertAlmostEqual(data["rate_pps"], 2.0, delta=0.02)
        self.assertAlmostEqual(data["heat_input_kj_mm"], data["energy_kj"] / 100, places=4)
        self.assertEqual(data["left_band"], [])

    def test_against_a_joint(self) -> None:
        _, out, _ = self.run_it(str(self.log), "--joint", str(self.joint))
        data = json.loads(out)
        # 150 A where 110 is planned; the joint's own length
        self.assertEqual({row["what"] for row in data["left_band"]}, {"peak_a"})
        self.assertAlmostEqual(data["heat_input_kj_mm"], data["energy_kj"] / 60, places=4)

    def test_what_is_wrong_in_one_line(self) -> None:
        for words, told in (
            ([str(self.folder / "none.csv")], "cannot be read"),
            ([str(self.joint)], "names the columns"),
            ([str(self.log), "--length-mm", "0"], "above nought"),
            ([str(self.log), "--length-mm", "long"], "must be a number"),
        ):
            code, out, err = self.run_it(*words)
            self.assertEqual((code, out), (2, ""))
            self.assertIn(told, err)
            self.assertEqual(err.count("\n"), 1)
