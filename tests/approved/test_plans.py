"""Plans of many joints, without a shop and with a small one."""

from __future__ import annotations

from typing import Any

from wisearc.core.errors import BadInput
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.formats.plan_json import plan_data

from .approval import ApprovedCase
from .shops import SHOPS

# what the case says itself, and words
SKIPPED = ("format", "version", "minor", "sentence", "title", "title_in", "joint")
WORDS = ("text_in", "value_in", "worked_in", "formula", "source", "mark")


class Plans(ApprovedCase):
    """A case is a joint, and a shop of `shops.py` where there is one."""

    name = "plans"

    @classmethod
    def result(cls, case: Any) -> Any:
        """The plan file, without its head; the message where there is no plan."""
        try:
            plan = make_plan(make_joint(case["joint"]), SHOPS[case.get("shop", "none")])
        except BadInput as problem:
            return str(problem)
        data = plan_data(plan)
        return {key: _shorten(value) for key, value in data.items() if key not in SKIPPED}

    def test_plans_are_as_approved(self) -> None:
        """A figure that changes in a plan is seen."""
        self.check()


def _shorten(value: Any) -> Any:
    """A part of a plan without its second wording; of long rows of figures, about six."""
    if isinstance(value, dict):
        return {key: _shorten(inner) for key, inner in value.items() if key not in WORDS}
    if isinstance(value, list):
        figures = bool(value) and isinstance(value[0], int | float)
        return value[:: len(value) // 6 or 1] if figures else [_shorten(one) for one in value]
    return value
