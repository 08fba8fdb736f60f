"""The amount of filler, the resulting dilution, and the maximum dilution of the weld metal.

A fillet has the dilution of its leg. Elsewhere the joint melts a fixed amount of sheet, and more
filler dilutes it. Deposit section and dilution by joint: estimates.
"""

from __future__ import annotations

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
from ...physics.fillet import (
    default_leg_mm,
    deposit_section_mm2,
    fillet_dilution,
    leg_for_dilution_mm,
    max_leg_mm,
)
from ..arc.need import in_line_pool_mm

BEAD_SHARE = 0.25
THROAT_SHARE = 0.7
# With the arc aimed at one side, 70 of 100 parts melt there.
LEAN = 0.3
# The shift of the shares from half and half, complete from this ratio of the thicknesses: an
# estimate, so that a small step of thickness makes a small step of the shares.
MAX_SHARE_SHIFT, FULL_SHIFT_RATIO = 0.2, 1.25
# The uncertainty of a manual dilution and of the diagram.
DILUTION_SLACK = 0.1
SOFT_C_PCT = 0.03


class CornerFit(Struct, frozen=True):
    """The fit of an outside corner.

    Groove relative to the open one (0: a bead over a closed edge), and throat in thicknesses with
    and without filler.
    """

    groove: float
    throat: float
    bare_throat: float


# An open groove is a square of the sheet, filled to a chamfer: half of it, and √½ t of throat. Half
# open has half the groove. Flush has none, and the pool melts about half of the covered edge.
# Without filler the edges sink. Estimates.
CORNER_FITS = {
    "edge-to-edge": CornerFit(1.0, 0.71, 0.6),
    "half-open": CornerFit(0.5, 0.6, 0.5),
    "flush": CornerFit(0.0, 0.5, 0.4),
}


class Limits(Struct, frozen=True):
    """The maximum dilution of a rod here.

    Half and half, with the arc towards the worse side, and in the design case of the joint: the
    worst of the shares that its thicknesses make likely. None: not calculated.
    """

    even: float | None
    leaning: float | None
    design: float | None


NO_LIMITS = Limits(None, None, None)


class Feed(Struct, frozen=True):
    """The feed: deposit section mm², dilution, fillet leg mm, ratio to the usual deposit."""

    deposit_mm2: float
    dilution: float
    leg_mm: float | None
    more: float


def list_shares(joint: Joint, section: Section) -> tuple[float, ...]:
    """Return the judged shares of the first member in the melted sheet, the design case first.

    Half and half for equal thicknesses. Two thirds of the arc are on the thicker side, so 70 parts
    of 100 melt there: with steel the thicker side that is the design case. Other unequal pairs are
    judged at both shares and half and half.

    Args:
        joint: The joint.
        section: Its section.

    References:
        Estimate.
    """
    first, second = joint.pair
    shift = min(1.0, (section.ratio - 1) / (FULL_SHIFT_RATIO - 1))
    lean = round(MAX_SHARE_SHIFT * shift, 4)
    if not lean or first.family == second.family:
        return (0.5,)
    shares = (0.5, 0.5 - lean, 0.5 + lean)
    if not is_steel_thicker(joint):
        return shares
    towards_first = not first.stainless
    return (0.5 + lean, 0.5) if towards_first else (0.5 - lean, 0.5)


def is_steel_thicker(joint: Joint) -> bool:
    """Return whether a carbon-steel member is the thicker side of a stainless member."""
    a, b = joint.members[:2]
    if a.metal.stainless == b.metal.stainless:
        return False
    steel, stainless = (a, b) if b.metal.stainless else (b, a)
    return steel.thickness_mm > stainless.thickness_mm


def usual_deposit_mm2(joint: Joint, section: Section) -> float:
    """Return the usual deposit section, mm².

    Fillet 1.1 leg² / 2; outside corner t² / 2, less where it is closed; edge 0.25 w t; butt and
    tube 0.25 w t + gap × t.

    Args:
        joint: The joint.
        section: Its section.

    References:
        Estimate.
    """
    t, kind = section.thin_mm, joint.kind.deposit
    if kind == "fillet":
        return deposit_section_mm2(default_leg_mm(t))
    groove = CORNER_FITS[joint.corner_fit].groove if kind == "corner" else 0.0
    if groove:
        return groove * t**2 / 2
    bead = BEAD_SHARE * in_line_pool_mm(joint, section, bare=False) * t
    return bead if kind in ("edge", "corner") else bead + joint.gap_mm * t


def corner_throat_mm(joint: Joint, section: Section, bare: bool) -> float | None:
    """Return the throat of an outside corner by its fit, mm, or None for another joint.

    Args:
        joint: The joint.
        section: Its section.
        bare: Whether the weld is autogenous.

    References:
        Estimate, by the section of the corner.
    """
    if not joint.kind.has("fitted"):
        return None
    fit = CORNER_FITS[joint.corner_fit]
    return section.thin_mm * (fit.bare_throat if bare else fit.throat)


def plan_feed(joint: Joint, section: Section, limits: Limits) -> Feed:
    """Plan the feed.

    The requested leg, or enough to limit the dilution as far as a welder can, or else the usual.

    Args:
        joint: The joint.
        section: Its section.
        limits: The dilution limits.
    """
    if joint.kind.deposit == "fillet":
        return _plan_fillet(joint, section.thin_mm, limits.design)
    usual, d = usual_deposit_mm2(joint, section), joint.kind.dilution
    melted = usual * d / (1 - d)
    wanted = d if limits.design is None else max(joint.kind.least_dilution, min(d, limits.design))
    deposit = melted * (1 - wanted) / wanted
    return Feed(deposit, melted / (melted + deposit), None, deposit / usual)


def _plan_fillet(joint: Joint, thin: float, limit: float | None) -> Feed:
    """Return the feed of a fillet.

    A leg from the usual one to 1.6 t, so that the dilution stays below the limit. Lengths mm.
    """
    usual = default_leg_mm(thin)
    if joint.leg is not None:
        leg = joint.leg.mm
    elif limit is None or limit <= 0:
        leg = usual if limit is None else max_leg_mm(thin)
    else:
        leg = min(max_leg_mm(thin), max(usual, leg_for_dilution_mm(limit, thin)))
    deposit = deposit_section_mm2(leg)
    return Feed(deposit, fillet_dilution(leg, thin), leg, deposit / deposit_section_mm2(usual))


def find_limits(joint: Joint, section: Section, rod: Rod | None) -> Limits:
    """Return the maximum dilution at which the weld metal of a rod is acceptable.

    See `is_acceptable_metal`. It is None for a special design, or for carbon steel, which no feed
    makes stainless.

    Args:
        joint: The joint.
        section: Its section.
        rod: The rod, or None.
    """
    if rod is None or rod.has("braze") or not any(m.stainless for m in joint.pair):
        return NO_LIMITS
    if rod.has("by_design") or rod.kind == "carbon":
        return NO_LIMITS
    sides = (tuple(sorted(joint.analyses[0].items())), tuple(sorted(joint.analyses[1].items())))
    soft = joint.any_metal("ferritic") and all(m.stainless for m in joint.pair)
    shares = list_shares(joint, section)
    return _find_limits(tuple(sorted(rod.analysis.items())), sides, soft, shares)


_Items = tuple[tuple[str, float], ...]


@lru_cache(maxsize=4096)
def _find_limits(
    rod: _Items, sides: tuple[_Items, _Items], soft: bool, shares: tuple[float, ...]
) -> Limits:
    rod_analysis, first, second = dict(rod), dict(sides[0]), dict(sides[1])
    austenitic = ferrite_pct(rod_analysis) >= ALLOWED_FERRITE_PCT[0]

    def max_dilution(share: float) -> float:
        return find_max_dilution(
            lambda d: is_acceptable_metal(
                mix_weld_metal(rod_analysis, (first, second), d, share), austenitic, soft
            )
        )

    even = max_dilution(0.5)
    if first == second:
        return Limits(even, even, even)
    leaning = min(max_dilution(LEAN), max_dilution(1 - LEAN))
    return Limits(even, leaning, min(max_dilution(share) for share in shares))


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
