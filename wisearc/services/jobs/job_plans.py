"""Plans of jobs from a file or the library.

Each seam has its joint within the shop, or the named procedure.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Hashable, Iterator, Sequence
from typing import Any

from msgspec.structs import replace

from ...core.errors import InputError
from ...core.jobs.job import Job, Seam
from ...core.jobs.job_plan import JobPlan, build_work, find_best_order, make_job_plan
from ...core.jobs.order import Work
from ...core.jobs.problem import Problem
from ...core.jobs.search import search
from ...core.jobs.warp import FLAT, Lever, list_warp_levers
from ...core.plan.plan import Plan
from ...core.schema import checks
from ...core.schema.json_types import Json, JsonObject
from ...core.shop.shop import Shop
from ...formats.jobs.job_json import job_plan_data, order_data, read_job
from ...formats.joint_json import load_json
from ...store.errors import StoreError
from ..planning.planner import cached_plan
from ..procedures import book
from ..procedures.procedures import get_plan
from ..runs.runs import measured_bows_mm
from .one_setup import OneSetup, find_one_setup

# The time of a command for plans and search, s: up to thirty seams, and above; and the minimum
# search time.
SEARCH_S, LARGE_JOB_SEARCH_S, MANY, MIN_SEARCH_S = 0.8, 1.0, 30, 0.5
# The time of a page for the order over all pieces, s.
OVER_ALL_S = 0.15
# The number of different joints with alternative plans against distortion.
MAX_LEVERS = 12

ByNumber = Callable[[str], Plan]


def refuse_procedure(number: str) -> Plan:
    """Refuse a procedure, without a library."""
    raise InputError(
        "procedure",
        number,
        ("names a procedure in a library. Give the data folder with --data, or the joint instead"),
    )


def find_saved_plan(number: str) -> Plan:
    """Return the saved plan of a procedure, its newest revision or the named one ("P-0003 A").

    Raises:
        InputError: The procedure is missing.
    """
    label, _, letter = number.partition(" ")
    try:
        return get_plan(book.find(label, letter) if letter else book.find(label))
    except StoreError as error:
        raise InputError(
            "procedure", number, f"cannot be read from the library: {error}"
        ) from error


def plan_seams(job: Job, shop: Shop, by_number: ByNumber = find_saved_plan) -> dict[str, Plan]:
    """Return the plan of each seam.

    Args:
        job: The job.
        shop: The shop.
        by_number: Returns the plan of a procedure.

    Raises:
        InputError: A procedure is missing. The error names the seam.
    """
    return dict(plan_set_up(job, shop, by_number).plans)


def plan_set_up(job: Job, shop: Shop, by_number: ByNumber = find_saved_plan) -> OneSetup:
    """Return the plan of each seam, with the same torch or setting if the job asks for it.

    Args:
        job: The job.
        shop: The shop.
        by_number: Returns the plan of a procedure.

    Raises:
        InputError: A procedure is missing. The error names the seam.
    """
    plans = {}
    for i, seam in enumerate(job.seams):
        try:
            plans[seam.key] = plan_of_seam(seam, shop, by_number)
        except InputError as error:
            raise InputError(f"seams[{i}].{error.field}", error.value, error.rule) from error
    return find_one_setup(job, shop, plans)


def plan_of_seam(seam: Seam, shop: Shop, by_number: ByNumber = find_saved_plan) -> Plan:
    """Return the plan of a seam.

    Args:
        seam: The seam.
        shop: The shop.
        by_number: Returns the plan of a procedure.
    """
    if seam.joint is None:
        return by_number(seam.procedure or "")
    return cached_plan(seam.joint, shop)


def limit_seconds(seconds: float) -> Callable[[], bool]:
    """Return a function that is true for a time from its first call."""
    until: list[float] = []

    def go_on() -> bool:
        if not until:
            until.append(time.monotonic() + seconds)
        return time.monotonic() < until[0]

    return go_on


def job_of_text(text: str) -> Job:
    """Return the job of a job file.

    Raises:
        InputError: The file is wrong.
    """
    return read_job(load_json(text, "wisearc/job"))


def plan_document(job: Job, shop: Shop, by_number: ByNumber = find_saved_plan) -> JobPlan:
    """Return the plan of a job as a command calculates it.

    Args:
        job: The job.
        shop: The shop.
        by_number: Returns the plan of a procedure.

    Raises:
        InputError: A procedure is missing.
    """
    began = time.monotonic()
    plans = plan_seams(job, shop, by_number)
    limit_s = SEARCH_S if len(job.seams) <= MANY else LARGE_JOB_SEARCH_S
    seconds = max(MIN_SEARCH_S, limit_s - (time.monotonic() - began))
    each = seconds if job.quantity == 1 else seconds / 2
    return make_job_plan(job, plans, shop, limit_seconds(each), limit_seconds(each))


def list_levers(plan: JobPlan) -> dict[str, list[Lever]]:
    """Return the measures against distortion for the most distorted seams.

    Equal seams are calculated once.
    """
    worst = sorted(
        (key for key, warp in plan.warps.items() if warp.verdict != FLAT),
        key=lambda key: -plan.warps[key].ratio,
    )
    known: dict[Hashable, list[Lever]] = {}
    levers = {}
    for key in worst:
        task = plan.work.tasks[key]
        joint, number = task.seam.joint, task.seam.procedure
        joined = plan.warps[key].joined
        like = (
            replace(joint, title="") if joint is not None else number,
            task.seam.free_mm,
            joined,
        )
        if like not in known:
            if len(known) == MAX_LEVERS:
                continue
            known[like] = list_warp_levers(task, plan.shop, joined)
        levers[key] = known[like]
    return levers


def job_plan_as_data(plan: JobPlan) -> dict[str, Json]:
    """Return the data of the plan of a job."""
    bows_mm = {
        key: measured_bows_mm(task.seam.procedure)
        for key, task in plan.work.tasks.items()
        if task.seam.procedure
    }
    return job_plan_data(plan, list_levers(plan), bows_mm)


def orders_data(
    job: Job, shop: Shop, lines: Sequence[str], by_number: ByNumber = find_saved_plan
) -> Iterator[dict[str, Json]]:
    """Yield the cost items of orders, or their broken rules.

    Args:
        job: The job.
        shop: The shop.
        lines: Orders, as keys separated by commas.
        by_number: Returns the plan of a procedure.
    """
    work = build_work(job, plan_seams(job, shop, by_number))
    for line in lines:
        if line.strip():
            yield order_data(work, [key.strip() for key in line.split(",")])


def search_lines(text: str, seconds: float) -> Iterator[dict[str, Json]]:
    """Yield improving orders of a numerical problem.

    Args:
        text: The problem as JSON.
        seconds: Search time, s.

    Raises:
        InputError: The problem is wrong.
    """
    data = checks.check_mapping("problem", load_json(text, "problem"))
    for result in search(_read_problem(data), limit_seconds(seconds)):
        yield {
            "order": list(result.order),
            "cost_s": result.cost_s,
            "bound_s": result.bound_s,
            "proved": result.proved,
        }


def _read_problem(data: JsonObject) -> Problem:
    try:
        problem = Problem(**{k: _convert_to_tuples(v) for k, v in data.items()})
        problem.cost_s(range(problem.n))
        return problem
    except (TypeError, ValueError, LookupError, AttributeError) as error:
        raise InputError("problem", None, f"is not consistent ({error})") from error


def _convert_to_tuples(value: Any) -> Any:
    return tuple(_convert_to_tuples(v) for v in value) if isinstance(value, list) else value


def find_batch_order(work: Work) -> tuple[str, ...] | None:
    """Return an order for welding each seam on all pieces; None for one piece."""
    if work.job.quantity < 2:
        return None
    return find_best_order(work, limit_seconds(OVER_ALL_S), work.job.quantity).order
