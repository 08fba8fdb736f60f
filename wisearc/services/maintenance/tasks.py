"""Maintenance from a page.

A command in a separate process, one at a time, with progress and cancellation. It takes no time or
memory from other users, and a page and a command do the same.
"""

from __future__ import annotations

import logging
import re
import subprocess
import threading
from collections.abc import Callable
from pathlib import Path

from msgspec import Struct, field

from ...store.errors import NotAllowed
from ..background import Background
from ..lifeline import FAILED

# Exit codes of a command that refuses its input, and of a cancelled command.
REFUSED, STOPPED = 2, 130
_log = logging.getLogger(__name__)
_PROGRESS = re.compile(r"([0-9]+) of ([0-9]+)")


class Task(Struct):
    """Long work: label, progress, output, and exit code (None: in progress)."""

    what: str
    process: subprocess.Popen[str]
    done: int = 0
    of: int = 0
    said: list[str] = field(default_factory=list)
    code: int | None = None
    stopped: bool = False
    made: Path | None = None
    after: Callable[[], None] | None = None
    next_page: str = ""

    @property
    def has_failed(self) -> bool:
        """Whether the command ended by an error of the application or was killed."""
        return not self.stopped and self.code not in (None, 0, 1, REFUSED, STOPPED)

    @property
    def sentence(self) -> str:
        """Return the result after its end."""
        if self.stopped and self.code:
            return "Cancelled. No changes were made."
        if self.has_failed:
            return (
                f"{self.what} failed: Wise Arc has an error, or the process was killed. Check the"
                " library, then try again."
            )
        text = " ".join(self.said[-20:]).removeprefix("wisearc: ").rstrip(".")
        return f"{text[:1].upper()}{text[1:]}." + (
            " No changes were made." if self.code == REFUSED else ""
        )

    def follow(self) -> None:
        """Read its output until it ends."""
        code = FAILED
        try:
            with self.process as process:
                for line in process.stdout or ():
                    if match := _PROGRESS.fullmatch(line.strip()):
                        self.done, self.of = int(match[1]), int(match[2])
                    else:
                        self.said.append(line.strip())
                code = process.wait()
            if self.after:
                self.after()
        finally:
            self.code = code
            if self.has_failed:
                _log.error("%s failed (%d): %s", self.what, code, "\n".join(self.said))


class TaskRunner:
    """One long work at a time, on one data folder."""

    def __init__(self, folder: Path, background: Background) -> None:
        """Create a runner without work.

        Args:
            folder: The data folder.
            background: Starts the commands.
        """
        self.folder, self._background = folder, background
        self._lock = threading.Lock()
        self.work: Task | None = None

    def begin(
        self,
        label: str,
        *command: str,
        output: Path | None = None,
        after: Callable[[], None] | None = None,
        next_page: str = "",
    ) -> Task:
        """Start a command on the data folder.

        Args:
            label: Name of the work.
            command: Name and arguments of the command.
            output: The resulting file, or None.
            after: Called after its end, or None.
            next_page: Address that shows its result, or "".

        Raises:
            NotAllowed: Another work is in progress.
        """
        with self._lock:
            if self.work and self.work.code is None:
                raise NotAllowed(f"{self.work.what} is still running. Wait for it, or stop it.")
            text = (*command, "--data", str(self.folder.absolute()))
            process = self._background.command(*text)
            self.work = Task(label, process, made=output, after=after, next_page=next_page)
            self._background.start(self.work.follow)
            return self.work

    def stop(self) -> None:
        """Cancel the work.

        It leaves nothing behind, or completes its last step if that has started.
        """
        if self.work and self.work.code is None:
            self.work.stopped = True
            self.work.process.terminate()
