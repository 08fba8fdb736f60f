"""Plans and diagnoses that the tests of this folder share."""

from typing import Any

from tests import samples
from tests.samples import member, plan, typed
from wisearc.core.diagnosis.diagnosis import Before, Reading, diagnose_run
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import Plan, make_plan
from wisearc.core.shop.shop import ASSUMED

BUTT: dict[str, Any] = {
    "kind": "butt",
    "a": member(thickness="1.5 mm"),
    "length": "100 mm",
    "filler": "ER308L",
}
FLANGE: dict[str, Any] = {
    "kind": "tube-plate",
    "a": samples.tube(),
    "b": member("316L", "4 mm", form="flange"),
    "length": "all-round",
}


def of(**more: Any) -> Plan:
    """A plan of the butt, changed."""
    return plan(**{**BUTT, **more})


def said(
    made: Plan, faults: tuple[str, ...] = (), before: tuple[Before, ...] = (), **more: Any
) -> Reading:
    """Return a run as planned, with changes.

    Parts are merged with those of the plan.
    """
    run = samples.run(dict(made.joint), good=False, faults=list(faults))
    for key, value in more.items():
        run[key] = {**run.get(key, {}), **value} if isinstance(value, dict) else value
    return diagnose_run(typed(run), made, ASSUMED, before)


def make_case_plan(joint: Any) -> Plan:
    """The plan of a joint's data."""
    return make_plan(make_joint(joint), ASSUMED)
