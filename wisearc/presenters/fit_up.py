"""Fit-up and tacks of a joint.

The effect of the measured gap, the preparation, and the bench list of tacks and bars.
"""

from __future__ import annotations

import re

from msgspec import Struct

from ..core.errors import InputError
from ..core.physics.purge import gap_area_mm2, min_flow_l_min
from ..core.plan.plan import Plan
from ..core.plan.preparation.bar_runs import BarRun, BenchLine, build_bench_list, list_bar_faces
from ..core.plan.preparation.clamps import plan_clamps
from ..core.plan.preparation.make_ready import (
    BACK_MM,
    OXIDE_MM,
    GapCost,
    calculate_gap_effect,
    list_preparation,
)
from ..core.quantities import flow, format_count, format_plain, length
from ..core.schema import checks
from ..core.shop.shop import Shop
from ..core.typed_quantities import add_typed_unit, parse_quantity
from ..drawings.canvas import Drawing
from ..drawings.plan.gap import draw_gap
from ..drawings.plan.tack_plan import draw_tack_plan
from ..formats.link import link_query
from ..services.planning.planner import cached_plan, read_query
from ..services.set_up.tacking import list_bar_runs, list_ticked
from .comparison import Row, compare

MAX_GAP_MM, MAX_PLACES = 10.0, 40
PARTS = {"before": "Preparation", "first": "Assembly sequence", "hold": "Clamping"}
VERDICTS = {
    "none": "No gap: ready to weld.",
    "easy": "The gap is within the limit. The rod fills it.",
    "careful": (
        "The gap is near the limit. Take smaller steps, back onto the thick side "
        "each time, with the rod first."
    ),
    "with-rod": "The gap is too wide without filler. Refit the joint, or use the rod.",
    "too-wide": "Do not weld: the gap is too wide. The arc will burn through. Refit the joint.",
}


class FitUpView(Struct, frozen=True):
    """The contents of the fit-up page.

    Typed gaps, error, largest gap mm, its effect as text and rows, drawing, steps by part, and the
    link change for the gap.
    """

    typed: str
    fault: str
    found_mm: float
    cost: GapCost
    verdict: str
    facts: tuple[tuple[str, str], ...]
    rows: list[Row]
    drawing: Drawing
    parts: tuple[tuple[str, list[str]], ...]
    gap_link: str


def max_gap_mm(text: str, units: str) -> float:
    """Return the largest of typed gaps along a seam: "0.1, 0.25; 0.2".

    Args:
        text: The text.
        units: Unit system of numbers without unit.

    Raises:
        InputError: A gap is wrong.
    """
    parts = [part.strip() for part in re.split(r";|,\s+|\s+/\s+", text) if part.strip()]
    if len(parts) > MAX_PLACES:
        raise InputError(
            "gap",
            f"{len(parts)} places",
            f"exceed the maximum of {MAX_PLACES}. Give the widest ones",
        )
    gap_mm = 0.0
    for part in parts:
        if part[:1] in "-−":
            raise InputError("gap", part, "cannot be below 0. Enter 0 for no gap")
        mm = (
            0.0
            if part == "0"
            else parse_quantity(add_typed_unit(part, "length", units), "length", "gap", units)
        )
        gap_mm = max(gap_mm, checks.check_number("gap", mm, 0, MAX_GAP_MM, "mm"))
    return gap_mm


def fit_up_view(plan: Plan, typed: str | None, shop: Shop, units: str) -> FitUpView:
    """Return the contents of the fit-up page.

    Args:
        plan: The plan.
        typed: The typed gaps, or None for the gap of the joint.
        shop: The shop.
        units: Unit system.
    """
    gap_mm, fault = plan.section.gap_mm, ""
    if typed is not None and typed.strip():
        try:
            gap_mm = max_gap_mm(typed, units)
        except InputError as error:
            fault = error.describe_value(units)
    bare = plan.filler.rod is None
    cost = calculate_gap_effect(
        gap_mm,
        plan.fit_up.max_gap_mm,
        plan.section,
        plan.travel.pool_width_mm,
        plan.filler.diameter_mm,
    )
    rows = _list_changed_rows(plan, gap_mm, shop, units)
    displayed = (
        typed
        if typed is not None and typed.strip()
        else (length(gap_mm).text(units) if gap_mm else "")
    )
    return FitUpView(
        displayed,
        fault,
        gap_mm,
        cost,
        _describe_verdict(cost, bare),
        _list_facts(plan, cost, gap_mm, units),
        rows,
        draw_gap(plan, gap_mm, units),
        _list_lines(plan, bare, shop, units),
        f"gap={format_plain(gap_mm, 4)}+mm",
    )


def _describe_verdict(cost: GapCost, bare: bool) -> str:
    if cost.verdict in ("easy", "careful") and bare:
        return "Without filler no hair may enter. This gap is just within the limit."
    return VERDICTS[cost.verdict]


def _list_facts(
    plan: Plan, cost: GapCost, found_mm: float, units: str
) -> tuple[tuple[str, str], ...]:
    facts = [("Of the maximum", f"{100 * cost.share:.0f} %")]
    if found_mm > 0:
        facts.append(("Sink without rod", length(cost.sinks_mm).text(units)))
        if cost.rod_mm:
            facts.append(("Extra rod for the gap", length(cost.rod_mm).text(units)))
    if plan.back.purged and plan.back.purge is not None and found_mm > 0:
        minimum = min_flow_l_min(
            gap_area_mm2(found_mm, plan.section.length_mm),
            plan.section.thin_mm,
            plan.back.purge.vent_mm,
        )
        facts.append(
            (
                "Purge flow that keeps air out",
                (
                    f"{flow(minimum).text(units)}; planned "
                    f"{flow(plan.back.purge.weld_flow_l_min).text(units)}"
                ),
            )
        )
    return tuple(facts)


def _list_changed_rows(plan: Plan, found_mm: float, shop: Shop, units: str) -> list[Row]:
    """Return the differences of the plan with and without the gap, calculated again.

    A joint of another version has none.
    """
    if found_mm <= 0:
        return []
    pairs = [(key, text) for key, text in link_query(plan.joint) if key != "gap"]
    without, wrong = read_query([*pairs, ("gap", "0")])
    with_gap, also_wrong = read_query([*pairs, ("gap", f"{found_mm:g} mm")])
    if wrong or also_wrong:
        return []
    comparison = compare(cached_plan(without, shop), cached_plan(with_gap, shop), units)
    return [
        row
        for row in (*comparison.answers, *comparison.figures)
        if row.differs and row.left != row.right
    ]


def _list_lines(
    plan: Plan, bare: bool, shop: Shop, units: str
) -> tuple[tuple[str, list[str]], ...]:
    figures = {"oxide": length(OXIDE_MM).text(units), "back": length(BACK_MM).text(units)}
    clamps = plan_clamps(plan, list_bar_runs(plan, shop)).text
    parts = {
        part: [line.text.format(**figures) for line in lines]
        for part, lines in list_preparation(plan.section, bare).items()
    }
    parts["hold"] = [*(sentence.text(units) for sentence in clamps), *parts["hold"]]
    return tuple((PARTS[part], lines) for part, lines in parts.items() if lines)


class TacksView(Struct, frozen=True):
    """The contents of the tack page.

    List, ticked lines, drawing, bar positions, bars in stock, tack settings, clamps.
    """

    lines: list[tuple[BenchLine, str]]
    ticked: frozenset[str]
    drawing: Drawing
    bars: str
    settings: str
    clamps: str

    @property
    def done(self) -> int:
        """Return the number of ticked lines."""
        return sum(line.key in self.ticked for line, _ in self.lines)


def build_tacks_view(subject: str, plan: Plan, shop: Shop, units: str) -> TacksView:
    """Return the contents of the tack page of a new or saved plan.

    Args:
        subject: The plan or procedure.
        plan: The plan.
        shop: The shop.
        units: Unit system.
    """
    runs = list_bar_runs(plan, shop)
    bench_lines = build_bench_list(plan, runs)
    keys = list_ticked(subject)
    done_keys = frozenset(line.key for line in bench_lines if line.is_ticked(keys))
    done = {index for line in bench_lines if line.key in done_keys for index in line.tacks}
    following = next(
        (index for line in bench_lines if line.key not in done_keys for index in line.tacks), None
    )
    drawing = draw_tack_plan(plan, runs, done, following, units)
    return TacksView(
        [(line, line.words.text(units)) for line in bench_lines],
        done_keys,
        drawing,
        _describe_bars(plan, runs, shop, units),
        _describe_settings(plan, units),
        " ".join(sentence.text(units) for sentence in plan_clamps(plan, runs).text),
    )


def _describe_bars(plan: Plan, runs: list[BarRun], shop: Shop, units: str) -> str:
    if not runs:
        return ""
    text = (
        f"Bars {'; '.join(list_bar_faces(plan))}: {format_count(max(r.bars for r in runs), 'bar')} "
        f"at once, {format_count(len(runs), 'position')}."
    )
    if shop.bars is None:
        return (
            f"{text} Shop contains no bars, so this assumes bars of "
            f"{length(plan.back.bar_length_mm).text(units)}."
        )
    metal = plan.back.cover.removesuffix("-bar")
    have = sum(int(bar.count) for bar in shop.bars if bar.metal == metal)
    need = len(list_bar_faces(plan))
    return (
        text
        if have >= need
        else (
            f"{text} You need {need} at once, but Shop contains {have} of {metal}. Half "
            "of the root stays uncovered. Get the rest first."
        )
    )


def _describe_settings(plan: Plan, units: str) -> str:
    t = plan.tacks
    return (
        f"Set {t.dial_a:.0f} A for tacks, pulse off, {format_plain(t.time_s, 1)} s each, "
        "full post-flow. Then return to the setting of the seam."
    )
