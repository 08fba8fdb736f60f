"""Two set-ups of a joint side by side: differences in words and figures."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from ..core.joint import Joint
from ..core.quantities import flow, heat, plain, size, speed
from ..core.shop import ASSUMED, Shop
from ..formats.plan_lines import litres
from .planning import PlanView, view_of

Show = Callable[[float, str], str]


@dataclass(frozen=True)
class Row:
    """One answer or figure on each side, whether they differ, and the difference in words."""

    label: str
    left: str
    right: str
    differs: bool
    words: str = ""


@dataclass(frozen=True)
class Comparison:
    """Both plans, their answers and figures in rows, and what in the joint itself differs."""

    left: PlanView
    right: PlanView
    answers: list[Row]
    figures: list[Row]
    summary: str


_FIGURES: list[tuple[str, tuple[str, str], Show]] = [
    ("Steady current", ("current", "steady_a"), lambda v, _h: f"{v:.0f} A"),
    ("Machine set to", ("current", "machine_a"), lambda v, _h: f"{v:.0f} A"),
    ("Mean current", ("pulse", "average_a"), lambda v, _h: f"{v:.0f} A"),
    ("Travel", ("travel", "speed_mm_s"), lambda v, h: speed(v).text(h)),
    ("Arc time", ("travel", "arc_time_s"), lambda v, _h: f"{v:.0f} s"),
    ("Heat input", ("heat", "heat_input_kj_mm"), lambda v, h: heat(v).text(h)),
    ("Hot band", ("heat", "hot_band_mm"), lambda v, h: size(v).text(h)),
    ("Tail still hot", ("heat", "tail_mm"), lambda v, h: size(v).text(h)),
    ("Cup covers", ("torch", "cover_mm"), lambda v, h: size(v).text(h)),
    ("Argon flow", ("gas", "flow_l_min"), lambda v, h: flow(v).text(h)),
    ("Argon used", ("gas", "argon_l"), lambda v, h: litres(v, h)),
    ("Rod fed", ("filler", "length_mm"), lambda v, h: size(v).text(h)),
    ("Ferrite", ("weld_metal", "ferrite_pct"), lambda v, _h: f"{plain(v, 1)} %"),
    ("Pitting number", ("weld_metal", "pren"), lambda v, _h: plain(v, 1)),
    (
        "Widest gap",
        ("fit_up", "max_gap_mm"),
        lambda v, h: size(v).text(h) if v >= 0.1 else f"{plain(v, 2)} mm" if h == "mm" else f"{plain(v / 25.4, 3)} in",
    ),
]


def compare(left: Joint, right: Joint, habit: str, shop: Shop = ASSUMED) -> Comparison:
    """Plan both and set them side by side. Parameters: joints; habit, "mm" or "in"; shop."""
    a, b = view_of(left, habit, shop), view_of(right, habit, shop)
    answers = [
        Row(
            x.label,
            f"{x.what} – {x.detail}" if x.detail else x.what,
            f"{y.what} – {y.detail}" if y.detail else y.what,
            (x.what, x.detail) != (y.what, y.detail),
        )
        for x, y in zip(a.lines, b.lines, strict=True)
    ]
    figures = [_figure(label, place, show, a.data, b.data, habit) for label, place, show in _FIGURES]
    return Comparison(a, b, answers, figures, _summary(figures, a, b))


def _figure(label: str, place: tuple[str, str], show: Show, a: dict[str, Any], b: dict[str, Any], habit: str) -> Row:
    x, y = (data[place[0]][place[1]] for data in (a, b))
    shown = ["–" if v is None else show(v, habit) for v in (x, y)]
    return Row(label, shown[0], shown[1], shown[0] != shown[1], _change(x, y) if shown[0] != shown[1] else "")


def _change(x: float | None, y: float | None) -> str:
    if x is None or y is None:
        return "only on one side"
    if not x:
        return "more on the right" if y > x else "less on the right"
    share = 100 * (y - x) / abs(x)
    return f"{abs(share):.0f} % {'more' if share > 0 else 'less'} on the right"


def _summary(figures: list[Row], a: PlanView, b: PlanView) -> str:
    """The largest differences in one sentence, and which side has the worse cautions."""
    rank = {"stop": 2, "caution": 1, "note": 0}
    worst = [max((rank[c.level] for c in v.cautions), default=0) for v in (a, b)]
    told = [
        f"{r.label.lower()} {r.words}"
        for r in figures
        if r.words and r.label in ("Heat input", "Arc time", "Argon used", "Hot band", "Ferrite")
    ][:4]
    if not told and worst[0] == worst[1]:
        return (
            "Both come to the same figures."
            if not any(r.differs for r in figures)
            else "They differ only in the marked rows."
        )
    text = ("Against the left: " + "; ".join(told) + ".") if told else ""
    if worst[0] != worst[1]:
        side = "left" if worst[0] > worst[1] else "right"
        text += f" The {side} has the more serious cautions."
    return text.strip()
