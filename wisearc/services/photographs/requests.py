"""Photographs measured for pages: each in a separate process, one at a time, with its progress.

The results stay in memory until they are saved with a run, or replaced by newer ones.
"""

from __future__ import annotations

import json
import secrets
import shutil
import subprocess
import tempfile
import threading
from collections import OrderedDict
from pathlib import Path

import msgspec
from msgspec import Struct

from ...core.photograph.measurement import Measurement
from ...core.schema.documents import read_document
from ...store.folder import PART
from ..background import Background, end_process

# The maximum size of a sent file, bytes.
MAX_SENT_BYTES = 40_000_000
# The results in memory, each with two pictures of at most a megabyte.
MAX_CACHED = 12
# A process that takes longer is ended, s: twenty times the usual time.
MAX_WAIT_S = 60.0
SENT, RESULT, UPRIGHT, STRAIGHTENED = "sent", "result.json", "upright.jpg", "straightened.jpg"
_FAILED = "The measurement ended unexpectedly. Try it once more, or measure by hand."
_STOPPED = "Cancelled. Nothing was saved."


class PhotoRequest(Struct, frozen=True):
    """A photograph to be measured.

    Attributes:
        name: Its file name.
        half_length_mm: The measured length on each side of the card's middle, or None.
        check_length_mm: The printed check length of the card as measured, or None.
        face: The face in it, "front" or "back", or None in a side view.
        is_side: Whether it is a side view, for the bow.
        correction_mm: The correction of the shop for a width.
    """

    name: str
    half_length_mm: float | None = None
    check_length_mm: float | None = None
    face: str | None = "front"
    is_side: bool = False
    correction_mm: float = 0.0


class PhotoTask(Struct):
    """A photograph in progress or measured.

    Attributes:
        request: The request.
        subject: The run that it belongs to, as the text of its address.
        state: "waits", "measures", "done", "failed" or "stopped".
        step: The present step.
        share: Progress, 0 to 1.
        why: The reason that it cannot be measured, in one sentence.
        measured: The measurements, when done.
        upright: The photograph for the record, JPEG.
        straightened: The straightened picture, JPEG.
    """

    request: PhotoRequest
    subject: str
    state: str = "waits"
    step: str = "card"
    share: float = 0.0
    why: str = ""
    measured: Measurement | None = None
    upright: bytes = b""
    straightened: bytes = b""
    is_cancelled: bool = False

    @property
    def is_going(self) -> bool:
        """Return whether it is in progress."""
        return self.state in ("waits", "measures")


class PhotographRequests:
    """The photographs that pages have sent, by key."""

    def __init__(self, folder: Path, background: Background) -> None:
        """Create an empty set.

        Args:
            folder: The data folder.
            background: Starts threads and processes.
        """
        self._folder, self._background = folder, background
        self._guard, self._turn = threading.Lock(), threading.Lock()
        self._tasks: OrderedDict[str, PhotoTask] = OrderedDict()
        self._process: subprocess.Popen[str] | None = None

    def begin(self, request: PhotoRequest, subject: str, sent: Path) -> str:
        """Measure a file, which is deleted afterwards, and return the key of the task.

        Args:
            request: The request.
            subject: The run that it belongs to.
            sent: The file.
        """
        key, task = secrets.token_hex(8), PhotoTask(request, subject)
        with self._guard:
            self._tasks[key] = task
            while len(self._tasks) > MAX_CACHED:
                _, dropped = self._tasks.popitem(last=False)
                dropped.is_cancelled = True
        self._background.start(lambda: self._run(task, sent), awaited=True)
        return key

    def get(self, key: str, subject: str) -> PhotoTask | None:
        """Return a task of a run by its key, or None.

        Args:
            key: The key.
            subject: The run.
        """
        with self._guard:
            task = self._tasks.get(key)
        return task if task is not None and task.subject == subject else None

    def stop(self, key: str, subject: str) -> None:
        """Cancel a task.

        Args:
            key: The key.
            subject: The run.
        """
        task = self.get(key, subject)
        if task is not None and task.is_going:
            task.is_cancelled = True
            with self._guard:
                if self._process is not None and task.state == "measures":
                    self._process.kill()

    def close(self) -> None:
        """Cancel all tasks when the application closes."""
        with self._guard:
            for task in self._tasks.values():
                task.is_cancelled = True
            if self._process is not None:
                self._process.kill()

    def _run(self, task: PhotoTask, sent: Path) -> None:
        work = Path(tempfile.mkdtemp(suffix=PART, dir=self._folder))
        try:
            sent.replace(work / SENT)
            with self._turn:
                if not task.is_cancelled:
                    task.state = "measures"
                    self._measure(task, work)
            if task.is_cancelled and task.state != "done":
                task.state, task.why = "stopped", _STOPPED
        except OSError:
            task.state, task.why = "failed", _FAILED
        finally:
            sent.unlink(missing_ok=True)
            shutil.rmtree(work, ignore_errors=True)

    def _measure(self, task: PhotoTask, work: Path) -> None:
        (work / "request.json").write_bytes(msgspec.json.encode(task.request))
        process = self._background.command("measure", str(work), "--task", reports_progress=True)
        with self._guard:
            self._process = process
        watchdog = threading.Timer(MAX_WAIT_S, process.kill)
        watchdog.daemon = True
        watchdog.start()
        try:
            for line in process.stdout or ():
                step, _, share = line.strip().partition(" ")
                task.step, task.share = step, float(share or 0)
            process.wait()
        except ValueError:
            pass
        finally:
            watchdog.cancel()
            with self._guard:
                self._process = None
            end_process(process)
        self._finish(task, work)

    def _finish(self, task: PhotoTask, work: Path) -> None:
        result = work / RESULT
        if not result.exists():
            task.state, task.why = "failed", _FAILED
            return
        answer = json.loads(result.read_text(encoding="utf-8"))
        if "why" in answer:
            task.state, task.why = "failed", str(answer["why"])
        else:
            task.measured = read_document(Measurement, answer["measured"], "measured")
            task.straightened = (work / STRAIGHTENED).read_bytes()
        if (work / UPRIGHT).exists():
            task.upright = (work / UPRIGHT).read_bytes()
        if task.measured is not None:
            task.state, task.share = "done", 1.0
