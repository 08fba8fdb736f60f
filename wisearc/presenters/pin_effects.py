"""The effect of a manual answer: the changes it causes, and the judgement of the plan."""

from __future__ import annotations

from msgspec import Struct
from msgspec.structs import replace

from ..core.joint.joint import Joint, Pins
from ..core.plan.plan import Plan
from ..core.schema.entries import read_entries
from ..core.shop.shop import Shop
from ..formats.plan_lines import Line, plan_lines
from ..services.planning.planner import cached_plan
from .comparison import build_figure_rows
from .plan import PlanView

VERDICTS = {
    "stop": "Stop: this value does not work.",
    "caution": "This value works with a caution.",
    "fine": "OK: no cautions.",
}


class PinEffect(Struct, frozen=True):
    """A manual answer.

    Key and text, the calculated value, verdict "fine", "caution" or "stop", and its effects.
    """

    key: str
    label: str
    own: str
    verdict: str
    words: str
    changes: list[str]


def pin_effects(view: PlanView, shop: Shop, answer: str) -> list[PinEffect]:
    """Return the effects of the manual values of one answer.

    Each effect needs a further plan.

    Args:
        view: The plan.
        shop: The shop.
        answer: The answer.
    """
    return [
        _build_effect(key, text, line, view, cached_plan(_reset_pin(view.joint, key), shop))
        for line in view.lines
        if line.key == answer
        for key, text in line.by_hand
    ]


def _reset_pin(joint: Joint, key: str) -> Joint:
    if key.startswith("pins."):
        return replace(
            joint, pins=Pins((n, value) for n, value in joint.pins.items() if f"pins.{n}" != key)
        )
    return replace(joint, **{key: read_entries(Joint)[key].usual})


def _build_effect(key: str, text: str, own_line: Line, view: PlanView, without: Plan) -> PinEffect:
    lines, notices, plan, units = view.lines, view.notices, view.plan, view.habit
    before = {line.key: line for line in plan_lines(without, units)}
    known = {(c.code, c.level) for c in without.cautions}
    new = [n for n in notices if (n.caution.code, n.level) not in known and n.level != "note"]
    verdict = "stop" if any(n.level == "stop" for n in new) else "caution" if new else "fine"
    changes = [
        f"{line.label}: {before[line.key].what} → {line.what}"
        for line in lines
        if line.key != own_line.key and line.what != before[line.key].what
    ]
    changes += [
        f"{row.label}: {row.left} → {row.right}"
        for row in build_figure_rows(without, plan, units)
        if row.differs
    ]
    own_line_before = before[own_line.key]
    label = text[0].upper() + text[1:]
    return PinEffect(
        key,
        label,
        f"{own_line_before.what}; {own_line_before.detail}".strip("; "),
        verdict,
        VERDICTS[verdict],
        changes,
    )
