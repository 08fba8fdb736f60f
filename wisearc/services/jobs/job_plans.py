"""Jobs planned: from a file, or from what is kept; each seam by its own joint within the shop, or
by the procedure it names.
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
from ..planning.planning import cached_plan
from ..procedures import book
from ..procedures.procedures import get_plan

# how long a command takes to plan the seams and to search, s: to thirty seams, and beyond; how long
# it searches at least
WHOLE_S, WHOLE_MANY_S, MANY, MIN_SEARCH_S = 0.8, 1.0, 30, 0.5
# how long a page looks for the order over all pieces, s
OVER_ALL_S = 0.15
# so many different joints are planned otherwise to see what pulls less
MAX_LEVERS = 12

ByNumber = Callable[[str], Plan]


def refuse_procedure(number: str) -> Plan:
    """Where there is no book to look a procedure up in."""
    raise InputError(
        "procedure",
        number,
        ("names a procedure in a library. Give the data folder with --data, or the joint instead"),
    )


def find_saved_plan(number: str) -> Plan:
    """The plan of a procedure as it was kept, its newest revision or the one named ("P-0003 A").
    Raises InputError.
    """
    label, _, letter = number.partition(" ")
    try:
        return get_plan(book.find(label, letter) if letter else book.find(label))
    except StoreError as error:
        raise InputError(
            "procedure", number, f"cannot be read from the library: {error}"
        ) from error


def plan_seams(job: Job, shop: Shop, by_number: ByNumber = find_saved_plan) -> dict[str, Plan]:
    """The plan of each seam. Raises InputError naming the seam whose procedure is not there."""
    found = {}
    for i, seam in enumerate(job.seams):
        try:
            found[seam.key] = plan_of_seam(seam, shop, by_number)
        except InputError as error:
            raise InputError(f"seams[{i}].{error.field}", error.value, error.rule) from error
    return found


def plan_of_seam(seam: Seam, shop: Shop, by_number: ByNumber = find_saved_plan) -> Plan:
    """The plan of a seam."""
    if seam.joint is None:
        return by_number(seam.procedure or "")
    return cached_plan(seam.joint, shop)


def limit_seconds(seconds: float) -> Callable[[], bool]:
    """What says to go on for so long, from when it is first asked."""
    until: list[float] = []

    def go_on() -> bool:
        if not until:
            until.append(time.monotonic() + seconds)
        return time.monotonic() < until[0]

    return go_on


def job_of_text(text: str) -> Job:
    """The job of a job file's text. Raises InputError."""
    return read_job(load_json(text, "wisearc/job"))


def plan_document(job: Job, shop: Shop, by_number: ByNumber = find_saved_plan) -> JobPlan:
    """A job planned as a command does. Raises InputError."""
    began = time.monotonic()
    plans = plan_seams(job, shop, by_number)
    whole = WHOLE_S if len(job.seams) <= MANY else WHOLE_MANY_S
    seconds = max(MIN_SEARCH_S, whole - (time.monotonic() - began))
    each = seconds if job.quantity == 1 else seconds / 2
    return make_job_plan(job, plans, shop, limit_seconds(each), limit_seconds(each))


def list_levers(plan: JobPlan) -> dict[str, list[Lever]]:
    """What would pull less, for the seams that bow most; those that are the same but for their
    names are reckoned once.
    """
    worst = sorted(
        (key for key, warp in plan.warps.items() if warp.verdict != FLAT),
        key=lambda key: -plan.warps[key].ratio,
    )
    known: dict[Hashable, list[Lever]] = {}
    found = {}
    for key in worst:
        task = plan.work.tasks[key]
        joint, number = task.seam.joint, task.seam.procedure
        like = replace(joint, title="") if joint is not None else number, task.seam.free_mm
        if like not in known:
            if len(known) == MAX_LEVERS:
                continue
            known[like] = list_warp_levers(task, plan.shop)
        found[key] = known[like]
    return found


def job_plan_as_data(plan: JobPlan) -> dict[str, Json]:
    """The data of a job's plan."""
    return job_plan_data(plan, list_levers(plan))


def orders_data(
    job: Job, shop: Shop, lines: Sequence[str], by_number: ByNumber = find_saved_plan
) -> Iterator[dict[str, Json]]:
    """The cost items of orders, keys by commas, or why each cannot be."""
    work = build_work(job, plan_seams(job, shop, by_number))
    for line in lines:
        if line.strip():
            yield order_data(work, [key.strip() for key in line.split(",")])


def search_lines(text: str, seconds: float) -> Iterator[dict[str, Json]]:
    """Ever better orders of a problem given as figures, for so long. Raises InputError."""
    data = checks.check_mapping("problem", load_json(text, "problem"))
    for found in search(_read_problem(data), limit_seconds(seconds)):
        yield {
            "order": list(found.order),
            "cost_s": found.cost_s,
            "bound_s": found.bound_s,
            "proved": found.proved,
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
    """The order in which each seam is welded over all pieces, quickly found; None for one piece."""
    if work.job.quantity < 2:
        return None
    return find_best_order(work, limit_seconds(OVER_ALL_S), work.job.quantity).order
