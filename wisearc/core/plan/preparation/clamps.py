"""Clamps of a joint: how many, how far they reach, and where.

Common practice: clamps sit close to the seam, and a bar has one near each of its ends. On tube more
tacks replace clamps. The spacing is an estimate: a copper bar 6 mm thick stays flat between clamps
75 mm apart, and thin sheet lifts before its tacks hold it.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from msgspec import Struct

from ...quantities import format_count, length
from ...reasons import Sentence
from ..plan import Plan
from .bar_runs import BarRun, list_bar_faces

# The largest spacing on a bar, and the distance of a clamp from its end as a share of the bar.
BAR_SPACING_MM, BAR_END_SHARE = 75.0, 0.15
# Without bars a clamp holds this number of tack spaces, within these limits.
TACKS_PER_CLAMP, MIN_SPACING_MM, MAX_SPACING_MM = 2, 40.0, 120.0
# The usual width of a bar, and what a jaw needs beyond its middle.
BAR_WIDTH_MM, JAW_MM = 25.0, 10.0
# A usual clamp reaches no further from an edge.
MAX_REACH_MM = 80.0


class ClampPlan(Struct, frozen=True):
    """Clamps in use at the same time: number, reach mm (None: the edge is too far), places mm.

    `faces` is the number of bars that one clamp presses together.
    """

    count: int
    reach_mm: float | None
    places_mm: tuple[float, ...]
    faces: int

    @property
    def text(self) -> tuple[Sentence, ...]:
        """Return the clamps in sentences."""
        if not self.count:
            return (
                Sentence("Use no clamps on the tube. More and bigger tacks all round hold it."),
            )
        first, last = self.places_mm[0], self.places_mm[-1]
        rows = [
            Sentence(
                "Use {n}: the first {a} from the start, the last at {b}.",
                n=format_count(self.count, "clamp"),
                a=length(first),
                b=length(last),
            )
        ]
        if self.reach_mm is not None:
            rows.append(
                Sentence("They reach at least {r} in from the edge.", r=length(self.reach_mm))
            )
        else:
            text = "The edge is too far for a clamp. Hold the sheet with a bridge bar or weights."
            rows.append(Sentence(text))
        if self.faces > 1:
            rows.append(Sentence("Each clamp presses the bars of both faces together."))
        return tuple(rows)


def plan_clamps(plan: Plan, runs: Sequence[BarRun], free_mm: float | None = None) -> ClampPlan:
    """Return the clamps of a joint.

    Args:
        plan: The plan.
        runs: The bar runs, or none without bars.
        free_mm: Free width of the sheet beside the seam, mm, or None if unknown.
    """
    if plan.section.all_round:
        return ClampPlan(0, None, (), 0)
    from_seam = plan.back.bar_from_seam_mm + BAR_WIDTH_MM / 2 if runs else JAW_MM
    # At a corner or an edge the seam itself is the edge.
    at_edge = plan.section.shape in ("corner", "edge")
    edge_mm = 0.0 if at_edge else free_mm
    reach = (
        from_seam + JAW_MM
        if at_edge
        else (None if edge_mm is None else edge_mm - from_seam + JAW_MM)
    )
    if reach is not None and (reach > MAX_REACH_MM or reach <= 0):
        reach = None
    places = _place_on_bars(plan, runs[0]) if runs else _place_by_tacks(plan)
    return ClampPlan(len(places), reach, places, len(list_bar_faces(plan)) if runs else 1)


def _place_on_bars(plan: Plan, run: BarRun) -> tuple[float, ...]:
    """Return the places of clamps on the bars of one run, mm from the start of the seam."""
    faces = max(1, len(list_bar_faces(plan)))
    sets = max(1, run.bars // faces)
    bar_mm = (run.end_mm - run.start_mm) / sets
    places = []
    for i in range(sets):
        inset = BAR_END_SHARE * bar_mm
        span = bar_mm - 2 * inset
        gaps = max(1, math.ceil(span / BAR_SPACING_MM - 1e-9))
        start = run.start_mm + i * bar_mm + inset
        places += [round(start + k * span / gaps, 1) for k in range(gaps + 1)]
    return tuple(places)


def _place_by_tacks(plan: Plan) -> tuple[float, ...]:
    """Return the places of clamps on sheet without bars, mm from the start of the seam."""
    seam = plan.section.length_mm
    spacing = max(MIN_SPACING_MM, min(MAX_SPACING_MM, TACKS_PER_CLAMP * plan.tacks.pitch_mm))
    gaps = max(1, math.ceil(seam / spacing - 1e-9))
    inset = min(10.0, seam / 4)
    return tuple(round(inset + k * (seam - 2 * inset) / gaps, 1) for k in range(gaps + 1))
