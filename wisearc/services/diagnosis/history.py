"""The rows of the shop history, and the history that plans use."""

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

# The person at this device. The plan is for this welder.
WELDER: ContextVar[str] = ContextVar("hand", default="")


def normalise_initials(initials: str) -> str:
    """Return initials without points and spaces, for comparison."""
    return initials.replace(".", "").replace(" ", "").upper()[:60]


def list_lessons(of: Revision, plan: Plan | None, runs: Sequence[RunRow]) -> list[LearntRun]:
    """Return the history rows of a revision, or none if its plan is unreadable.

    Args:
        of: The revision.
        plan: Its plan, or None.
        runs: Its runs.
    """
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
            build_lesson(plan, run.document, run.read_off is not None),
        )
        for run in runs
        if run.voided_at is None
    ]


class LibraryHistory:
    """The history of similar joints for a welder.

    Each family is queried once.
    """

    def __init__(self, welder: str) -> None:
        """Use the history for a welder."""
        self.hand = welder
        self._found: dict[tuple[str, str, str], OwnRecord | None] = {}
        self._guard = threading.Lock()

    def like(self, family: str, metals: str, machine: str) -> OwnRecord | None:
        """Return the estimate for a family on a machine by this welder.

        None: no runs, or the library cannot be read.

        Args:
            family: Joint family.
            metals: Metal family.
            machine: Machine.
        """
        key = (family, metals, machine)
        with self._guard:
            if key in self._found:
                return self._found[key]
        try:
            history = find_history(family, metals, machine, self.hand)
        except (StoreError, InputError):
            return None
        with self._guard:
            self._found[key] = history
        return history


def find_history(family: str, metals: str, machine: str, welder: str) -> OwnRecord | None:
    """Return the estimate from good runs of a family for a machine and a welder.

    Args:
        family: Joint family.
        metals: Metal family.
        machine: Machine.
        welder: Initials of the welder.
    """
    return estimate_ratio(list_similar_runs(family, metals), machine, welder)


def list_similar_runs(family: str, metals: str) -> list[OwnRun]:
    """Return the newest good runs of a family, the newest first, including excluded ones.

    Args:
        family: Joint family.
        metals: Metal family.
    """
    return lessons.list_similar(family, metals, MAX_RUNS)
