"""Virtual seams for pages: one process steps them, and every request waits for its answer.

A page sends new samples every fortieth of a second. If the process or the server ends in
between, the page reopens its seam with all earlier samples.
"""

from __future__ import annotations

import subprocess
import threading
from collections import OrderedDict
from itertools import count

import msgspec
from msgspec.structs import replace

from ...core.plan.plan import Plan
from ...core.shop.shop import Shop
from ...formats.plan_json import plan_data
from ...formats.shop_json import write_shop_file
from ..background import Background, end_process
from ..errors import StoreError
from .messages import OPEN, STEP, JudgedTry, SeamReply, SeamRequest

# A step takes milliseconds, a first target or a long track seconds.
WAIT_S = 30.0
# The answer to a step of an unknown seam, and the number of known seams. The process has fewer.
UNKNOWN, MAX_OPENED = b'{"no-seam":true}', 100
_FAILED = "The practice stopped unexpectedly. Your try is saved. Start again."


class SeamFailed(StoreError):
    """The process of the seams ended or did not answer."""


class SeamRefused(SeamFailed):
    """The process refused a request: its sentence."""


class PracticeSeams:
    """The virtual seams of an application."""

    def __init__(self, background: Background) -> None:
        """Create the seams; the process starts with the first one.

        Args:
            background: The background runner of the application.
        """
        self._background = background
        self._guard = threading.Condition()
        self._numbers = count(1)
        self._answers: dict[int, SeamReply | None] = {}
        self._process: subprocess.Popen[str] | None = None
        self._closed = False
        self._opened: OrderedDict[str, bool] = OrderedDict()

    def ask(self, request: SeamRequest, wait_s: float = WAIT_S) -> bytes:
        """Send a request, and return the body of its answer as JSON.

        Args:
            request: The request. Its number is set here.
            wait_s: Maximum time of the answer, s.

        Raises:
            SeamFailed: The process ended or did not answer.
            SeamRefused: The request is wrong: its sentence.
        """
        if request.ask == STEP and request.seam not in self._opened:
            # Unknown here: nobody who was not admitted reaches the process.
            return UNKNOWN
        with self._guard:
            number = next(self._numbers)
            self._send(replace(request, id=number))
            # No answer is read before the lock is released.
            self._answers[number] = None
            try:
                self._guard.wait_for(lambda: self._answers.get(number) is not None, wait_s)
                reply = self._answers.get(number)
            finally:
                self._answers.pop(number, None)
        if reply is None or reply.ended:
            if request.ask == STEP and not self._closed:
                # The page opens its seam again in the next process.
                return UNKNOWN
            raise SeamFailed(_FAILED)
        if reply.error:
            raise SeamRefused(reply.error)
        if request.ask == OPEN:
            with self._guard:
                self._opened[request.seam] = True
                while len(self._opened) > MAX_OPENED:
                    self._opened.popitem(last=False)
        return bytes(reply.body)

    def judge(self, request: SeamRequest) -> tuple[JudgedTry, bytes]:
        """Send a track, and return how it was judged, with its JSON.

        Args:
            request: The request.

        Raises:
            SeamFailed: The process ended, or refused the track.
        """
        body = self.ask(request)
        return msgspec.json.decode(body, type=JudgedTry), body

    def _send(self, request: SeamRequest) -> None:
        line = msgspec.json.encode(request).decode() + "\n"
        try:
            try:
                self._write(line)
            except OSError:
                # The process has just ended: the next one gets the request.
                self._forget_process(self._process)
                self._write(line)
        except OSError as error:
            raise SeamFailed(_FAILED) from error

    def _write(self, line: str) -> None:
        if self._closed:
            raise SeamFailed(_FAILED)
        if self._process is not None and self._process.poll() is not None:
            self._forget_process(self._process)
        if self._process is None:
            process = self._background.command("practice", "-", "--worker", reports_progress=True)
            self._process = process
            self._background.start(lambda: self._listen(process))
        stream = self._process.stdin
        if stream is not None:
            stream.write(line)
            stream.flush()

    def _listen(self, process: subprocess.Popen[str]) -> None:
        """Read the answers of a process until it ends."""
        for line in process.stdout or ():
            arrived = msgspec.json.decode(line, type=SeamReply)
            with self._guard:
                if arrived.id in self._answers:
                    self._answers[arrived.id] = arrived
                    self._guard.notify_all()
        with self._guard:
            self._forget_process(process)
        end_process(process)

    def _forget_process(self, process: subprocess.Popen[str] | None) -> None:
        """End the waiting for answers of a process that ended."""
        if self._process is not process:
            return
        self._process = None
        for number, answer in self._answers.items():
            if answer is None:
                self._answers[number] = SeamReply(number, ended=True)
        self._guard.notify_all()

    def close(self) -> None:
        """End the process."""
        with self._guard:
            self._closed = True
            process, self._process = self._process, None
        if process is not None:
            end_process(process)


def encode_plan(plan: Plan) -> msgspec.Raw:
    """Return a plan for a request."""
    return msgspec.Raw(msgspec.json.encode(plan_data(plan)))


def encode_shop(shop: Shop) -> msgspec.Raw:
    """Return a shop for a request."""
    return msgspec.Raw(msgspec.json.encode(write_shop_file(shop)))
