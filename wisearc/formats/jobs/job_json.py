"""wisearc/job: a job as JSON; wisearc/job-plan: the plan of a job as JSON."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from ...core.jobs.bench_state import SetupChange
from ...core.jobs.job import Job, Seam, Times
from ...core.jobs.job_data import job_data, make_job, seam_data
from ...core.jobs.job_plan import JobPlan
from ...core.jobs.materials import Item, Materials
from ...core.jobs.order import (
    SECTION,
    Items,
    Schedule,
    Step,
    Work,
    find_violations,
    order_reasons,
    schedule_order,
)
from ...core.jobs.warp import Lever, Warp, list_counters, list_reasons
from ...core.joint.data import joint_data
from ...core.plan.plan import Plan
from ...core.reasons import Caution, StoredText, store_text
from ...core.schema.documents import write_document
from ...core.schema.entries import read_defaults
from ...core.schema.json_types import Json
from ..joint_json import check_head, write_joint_file
from ..plan_json import reason_data

FORMAT, PLAN_FORMAT, VERSION = "wisearc/job", "wisearc/job-plan", 1
ITEMS = tuple(name for name in Items.__struct_fields__ if name != "piece_s")


def read_job(data: Any) -> Job:
    """Parse a job file.

    Raises:
        InputError: A value is wrong.
    """
    return make_job(check_head(data, FORMAT))


def write_job_file(job: Job) -> dict[str, Json]:
    """Return the data of a job file."""
    data = job_data(job)
    if job.seams:
        data["seams"] = [_write_seam(seam) for seam in job.seams]
    times = write_document(job.times, with_defaults=True)
    # Later fields are written only with other values than their defaults.
    if job.times.piece_s == read_defaults(Times)["piece_s"]:
        del times["piece_s"]
    return {"format": FORMAT, "version": VERSION, **data, "times": times}


def _write_seam(seam: Seam) -> dict[str, Json]:
    data = seam_data(seam)
    return (
        data if seam.joint is None else data | {"joint": write_joint_file(joint_data(seam.joint))}
    )


def items_data(items: Items) -> dict[str, float]:
    """Return the cost of an order by item, s."""
    costs = {
        "cost_s": _round_s(items.cost_s),
        **{name: _round_s(getattr(items, name)) for name in ITEMS},
    }
    more = {name: _round_s(getattr(items, name)) for name in ("piece_s", "tack_s", "check_s")}
    return costs | {name: seconds for name, seconds in more.items() if seconds}


def order_data(work: Work, order: Sequence[str]) -> dict[str, Json]:
    """Return the cost items of an order, or its broken rules.

    Args:
        work: The job with its plans.
        order: The order.
    """
    wrong = find_violations(work, order)
    return (
        {"order": list(order), "cannot": "; ".join(wrong)}
        if wrong
        else {"order": list(order), **items_data(schedule_order(work, order).items)}
    )


def job_plan_data(
    plan: JobPlan,
    levers: Mapping[str, Sequence[Lever]] | None = None,
    bows_mm: Mapping[str, Sequence[float]] | None = None,
) -> dict[str, Json]:
    """Return the data of the plan of a job.

    Order, cost and steps of one piece; batch, materials and shopping list of all.

    Args:
        plan: The plan.
        levers: Measures against distortion by seam, or None.
        bows_mm: Bows measured on the runs of a seam, mm, the last one last, or None.
    """
    best = plan.best
    return {
        "format": PLAN_FORMAT,
        "version": VERSION,
        "title": plan.job.title,
        "quantity": plan.job.quantity,
        "order": list(plan.one.order),
        **items_data(plan.one.items),
        "proved_best": best.proved,
        "bound_s": _round_s(best.bound_s),
        "by_hand": best.by_hand,
        "steps": [_step(plan, step) for step in plan.one.steps],
        "batch": _write_batch(plan),
        "take": _write_materials(plan.take),
        "buy": [_write_item(item) | {"short": item.short} for item in plan.take.buy],
        "warp": [
            _write_warp(
                key,
                plan.work.tasks[key].plan,
                warp,
                (levers or {}).get(key, ()),
                (bows_mm or {}).get(key, ()),
            )
            for key, warp in plan.warps.items()
        ],
        "warp_why": [reason_data(r) for r in list_reasons()],
        "pull": _pull(plan),
        "why": [reason_data(r) for r in order_reasons()],
        "cautions": [_write_caution(c) for c in plan.cautions],
    }


def _round_s(seconds: float) -> float:
    return round(seconds, 3)


def _write_both(key: str, text: StoredText) -> dict[str, str]:
    return {key: text.mm, f"{key}_in": text.inch}


def describe_changes(touched: Sequence[SetupChange]) -> StoredText:
    """Return the set-up changes before a step as text."""
    if not touched:
        return StoredText("nothing to change", "nothing to change")
    return StoredText(*("; ".join(t.words.text(units) for t in touched) for units in ("mm", "in")))


def _step(plan: JobPlan, step: Step) -> dict[str, Json]:
    task = plan.work.tasks[step.key]
    return {
        "kind": step.kind,
        "seam": step.key,
        "section": step.section if step.kind == SECTION else None,
        **_write_both("title", task.title),
        "start_s": _round_s(step.start_s),
        "end_s": _round_s(step.end_s),
        **_write_both("change", describe_changes(step.touched)),
        "touched": [t.what for t in step.touched],
        "wait_s": _round_s(step.wait_s),
        "wait_for": step.for_key or None,
        "fills": step.fills,
    }


def _write_batch(plan: JobPlan) -> dict[str, Json] | None:
    batch = plan.batch
    if batch is None:
        return None
    return {
        "cheaper": batch.cheaper,
        **{f"by_{name}": _write_way(batch.way(name)) for name in ("piece", "seam")},
    }


def _write_way(schedule: Schedule) -> dict[str, Json]:
    return {"order": list(schedule.order), **items_data(schedule.items)}


def _write_materials(take: Materials) -> dict[str, Json]:
    by_list = {
        name: [_write_item(item) for item in take.items if item.list == name]
        for name in ("rods", "tungstens", "bars")
    }
    cylinders = [
        {
            "name": c.name,
            "holds_l": round(c.holds_l, 1),
            "used_l": round(c.used_l, 1),
            "ends_at": c.ends_at or None,
            "piece": c.piece or None,
        }
        for c in take.cylinders
    ]
    return {
        "argon_l": round(sum(take.argon_l.values()), 1),
        "by_gas": {k: round(v, 1) for k, v in take.argon_l.items()},
        "share_of_cylinder": round(take.share, 4),
        "cylinders": cylinders,
        "lacking_l": round(take.lacking_l, 1),
        **by_list,
        "money": None if take.money is None else round(take.money, 2),
    }


def _write_item(item: Item) -> dict[str, Json]:
    return {
        "list": item.list,
        "key": item.key,
        **_write_both("item", item.words),
        "need": item.need,
        "have": None if item.have is None else round(item.have, 1),
        "unit": item.unit,
        "money": None if item.money is None else round(item.money, 2),
    }


def _write_figures(warp: Warp) -> dict[str, Json]:
    return {
        "verdict": warp.verdict,
        "force_kn": [round(f, 2) for f in warp.force_kn],
        "stress_mpa": [round(s, 1) for s in warp.stress_mpa],
        "buckles_mpa": round(warp.buckles_mpa, 1),
        "ratio": round(warp.ratio, 2),
        "free_mm": warp.free_mm,
        "far_edge": "joined" if warp.joined else "free",
        "bow_mm": None if warp.camber_mm is None else [round(c, 2) for c in warp.camber_mm],
        "pull_deg": None if warp.pull_deg is None else round(warp.pull_deg, 1),
    }


def _write_warp(
    key: str, plan: Plan, warp: Warp, levers: Sequence[Lever], bows_mm: Sequence[float]
) -> dict[str, Json]:
    rows = [
        {
            "what": lever.what,
            **_write_both("text", store_text(lever.words)),
            **_write_figures(lever.warp),
        }
        for lever in levers
    ]
    return {
        "seam": key,
        **_write_figures(warp),
        "counters": [
            _write_both("text", store_text(w)) for w in list_counters(plan, warp, bows_mm)
        ],
        "free_told": warp.told,
        "levers": rows,
        "mark": "estimate",
    }


def _pull(plan: JobPlan) -> dict[str, Json]:
    pull = plan.pull
    rows = {
        name: round(getattr(pull, name), 2)
        for name in ("left_kn", "middle_kn", "right_kn", "lean_kn", "most_kn")
    }
    return {**rows, "most_after": pull.most_after or None}


def _write_caution(caution: Caution) -> dict[str, Json]:
    return {
        "level": caution.level,
        "code": caution.code,
        "at": caution.at,
        **_write_both("text", store_text(caution.sentence)),
    }
