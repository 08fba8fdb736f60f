"""Plans of joints without a shop and with an invented one."""

from __future__ import annotations

from typing import Any

from wisearc.core.errors import InputError
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.formats.plan_json import plan_data

from .approval import ApprovedCase
from .shops import SHOPS

# repeated from the case, or text only
SKIPPED = ("format", "version", "minor", "sentence", "title", "title_in", "joint")
REMOVED = ("text_in", "value_in", "worked_in", "formula")


class Plans(ApprovedCase):
    """A case is a joint, with the name of a shop or without one."""

    name = "plans"

    @classmethod
    def calculate(cls, case: Any) -> Any:
        """Calculate the plan file without its head, or the error message."""
        try:
            plan = make_plan(make_joint(case["joint"]), SHOPS[case.get("shop", "none")])
        except InputError as problem:
            return str(problem)
        data = plan_data(plan)
        return {key: _shorten(value) for key, value in data.items() if key not in SKIPPED}

    def test_plans_are_as_approved(self) -> None:
        """Changes in a plan are detected."""
        self.check()


def _shorten(value: Any) -> Any:
    """Remove the texts in inches, and all but about six numbers of a long list."""
    if isinstance(value, dict):
        return {key: _shorten(inner) for key, inner in value.items() if key not in REMOVED}
    if isinstance(value, list):
        figures = bool(value) and isinstance(value[0], int | float)
        return value[:: len(value) // 6 or 1] if figures else [_shorten(one) for one in value]
    return value
