"""Documents for pages: asked for, made one after another by a worker process, and handed over.

The worker keeps the PDF library loaded, and ends after a quiet time to give its memory back.
"""

from __future__ import annotations

import json
import subprocess
import tempfile
import threading
from contextlib import suppress
from pathlib import Path

from ...core.schema.json_types import Json
from ...store.folder import PART, wrap_disk_errors
from ..background import Background, end_process
from ..errors import NotAllowed

# A page waits this long for its document, s: ten times the slowest sheet.
MAX_WAIT_S = 30.0
# The worker ends after this time without a request, s.
QUIET_S = 300.0
_FAILED = "The document could not be made: its process ended unexpectedly. Try it once more."
_SLOW = "The document takes too long. Try it again, or make it with “wisearc pdf”."


class DocumentRequests:
    """The documents that pages ask for."""

    def __init__(self, folder: Path, background: Background) -> None:
        """Create the requests of an application.

        Args:
            folder: The data folder.
            background: Its background runner.
        """
        self._folder, self._background = folder, background
        self._turn = threading.Lock()
        self._guard = threading.Lock()
        self._process: subprocess.Popen[str] | None = None
        self._timer: threading.Timer | None = None
        self._is_closed = False
        self._number = 0

    def make(self, request: dict[str, Json]) -> bytes:
        """Return a document as PDF.

        Args:
            request: The fields of a document request: kind, names, units, paper, address, order.

        Raises:
            NotAllowed: It cannot be made. The error has the reason.
            StoreError: The disk is full.
        """
        if not self._turn.acquire(timeout=MAX_WAIT_S):
            raise NotAllowed(_SLOW)
        try:
            with (
                wrap_disk_errors(),
                tempfile.TemporaryDirectory(suffix=PART, dir=self._folder) as work,
            ):
                out = Path(work) / "document.pdf"
                self._ask(request, out)
                return out.read_bytes()
        finally:
            self._turn.release()

    def prepare(self) -> None:
        """Start the worker, so that its libraries are loaded before the first document.

        A worker that cannot start is an error of the first document.
        """
        with suppress(NotAllowed):
            self._start()
            self._end_later()

    def _ask(self, request: dict[str, Json], out: Path) -> None:
        process = self._start()
        self._number += 1
        line = json.dumps({"id": self._number, "request": request, "out": str(out)})
        watchdog = threading.Timer(MAX_WAIT_S, process.kill)
        watchdog.daemon = True
        watchdog.start()
        try:
            if process.stdin is None or process.stdout is None:
                raise NotAllowed(_FAILED)
            process.stdin.write(line + "\n")
            process.stdin.flush()
            text = process.stdout.readline()
        except OSError as error:
            raise NotAllowed(_FAILED) from error
        finally:
            watchdog.cancel()
            self._end_later()
        if not text:
            self.close_worker()
            raise NotAllowed(_FAILED)
        answer = json.loads(text)
        if "error" in answer:
            raise NotAllowed(str(answer["error"]))

    def _start(self) -> subprocess.Popen[str]:
        with self._guard:
            if self._is_closed:
                raise NotAllowed(_FAILED)
            if self._process is None or self._process.poll() is not None:
                try:
                    self._process = self._background.command(
                        "pdf", "--worker", "--data", str(self._folder), reports_progress=True
                    )
                except OSError as error:
                    raise NotAllowed(_FAILED) from error
            return self._process

    def _end_later(self) -> None:
        with self._guard:
            if self._timer is not None:
                self._timer.cancel()
            self._timer = threading.Timer(QUIET_S, self._end_quiet)
            self._timer.daemon = True
            self._timer.start()

    def _end_quiet(self) -> None:
        if self._turn.acquire(blocking=False):
            try:
                self.close_worker()
            finally:
                self._turn.release()

    def close_worker(self) -> None:
        """End the worker. The next request starts another one."""
        with self._guard:
            process, self._process = self._process, None
        if process is not None:
            end_process(process)

    def close(self) -> None:
        """End the worker when the application closes."""
        with self._guard:
            self._is_closed = True
            if self._timer is not None:
                self._timer.cancel()
        self.close_worker()
