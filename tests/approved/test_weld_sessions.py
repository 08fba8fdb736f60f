"""Set-up lists, steps of a weld session and its rhythm."""

from __future__ import annotations

from typing import Any

from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.core.plan.preparation.bar_runs import build_bench_list, find_square_checks
from wisearc.core.weld_session.pacer import build_pacer
from wisearc.core.weld_session.steps import build_steps, pool_limit_s, taper_s
from wisearc.services.set_up.tacking import list_bar_runs

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
        runs = list_bar_runs(plan, shop)
        return {
            "bars": runs,
            "pauses": sorted(find_square_checks(plan.tacks.count)),
            "lines": {line.key: line for line in build_bench_list(plan, runs)},
            "steps": {step.key: step for step in build_steps(plan, runs).steps},
            "pace": build_pacer(plan),
            "limits": [pool_limit_s(plan), taper_s(plan)],
        }

    def test_steps_are_as_approved(self) -> None:
        """Changes in a step are detected."""
        self.check()
