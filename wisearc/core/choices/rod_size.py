"""How thick a rod, how much of it. Two schools: rod under sheet, rod equals sheet."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..catalogue import Rod, rod_sizes
from ..joint import Joint
from ..quantities import length, size
from ..reasons import Caution, Other, Reason, caution, estimate, practice, say
from .pool import planned_width_mm
from .so_far import SoFar

STUBS_AND_TACKS = 1.15
LEAST_LEG_MM = 1.5


@dataclass(frozen=True)
class RodSize:
    """Rod diameter mm (None without filler), feed length mm, rods, section of deposit mm²."""

    diameter_mm: float | None
    feed_mm: float
    rods: int
    deposit_mm2: float
    why: tuple[Reason, ...] = ()
    others: tuple[Other, ...] = ()
    cautions: tuple[Caution, ...] = ()


def rod_size(so_far: SoFar, rod: Rod | None) -> RodSize:
    """Size and quantity of the rod. Schools and stock: common practice; section of deposit: estimate."""
    if rod is None:
        return RodSize(None, 0.0, 0, 0.0)
    joint, thin = so_far.joint, so_far.section.thin_mm
    pinned = joint.pin("rod_diameter_mm")
    school = "under-sheet" if joint.position.small_pool else joint.rod_school
    diameter = pinned or SCHOOLS[school](thin)
    area = deposit_mm2(so_far)
    feed = area * so_far.section.length_mm / (math.pi * diameter**2 / 4) * STUBS_AND_TACKS
    return RodSize(
        diameter, feed, math.ceil(feed / rod_sizes().rod_length_mm), area,
        why=(_why(school, thin, diameter, pinned is not None), *_against_gravity(joint), _feed_reason(area, feed)),
        others=() if joint.position.small_pool else _other_school(joint.rod_school, thin, diameter),
        cautions=_cautions(thin, diameter, pinned is not None),
    )  # fmt: skip


def under_sheet_mm(thin: float) -> float:
    """Rod under sheet, mm: easier to place, more feeding. Common practice."""
    if thin < 0.65:
        return 0.6
    if thin < 0.8:
        return 0.8
    return 1.0 if thin <= 2 else 1.6 if thin <= 3.5 else 2.4


def equals_sheet_mm(thin: float) -> float:
    """Rod equals sheet, mm: the stocked size nearest the sheet, 1.6 already on 1.5. Common practice."""
    sizes = rod_sizes()
    return min((*sizes.spool_mm, *sizes.stocked_mm), key=lambda d: (round(abs(d - thin), 6), -d))


SCHOOLS = {"under-sheet": under_sheet_mm, "equals-sheet": equals_sheet_mm}
_NAMES = {"under-sheet": "rod under sheet", "equals-sheet": "rod equals sheet"}
_COSTS = {
    "under-sheet": "Easier to place and kinder to a small pool; more feeding.",
    "equals-sheet": "Less feeding; a bigger heat sink that chills a small pool.",
}


def deposit_mm2(so_far: SoFar) -> float:
    """Section of the deposit, mm². Estimate.

    Fillet, lap, cope leg²/2 × 1.1 with leg = thinner, 1.5 mm at least; outside corner t²/2; edge 0.25 w t;
    butt and tube 0.25 w t + gap × t.
    """
    t = so_far.section.thin_mm
    width = planned_width_mm(so_far)
    kind = so_far.joint.kind.deposit
    if kind == "fillet":
        return max(LEAST_LEG_MM, t) ** 2 / 2 * 1.1
    if kind == "corner":
        return t**2 / 2
    if kind == "edge":
        return 0.25 * width * t
    return 0.25 * width * t + so_far.joint.gap_mm * t


def _why(school: str, thin: float, diameter: float, pinned: bool) -> Reason:
    if pinned:
        return practice("Rod of {d} set by hand.", d=length(diameter))
    if diameter < 0.9:
        return practice(
            "Below {limit} the rod is wire of {d} cut from a spool of the same class.",
            limit=length(0.8),
            d=length(diameter),
        )
    return practice("{d} rod on {t}: {school}.", d=length(diameter), t=length(thin), school=_NAMES[school])


def _against_gravity(joint: Joint) -> tuple[Reason, ...]:
    if not joint.position.small_pool:
        return ()
    return (
        practice(
            "{position}: always rod under sheet, fed little and often; a thick rod chills the small pool and droops.",
            position=joint.position.name.capitalize(),
        ),
    )


def _feed_reason(area: float, feed: float) -> Reason:
    reason = estimate("deposit-section", "Feeds {feed} of rod, with 15 % for stubs and tacks.", feed=size(feed))
    worked = say("section {a} mm² × seam ÷ rod section × 1.15 = {feed}", a=f"{area:.2f}", feed=size(feed))
    return Reason(reason.sentence, reason.source, reason.mark, "feed = section × length / rod section × 1.15", worked)


def _other_school(school: str, thin: float, diameter: float) -> tuple[Other, ...]:
    other = "equals-sheet" if school == "under-sheet" else "under-sheet"
    theirs = SCHOOLS[other](thin)
    if theirs == diameter:
        return ()
    return (
        Other(say("{d} rod", d=length(theirs)), say("{name}: {cost}", name=_NAMES[other].capitalize(), cost=_COSTS[other]),
              "common-practice", "common-practice", {"rod_school": other}, school="rod"),
    )  # fmt: skip


def _cautions(thin: float, diameter: float, pinned: bool) -> tuple[Caution, ...]:
    if thin < 0.8 and diameter >= 0.9:
        return (
            caution(
                "rod-too-thick",
                "filler",
                "A {d} rod on {t} chills the pool and drops in lumps. Wire cut from a spool, or bare-fit.",
                d=length(diameter),
                t=length(thin),
            ),
        )
    if pinned and diameter > max(1.6, 1.3 * thin):
        return (
            caution(
                "rod-too-thick",
                "filler",
                "A {d} rod is thicker than {t} sheet can melt easily. {better} places better.",
                d=length(diameter),
                t=length(thin),
                better=length(under_sheet_mm(thin)),
            ),
        )
    return ()
