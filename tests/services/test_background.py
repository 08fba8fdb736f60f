"""Commands of a server end with it, and failures are reported."""

import json
import os
import signal
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path
from unittest import mock

from wisearc.services import lifeline
from wisearc.services.background import Background
from wisearc.services.devices.device_reader import DeviceReader
from wisearc.services.jobs import order_searches
from wisearc.services.maintenance.tasks import Task, TaskRunner

ROOT = Path(__file__).resolve().parents[2]
BEGUN = (
    "import sys, time; from wisearc.services.background import Background;"
    " p = Background().command('serve', '--data', sys.argv[1], '--port', '0', '--no-browser');"
    " print(p.pid, flush=True); print(p.stdout.readline(), flush=True); time.sleep(60)"
)


def lives(pid: int) -> bool:
    try:
        state = Path(f"/proc/{pid}/stat").read_text(encoding="ascii").rpartition(")")[2].split()[0]
    except FileNotFoundError:
        return False
    return state != "Z"


class Commands(unittest.TestCase):
    def test_command_exits_with_a_killed_server(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            parent = subprocess.Popen(
                [sys.executable, "-c", BEGUN, folder], cwd=ROOT, stdout=subprocess.PIPE, text=True
            )
            self.addCleanup(parent.wait)
            self.addCleanup(parent.stdout.close)
            child = int(parent.stdout.readline())
            self.assertIn("Wise Arc runs at", parent.stdout.readline())
            self.assertTrue(lives(child))
            parent.send_signal(signal.SIGKILL)
            until = time.monotonic() + 60
            while lives(child) and time.monotonic() < until:
                time.sleep(0.02)
            self.assertFalse(lives(child))

    def test_manual_command_has_no_lifeline(self) -> None:
        with mock.patch.dict(os.environ), mock.patch("threading.Thread") as thread:
            os.environ.pop(lifeline.VARIABLE, None)
            lifeline.exit_with_server()
            os.environ[lifeline.VARIABLE] = "odd"
            lifeline.exit_with_server()
            self.assertFalse(thread.called)

    def test_lifeline_closes_with_the_process(self) -> None:
        before = {path.name for path in Path("/proc/self/fd").iterdir()}
        process = Background().command("plan", "nowhere.json")
        process.communicate()
        self.assertEqual(process.returncode, 2)
        del process
        self.assertEqual({path.name for path in Path("/proc/self/fd").iterdir()}, before)


class Failures(unittest.TestCase):
    def task(self, code: str, *command: str) -> Task:
        read_end, write_end = os.pipe()
        self.addCleanup(os.close, write_end)
        process = subprocess.Popen(
            [sys.executable, "-c", code, *command],
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
            cwd=ROOT,
            pass_fds=(read_end,),
            env={**os.environ, lifeline.VARIABLE: str(read_end)},
        )
        os.close(read_end)
        task = Task("Archive", process)
        task.follow()
        return task

    def test_failed_task_is_reported(self) -> None:
        for code in (
            "import os; os.kill(os.getpid(), 9)",
            "from wisearc import cli; cli._build_parser = None; raise SystemExit(cli.main())",
            "import os; os._exit(3)",
        ):
            with self.assertLogs("wisearc.services.maintenance.tasks", "ERROR"):
                task = self.task(code)
            self.assertIsNotNone(task.code)
            self.assertIn("failed: Wise Arc has an error", task.sentence)
            self.assertNotIn("No changes were made", task.sentence)
            self.assertNotIn("Traceback", task.sentence)

    def test_task_result_is_shown_unchanged(self) -> None:
        done = self.task("print('Mark done')")
        self.assertEqual((done.code, done.sentence), (0, "Mark done."))
        refused = self.task("print('wisearc: it cannot'); raise SystemExit(2)")
        self.assertEqual(refused.sentence, "It cannot. No changes were made.")
        wrong = self.task("print('Wrong: 1 thing'); raise SystemExit(1)")
        self.assertEqual(wrong.sentence, "Wrong: 1 thing.")

    def test_error_in_cleanup_ends_the_task(self) -> None:
        process = subprocess.Popen(
            [sys.executable, "-c", "print(1)"], stdout=subprocess.PIPE, text=True
        )
        task = Task("Archive", process, after=mock.Mock(side_effect=RuntimeError))
        with self.assertRaises(RuntimeError):
            task.follow()
        self.assertEqual(task.code, 0)
        runner = TaskRunner(Path(), Background())
        runner.work = task
        with (
            mock.patch.object(runner._background, "command", return_value=process),
            mock.patch.object(runner._background, "start"),
        ):
            self.assertIsNot(runner.begin("Add"), task)

    def test_failed_search_stops(self) -> None:
        for code in ("print('nonsense', flush=True)", "raise SystemExit(1)"):
            searches = order_searches.Searches(Background())
            search = mock.Mock(
                state="waits", process=None, going=True, best=mock.Mock(proved=False)
            )
            process = subprocess.Popen(
                [sys.executable, "-c", f"import sys; sys.stdin.read(); {code}"],
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                stderr=subprocess.DEVNULL,
                text=True,
            )
            with (
                mock.patch.object(searches._background, "command", return_value=process),
                mock.patch.object(order_searches, "to_builtins", return_value={}),
            ):
                if "nonsense" in code:
                    with self.assertRaises(json.JSONDecodeError):
                        searches._run(search)
                else:
                    searches._run(search)
            self.assertEqual(search.state, "stopped")
            process.wait()

    def test_device_reader_error_is_reported(self) -> None:
        with (
            mock.patch.object(DeviceReader, "_connect", side_effect=KeyError("x")),
            mock.patch("threading.excepthook"),
        ):
            listener = DeviceReader(1)
            listener._thread.start()
            listener._thread.join(5)
        self.assertEqual(listener._state, "gone")
        self.assertIn("failed: Wise Arc has an error", listener._words)


if __name__ == "__main__":
    unittest.main()
