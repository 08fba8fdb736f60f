"""Planning a joint: from a file's text, or from a link that changes word by word."""

from __future__ import annotations

import json
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlencode

from ..core.entries import entries
from ..core.errors import BadInput
from ..core.joint import Joint, Member
from ..core.joint_data import joint_data, make_joint
from ..core.pins import PINS
from ..core.plan import Plan, make_plan
from ..core.quantities import typed_with_unit
from ..core.shop import Shop
from ..drawings.canvas import Drawing
from ..drawings.views import VIEWS, draw
from ..formats.joint_json import MOST_BYTES, loads, read_joint
from ..formats.link import Problem, link_data, link_key, link_problem, link_query, read_link
from ..formats.plan_json import plan_data
from ..formats.plan_lines import Line, Notice, plan_lines, plan_notices, summary
from ..formats.plan_text import plan_text
from ..formats.schema import schema
from .adapting import adapt
from .pin_fields import PinField, pin_fields

LARGEST_FILE = MOST_BYTES


def plan_of_text(text: str, shop: Shop) -> Plan:
    """The plan of a joint file's text. Raises BadInput."""
    return make_plan(read_joint(loads(text)), shop)


def plan_as_text(plan: Plan, habit: str) -> str:
    """A plan as text for people."""
    return plan_text(plan, habit)


def plan_as_data(plan: Plan) -> dict[str, Any]:
    """A plan as the data of a plan file."""
    return plan_data(plan)


def schema_as_text(name: str) -> str:
    """A JSON Schema as text. Raises UnknownName."""
    return json.dumps(schema(name), ensure_ascii=False, indent=2)


def joint_of_query(pairs: Iterable[tuple[str, str]]) -> tuple[Joint, list[Problem]]:
    """The joint of a link's pairs, and what in them could not be used."""
    return read_link(pairs)


def query_text(joint: Joint) -> str:
    """The query of a joint's link."""
    return urlencode(link_query(joint_data(joint)))


def drawing_names() -> dict[str, str]:
    """The drawings that are offered, by key."""
    return {key: name for key, (name, _) in VIEWS.items()}


def drawing(view: str, plan: Plan, habit: str) -> Drawing:
    """One drawing of a plan; the first where the key is unknown."""
    return draw(view if view in VIEWS else next(iter(VIEWS)), plan, habit)


@dataclass(frozen=True)
class PlanView:
    """All a page shows of a plan, in one unit habit."""

    joint: Joint
    plan: Plan
    habit: str
    lines: list[Line]
    notices: list[Notice]
    summary: list[tuple[str, str]]
    fields: dict[str, list[PinField]]

    @property
    def title(self) -> str:
        """The joint in a few words."""
        return self.plan.title.text(self.habit)


def view_of(joint: Joint, habit: str, shop: Shop) -> PlanView:
    """Plan a joint and put it in words. Parameters: joint; habit, "mm" or "in"; shop."""
    plan = make_plan(joint, shop)
    lines, notices = plan_lines(plan, habit), plan_notices(plan, habit)
    return PlanView(joint, plan, habit, lines, notices, summary(plan, habit), pin_fields(joint, plan, habit))


@dataclass(frozen=True)
class Changed:
    """What came of a changed word: the joint and what followed it, or why it cannot stand."""

    joint: Joint | None
    said: list[str]
    problems: list[Problem]


def change_link(pairs: Iterable[tuple[str, str]], changed: str, habit: str) -> Changed:
    """Take a changed link: a bare number that was typed gets the habit's unit, other words follow, and it is checked.

    Parameters: pairs of the link; changed, the key that was changed ("" when none); habit.
    """
    keyed = [(link_key(key), text) for key, text in pairs]
    typed = [(key, typed_with_unit(text, _quantity(key, link_key(changed)), habit)) for key, text in keyed]
    data, problems = link_data(typed)
    if problems:
        return Changed(None, [], problems)
    data, said = adapt(data, changed)
    try:
        return Changed(make_joint(data), said, [])
    except BadInput as error:
        return Changed(None, [], [link_problem(error)])


def _quantity(key: str, changed: str) -> str:
    """The kind of quantity a link's key is typed in; figures that stand from before carry their own unit already."""
    declared = entries(Joint).get(key) or entries(Member).get(key.partition(".")[2])
    if declared is not None and declared.kind == "length":
        return "length"
    if key != changed:
        return "plain"
    pin = PINS.get(key.removeprefix("pins."))
    if pin is not None and not pin.by_hand.allowed:
        return pin.quantity
    return declared.quantity if declared is not None else "plain"
