"""Two set-ups compared, new or saved: differences in text and figures."""

from __future__ import annotations

from typing import Any

from msgspec import Struct

from ..core.plan.plan import Declared, Plan, list_declared_figures
from ..core.schema.figures import format_value
from ..formats.plan_lines import Line, Notice, plan_lines, plan_notices

_RANK = {"stop": 2, "caution": 1, "note": 0}
# The figures of the summary, the first ones first.
_TELLING = ("Heat input", "Arc time", "Argon used", "Heat-tint width", "Ferrite")


class Row(Struct, frozen=True):
    """An answer or a figure on each side, whether they differ, and the difference as text."""

    label: str
    left: str
    right: str
    differs: bool
    words: str = ""


class Side(Struct, frozen=True):
    """One of two set-ups: name, plan, answers and cautions as text."""

    name: str
    plan: Plan
    lines: list[Line]
    notices: list[Notice]


class Comparison(Struct, frozen=True):
    """Both set-ups, their answers and figures in rows, and a summary."""

    left: Side
    right: Side
    answers: list[Row]
    figures: list[Row]
    summary: str


def compare(left: Plan, right: Plan, units: str, numbers: tuple[str, str] = ("", "")) -> Comparison:
    """Compare two plans.

    Args:
        left: A new or saved plan.
        right: A new or saved plan.
        units: Unit system, "mm" or "in".
        numbers: Labels of saved plans.
    """
    names = _choose_names(
        [
            (number, plan.title.text(units))
            for number, plan in zip(numbers, (left, right), strict=True)
        ]
    )
    a, b = (
        Side(name, plan, plan_lines(plan, units), plan_notices(plan, units))
        for name, plan in zip(names, (left, right), strict=True)
    )
    answers = _build_answer_rows(a.lines, b.lines)
    figures = build_figure_rows(left, right, units, b.name)
    return Comparison(a, b, answers, figures, _summarise(figures, a, b))


def build_figure_rows(left: Plan, right: Plan, units: str, name: str = "") -> list[Row]:
    """Return the compared figures in rows.

    Args:
        left: A plan.
        right: A plan.
        units: Unit system.
        name: Name of the right plan in the differences.
    """
    return [
        _build_figure_row(d, left, right, units, name)
        for d in list_declared_figures()
        if d.figure.compared
    ]


def _choose_names(named: list[tuple[str, str]]) -> tuple[str, str]:
    """Return the names of the two: number, or else title, or else first and second."""
    first_name, other = (number or title for number, title in named)
    return (first_name, other) if first_name != other else ("the first", "the second")


def _build_answer_rows(left: list[Line], right: list[Line]) -> list[Row]:
    """Return the answers in rows.

    An answer that an older plan lacks is a dash.
    """
    left_line, other = ({line.key: line for line in lines} for lines in (left, right))
    rows = []
    for key in {**left_line, **other}:
        x, y = left_line.get(key), other.get(key)
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


def _build_figure_row(declared: Declared, left: Plan, right: Plan, units: str, name: str) -> Row:
    values = declared.of(left), declared.of(right)
    displayed = [format_value(value, declared.figure.quantity, units) for value in values]
    differs = displayed[0] != displayed[1]
    return Row(
        declared.figure.compared,
        displayed[0],
        displayed[1],
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
    """Return the largest differences in one sentence, and the side with the worse cautions."""
    worst = [max((_RANK[n.level] for n in side.notices), default=0) for side in (a, b)]
    wording = {row.label: row.words for row in figures if row.words}
    telling = [f"{label.lower()} {wording[label]}" for label in _TELLING if label in wording][:4]
    if not telling and worst[0] == worst[1]:
        same = not any(r.differs for r in figures)
        return "Both give the same figures." if same else "Only the marked rows differ."
    text = (f"Compared with {a.name}: " + "; ".join(telling) + ".") if telling else ""
    if worst[0] != worst[1]:
        worse = a.name if worst[0] > worst[1] else b.name
        text += f" {worse[0].upper()}{worse[1:]} has the more serious cautions."
    return text.strip()
