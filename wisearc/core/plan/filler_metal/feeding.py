"""How much rod is fed, the dilution that leaves, and the greatest dilution the weld metal stands.

What a joint melts of its own stays as it is; more rod thins it. Section of deposit and dilution by
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
    ROOM_C,
    SOUND_FERRITE_PCT,
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
# the arc leaning to the other side: it melts 70 of 100 parts there
LEAN = 0.3
# what a hand's dilution and the diagram are good to
DILUTION_SLACK = 0.1
SOFT_C_PCT = 0.03


class Limits(Struct, frozen=True):
    """The greatest dilution a rod stands here: half and half, and with the arc leaning to the worse
    side. None: nothing to reckon.
    """

    even: float | None
    leaning: float | None


class Feed(Struct, frozen=True):
    """What is fed: section of the deposit mm², the dilution it leaves, leg mm of a fillet, how many
    times the usual deposit.
    """

    deposit_mm2: float
    dilution: float
    leg_mm: float | None
    more: float


def usual_leg_mm(thin: float) -> float:
    """Leg of a fillet on thin sheet, mm: max(t, min(1.5, t + 0.5)). Common practice.

    >>> usual_leg_mm(0.5), usual_leg_mm(1.2), usual_leg_mm(3.0)
    (1.0, 1.5, 3.0)
    """
    return max(thin, min(MIN_LEG_MM, thin + LEG_MORE_MM))


def usual_deposit_mm2(joint: Joint, section: Section) -> float:
    """Section of the deposit where nothing asks for more, mm²: fillet leg² / 2 × 1.1; outside
    corner t² / 2; edge 0.25 w t; butt and tube 0.25 w t + gap × t. Estimate.
    """
    t, kind = section.thin_mm, joint.kind.deposit
    if kind == "fillet":
        return usual_leg_mm(t) ** 2 / 2 * LEG_OVER
    if kind == "corner":
        return t**2 / 2
    bead = BEAD_SHARE * pool_mm(joint, section, bare=False) * t
    return bead if kind == "edge" else bead + joint.gap_mm * t


def plan_feed(joint: Joint, section: Section, limits: Limits) -> Feed:
    """What to feed: the leg that is asked, else as much as brings the dilution under what the weld
    metal stands, as far as a hand can; else the usual.
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
    """The greatest dilution at which a rod's weld metal still holds here; see `is_sound`. None
    for a rod of its own design, or of carbon steel, which no feeding makes stainless.
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
    austenitic = ferrite_pct(rod_analysis) >= SOUND_FERRITE_PCT[0]

    def greatest(share: float) -> float:
        return find_max_dilution(
            lambda d: is_sound(
                mix_weld_metal(rod_analysis, (first, second), d, share), austenitic, soft
            )
        )

    even = greatest(0.5)
    return Limits(even, even if first == second else min(greatest(LEAN), greatest(1 - LEAN)))


def is_sound(m: Analysis, ferrite: bool, soft: bool) -> bool:
    """Whether a weld metal is sound: stainless, ferrite 3 % at least, no martensite above 20 °C.

    Parameters: ferrite, whether it is asked (not of a rod that is fully austenitic by design);
    soft, whether a little martensite low in carbon (0.03 % or less) does no harm, as in ferritic
    sheet. Ms is used past its window of nickel here, for it is only the edge that is sought;
    ferrite is not asked above 0.10 nitrogen or 3 manganese.
    """
    if m.get("Cr", 0.0) < STAINLESS_CR_PCT:
        return False
    reckoned = m.get("N", 0.0) <= 0.10 and m.get("Mn", 0.0) <= 3 and not soft
    if (
        ferrite
        and reckoned
        and 3 * (calculate_cr_eq(m) - 0.93 * calculate_ni_eq(m) - 6.7) < SOUND_FERRITE_PCT[0]
    ):
        return False
    return martensite_start_c(m) <= ROOM_C or (soft and m.get("C", 0.0) <= SOFT_C_PCT)
