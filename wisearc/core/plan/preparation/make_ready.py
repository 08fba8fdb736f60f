"""What a gap costs, and what is done before the first tack: by the joint's own section, from the
catalogue's lines.
"""

from __future__ import annotations

import math

from msgspec import Struct

from ... import catalogue
from ...joint.section import Section
from .fit_up import max_gap_mm

OXIDE_MM, BACK_MM = 1.0, 25.0
FAR_UNLIKE = 4.0
# shares of the widest gap at which what it costs is said otherwise: estimates
EASY, TIGHT = 0.35, 1.0


class GapCost(Struct, frozen=True):
    """What a gap costs: its share of the widest that may be welded, how deep the bead sinks if no
    rod makes it up mm, the rod it drinks mm, how it goes ("none", "easy", "careful", "with-rod":
    too wide bare, a rod bears it; "too-wide").
    """

    share: float
    sinks_mm: float
    rod_mm: float
    verdict: str


def calculate_gap_effect(
    gap_mm: float, most_mm: float, section: Section, pool_mm: float, rod_mm: float | None
) -> GapCost:
    """What a gap costs. Parameters: gap, the widest allowed, section, the pool's width, the rod's
    diameter (None: none), mm.

    A gap wants gap × thickness of metal at every place: spread over the pool it sinks by that over
    its width; of rod it takes that times the seam over the rod's section. Balance of volume, exact;
    the verdict's limits: estimates.
    """
    missing = gap_mm * section.thin_mm
    rod = missing * section.length_mm / (math.pi * rod_mm**2 / 4) if rod_mm else 0.0
    share = gap_mm / most_mm if most_mm > 0 else 0.0
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
    """What is so of a joint, as the lines of the catalogue ask for it."""
    tubes = sum(side.diameter_mm is not None for side in section.sides[:2])
    found = {
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
        "far-unlike": section.ratio > FAR_UNLIKE,
        section.shape: True,
    }
    return frozenset(name for name, so in found.items() if so)


def list_preparation(section: Section, bare: bool) -> dict[str, list[catalogue.rows.FitUpLine]]:
    """The lines that a joint asks for, by part (before, first, hold), in order."""
    so = list_conditions(section, bare)
    found: dict[str, list[catalogue.rows.FitUpLine]] = {"before": [], "first": [], "hold": []}
    for line in catalogue.fit_up_lines().values():
        if so.issuperset(line.when):
            found[line.part].append(line)
    return found
