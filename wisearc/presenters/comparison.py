"""Two set-ups side by side, made or kept: differences in words and figures."""

from __future__ import annotations

from typing import Any

from msgspec import Struct

from ..core.plan.plan import Declared, Plan, list_declared_figures
from ..core.schema.figures import format_value
from ..formats.plan_lines import Line, Notice, plan_lines, plan_notices

_RANK = {"stop": 2, "caution": 1, "note": 0}
# what a difference is told by, first
_TELLING = ("Heat input", "Arc time", "Argon used", "Heat-tint width", "Ferrite")


class Row(Struct, frozen=True):
    """One answer or figure on each side, whether they differ, and the difference in words."""

    label: str
    left: str
    right: str
    differs: bool
    words: str = ""


class Side(Struct, frozen=True):
    """One of two set-ups: what it goes by, its plan, its answers and cautions in words."""

    name: str
    plan: Plan
    lines: list[Line]
    notices: list[Notice]


class Comparison(Struct, frozen=True):
    """Both set-ups, their answers and figures in rows, and the difference in a sentence."""

    left: Side
    right: Side
    answers: list[Row]
    figures: list[Row]
    summary: str


def compare(left: Plan, right: Plan, habit: str, numbers: tuple[str, str] = ("", "")) -> Comparison:
    """Set two plans side by side. Parameters: plans, made or kept; habit, "mm" or "in"; numbers of
    those that were kept.
    """
    names = _choose_names(
        [
            (number, plan.title.text(habit))
            for number, plan in zip(numbers, (left, right), strict=True)
        ]
    )
    a, b = (
        Side(name, plan, plan_lines(plan, habit), plan_notices(plan, habit))
        for name, plan in zip(names, (left, right), strict=True)
    )
    answers = _build_answer_rows(a.lines, b.lines)
    figures = build_figure_rows(left, right, habit, b.name)
    return Comparison(a, b, answers, figures, _summarise(figures, a, b))


def build_figure_rows(left: Plan, right: Plan, habit: str, name: str = "") -> list[Row]:
    """The figures that are compared, side by side. Parameters: name, of the right one, as
    differences are told.
    """
    return [
        _build_figure_row(d, left, right, habit, name)
        for d in list_declared_figures()
        if d.figure.compared
    ]


def _choose_names(named: list[tuple[str, str]]) -> tuple[str, str]:
    """What the two go by: number, else title, and where those are the same the first and the
    second.
    """
    one, other = (number or title for number, title in named)
    return (one, other) if one != other else ("the first", "the second")


def _build_answer_rows(left: list[Line], right: list[Line]) -> list[Row]:
    """The answers side by side; one that a plan of before does not have is a dash."""
    one, other = ({line.key: line for line in lines} for lines in (left, right))
    rows = []
    for key in {**one, **other}:
        x, y = one.get(key), other.get(key)
        rows.append(
            Row(
                (x or y or left[0]).label,
                _join_line(x),
                _join_line(y),
                _join_line(x) != _join_line(y),
            )
        )
    return rows


def _join_line(line: Line | None) -> str:
    if line is None:
        return "–"
    return f"{line.what} – {line.detail}" if line.detail else line.what


def _build_figure_row(declared: Declared, left: Plan, right: Plan, habit: str, name: str) -> Row:
    values = declared.of(left), declared.of(right)
    shown = [format_value(value, declared.figure.quantity, habit) for value in values]
    differs = shown[0] != shown[1]
    return Row(
        declared.figure.compared,
        shown[0],
        shown[1],
        differs,
        _change(*values, name) if differs else "",
    )


def _change(x: Any, y: Any, name: str) -> str:
    if x is None or y is None:
        return "only in one of them"
    if not x:
        return f"{'more' if y > x else 'less'} in {name}"
    share = 100 * (y - x) / abs(x)
    return f"{abs(share):.0f} % {'more' if share > 0 else 'less'} in {name}"


def _summarise(figures: list[Row], a: Side, b: Side) -> str:
    """The largest differences in one sentence, and which side has the worse cautions."""
    worst = [max((_RANK[n.level] for n in side.notices), default=0) for side in (a, b)]
    words = {row.label: row.words for row in figures if row.words}
    told = [f"{label.lower()} {words[label]}" for label in _TELLING if label in words][:4]
    if not told and worst[0] == worst[1]:
        same = not any(r.differs for r in figures)
        return "Both give the same figures." if same else "Only the marked rows differ."
    text = (f"Compared with {a.name}: " + "; ".join(told) + ".") if told else ""
    if worst[0] != worst[1]:
        worse = a.name if worst[0] > worst[1] else b.name
        text += f" {worse[0].upper()}{worse[1:]} has the more serious cautions."
    return text.strip()
