"""Plans of generated jobs: order, times, materials, distortion and moves of a seam."""

from __future__ import annotations

from typing import Any

from tests.jobs import generated_job
from wisearc.core.jobs.job_data import make_job
from wisearc.core.jobs.job_plan import evaluate_move, explain_position, make_job_plan
from wisearc.core.jobs.order import Schedule
from wisearc.core.jobs.warp import list_warp_levers
from wisearc.core.plan.plan import make_plan

from .approval import ApprovedCase
from .shops import SHOPS


class Jobs(ApprovedCase):
    """A case is the number of seams, seed, quantity and shop of a generated job, and more keys."""

    name = "jobs"

    @classmethod
    def calculate(cls, case: Any) -> Any:
        """Calculate the plan of the job, without the plans of its seams."""
        shop = SHOPS[case["shop"]]
        more = {"quantity": case["quantity"], **case["more"]}
        job = make_job(generated_job(case["seams"], case["seed"], **more))
        joints = [seam.joint for seam in job.seams]
        plans = {s.key: make_plan(j, shop) for s, j in zip(job.seams, joints, strict=True) if j}
        found = make_job_plan(job, plans, shop, lambda: True)
        order, way = found.one.order, case["way"]
        task = found.work.tasks[order[0]]
        return {
            "best": found.best,
            "one": _summarise(found.one),
            "all": _summarise(found.all),
            "take": found.take,
            "money": found.take.money,
            "warps": found.warps,
            "levers": [(lever.what, lever.warp) for lever in list_warp_levers(task, shop)],
            "pull": found.pull,
            "cautions": {caution.code: caution for caution in found.cautions},
            "why_here": [explain_position(found.work, order, key, way) for key in order[:3]],
            "elsewhere": evaluate_move(found.work, order, order[0], 2, way),
        }

    def test_jobs_are_as_approved(self) -> None:
        """Changes in the plan of a job are detected."""
        self.check()


def _summarise(timed: Schedule) -> Any:
    """Return the costs of an order with its first and last steps."""
    items, steps = timed.items, timed.steps
    return {
        "order": timed.order,
        "cost": [items, items.cost_s, items.wall_s],
        "steps": [
            (one.key, one.piece, one.start_s, one.end_s, one.changed_s, one.wait_s, one.for_key)
            for one in (*steps[:5], *steps[-3:])
        ],
        "touched": [touched.words for one in steps[:8] for touched in one.touched],
    }
