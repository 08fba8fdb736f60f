"""The effect of a gap, and the steps before the first tack, by the section and the catalogue."""

from __future__ import annotations

import math

from msgspec import Struct

from ... import catalogue
from ...joint.section import Section
from .fit_up import max_gap_mm

OXIDE_MM, BACK_MM = 1.0, 25.0
MIN_UNEQUAL_RATIO = 4.0
# The fractions of the maximum gap at which the text changes: estimates.
EASY, TIGHT = 0.35, 1.0


class GapCost(Struct, frozen=True):
    """The effect of a gap.

    Fraction of the maximum, sink of the bead without filler mm, additional rod mm, and verdict
    ("none", "easy", "careful", "with-rod": too wide without filler, "too-wide").
    """

    share: float
    sinks_mm: float
    rod_mm: float
    verdict: str


def calculate_gap_effect(
    gap_mm: float, allowed_gap_mm: float, section: Section, pool_mm: float, rod_mm: float | None
) -> GapCost:
    """Calculate the effect of a gap.

    The gap needs the volume gap × thickness along the seam. Spread over the pool width it gives the
    sink, and divided by the rod section the additional rod. Volume balance, exact. The limits of
    the verdict are estimates.

    Args:
        gap_mm: Gap, mm.
        allowed_gap_mm: Maximum gap, mm.
        section: The section.
        pool_mm: Pool width, mm.
        rod_mm: Rod diameter, mm, or None.
    """
    missing = gap_mm * section.thin_mm
    rod = missing * section.length_mm / (math.pi * rod_mm**2 / 4) if rod_mm else 0.0
    share = gap_mm / allowed_gap_mm if allowed_gap_mm > 0 else 0.0
    verdict = (
        "none"
        if gap_mm <= 0
        else "easy"
        if share <= EASY
        else "careful"
        if share <= TIGHT + 1e-9
        else "too-wide"
    )
    if verdict == "too-wide" and rod_mm is None and gap_mm <= max_gap_mm(section.thin_mm) + 1e-9:
        verdict = "with-rod"
    return GapCost(share, missing / pool_mm, rod, verdict)


def list_conditions(section: Section, bare: bool) -> frozenset[str]:
    """Return the conditions of a joint that the catalogue lines use.

    Args:
        section: The section.
        bare: Whether the weld is autogenous.
    """
    tubes = sum(side.diameter_mm is not None for side in section.sides[:2])
    conditions = {
        "stainless": section.stainless_sides > 0,
        "carbon": section.carbon_sides > 0,
        "bare": bare,
        "fed": not bare,
        "tube": tubes > 0,
        "sheet": tubes == 0,
        "coped": section.coped,
        "flanged": tubes == 1 and section.all_round,
        "in-line": section.shape == "butt",
        "unlike": section.unlike,
        "far-unlike": section.ratio > MIN_UNEQUAL_RATIO,
        section.shape: True,
    }
    return frozenset(name for name, is_met in conditions.items() if is_met)


def list_preparation(section: Section, bare: bool) -> dict[str, list[catalogue.rows.FitUpLine]]:
    """Return the lines for a joint by part (before, first, hold), in order.

    Args:
        section: The section.
        bare: Whether the weld is autogenous.
    """
    conditions = list_conditions(section, bare)
    lines: dict[str, list[catalogue.rows.FitUpLine]] = {"before": [], "first": [], "hold": []}
    for line in catalogue.fit_up_lines().values():
        if conditions.issuperset(line.when):
            lines[line.part].append(line)
    return lines
