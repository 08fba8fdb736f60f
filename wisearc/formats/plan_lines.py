"""A plan as display lines: answer and reason, in bench order, in both unit systems."""

from __future__ import annotations

from msgspec import Struct

from ..core.plan.plan import Plan
from ..core.reasons import Alternative, Caution, Choice, Reason
from ..core.schema.figures import format_figure
from ..core.sources import format_short_mark

LEVEL_LABELS = {"stop": "Stop", "caution": "Caution", "note": "Note"}


class Notice(Struct, frozen=True):
    """A caution as text."""

    caution: Caution
    word: str
    text: str

    @property
    def level(self) -> str:
        """Return its level."""
        return self.caution.level


class Line(Struct, frozen=True):
    """One answer: label, short text, detail, and everything behind it."""

    key: str
    label: str
    what: str
    detail: str
    why: tuple[Reason, ...]
    others: tuple[Alternative, ...]
    cautions: tuple[Notice, ...]
    by_hand: tuple[tuple[str, str], ...]

    @property
    def mark(self) -> str:
        """Return its evidence level."""
        return format_short_mark(self.why[0].mark) if self.why else ""


def plan_lines(plan: Plan, units: str = "mm") -> list[Line]:
    """Return the answers in bench order.

    Args:
        plan: A new or saved plan.
        units: Unit system, "mm" or "in".
    """
    answers: dict[str, list[Choice]] = {}
    for choice in plan.choices:
        answers.setdefault(choice.answer, []).append(choice)
    notices = plan_notices(plan, units)
    lines = (_build_line(key, choices, plan, notices, units) for key, choices in answers.items())
    return [line for line in lines if line.what]


def _build_line(
    key: str, choices: list[Choice], plan: Plan, notices: list[Notice], units: str
) -> Line:
    """Return an answer.

    Its first choice leads, and the others add details and reasons.
    """
    texts = [choice.line(units) for choice in choices]
    return Line(
        key,
        choices[0].label,
        texts[0][0],
        ", ".join(detail for _, detail in texts if detail),
        why=tuple(r for choice in choices for r in choice.why),
        others=tuple(o for choice in choices for o in choice.others),
        cautions=tuple(n for n in notices if n.caution.at == key and n.level != "note"),
        by_hand=tuple((b.key, b.words.text(units)) for b in plan.by_hand if b.answer == key),
    )


def plan_notices(plan: Plan, units: str = "mm") -> list[Notice]:
    """Return every caution as text, most serious first.

    Args:
        plan: The plan.
        units: Unit system.
    """
    return [Notice(c, LEVEL_LABELS[c.level], c.sentence.text(units)) for c in plan.cautions]


def build_summary(plan: Plan, units: str = "mm") -> list[tuple[str, str]]:
    """Return the summary of the run: arc time, heat, argon, rod.

    Args:
        plan: The plan.
        units: Unit system.
    """
    rows = [
        ("Arc time", format_figure(plan.travel, "arc_time_s", units)),
        ("Heat", format_figure(plan.heat, "heat_input_kj_mm", units)),
        ("Argon", format_figure(plan.gas, "argon_l", units)),
    ]
    return (
        [*rows, ("Rod", format_figure(plan.filler, "length_mm", units))]
        if plan.filler.rod
        else rows
    )
