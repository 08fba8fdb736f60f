"""Fit-up and tacks of a joint: what the gap that was found costs, what is made ready, who goes
first; tacks and bars as a list to tick.
"""

from __future__ import annotations

import re

from msgspec import Struct

from ..core.errors import InputError
from ..core.physics.purge import gap_area_mm2, least_flow_l_min
from ..core.plan.plan import Plan
from ..core.plan.preparation.bar_runs import BarRun, BenchLine, build_bench_list, list_bar_faces
from ..core.plan.preparation.make_ready import (
    BACK_MM,
    OXIDE_MM,
    GapCost,
    calculate_gap_effect,
    list_preparation,
)
from ..core.quantities import (
    add_typed_unit,
    flow,
    format_count,
    format_plain,
    length,
    parse_quantity,
)
from ..core.schema import checks
from ..core.shop.shop import Shop
from ..drawings.canvas import Drawing
from ..drawings.plan.gap import draw_gap
from ..drawings.plan.tack_plan import draw_tack_plan
from ..formats.link import link_query
from ..services.planning.planning import cached_plan, read_query
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
    """What the page of fit-up shows: the gap as it was typed, its fault, the greatest of it mm;
    what it costs in words and rows; the drawing; the lines to do by part; the change of the link
    that plans with the gap.
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


def greatest_gap_mm(text: str, habit: str) -> float:
    """The greatest of the gaps that were measured along a seam: "0.1, 0.25; 0.2". Raises
    InputError.
    """
    given = [one.strip() for one in re.split(r";|,\s+|\s+/\s+", text) if one.strip()]
    if len(given) > MAX_PLACES:
        raise InputError(
            "gap",
            f"{len(given)} places",
            f"exceed the maximum of {MAX_PLACES}. Give the widest ones",
        )
    found = 0.0
    for one in given:
        if one[:1] in "-−":
            raise InputError("gap", one, "cannot be below 0. Enter 0 for no gap")
        mm = (
            0.0
            if one == "0"
            else parse_quantity(add_typed_unit(one, "length", habit), "length", "gap", habit)
        )
        found = max(found, checks.check_number("gap", mm, 0, MAX_GAP_MM, "mm"))
    return found


def fit_up_view(plan: Plan, typed: str | None, shop: Shop, habit: str) -> FitUpView:
    """What the page shows. Parameters: typed, the gaps measured, or None where none were told: then
    the joint's own.
    """
    found, fault = plan.section.gap_mm, ""
    if typed is not None and typed.strip():
        try:
            found = greatest_gap_mm(typed, habit)
        except InputError as error:
            fault = error.describe_value(habit)
    bare = plan.filler.rod is None
    cost = calculate_gap_effect(
        found,
        plan.fit_up.max_gap_mm,
        plan.section,
        plan.travel.pool_width_mm,
        plan.filler.diameter_mm,
    )
    rows = _list_changed_rows(plan, found, shop, habit)
    shown = (
        typed
        if typed is not None and typed.strip()
        else (length(found).text(habit) if found else "")
    )
    return FitUpView(
        shown,
        fault,
        found,
        cost,
        _describe_verdict(cost, bare),
        _list_facts(plan, cost, found, habit),
        rows,
        draw_gap(plan, found, habit),
        _list_lines(plan, bare, habit),
        f"gap={format_plain(found, 4)}+mm",
    )


def _describe_verdict(cost: GapCost, bare: bool) -> str:
    if cost.verdict in ("easy", "careful") and bare:
        return "Without filler no hair may enter. This gap is just within the limit."
    return VERDICTS[cost.verdict]


def _list_facts(
    plan: Plan, cost: GapCost, found_mm: float, habit: str
) -> tuple[tuple[str, str], ...]:
    facts = [("Of the maximum", f"{100 * cost.share:.0f} %")]
    if found_mm > 0:
        facts.append(("Sink without rod", length(cost.sinks_mm).text(habit)))
        if cost.rod_mm:
            facts.append(("Extra rod for the gap", length(cost.rod_mm).text(habit)))
    if plan.back.purged and plan.back.purge is not None and found_mm > 0:
        least = least_flow_l_min(
            gap_area_mm2(found_mm, plan.section.length_mm),
            plan.section.thin_mm,
            plan.back.purge.vent_mm,
        )
        facts.append(
            (
                "Purge flow that keeps air out",
                (
                    f"{flow(least).text(habit)}; planned "
                    f"{flow(plan.back.purge.weld_flow_l_min).text(habit)}"
                ),
            )
        )
    return tuple(facts)


def _list_changed_rows(plan: Plan, found_mm: float, shop: Shop, habit: str) -> list[Row]:
    """What of the plan differs with the gap from without any, reckoned anew; none where the joint
    is not one of today's.
    """
    if found_mm <= 0:
        return []
    pairs = [(key, text) for key, text in link_query(plan.joint) if key != "gap"]
    without, wrong = read_query([*pairs, ("gap", "0")])
    with_gap, also_wrong = read_query([*pairs, ("gap", f"{found_mm:g} mm")])
    if wrong or also_wrong:
        return []
    both = compare(cached_plan(without, shop), cached_plan(with_gap, shop), habit)
    return [row for row in (*both.answers, *both.figures) if row.differs and row.left != row.right]


def _list_lines(plan: Plan, bare: bool, habit: str) -> tuple[tuple[str, list[str]], ...]:
    figures = {"oxide": length(OXIDE_MM).text(habit), "back": length(BACK_MM).text(habit)}
    return tuple(
        (PARTS[part], [line.text.format(**figures) for line in found])
        for part, found in list_preparation(plan.section, bare).items()
        if found
    )


class TacksView(Struct, frozen=True):
    """What the page of tacks shows: the list, which lines are ticked, the drawing, how many are
    done, where bars lie and what is owned of them, what is set for a tack.
    """

    lines: list[tuple[BenchLine, str]]
    ticked: frozenset[str]
    drawing: Drawing
    bars: str
    settings: str

    @property
    def done(self) -> int:
        """How many lines are ticked."""
        return sum(line.key in self.ticked for line, _ in self.lines)


def build_tacks_view(what: str, plan: Plan, shop: Shop, habit: str) -> TacksView:
    """What the page shows of a plan, made or kept."""
    runs = list_bar_runs(plan, shop)
    found = build_bench_list(plan, runs)
    done_keys = list_ticked(what)
    done = {line.tack for line in found if line.tack is not None and line.key in done_keys}
    following = next(
        (line.tack for line in found if line.tack is not None and line.key not in done_keys), None
    )
    drawing = draw_tack_plan(plan, runs, done, following, habit)
    return TacksView(
        [(line, line.words.text(habit)) for line in found],
        done_keys,
        drawing,
        _describe_bars(plan, runs, shop, habit),
        _describe_settings(plan, habit),
    )


def _describe_bars(plan: Plan, runs: list[BarRun], shop: Shop, habit: str) -> str:
    if not runs:
        return ""
    words = (
        f"Bars {'; '.join(list_bar_faces(plan))}: {format_count(max(r.bars for r in runs), 'bar')} "
        f"at once, {format_count(len(runs), 'position')}."
    )
    if shop.bars is None:
        return (
            f"{words} Shop contains no bars, so this assumes bars of "
            f"{length(plan.back.bar_length_mm).text(habit)}."
        )
    metal = plan.back.cover.removesuffix("-bar")
    have = sum(int(bar.count) for bar in shop.bars if bar.metal == metal)
    need = len(list_bar_faces(plan))
    return (
        words
        if have >= need
        else (
            f"{words} You need {need} at once, but Shop contains {have} of {metal}. Half "
            "of the root stays uncovered. Get the rest first."
        )
    )


def _describe_settings(plan: Plan, habit: str) -> str:
    t = plan.tacks
    return (
        f"Set {t.dial_a:.0f} A for tacks, pulse off, {format_plain(t.time_s, 1)} s each, "
        "full post-flow. Then return to the setting of the seam."
    )
