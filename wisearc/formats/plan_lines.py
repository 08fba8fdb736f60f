"""A plan as lines for people: one of what, one of why, in bench order, in either unit habit."""

from __future__ import annotations

from msgspec import Struct

from ..core.plan.plan import Plan
from ..core.reasons import Alternative, Caution, Choice, Reason
from ..core.schema.figures import format_figure
from ..core.sources import format_short_mark

LEVEL_WORDS = {"stop": "Stop", "caution": "Caution", "note": "Note"}


class Notice(Struct, frozen=True):
    """A caution in words."""

    caution: Caution
    word: str
    text: str

    @property
    def level(self) -> str:
        return self.caution.level


class Line(Struct, frozen=True):
    """One answer: label, what in few words, detail, and everything behind it."""

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
        return format_short_mark(self.why[0].mark) if self.why else ""


def plan_lines(plan: Plan, habit: str = "mm") -> list[Line]:
    """The answers in bench order. Parameters: plan, made or kept; habit, "mm" or "in"."""
    answers: dict[str, list[Choice]] = {}
    for choice in plan.choices:
        answers.setdefault(choice.answer, []).append(choice)
    notices = plan_notices(plan, habit)
    lines = (_build_line(key, choices, plan, notices, habit) for key, choices in answers.items())
    return [line for line in lines if line.what]


def _build_line(
    key: str, choices: list[Choice], plan: Plan, notices: list[Notice], habit: str
) -> Line:
    """An answer of its choices: the first leads it, the others add to its detail and reasons."""
    said = [choice.line(habit) for choice in choices]
    return Line(
        key,
        choices[0].label,
        said[0][0],
        ", ".join(detail for _, detail in said if detail),
        why=tuple(r for choice in choices for r in choice.why),
        others=tuple(o for choice in choices for o in choice.others),
        cautions=tuple(n for n in notices if n.caution.at == key and n.level != "note"),
        by_hand=tuple((b.key, b.words.text(habit)) for b in plan.by_hand if b.answer == key),
    )


def plan_notices(plan: Plan, habit: str = "mm") -> list[Notice]:
    """Every caution in words, most serious first."""
    return [Notice(c, LEVEL_WORDS[c.level], c.sentence.text(habit)) for c in plan.cautions]


def build_summary(plan: Plan, habit: str = "mm") -> list[tuple[str, str]]:
    """What the run costs: arc time, heat, argon, rod."""
    rows = [
        ("Arc time", format_figure(plan.travel, "arc_time_s", habit)),
        ("Heat", format_figure(plan.heat, "heat_input_kj_mm", habit)),
        ("Argon", format_figure(plan.gas, "argon_l", habit)),
    ]
    return (
        [*rows, ("Rod", format_figure(plan.filler, "length_mm", habit))]
        if plan.filler.rod
        else rows
    )
