"""The commands for the arc, as they are typed."""

import contextlib
import io
import json
import tempfile
import unittest
from pathlib import Path

from tests.samples import CORNER, run
from tests.schemas import check
from tests.waves import Wave, format_csv
from wisearc.cli import main


class Log(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        time, current, gas = Wave(
            rate=2.0, on=0.3, peak=150, background=11, hz=200, arc=20, noise=1.0
        ).rows()
        self.log = self.folder / "log.csv"
        self.log.write_text(format_csv(time, current, gas=gas))
        sheet = {"metal": "304L", "form": "sheet", "thickness_mm": 1.59}
        self.joint = self.folder / "joint.json"
        self.joint.write_text(
            json.dumps(
                {
                    "format": "wisearc/joint",
                    "version": 1,
                    "joint": "outside-corner",
                    "pulse": "slow-cold",
                    "pins": {"rate_pps": 2.0},
                    "length_mm": 60,
                    "members": [sheet, sheet],
                }
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
        self.assertEqual(
            (code, err, data["format"], data["restarts"]), (0, "", "wisearc/arc-log", 0)
        )
        self.assertAlmostEqual(data["rate_pps"], 2.0, delta=0.02)
        self.assertAlmostEqual(data["heat_input_kj_mm"], data["energy_kj"] / 100, places=4)
        self.assertEqual(data["left_band"], [])

    def test_against_a_joint(self) -> None:
        _, out, _ = self.run_it(str(self.log), "--joint", str(self.joint))
        data = json.loads(out)
        # 150 A where 110 is planned; the joint's own length
        self.assertEqual({row["what"] for row in data["left_band"]}, {"peak_a"})
        self.assertAlmostEqual(data["heat_input_kj_mm"], data["energy_kj"] / 60, places=4)

    def test_error_is_one_line(self) -> None:
        for words, told in (
            ([str(self.folder / "none.csv")], "cannot be read"),
            ([str(self.joint)], "column names"),
            ([str(self.log), "--length-mm", "0"], "above 0"),
            ([str(self.log), "--length-mm", "long"], "must be a number"),
        ):
            code, out, err = self.run_it(*words)
            self.assertEqual((code, out), (2, ""))
            self.assertIn(told, err)
            self.assertEqual(err.count("\n"), 1)


class Read(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def put(self, name: str, data: object) -> str:
        path = self.folder / name
        path.write_text(json.dumps(data))
        return str(path)

    def run_it(self, *words: str) -> tuple[int, str, str]:
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            code = main(["inspect", *words])
        return code, out.getvalue(), err.getvalue()

    def run_file(self, **more: object) -> dict[str, object]:
        told = run(front={"colour": "straw"}, faults=["cold"], good=False)
        return {"format": "wisearc/run", "version": 1, **told, **more}

    def test_the_old_name_of_the_command(self) -> None:
        path = self.put("run.json", self.run_file(joint=CORNER))
        out = io.StringIO()
        with contextlib.redirect_stdout(out):
            code = main(["read", path])
        self.assertEqual((code, out.getvalue()), self.run_it(path)[:2])

    def test_a_run_that_carries_its_joint(self) -> None:
        code, out, err = self.run_it(self.put("run.json", self.run_file(joint=CORNER)))
        data = json.loads(out)
        check("reading", data)
        self.assertEqual(
            (code, err, data["verdict"], data["causes"][0]["code"]), (0, "", "not-good", "heat-low")
        )
        change = data["change"]
        self.assertEqual((change["key"], change["unit"]), ("current", "A"))
        self.assertLess(1.03, change["to"] / change["from"])
        self.assertTrue(all(e["weight"] > 0 for e in data["causes"][0]["for"]))

    def test_with_its_log(self) -> None:
        """A log with a mean a quarter below the plan: set as planned first."""
        time, current, gas = Wave(
            rate=0, on=1, peak=34, background=34, hz=100, arc=40, noise=0.5
        ).rows()
        log = self.folder / "log.csv"
        log.write_text(format_csv(time, current, gas=gas))
        joint = {"format": "wisearc/joint", "version": 1, **CORNER, "pulse": "none"}
        steady = self.run_file()
        steady.pop("measured")
        file_result = self.put("run.json", steady)
        _, out, _ = self.run_it(
            file_result, "--joint", self.put("joint.json", joint), "--log", str(log)
        )
        data = json.loads(out)
        self.assertEqual(
            (data["causes"][0]["code"], data["change"]["code"]), ("heat-low", "set-as-planned")
        )
        self.assertIn("log", {e["by"] for e in data["causes"][0]["for"]})
        self.assertAlmostEqual(data["change"]["from"], 34, delta=0.5)

    def test_error_is_one_line(self) -> None:
        own = self.put("own.json", self.run_file(joint=CORNER))
        for words, told in (
            ([self.put("run.json", self.run_file())], "A run needs its plan"),
            ([str(self.folder / "none.json")], "cannot be read"),
            (
                [self.put("seen.json", self.run_file(joint=CORNER, seen={"front_tint": "pink"}))],
                "must be one of silver",
            ),
            ([self.put("bad.json", self.run_file(joint={"joint": "butt"}))], "members"),
            (
                [
                    self.put(
                        "place.json",
                        self.run_file(joint=CORNER, seen={"where": {"cold": [0.9, 0.1]}}),
                    )
                ],
                "from the start of the seam to its end",
            ),
            ([own, "--log", str(self.folder / "none.csv")], "cannot be read"),
        ):
            code, out, err = self.run_it(*words)
            self.assertEqual((code, out), (2, ""), words)
            self.assertIn(told, err)
            self.assertEqual(err.count("\n"), 1)
