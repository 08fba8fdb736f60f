"""Maintenance asked for from a page: done by the command in a process of its own, one at a time,
watched, and stopped where that is asked.

So it takes no time and no room from those who are at work meanwhile, and a command and a page do
the same.
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
_FAR = re.compile(r"([0-9]+) of ([0-9]+)")


class Task(Struct):
    """A piece of long work: what it is, how far, what it said, how it ended (None while it goes
    on).
    """

    what: str
    process: subprocess.Popen[str]
    done: int = 0
    of: int = 0
    said: list[str] = field(default_factory=list)
    code: int | None = None
    stopped: bool = False
    made: Path | None = None
    after: Callable[[], None] | None = None

    @property
    def has_failed(self) -> bool:
        """Whether the command ended by an error of the application or was killed."""
        return not self.stopped and self.code not in (None, 0, 1, REFUSED, STOPPED)

    @property
    def sentence(self) -> str:
        """What came of it, once it has ended."""
        if self.stopped and self.code:
            return "Cancelled. No changes were made."
        if self.has_failed:
            return (
                f"{self.what} failed: Wise Arc has an error, or the process was killed. Check the"
                " library, then try again."
            )
        said = " ".join(self.said[-20:]).removeprefix("wisearc: ").rstrip(".")
        return f"{said[:1].upper()}{said[1:]}." + (
            " No changes were made." if self.code == REFUSED else ""
        )

    def follow(self) -> None:
        """Read what it says until it ends."""
        code = FAILED
        try:
            with self.process as process:
                for line in process.stdout or ():
                    if match := _FAR.fullmatch(line.strip()):
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
    """One piece of long work at a time, on one data folder."""

    def __init__(self, folder: Path, background: Background) -> None:
        self.folder, self._background = folder, background
        self._lock = threading.Lock()
        self.work: Task | None = None

    def begin(
        self,
        what: str,
        *command: str,
        made: Path | None = None,
        after: Callable[[], None] | None = None,
    ) -> Task:
        """Begin a command on the data folder. Raises NotAllowed while another goes on.

        Parameters: what, in words; command, its name and arguments; made, the file that comes of
        it; after, done at its end.
        """
        with self._lock:
            if self.work and self.work.code is None:
                raise NotAllowed(f"{self.work.what} is still running. Wait for it, or stop it.")
            words = (*command, "--data", str(self.folder.absolute()))
            process = self._background.command(*words)
            self.work = Task(what, process, made=made, after=after)
            self._background.start(self.work.follow)
            return self.work

    def stop(self) -> None:
        """Stop what goes on; it leaves nothing behind, or where its last act had begun goes on to
        its end.
        """
        if self.work and self.work.code is None:
            self.work.stopped = True
            self.work.process.terminate()
