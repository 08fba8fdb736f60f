"""The field of heat of a plan: calculated, answered and written."""

from __future__ import annotations

import time

from msgspec import Struct

from ...core.conduction.differences import Difference, list_differences
from ...core.conduction.findings import Findings, find_answers
from ...core.conduction.outcome import Outcome
from ...core.conduction.problem import Problem
from ...core.conduction.solver.field import Progress, run_field
from ...core.plan.plan import Plan
from ...core.schema.json_types import Json
from ...formats.heat_json import write_heat, write_probes_csv


class HeatField(Struct, frozen=True, eq=False):
    """A calculated field with its answers, what differs from the plan, and its data as a file."""

    outcome: Outcome
    answers: Findings
    differences: tuple[Difference, ...]
    data: dict[str, Json]

    @property
    def probes_csv(self) -> str:
        """Return the history of the probes as CSV."""
        return write_probes_csv(self.outcome)


def calculate_field(
    plan: Plan, problem: Problem, progress: Progress | None = None, compared: bool = False
) -> HeatField:
    """Calculate the field of a plan.

    Args:
        plan: The plan, new or saved.
        problem: Its seam, with the settings of the plan or of a trial.
        progress: Called with the finished share, 0–1. It may raise an error to stop.
        compared: Whether the seam has the settings of the plan, and is compared with its figures.

    Raises:
        InputError: The seam cannot be calculated.
    """
    started = time.perf_counter()
    outcome = run_field(problem, progress)
    answers = find_answers(outcome, plan.travel.pool_width_mm)
    differences = list_differences(plan, problem, answers) if compared else ()
    data = write_heat(outcome, answers, differences, time.perf_counter() - started)
    return HeatField(outcome, answers, differences, data)
