"""Planning a joint: from a file's text, or from a link that changes word by word."""

from __future__ import annotations

import json
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlencode

from ..core.errors import BadInput
from ..core.joint import Joint, make_joint
from ..core.pins import PINS
from ..core.plan import Plan, make_plan
from ..core.quantities import with_unit
from ..core.shop import ASSUMED, Shop
from ..drawings.canvas import Drawing
from ..drawings.views import VIEWS, draw
from ..formats.joint_json import loads, read_joint
from ..formats.joint_words import Part, joint_sentence, short_title
from ..formats.link import Problem, link_data, link_problem, link_query, read_link
from ..formats.plan_json import write_plan
from ..formats.plan_lines import Line, Notice, plan_cautions, plan_lines, summary
from ..formats.plan_text import plan_text
from ..formats.schema import schema
from .adapting import adapt
from .pin_effects import PinEffect, PinField, pin_effects, pin_fields

_LENGTH_KEYS = ("thickness", "diameter", "length", "gap", "reach")


def plan_from_text(text: str, shop: Shop = ASSUMED) -> dict[str, Any]:
    """The plan's data of a joint file's text. Raises BadInput."""
    return write_plan(make_plan(read_joint(loads(text)), shop))


def plan_as_text(plan: dict[str, Any], habit: str) -> str:
    """A plan's data as text for people."""
    return plan_text(plan, habit)


def schema_text(name: str) -> str:
    """A JSON Schema as text. Raises UnknownName."""
    return json.dumps(schema(name), ensure_ascii=False, indent=2)


def joint_of_query(pairs: Iterable[tuple[str, str]]) -> tuple[Joint, list[Problem]]:
    """The joint of a link's pairs, and what in them could not be used."""
    return read_link(pairs)


def query_text(joint: Joint) -> str:
    """The query of a joint's link."""
    return urlencode(link_query(joint))


def drawing_names() -> dict[str, str]:
    """The drawings that are offered, by key."""
    return {key: name for key, (name, _) in VIEWS.items()}


def drawing(view: str, plan: dict[str, Any], habit: str) -> Drawing:
    """One drawing of a plan's data; the first where the key is unknown."""
    return draw(view if view in VIEWS else next(iter(VIEWS)), plan, habit)


@dataclass(frozen=True)
class PlanView:
    """All a page shows of a plan, in one unit habit."""

    joint: Joint
    plan: Plan
    title: str
    sentence: list[Part]
    lines: list[Line]
    cautions: list[Notice]
    summary: list[tuple[str, str]]
    data: dict[str, Any]
    effects: dict[str, list[PinEffect]]
    fields: dict[str, list[PinField]]


def view_of(joint: Joint, habit: str, shop: Shop = ASSUMED) -> PlanView:
    """Plan a joint and put it in words. Parameters: joint; habit, "mm" or "in"; shop."""
    plan = make_plan(joint, shop)
    data = write_plan(plan)
    return PlanView(
        joint, plan, short_title(joint, habit), joint_sentence(joint, habit),
        plan_lines(data, habit), plan_cautions(data, habit), summary(data, habit), data,
        pin_effects(joint, shop, data, habit), pin_fields(joint, data, habit),
    )  # fmt: skip


@dataclass(frozen=True)
class Changed:
    """What came of a changed word: the joint and what followed it, or why it cannot stand."""

    joint: Joint | None
    said: list[str]
    problems: list[Problem]


def change_link(pairs: Iterable[tuple[str, str]], changed: str, habit: str) -> Changed:
    """Take a changed link: bare numbers get the habit's unit, other words follow, and it is checked.

    Parameters: pairs of the link; changed, the key that was changed ("" when none); habit.
    """
    typed = [
        (
            key,
            with_unit(text, habit) if key.rpartition(".")[2] in _LENGTH_KEYS and text.strip() != "0" else text,
        )
        for key, text in pairs
    ]
    if changed.startswith("pin.") and habit == "in":
        typed = [(key, _pin_in_inches(key, text) if key == changed else text) for key, text in typed]
    if changed == "travel_mm_s" and habit == "in":
        typed = [(key, f"{text} in/min" if key == "travel_mm_s" and _bare(text) else text) for key, text in typed]
    data, problems = link_data(typed)
    if problems:
        return Changed(None, [], problems)
    data, said = adapt(data, changed)
    try:
        return Changed(make_joint(data), said, [])
    except BadInput as error:
        return Changed(None, [], [link_problem(error)])


def _pin_in_inches(key: str, text: str) -> str:
    kind = PINS.get(key.removeprefix("pin."))
    if kind is None or not _bare(text) or kind.allowed:
        return text
    return {"length": f"{text} in", "flow": f"{text} CFH"}.get(kind.quantity, text)


def _bare(text: str) -> bool:
    return text.strip().replace(".", "", 1).replace(",", "", 1).isdigit()
