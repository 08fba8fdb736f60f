"""The command for the field of heat."""

import csv
import json
import tempfile
import unittest
from pathlib import Path

from tests.command import wisearc
from tests.samples import member

JOINT = {
    "format": "wisearc/joint",
    "version": 1,
    "joint": "outside-corner",
    "members": [member("mild-steel", "1.2 mm")] * 2,
    "length_mm": 90,
    "filler": "none",
    "pulse": "slow-cold",
    "travel_mm_s": 3.6,
    "pins": {"peak_a": 110, "rate_pps": 1.5, "on_pct": 30, "background_pct": 5},
}


class Heat(unittest.TestCase):
    def heat(self, *args: str, **more: object) -> dict[str, object]:
        ended = wisearc("heat", "-", *args, stdin=json.dumps({**JOINT, **more}))
        self.assertEqual(ended.returncode, 0, ended.stderr)
        data: dict[str, object] = json.loads(ended.stdout)
        return data

    def test_constant_against_the_handbook(self) -> None:
        """Handbook 5.5: 3.05 mm wide and 3.3 mm long at the end of the peak, within 3 %."""
        data = self.heat("--constant")
        pool = data["pool"]
        assert isinstance(pool, dict)
        self.assertAlmostEqual(pool["width_peak_mm"] / 3.05, 1, delta=0.035)
        self.assertAlmostEqual(pool["length_peak_mm"] / 3.3, 1, delta=0.03)
        self.assertEqual((pool["width_between_mm"], pool["freezes_between"]), (0, True))
        self.assertLess(abs(float(str(data["energy_balance_pct"]))), 1)

    def test_keys_of_the_format(self) -> None:
        data = self.heat("--grid-mm", "1", "--width-mm", "30")
        self.assertEqual(
            (data["format"], data["version"], data["model"]), ("wisearc/heat", 1, "field")
        )
        for key in [
            "grid_mm",
            "step_s",
            "cells",
            "run_s",
            "energy_balance_pct",
            "pool",
            "hot_band_mm",
            "glow_after_stop_s",
            "tint_front",
            "tint_back",
            "burns_through",
            "fuses",
            "mean_end_c",
            "wait_s",
            "probes",
        ]:
            self.assertIn(key, data)
        pool = data["pool"]
        assert isinstance(pool, dict)
        self.assertEqual(len(pool["width_along_mm"][0]), 2)

    def test_probes_and_their_history(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "probes.csv"
            data = self.heat(
                "--grid-mm", "1", "--probe", "45,0", "--probe=45,-8", "--csv", str(path)
            )
            rows = list(csv.DictReader(path.read_text(encoding="utf-8").splitlines()))
        probes = data["probes"]
        assert isinstance(probes, list)
        self.assertEqual([(p["x_mm"], p["y_mm"]) for p in probes], [(45, 0), (45, -8)])
        self.assertGreater(probes[0]["max_c"], probes[1]["max_c"])
        self.assertEqual(list(rows[0]), ["time_s", "x_mm", "y_mm", "temperature_c"])
        maximum = max(float(row["temperature_c"]) for row in rows if row["y_mm"] == "0")
        self.assertAlmostEqual(maximum, probes[0]["max_c"], delta=0.1)

    def test_bad_input_is_one_line(self) -> None:
        for args, words in (
            (("--probe", "x"), "--probe “x” must be two numbers"),
            (("--grid-mm", "5"), "must be from 0.25 to 2"),
            (("--constant", "--grid-mm", "9"), "must be from 0.25 to 2"),
            (("--width-mm", "0.5"), "width_mm “0.5” must be from 5 to 500"),
            (("--csv", "x.csv"), "needs at least one --probe"),
        ):
            ended = wisearc("heat", "-", *args, stdin=json.dumps(JOINT))
            with self.subTest(args=args):
                self.assertEqual(ended.returncode, 2)
                self.assertIn(words, ended.stderr.decode())
                self.assertEqual(ended.stderr.decode().count("\n"), 1)
