"""The process that calculates fields: one request a line in, progress and answers a line out.

A request has its number, plans, and settings to be tried or a goal. Its answers are
`{"id", "progress"}`, then `{"id", "body"}` or `{"id", "error"}`.
"""

from __future__ import annotations

import json
import os
import select
import sys
from collections import deque
from collections.abc import Callable
from typing import TextIO

import msgspec
from msgspec import Struct

from ...core.conduction.findings import Findings
from ...core.conduction.reached import is_reached
from ...core.conduction.seam import build_problem
from ...core.conduction.trial import FULL_GRID_MM, NO_TRIAL, PREVIEW_GRID_MM
from ...core.errors import WiseArcError
from ...core.plan.plan import Plan
from ...core.quantities import UNIT_SYSTEMS
from ...core.schema.json_types import Json
from ...drawings.plan.heat_map import draw_heat_map
from ...formats.heat_view import write_heat_view
from ...formats.plan_json import read_plan
from .fields import HeatField, calculate_field
from .requests import STOPPED, Request

# A field must not slow the pages.
_NICE = 10
_CHUNK = 1 << 16


Describe = Callable[[Plan, HeatField], Struct]


class _Stopped(Exception):
    """The request was stopped."""


class Worker:
    """The requests of one process, in order."""

    def __init__(self, source: TextIO, target: TextIO, describe: Describe) -> None:
        """Create a worker.

        Args:
            source: The requests. Its file must support `select`.
            target: The answers.
            describe: Returns the texts of a field.
        """
        self.source, self.target, self.describe = source, target, describe
        self.waiting: deque[Request] = deque()
        self.stopped: set[str] = set()
        self.ended = False
        # The start of a request that has not arrived completely. Its file is read without a buffer,
        # because `select` does not know what a buffer holds.
        self._rest = b""

    def run(self) -> None:
        """Answer requests until the input ends."""
        while not self.ended or self.waiting:
            if not self.waiting:
                self._read(wait=True)
                continue
            request = self.waiting.popleft()
            number = request.id
            if number in self.stopped:
                self._answer_line({"id": number, "error": STOPPED})
                continue
            try:
                body = self._answer(number, request)
                self._answer_line({"id": number, "body": body})
            except _Stopped:
                self._answer_line({"id": number, "error": STOPPED})
            except WiseArcError as error:
                self._answer_line({"id": number, "error": str(error)})

    def _read(self, wait: bool) -> None:
        """Read the requests that have arrived, or wait for one."""
        number = self.source.fileno()
        while not self.ended and (wait or select.select([number], [], [], 0)[0]):
            received = os.read(number, _CHUNK)
            self.ended = not received
            *lines, self._rest = (self._rest + received).split(b"\n")
            for line in lines:
                request = msgspec.json.decode(line, type=Request)
                if request.stop:
                    self.stopped.add(request.id)
                else:
                    # It was perhaps stopped before, by a page that then needed it after all.
                    self.stopped.discard(request.id)
                    self.waiting.append(request)
            wait = wait and not lines

    def _answer_line(self, answer: dict[str, Json]) -> None:
        self.target.write(json.dumps(answer, allow_nan=False) + "\n")
        self.target.flush()

    def _check_stop(self, number: str) -> None:
        self._read(wait=False)
        if number in self.stopped or self.ended:
            raise _Stopped

    def _answer(self, number: str, request: Request) -> dict[str, Json]:
        if request.goal:
            return self._try_plans(number, request)

        def report(share: float) -> None:
            self._check_stop(number)
            self._answer_line({"id": number, "progress": round(share, 3)})

        plan = read_plan(json.loads(bytes(request.plans[0])))
        grid_mm = PREVIEW_GRID_MM if request.preview else FULL_GRID_MM
        problem = build_problem(plan, grid_mm, request.trial, preview=request.preview)
        field = calculate_field(plan, problem, report, request.trial == NO_TRIAL)
        if request.brief:
            return field.data
        return {
            **field.data,
            **msgspec.to_builtins(self.describe(plan, field)),
            "view": write_heat_view(field.outcome),
            "picture": _draw_still(field, "screen"),
            "paper": _draw_still(field, "paper"),
        }

    def _try_plans(self, number: str, request: Request) -> dict[str, Json]:
        """Return the first changed plan that reaches a goal, and how it compares."""
        plans, goal = [read_plan(json.loads(bytes(data))) for data in request.plans], request.goal
        before: Findings | None = None
        best: tuple[int, Findings] | None = None
        for i, plan in enumerate(plans):
            self._check_stop(number)
            self._answer_line({"id": number, "progress": round(i / len(plans), 3)})
            try:
                problem = build_problem(plan, PREVIEW_GRID_MM, preview=True)
                answers = calculate_field(plan, problem).answers
            except WiseArcError:
                continue
            if before is None:
                before = answers
            elif is_reached(goal, before, answers, plan.travel.pool_width_mm):
                best = i, answers
                break
        if before is None:
            return {"chosen": None, "before": None, "after": None}
        return {
            "chosen": None if best is None else best[0],
            "already": is_reached(goal, before, before, plans[0].travel.pool_width_mm),
            "before": _summarise(before),
            "after": None if best is None else _summarise(best[1]),
        }


def _draw_still(field: HeatField, palette: str) -> dict[str, Json]:
    """Return the still picture in both unit systems."""
    return {units: draw_heat_map(field.outcome, units, palette).svg for units in UNIT_SYSTEMS}


def _summarise(answers: Findings) -> dict[str, Json]:
    return {
        "tint_front": answers.tint_front,
        "tendon_kn": round(answers.tendon_kn, 1),
        "width_peak_mm": round(answers.width_peak_mm, 2),
        "end_width_mm": round(answers.end_width_mm, 2),
    }


def serve_requests(describe: Describe) -> None:
    """Answer requests on standard input, with a low priority.

    Args:
        describe: Returns the texts of a field.
    """
    os.nice(_NICE)
    Worker(sys.stdin, sys.stdout, describe).run()
