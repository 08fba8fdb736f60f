"""Templates, purges and simulators from the command line.

Output, exit codes, one clear line on standard error.
"""

import contextlib
import csv
import io
import json
import math
import socket
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

from tests.samples import COPE, CORNER
from wisearc.cli import main
from wisearc.core.physics.purge import AIR_PPM

STAY = ("--branch-mm", "25", "--wall-mm", "1.2", "--run-mm", "51", "--angle-deg", "45")
FILE = {"format": "wisearc/joint", "version": 1}


def said(*args: str) -> tuple[int, str, str]:
    """A command run here: its exit code, standard output and standard error."""
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        code = main(list(args))
    return code, out.getvalue(), err.getvalue()


class Cope(unittest.TestCase):
    def test_csv_every_degree(self) -> None:
        code, out, err = said("cope", *STAY, "--paper-mm", "0.2", "--edge", "outside")
        self.assertEqual((code, err), (0, ""))
        rows = list(csv.DictReader(io.StringIO(out)))
        self.assertEqual(list(rows[0]), ["phi_deg", "x_mm", "z_mm", "z_outside_mm", "z_inside_mm"])
        self.assertEqual([float(row["phi_deg"]) for row in rows], list(range(361)))
        for row in rows:
            phi = math.radians(float(row["phi_deg"]))
            # The formula of the trade, separately.
            z = (
                math.sqrt(25.5**2 - (12.5 * math.sin(phi)) ** 2)
                + 12.5 * math.cos(phi) * math.cos(math.pi / 4)
            ) / math.sin(math.pi / 4)
            self.assertAlmostEqual(float(row["z_mm"]), z, delta=1e-4)
            self.assertAlmostEqual(float(row["x_mm"]), phi * 12.6, delta=1e-4)

    def test_files(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            for kind, begins in (
                ("svg", b"<svg"),
                ("dxf", b"  0"),
                ("pdf", b"%PDF"),
                ("csv", b"phi_deg"),
                ("PDF", b"%PDF"),
            ):
                path = Path(folder) / f"stay.{kind}"
                self.assertEqual(
                    said("cope", *STAY, "--offset-mm", "-3", "--out", str(path))[:2], (0, "")
                )
                self.assertTrue(path.read_bytes().startswith(begins))
            self.assertEqual(
                said(
                    "cope",
                    "--kind",
                    "mitre",
                    "--branch-mm",
                    "25",
                    "--wall-mm",
                    "1.2",
                    "--angle-deg",
                    "90",
                    "--out",
                    str(Path(folder) / "m.svg"),
                )[0],
                0,
            )
            hole = said("cope", *STAY, "--part", "hole")[1]
            self.assertTrue(hole.startswith("phi_deg,round_mm,along_mm"))

    def test_bad_input_is_one_line(self) -> None:
        for given, words in (
            ((*STAY, "--offset-mm", "14"), "would miss the header"),
            ((*STAY[:-1], "19"), "below 20°"),
            ((*STAY, "--wall-mm", "13"), "exceeds the radius"),
            (STAY[:4], "run_mm is missing"),
            (("--wall-mm", "1"), "branch_mm is missing"),
            ((*STAY, "--edge", "outer"), "seat, outside, inside"),
            ((*STAY, "--paper-mm", "x"), "--paper-mm “x” must be a number"),
            ((*STAY, "--out", "stay.doc"), "must end in .svg"),
            ((*STAY, "--out", "/nowhere/at/all.svg"), "cannot be written"),
            ((*STAY, "--kind", "plate"), "run_mm “51” is only for a coped tube"),
            ((*STAY, "--branch-mm", "inf"), "finite"),
            ((*STAY, "--part", "lid"), "branch, hole"),
            ((*STAY, "--sheet", "a5", "--out", "x.pdf"), "a4, letter"),
        ):
            code, out, err = said("cope", *given)
            with self.subTest(given=given):
                self.assertEqual((code, out, err.count("\n")), (2, "", 1))
                self.assertIn(words, err)


class Purge(unittest.TestCase):
    def purge(self, joint: dict) -> tuple[int, str, str]:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "joint.json"
            path.write_text(json.dumps({**FILE, **joint}), encoding="utf-8")
            return said("purge", str(path))

    def test_as_the_plan_has_it(self) -> None:
        code, out, err = self.purge(COPE)
        self.assertEqual((code, err), (0, ""))
        found = json.loads(out)
        v, q = found["volume_l"], found["preflow_l_min"]
        self.assertAlmostEqual(v, math.pi * 48**2 / 4 * 300e-6 + 0.15, places=3)
        self.assertAlmostEqual(found["minutes_volumes"], 10 * v / q, delta=0.01)
        self.assertAlmostEqual(
            found["minutes_mixed"], v / q * math.log(AIR_PPM / found["target_ppm"]), delta=0.01
        )

    def test_chill_bars_of_the_plan_are_reported(self) -> None:
        code, out, err = self.purge(CORNER)
        self.assertEqual(code, 0)
        self.assertIn("copper bars", err)
        self.assertGreater(json.loads(out)["volume_l"], 0)

    def test_bad_input(self) -> None:
        code, out, err = self.purge({**COPE, "joint": "tea"})
        self.assertEqual((code, out, err.count("\n")), (2, "", 1))
        self.assertEqual(said("purge", "/nowhere.json")[0], 2)


class StandIn(unittest.TestCase):
    def test_speaks(self) -> None:
        with subprocess.Popen(
            [
                sys.executable,
                "-m",
                "wisearc",
                "simulate",
                "oxygen-meter",
                "--port",
                "0",
                "--speed",
                "20",
                "--seed",
                "4",
            ],
            stdout=subprocess.PIPE,
            text=True,
        ) as meter:
            try:
                port = int(meter.stdout.readline().split("port ")[1].split()[0])
                with (
                    socket.create_connection(("127.0.0.1", port), 5) as one,
                    one.makefile() as lines,
                ):
                    found = [json.loads(next(lines)) for _ in range(20)]
            finally:
                meter.terminate()
        self.assertEqual([row["time_s"] for row in found[:3]], [0.0, 0.2, 0.4])
        self.assertAlmostEqual(found[0]["ppm"], AIR_PPM, delta=20_000)

    def test_bad_input_is_one_line(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            wrong = Path(folder) / "wrong.csv"
            wrong.write_text("time_s,ppm\n1,x\n", encoding="utf-8")
            for given, words in (
                (("oxygen",), "Did you mean oxygen-meter"),
                (("oxygen-meter", "--port", "99999"), "0 to 65535"),
                (("oxygen-meter", "--mixing", "2"), "from 0 to 1"),
                (("oxygen-meter", "--rate", "x"), "--rate"),
                (("oxygen-meter", "--replay", str(wrong)), "line 2"),
                (("oxygen-meter", "--replay", str(wrong) + "x"), "cannot be replayed"),
            ):
                for name in ("simulate", "stand-in"):
                    with self.subTest(name=name, given=given):
                        code, out, err = said(name, *given)
                        self.assertEqual((code, out, err.count("\n")), (2, "", 1))
                        self.assertIn(words, err)
        with socket.create_server(("127.0.0.1", 0)) as taken:
            self.assertIn(
                "Give another port",
                said("simulate", "oxygen-meter", "--port", str(taken.getsockname()[1]))[2],
            )
