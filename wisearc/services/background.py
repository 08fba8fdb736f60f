"""Background work: threads, and commands of the product in separate processes.

All background work of a page starts here. Its domain knows its purpose, progress and cancellation
(`maintenance/tasks.py`, `jobs/order_searches.py`, `runs/log_imports.py`). Devices have a separate
reader (`devices/device_reader.py`).
"""

from __future__ import annotations

import os
import subprocess
import sys
import threading
import weakref
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from . import lifeline

_PACKAGE = Path(__file__).resolve().parents[2]
END_S = 5.0


def end_process(process: subprocess.Popen[str]) -> None:
    """End a command at once, and close its streams.

    Args:
        process: The process of the command.
    """
    process.kill()
    process.wait()
    for stream in (process.stdin, process.stdout):
        with suppress(OSError):
            if stream is not None:
                stream.close()


class Background:
    """The only background runner of an application."""

    def __init__(self) -> None:
        """Create a runner without work."""
        self._guard = threading.Lock()
        self._awaited: list[threading.Thread] = []

    def start(self, work: Callable[[], None], awaited: bool = False) -> None:
        """Run work in a thread.

        Args:
            work: The work.
            awaited: Whether the application waits for it when it closes, at most END_S.
        """
        thread = threading.Thread(target=work, daemon=True)
        if awaited:
            with self._guard:
                self._awaited = [t for t in self._awaited if t.is_alive()] + [thread]
        thread.start()

    def command(self, *arguments: str, reports_progress: bool = False) -> subprocess.Popen[str]:
        """Start a command of the product in a separate process.

        It takes no time or memory from the pages. Its output is read line by line. The command
        exits when this process exits, even if it is killed (`lifeline.py`).

        Args:
            arguments: Arguments of the command.
            reports_progress: Whether the command reads its standard input. Its standard error is
                then ignored.
        """
        read_end, write_end = os.pipe()
        try:
            process = subprocess.Popen(
                [sys.executable, "-m", "wisearc", *arguments],
                cwd=_PACKAGE,
                text=True,
                stdin=subprocess.PIPE if reports_progress else subprocess.DEVNULL,
                stdout=subprocess.PIPE,
                stderr=subprocess.DEVNULL if reports_progress else subprocess.STDOUT,
                pass_fds=(read_end,),
                env={**os.environ, lifeline.VARIABLE: str(read_end)},
            )
        except BaseException:
            os.close(write_end)
            raise
        finally:
            os.close(read_end)
        # The pipe is open as long as the process object exists. If this process exits first, the
        # system closes it.
        weakref.finalize(process, os.close, write_end)
        return process

    def close(self) -> None:
        """Wait for the awaited work, which was cancelled before."""
        with self._guard:
            awaited = list(self._awaited)
        for thread in awaited:
            thread.join(timeout=END_S)
