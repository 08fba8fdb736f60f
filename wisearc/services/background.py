"""What goes on beside the pages: threads, and the product's own commands in processes of their own.

Everything that a page begins and does not wait for begins here. What it is, how far it is and how
it is stopped is its own domain's (`maintenance/tasks.py`, `jobs/searching.py`,
`runs/log_reading.py`); a device has a reader of its own (`devices/device_reader.py`).
"""

from __future__ import annotations

import os
import subprocess
import sys
import threading
import weakref
from collections.abc import Callable
from pathlib import Path

from . import lifeline

_PACKAGE = Path(__file__).resolve().parents[2]
END_S = 5.0


class Background:
    """The one runner of an application."""

    def __init__(self) -> None:
        self._guard = threading.Lock()
        self._awaited: list[threading.Thread] = []

    def start(self, work: Callable[[], None], awaited: bool = False) -> None:
        """Do work in a thread. Parameters: awaited, whether the application waits for it, up to
        END_S, when it is closed.
        """
        thread = threading.Thread(target=work, daemon=True)
        if awaited:
            with self._guard:
                self._awaited = [t for t in self._awaited if t.is_alive()] + [thread]
        thread.start()

    def command(self, *words: str, told: bool = False) -> subprocess.Popen[str]:
        """Begin a command of the product in a process of its own, so that it takes no time and no
        room from the pages; what it says is read line by line.

        The command exits when this process exits, even if it is killed (`lifeline.py`).

        Parameters: told, whether it is told something on its standard input; what it says on
        standard error is then not read.
        """
        read_end, write_end = os.pipe()
        try:
            process = subprocess.Popen(
                [sys.executable, "-m", "wisearc", *words],
                cwd=_PACKAGE,
                text=True,
                stdin=subprocess.PIPE if told else subprocess.DEVNULL,
                stdout=subprocess.PIPE,
                stderr=subprocess.DEVNULL if told else subprocess.STDOUT,
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
        """Wait for what is awaited; it was asked to stop before."""
        with self._guard:
            awaited = list(self._awaited)
        for thread in awaited:
            thread.join(timeout=END_S)
