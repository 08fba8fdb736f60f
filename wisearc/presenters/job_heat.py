"""The heat of the seams of a job: waits of the plan and of the field, side by side."""

from __future__ import annotations

from collections.abc import Callable

import msgspec
from msgspec import Struct

from ..core.jobs.job_plan import JobPlan
from ..core.plan.plan import Plan
from ..core.quantities import Quantity, temperature
from ..services.heat.requests import Answer


class _Figures(Struct, frozen=True):
    """The figures of an answer: wait to the interpass limit s, and mean of the part °C."""

    wait_s: float | None
    mean_end_c: float


class HeatRow(Struct, frozen=True):
    """A seam: key, title, wait of the plan, progress 0–1, wait and mean of the field, and which.

    `wait_s` and `mean_c` are None while the field is calculated or where it has no wait. `used` is
    whether the job uses the wait of the field.
    """

    key: str
    title: str
    planned: str
    progress: float
    field: str
    mean: str
    wait_s: float | None
    mean_c: float | None
    error: str
    used: bool

    @property
    def is_ready(self) -> bool:
        """Return whether its field is calculated or cannot be."""
        return bool(self.field or self.error)


def build_heat_rows(
    plan: JobPlan, ask: Callable[[Plan], Answer], units: str
) -> tuple[HeatRow, ...]:
    """Return a row for each seam, in the order of the job.

    Args:
        plan: The plan of the job.
        ask: Returns the field of a plan, or its progress.
        units: Unit system.
    """
    rows = []
    for key, task in plan.work.tasks.items():
        answer = ask(task.plan)
        planned = task.plan.heat.interpass_wait_s
        figures = msgspec.json.decode(answer.body, type=_Figures) if answer.body else None
        rows.append(
            HeatRow(
                key=key,
                title=task.title.text(units),
                planned="" if planned is None else Quantity(planned, "duration").text(),
                progress=answer.progress,
                field="" if figures is None else _format_wait(figures.wait_s),
                mean="" if figures is None else temperature(figures.mean_end_c).text(units),
                wait_s=None if figures is None else figures.wait_s,
                mean_c=None if figures is None else figures.mean_end_c,
                error=answer.error,
                used=task.seam.cool_s is not None,
            )
        )
    return tuple(rows)


def _format_wait(wait_s: float | None) -> str:
    if wait_s is None:
        return "over half an hour"
    return Quantity(wait_s, "duration").text()
