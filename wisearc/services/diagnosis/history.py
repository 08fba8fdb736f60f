"""What runs tell for joints like their own: rows of them, and the own record that plans are made
by.
"""

from __future__ import annotations

import threading
from collections.abc import Sequence
from contextvars import ContextVar

from ...core.errors import InputError
from ...core.history.lessons import LearntRun, build_lesson
from ...core.history.shop_history import MAX_RUNS, OwnRecord, OwnRun, estimate_ratio
from ...core.plan.plan import Plan
from ...store import lessons
from ...store.errors import StoreError
from ...store.models import Revision, RunRow

# who stands at this device: whose hand the plan is for
HAND: ContextVar[str] = ContextVar("hand", default="")


def normalise_initials(initials: str) -> str:
    """Initials as hands are told apart: without points and spaces."""
    return initials.replace(".", "").replace(" ", "").upper()[:60]


def list_lessons(of: Revision, plan: Plan | None, runs: Sequence[RunRow]) -> list[LearntRun]:
    """What the runs of a revision tell; nothing where its plan cannot be read."""
    if plan is None:
        return []
    return [
        LearntRun(
            int(run.id),
            int(of.id),
            int(of.procedure.id),
            f"{of.procedure.label} {of.letter}",
            run.document.when,
            run.document.machine.strip(),
            normalise_initials(run.document.who),
            bool(run.good),
            run.left_out is not None,
            build_lesson(plan, run.document),
        )
        for run in runs
        if run.voided_at is None
    ]


class Book:
    """What the book's runs tell of like joints, for a hand; each family is asked for once."""

    def __init__(self, hand: str) -> None:
        self.hand = hand
        self._found: dict[tuple[str, str, str], OwnRecord | None] = {}
        self._guard = threading.Lock()

    def like(self, family: str, metals: str, machine: str) -> OwnRecord | None:
        """What like joints took, on a machine, by this hand; None where no run tells, or the book
        cannot be asked.
        """
        key = (family, metals, machine)
        with self._guard:
            if key in self._found:
                return self._found[key]
        try:
            found = find_history(family, metals, machine, self.hand)
        except (StoreError, InputError):
            return None
        with self._guard:
            self._found[key] = found
        return found


def find_history(family: str, metals: str, machine: str, hand: str) -> OwnRecord | None:
    """What good runs of a family in metals tell of a machine and a hand."""
    return estimate_ratio(list_similar_runs(family, metals), machine, hand)


def list_similar_runs(family: str, metals: str) -> list[OwnRun]:
    """The newest good runs of a family in metals, the newest first, those left out too."""
    return lessons.list_similar(family, metals, MAX_RUNS)
