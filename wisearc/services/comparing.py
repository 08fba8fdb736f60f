"""Two set-ups side by side, made or kept: differences in words and figures."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..core.figures import in_words
from ..core.plan import Declared, Plan, declared_figures
from ..formats.plan_lines import Line, Notice, plan_lines, plan_notices

_RANK = {"stop": 2, "caution": 1, "note": 0}
# what a difference is told by, first
_TELLING = ("Heat input", "Arc time", "Argon used", "Hot band", "Ferrite")


@dataclass(frozen=True)
class Row:
    """One answer or figure on each side, whether they differ, and the difference in words."""

    label: str
    left: str
    right: str
    differs: bool
    words: str = ""


@dataclass(frozen=True)
class Side:
    """One of two set-ups: its plan, its answers and cautions in words."""

    plan: Plan
    lines: list[Line]
    notices: list[Notice]


@dataclass(frozen=True)
class Comparison:
    """Both set-ups, their answers and figures in rows, and the difference in a sentence."""

    left: Side
    right: Side
    answers: list[Row]
    figures: list[Row]
    summary: str


def compare(left: Plan, right: Plan, habit: str) -> Comparison:
    """Set two plans side by side. Parameters: plans, made or kept; habit, "mm" or "in"."""
    a, b = (Side(plan, plan_lines(plan, habit), plan_notices(plan, habit)) for plan in (left, right))
    answers = _answers(a.lines, b.lines)
    figures = [_figure(d, left, right, habit) for d in declared_figures() if d.figure.compared]
    return Comparison(a, b, answers, figures, _summary(figures, a, b))


def _answers(left: list[Line], right: list[Line]) -> list[Row]:
    """The answers side by side; one that a plan of before does not have is a dash."""
    one, other = ({line.key: line for line in lines} for lines in (left, right))
    rows = []
    for key in {**one, **other}:
        x, y = one.get(key), other.get(key)
        rows.append(Row((x or y or left[0]).label, _whole(x), _whole(y), _whole(x) != _whole(y)))
    return rows


def _whole(line: Line | None) -> str:
    if line is None:
        return "–"
    return f"{line.what} – {line.detail}" if line.detail else line.what


def _figure(declared: Declared, left: Plan, right: Plan, habit: str) -> Row:
    values = declared.of(left), declared.of(right)
    shown = [in_words(value, declared.figure.quantity, habit) for value in values]
    differs = shown[0] != shown[1]
    return Row(declared.figure.compared, shown[0], shown[1], differs, _change(*values) if differs else "")


def _change(x: Any, y: Any) -> str:
    if x is None or y is None:
        return "only on one side"
    if not x:
        return "more on the right" if y > x else "less on the right"
    share = 100 * (y - x) / abs(x)
    return f"{abs(share):.0f} % {'more' if share > 0 else 'less'} on the right"


def _summary(figures: list[Row], a: Side, b: Side) -> str:
    """The largest differences in one sentence, and which side has the worse cautions."""
    worst = [max((_RANK[n.level] for n in side.notices), default=0) for side in (a, b)]
    words = {row.label: row.words for row in figures if row.words}
    told = [f"{label.lower()} {words[label]}" for label in _TELLING if label in words][:4]
    if not told and worst[0] == worst[1]:
        same = not any(r.differs for r in figures)
        return "Both come to the same figures." if same else "They differ only in the marked rows."
    text = ("Against the left: " + "; ".join(told) + ".") if told else ""
    if worst[0] != worst[1]:
        text += f" The {'left' if worst[0] > worst[1] else 'right'} has the more serious cautions."
    return text.strip()
