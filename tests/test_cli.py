"""The command line as a process: output, exit codes, one clear line on standard error."""

import contextlib
import io
import json
import os
import re
import shutil
import signal
import sqlite3
import subprocess
import sys
import tempfile
import unittest
import urllib.request
from pathlib import Path

from tests.altered import altered
from tests.command import wisearc
from tests.samples import CORNER, SHOP, TEE
from tests.schemas import check
from wisearc.cli import main
from wisearc.core.joint.data import make_joint
from wisearc.core.shop.shop import ASSUMED
from wisearc.formats.schema import NAMES, load_schema
from wisearc.services.procedures import procedures
from wisearc.store.folder import FILE_NAME
from wisearc.store.opening import Store

ROOT = Path(__file__).resolve().parent.parent
FILE = {"format": "wisearc/joint", "version": 1}


def process(*args: str, stdin: str | bytes = "") -> subprocess.CompletedProcess[bytes]:
    """Run the command as a separate process."""
    input_data = stdin if isinstance(stdin, bytes) else stdin.encode()
    return subprocess.run(
        [sys.executable, "-m", "wisearc", *args], input=input_data, capture_output=True, check=False
    )


class Plan(unittest.TestCase):
    def test_process_prints_the_output_of_the_command(self) -> None:
        whole, odd = json.dumps({**FILE, **CORNER}), b"\xff\xfe\x00"
        stopped = json.dumps({**FILE, **TEE, "filler": "ER70S-2"})
        for input_data, code in ((whole, 0), (stopped, 1), (odd, 2)):
            own, here = (run("plan", "-", stdin=input_data) for run in (process, wisearc))
            self.assertEqual(
                (own.returncode, own.stdout, own.stderr), (code, here.stdout, here.stderr)
            )
            self.assertEqual(here.returncode, code)

    def test_json_on_standard_output(self) -> None:
        done = wisearc("plan", "-", stdin=json.dumps({**FILE, **CORNER}))
        self.assertEqual((done.returncode, done.stderr), (0, b""))
        plan = json.loads(done.stdout)
        check("plan", plan)
        self.assertAlmostEqual(plan["current"]["steady_a"], 50, delta=1)

    def test_text(self) -> None:
        done = wisearc("plan", "-", "--text", "--units", "in", stdin=json.dumps({**FILE, **TEE}))
        self.assertIn("ER309L", done.stdout.decode())
        self.assertIn("CFH", done.stdout.decode())

    def test_stop_exits_1(self) -> None:
        self.assertEqual(
            wisearc("plan", "-", stdin=json.dumps({**FILE, **TEE, "filler": "ER70S-2"})).returncode,
            1,
        )

    def test_bad_input_exits_2_with_one_line(self) -> None:
        for input_data in (
            "",
            "{",
            "[]",
            json.dumps({**FILE, **TEE, "joint": "tea"}),
            json.dumps({**FILE, **TEE, "extra": 1}),
            b"\xff\xfe\x00",
        ):
            done = wisearc("plan", "-", stdin=input_data)
            with self.subTest(given=input_data):
                self.assertEqual((done.returncode, done.stdout), (2, b""))
                self.assertEqual(done.stderr.decode().count("\n"), 1)
                self.assertTrue(done.stderr.startswith(b"wisearc: "))

    def test_file_by_name(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "j.json"
            path.write_text("\ufeff" + json.dumps({**FILE, **CORNER}), encoding="utf-8")
            self.assertEqual(wisearc("plan", str(path)).returncode, 0)
            missing = wisearc("plan", str(Path(folder) / "none.json"))
            self.assertEqual(missing.returncode, 2)
            self.assertIn(b"cannot be read", missing.stderr)

    def test_examples_plan(self) -> None:
        for path in (Path(__file__).parent.parent / "examples").glob("*.json"):
            self.assertEqual(wisearc("plan", str(path)).returncode, 0, path.name)


class Schemas(unittest.TestCase):
    def test_prints_each(self) -> None:
        for name in NAMES:
            done = wisearc("schema", name)
            self.assertEqual(json.loads(done.stdout), load_schema(name))

    def test_unknown_name(self) -> None:
        done = wisearc("schema", "joints")
        self.assertEqual(done.returncode, 2)
        self.assertIn(b"Did you mean joint", done.stderr)


SERVE = [
    sys.executable,
    "-m",
    "wisearc",
    "serve",
    "--demo",
    "--port",
    "0",
    "--no-browser",
    "--data",
]


class Serve(unittest.TestCase):
    def test_serves_the_demo_and_prints_the_address(self) -> None:
        with (
            tempfile.TemporaryDirectory() as folder,
            subprocess.Popen(
                [*SERVE, folder], stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True
            ) as server,
        ):
            try:
                address = re.search(r"http://127\.0\.0\.1:(\d+)/", server.stdout.readline())
                library = urllib.request.urlopen(f"{address[0]}keep/", timeout=60).read().decode()
                self.assertIn("Instrument box", library)
                with tempfile.TemporaryDirectory() as other:
                    taken = wisearc("serve", "--port", address[1], "--data", other, "--no-browser")
                second_start = wisearc("serve", "--port", "0", "--data", folder, "--no-browser")
                self.assertEqual((taken.returncode, second_start.returncode), (2, 2))
                self.assertIn(b"cannot be used", taken.stderr)
                self.assertIn(f"at {address[0]}".encode(), second_start.stderr)
            finally:
                server.send_signal(signal.SIGTERM)
                self.assertEqual(server.wait(timeout=60), 0)

    def test_two_starts_at_once(self) -> None:
        """Of two starts on one new folder, one serves and the other reports it."""
        with tempfile.TemporaryDirectory() as at:
            commands = [
                subprocess.Popen(
                    [*SERVE, f"{at}/data"],
                    stdout=subprocess.PIPE,
                    stderr=subprocess.PIPE,
                    text=True,
                )
                for _ in range(2)
            ]
            said = [one.stdout.readline() for one in commands]
            serving = [
                one for one, line in zip(commands, said, strict=True) if "Wise Arc runs at" in line
            ]
            self.assertEqual(len(serving), 1)
            (other,) = (one for one in commands if one is not serving[0])
            self.assertEqual(other.wait(timeout=60), 2)
            self.assertRegex(
                other.communicate()[1], r"^wisearc: Another Wise Arc serves the data in "
            )
            address = re.search(r"http://\S+/", "".join(said))[0]
            self.assertIn(
                "Instrument box",
                urllib.request.urlopen(f"{address}keep/", timeout=60).read().decode(),
            )
            serving[0].send_signal(signal.SIGTERM)
            self.assertEqual(serving[0].wait(timeout=60), 0)
            serving[0].communicate()

    def test_library_maintenance(self) -> None:
        with tempfile.TemporaryDirectory() as at:
            self.assertEqual(wisearc("check", "--data", f"{at}/none").returncode, 2)
            self.assertFalse((Path(at) / "none").exists())
            for words in (
                ("import", f"{at}/none.zip"),
                ("restore", f"{at}/none.sqlite3"),
                ("backup", f"{at}/b"),
                ("export", f"{at}/a.zip"),
            ):
                done = wisearc(*words, "--data", f"{at}/none")
                self.assertEqual((done.returncode, done.stderr.count(b"\n")), (2, 1), words)
                if words[0] in ("import", "restore"):
                    self.assertIn(b"does not exist", done.stderr)
            store = Store(Path(at) / "data")
            procedures.keep_draft(make_joint(CORNER), ASSUMED)
            store.close()
            data = ("--data", f"{at}/data")
            self.assertIn(b"Library copied to", wisearc("backup", f"{at}/b", *data).stdout)
            self.assertIn(
                b"a.zip holds 1 procedure in 1 revision with 0 runs",
                wisearc("export", f"{at}/a.zip", *data).stdout,
            )
            self.assertEqual(wisearc("export", *data).stdout[:2], b"PK")
            self.assertIn(
                b"with their numbers: 1;",
                wisearc("import", f"{at}/a.zip", "--data", f"{at}/new").stdout,
            )
            (copy,) = (Path(at) / "b").iterdir()
            self.assertIn(
                b"Library restored from the backup",
                wisearc("restore", str(copy), "--data", f"{at}/new").stdout,
            )
            self.assertEqual(wisearc("check", "--data", f"{at}/new").returncode, 0)
            with contextlib.closing(
                sqlite3.connect(f"{at}/new/{FILE_NAME}", isolation_level=None)
            ) as file:
                file.execute("UPDATE revision SET plan = '{}'")
            spoilt = wisearc("check", "--data", f"{at}/new")
            self.assertEqual((spoilt.returncode, b"P-0001 A" in spoilt.stdout), (1, True))

    def test_the_shop_and_its_people(self) -> None:
        with tempfile.TemporaryDirectory() as at:
            self.assertEqual(wisearc("shop", "--data", f"{at}/none").returncode, 2)
            Store(Path(at) / "data").close()
            data, file = ("--data", f"{at}/data"), Path(at) / "shop.json"
            file.write_text(json.dumps(SHOP), encoding="utf-8")
            self.assertIn(
                b"machines: 1 new, 0 changed, 0 archived",
                wisearc("shop", "--take", str(file), *data).stdout,
            )
            out = wisearc("shop", *data).stdout
            check("shop", json.loads(out))
            lines = Path(at) / "rods.csv"
            lines.write_text("rod,diameter_mm,count\nER308L,1.0,7\nER3,1,1\n", encoding="utf-8")
            refused = wisearc("shop", "--take", str(lines), *data)
            self.assertEqual(
                (refused.returncode, refused.stderr.count(b"\n"), wisearc("shop", *data).stdout),
                (2, 1, out),
            )
            self.assertIn(
                b"rods: 0 new, 1 changed",
                wisearc("shop", "--take", str(lines), "--good-lines", *data).stdout,
            )
            self.assertEqual(wisearc("shop", "--take", f"{at}/none.json", *data).returncode, 2)
            joint = json.dumps({**FILE, **CORNER})
            within = json.loads(wisearc("plan", "-", "--shop", str(file), stdin=joint).stdout)[
                "shop"
            ]
            self.assertEqual(
                (within["machine"], [part["part"] for part in within["build"] if part["owned"]]),
                ("bench 200", ["gas-lens", "tungsten"]),
            )
            self.assertIn(
                "On bench 200 with air torch.",
                wisearc("plan", "-", "--text", "--shop", str(file), stdin=joint).stdout.decode(),
            )
            self.assertEqual(wisearc("plan", "-", "--shop", str(lines), stdin=joint).returncode, 2)
            self.assertEqual(
                wisearc("people", "--new-pin", "K.S.", *data, stdin="123456\n").returncode, 2
            )
            self.assertEqual(
                (wisearc("people", *data).returncode, wisearc("people", *data).stdout), (0, b"")
            )

    def test_scripts_are_valid(self) -> None:
        root = Path(__file__).parent.parent
        for script in ("start", "check", ".ci/run", "tools/environment.sh"):
            self.assertEqual(
                subprocess.run(["sh", "-n", str(root / script)], check=False).returncode, 0, script
            )
        for script in ("start", "check", ".ci/run"):
            self.assertTrue((root / script).stat().st_mode & 0o100, script)

    def test_a_row_with_a_trait_that_does_not_exist_is_refused_at_start(self) -> None:
        def spoil(table: dict) -> None:
            table["metals"]["316L"]["traits"] = ["shiny"]

        said = io.StringIO()
        with (
            tempfile.TemporaryDirectory() as folder,
            altered(metals=spoil),
            contextlib.redirect_stderr(said),
        ):
            self.assertEqual(main(["serve", "--data", folder, "--no-browser", "--port", "0"]), 2)
        self.assertEqual(said.getvalue().count("\n"), 1)
        self.assertRegex(
            said.getvalue(), "^wisearc: metals.toml, 316L.*“shiny” is not a trait. Use one of"
        )

    def test_a_copied_checkout_goes_by_itself(self) -> None:
        """The environment has no path of its origin.

        A copy of it finds the package and the command of the copy.
        """
        inside = Path("lib") / "python3.11" / "site-packages"
        own = ROOT / ".venv"
        with tempfile.TemporaryDirectory() as folder:
            copy, there = Path(folder) / "moved here", Path(folder) / "elsewhere"
            there.mkdir()
            shutil.copytree(
                ROOT / "wisearc",
                copy / "wisearc",
                ignore=shutil.ignore_patterns("__pycache__", "static"),
            )
            (copy / ".venv" / "bin").mkdir(parents=True)
            (copy / ".venv" / inside).mkdir(parents=True)
            for name in ("python", "wisearc"):
                shutil.copy2(
                    own / "bin" / name, copy / ".venv" / "bin" / name, follow_symlinks=False
                )
            if (own / "bin" / "python").readlink().parts[0] != "/":
                (copy / ".venv" / "bin" / "python").unlink()
                (copy / ".venv" / "bin" / "python").symlink_to((own / "bin" / "python").resolve())
            shutil.copy2(own / "pyvenv.cfg", copy / ".venv")
            shutil.copy2(own / inside / "wisearc.pth", copy / ".venv" / inside)
            (copy / ".venv" / inside / "rest.pth").write_text(str(own / inside), encoding="utf-8")
            clean = {k: v for k, v in os.environ.items() if k != "PYTHONPATH"}
            for command in (
                ["python", "-c", "import wisearc; print(wisearc.__file__)"],
                ["wisearc", "schema", "joint"],
            ):
                done = subprocess.run(
                    [str(copy / ".venv" / "bin" / command[0]), *command[1:]],
                    cwd=there,
                    env=clean,
                    capture_output=True,
                    text=True,
                    check=False,
                )
                with self.subTest(command=command[0]):
                    self.assertEqual((done.returncode, done.stderr), (0, ""))
                    self.assertIn(
                        str(copy) if command[0] == "python" else "wisearc/joint", done.stdout
                    )

    def test_port_out_of_range(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            self.assertEqual(
                main(["serve", "--port", "99999", "--data", folder, "--no-browser"]), 2
            )

    def test_newer_data_is_refused(self) -> None:
        from wisearc.store.database import db

        with tempfile.TemporaryDirectory() as folder:
            store = Store(Path(folder))
            db.connect()
            db.execute_sql(
                "INSERT INTO schema_migration (name, applied) VALUES ('9999_later', '2030-01-01')"
            )
            store.close()
            self.assertEqual(main(["serve", "--data", folder, "--no-browser"]), 2)
