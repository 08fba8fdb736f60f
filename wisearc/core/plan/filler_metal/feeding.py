"""The amount of filler, the resulting dilution, and the maximum dilution of the weld metal.

The joint melts a fixed amount of sheet, and more filler dilutes it. Deposit section and dilution by
joint: estimates.
"""

from __future__ import annotations

import math
from functools import lru_cache

from msgspec import Struct

from ...catalogue.rows import Rod
from ...joint.joint import Joint
from ...joint.section import Section
from ...physics.chemistry import (
    ALLOWED_FERRITE_PCT,
    ROOM_C,
    STAINLESS_CR_PCT,
    Analysis,
    calculate_cr_eq,
    calculate_ni_eq,
    ferrite_pct,
    find_max_dilution,
    martensite_start_c,
    mix_weld_metal,
)
from ..arc.need import pool_mm

LEG_OVER = 1.1
MIN_LEG_MM, LEG_MORE_MM = 1.5, 0.5
BEAD_SHARE = 0.25
THROAT_SHARE = 0.7
# With the arc aimed at one side, 70 of 100 parts melt there.
LEAN = 0.3
# The uncertainty of a manual dilution and of the diagram.
DILUTION_SLACK = 0.1
SOFT_C_PCT = 0.03


class Limits(Struct, frozen=True):
    """The maximum dilution of a rod here: half and half, and with the arc towards the worse side.

    None: not calculated.
    """

    even: float | None
    leaning: float | None


class Feed(Struct, frozen=True):
    """The feed: deposit section mm², dilution, fillet leg mm, ratio to the usual deposit."""

    deposit_mm2: float
    dilution: float
    leg_mm: float | None
    more: float


def usual_leg_mm(thin: float) -> float:
    """Return the leg of a fillet on thin sheet, mm: max(t, min(1.5, t + 0.5)).

    Common practice.

    >>> usual_leg_mm(0.5), usual_leg_mm(1.2), usual_leg_mm(3.0)
    (1.0, 1.5, 3.0)
    """
    return max(thin, min(MIN_LEG_MM, thin + LEG_MORE_MM))


def usual_deposit_mm2(joint: Joint, section: Section) -> float:
    """Return the usual deposit section, mm².

    Fillet leg² / 2 × 1.1; outside corner t² / 2; edge 0.25 w t; butt and tube 0.25 w t + gap × t.

    Args:
        joint: The joint.
        section: Its section.

    References:
        Estimate.
    """
    t, kind = section.thin_mm, joint.kind.deposit
    if kind == "fillet":
        return usual_leg_mm(t) ** 2 / 2 * LEG_OVER
    if kind == "corner":
        return t**2 / 2
    bead = BEAD_SHARE * pool_mm(joint, section, bare=False) * t
    return bead if kind == "edge" else bead + joint.gap_mm * t


def plan_feed(joint: Joint, section: Section, limits: Limits) -> Feed:
    """Plan the feed.

    The requested leg, or enough to limit the dilution as far as a welder can, or else the usual.

    Args:
        joint: The joint.
        section: Its section.
        limits: The dilution limits.
    """
    usual, d = usual_deposit_mm2(joint, section), joint.kind.dilution
    melted = usual * d / (1 - d)
    fillet = joint.kind.deposit == "fillet"
    if joint.leg is not None and fillet:
        deposit = joint.leg.mm**2 / 2 * LEG_OVER
    else:
        wanted = d if limits.even is None else max(joint.kind.least_dilution, min(d, limits.even))
        deposit = melted * (1 - wanted) / wanted
    leg = math.sqrt(2 * deposit / LEG_OVER) if fillet else None
    return Feed(deposit, melted / (melted + deposit), leg, deposit / usual)


def find_limits(joint: Joint, rod: Rod | None) -> Limits:
    """Return the maximum dilution at which the weld metal of a rod is acceptable.

    See `is_acceptable_metal`. It is None for a special design, or for carbon steel, which no feed
    makes stainless.

    Args:
        joint: The joint.
        rod: The rod, or None.
    """
    if rod is None or rod.has("braze") or not any(m.stainless for m in joint.pair):
        return Limits(None, None)
    if rod.has("by_design") or rod.kind == "carbon":
        return Limits(None, None)
    sides = (tuple(sorted(joint.analyses[0].items())), tuple(sorted(joint.analyses[1].items())))
    soft = joint.any_metal("ferritic") and all(m.stainless for m in joint.pair)
    return _find_limits(tuple(sorted(rod.analysis.items())), sides, soft)


_Items = tuple[tuple[str, float], ...]


@lru_cache(maxsize=4096)
def _find_limits(rod: _Items, sides: tuple[_Items, _Items], soft: bool) -> Limits:
    rod_analysis, first, second = dict(rod), dict(sides[0]), dict(sides[1])
    austenitic = ferrite_pct(rod_analysis) >= ALLOWED_FERRITE_PCT[0]

    def max_dilution(share: float) -> float:
        return find_max_dilution(
            lambda d: is_acceptable_metal(
                mix_weld_metal(rod_analysis, (first, second), d, share), austenitic, soft
            )
        )

    even = max_dilution(0.5)
    return Limits(
        even, even if first == second else min(max_dilution(LEAN), max_dilution(1 - LEAN))
    )


def is_acceptable_metal(m: Analysis, ferrite: bool, soft: bool) -> bool:
    """Return whether a weld metal is acceptable.

    Stainless, at least 3 % ferrite, no martensite above 20 °C. Ms is used below its nickel range,
    because only the boundary matters. Ferrite is not required above 0.10 nitrogen or 3 manganese.

    Args:
        m: Analysis, wt%.
        ferrite: Whether ferrite is required (not for a rod that is fully austenitic by design).
        soft: Whether a little low-carbon martensite (C at most 0.03 %) is harmless, as in ferritic
            sheet.
    """
    if m.get("Cr", 0.0) < STAINLESS_CR_PCT:
        return False
    needs_ferrite = m.get("N", 0.0) <= 0.10 and m.get("Mn", 0.0) <= 3 and not soft
    if (
        ferrite
        and needs_ferrite
        and 3 * (calculate_cr_eq(m) - 0.93 * calculate_ni_eq(m) - 6.7) < ALLOWED_FERRITE_PCT[0]
    ):
        return False
    return martensite_start_c(m) <= ROOM_C or (soft and m.get("C", 0.0) <= SOFT_C_PCT)
