"""Fields for pages: requested, calculated by one worker process, saved in memory.

A page asks repeatedly until the answer is ready, and never waits for it. One worker calculates one
field after another with a low priority, and pages keep the other processor. Equal requests share
an answer.
"""

from __future__ import annotations

import hashlib
import json
import subprocess
import threading
import time
from collections import OrderedDict
from collections.abc import Sequence

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from ...core.conduction.trial import FULL_GRID_MM, NO_TRIAL, PREVIEW_GRID_MM, Trial, check_seam
from ...core.plan.plan import Plan
from ...formats.plan_json import plan_data
from ..background import Background, end_process
from .goals import Change

# The answers in memory together, characters.
MAX_CACHED = 40_000_000
# A request that arrives for an answer waits at most this long, s.
SHORT_WAIT_S = 0.25
STOPPED = "stopped"
_FAILED = "The calculation ended unexpectedly. Try it once more."


class Request(Struct, frozen=True):
    """A request to the worker.

    Its number, the data of plans (the first one, or changed ones after it), settings to be tried,
    whether a preview is enough and whether figures without pictures are, the key of a goal, and
    whether to stop the request instead.
    """

    id: str
    plans: tuple[msgspec.Raw, ...] = ()
    trial: Trial = NO_TRIAL
    preview: bool = True
    brief: bool = False
    goal: str = ""
    stop: bool = False


class Proposal(Struct, frozen=True):
    """The answer to a goal: the changed plan that reaches it, or whether the first one does."""

    chosen: int | None = None
    already: bool = False

    def find_change(self, changes: Sequence[Change]) -> Change | None:
        """Return the change that reaches the goal, or None.

        Args:
            changes: The changes of the plans after the first one.
        """
        if self.already or self.chosen is None:
            return None
        return changes[self.chosen - 1]


class Answer(Struct):
    """A requested field: progress 0–1, the answer as JSON text, or an error."""

    number: str
    progress: float = 0.0
    body: str = ""
    error: str = ""

    @property
    def is_ready(self) -> bool:
        """Return whether it has an answer or an error."""
        return bool(self.body or self.error)


class HeatRequests:
    """The fields that pages asked for."""

    def __init__(self, background: Background) -> None:
        """Create the requests of an application.

        Args:
            background: Its background runner.
        """
        self._background = background
        self._guard = threading.Condition()
        self._answers: OrderedDict[str, Answer] = OrderedDict()
        self._process: subprocess.Popen[str] | None = None
        self._closed = False

    def ask_field(
        self,
        plan: Plan,
        trial: Trial,
        preview: bool,
        brief: bool = False,
        wait_s: float = SHORT_WAIT_S,
    ) -> Answer:
        """Return a field of a plan, or its progress; the calculation starts with the first request.

        Args:
            plan: The plan, new or saved.
            trial: Settings to be tried.
            preview: Whether a coarser grid is enough.
            brief: Whether figures without pictures are enough.
            wait_s: How long to wait for the answer, s.

        Raises:
            InputError: The seam cannot be calculated.
        """
        grid_mm = PREVIEW_GRID_MM if preview else FULL_GRID_MM
        check_seam(plan, trial, grid_mm)
        return self._ask(Request("", (_encode(plan),), trial, preview, brief), wait_s)

    def ask_change(self, plans: list[Plan], goal: str) -> Answer:
        """Return the first changed plan that reaches a goal, or the progress of the search.

        Args:
            plans: The present plan, then changed ones, the smallest change first.
            goal: Key of the goal.
        """
        return self._ask(Request("", tuple(map(_encode, plans)), goal=goal))

    def _ask(self, request: Request, wait_s: float = SHORT_WAIT_S) -> Answer:
        number = hashlib.sha256(msgspec.json.encode(request)).hexdigest()[:24]
        with self._guard:
            answer = self._answers.get(number)
            if answer is None or (answer.error and not self._is_final(answer)):
                answer = Answer(number)
                self._answers[number] = answer
                self._send(replace(request, id=number))
            self._answers.move_to_end(number)
            while len(self._answers) > 1 and self._measure() > MAX_CACHED:
                self._answers.popitem(last=False)
            until = time.monotonic() + wait_s
            while not answer.is_ready and (left := until - time.monotonic()) > 0:
                self._guard.wait(left)
            return answer

    def _measure(self) -> int:
        """Return the size of the answers in memory, characters."""
        return sum(len(answer.body) for answer in self._answers.values())

    @staticmethod
    def _is_final(answer: Answer) -> bool:
        """Return whether the error of an answer would come again."""
        return answer.error not in (STOPPED, _FAILED)

    def stop(self, number: str) -> None:
        """Stop a calculation that no page needs any more.

        Args:
            number: Number of its answer.
        """
        with self._guard:
            answer = self._answers.get(number)
            if answer is not None and not answer.is_ready:
                self._send(Request(number, stop=True))

    def close(self) -> None:
        """End the worker."""
        with self._guard:
            self._closed = True
            process, self._process = self._process, None
        if process is not None:
            end_process(process)

    def _send(self, request: Request) -> None:
        """Send a request to the worker, which starts with the first one."""
        if self._closed:
            return
        if self._process is None or self._process.poll() is not None:
            self._process = self._background.command("heat", "-", "--worker", reports_progress=True)
            process = self._process
            self._background.start(lambda: self._listen(process))
        stream = self._process.stdin
        if stream is None:
            return
        try:
            stream.write(msgspec.json.encode(request).decode() + "\n")
            stream.flush()
        except OSError:
            self._fail_all()

    def _listen(self, process: subprocess.Popen[str]) -> None:
        """Read the answers of a worker until it ends."""
        for line in process.stdout or ():
            reply = json.loads(line)
            with self._guard:
                answer = self._answers.get(reply["id"])
                if answer is None:
                    continue
                answer.progress = reply.get("progress", answer.progress)
                if "body" in reply:
                    answer.body = json.dumps(reply["body"])
                answer.error = reply.get("error", "")
                if answer.is_ready:
                    self._guard.notify_all()
        with self._guard:
            if self._process is process or self._process is None:
                self._fail_all()
        if process.stdout is not None:
            process.stdout.close()
        process.wait()

    def _fail_all(self) -> None:
        """Mark every open request as failed."""
        self._process = None
        for answer in self._answers.values():
            if not answer.is_ready:
                answer.error = _FAILED
        self._guard.notify_all()


def _encode(plan: Plan) -> msgspec.Raw:
    return msgspec.Raw(msgspec.json.encode(plan_data(plan)))


def read_proposal(answer: Answer) -> Proposal:
    """Return the answer to a goal.

    Args:
        answer: A ready answer without an error.
    """
    return msgspec.json.decode(answer.body, type=Proposal)
