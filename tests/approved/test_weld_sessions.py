"""Set-up lists, steps of a weld session and its rhythm."""

from __future__ import annotations

from typing import Any

from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.core.plan.preparation.bar_runs import bench_list, pauses
from wisearc.core.weld_session.pacer import pace_of
from wisearc.core.weld_session.steps import make_score, pool_limit_s, taper_s
from wisearc.services.set_up.tacking import runs_of

from .approval import ApprovedCase
from .shops import SHOPS


class WeldSessions(ApprovedCase):
    """A case is a joint and a shop."""

    name = "weld_sessions"

    @classmethod
    def calculate(cls, case: Any) -> Any:
        """Calculate chill bars, set-up list, steps and rhythm."""
        shop = SHOPS[case["shop"]]
        plan = make_plan(make_joint(case["joint"]), shop)
        runs = runs_of(plan, shop)
        return {
            "bars": runs,
            "pauses": sorted(pauses(plan.tacks.count)),
            "lines": {line.key: line for line in bench_list(plan, runs)},
            "steps": {step.key: step for step in make_score(plan, runs).steps},
            "pace": pace_of(plan),
            "limits": [pool_limit_s(plan), taper_s(plan)],
        }

    def test_steps_are_as_approved(self) -> None:
        """Changes in a step are detected."""
        self.check()
