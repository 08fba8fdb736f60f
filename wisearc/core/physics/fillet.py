"""The energy balance of a fillet: leg, deposit, melted sheet, dilution, pool and travel speed.

Lengths mm, sections mm², power W, speed mm/s. The thickness is that of the thinner member. The arc
heats the deposit and the melted sheet to liquid, and the rest of its heat is lost. Estimate.
"""

from __future__ import annotations

import math

MIN_LEG_MM, LEG_IN_T, LEG_MORE_MM = 1.2, 1.4, 0.8
# The longest leg in thicknesses that more filler makes for the weld metal.
MAX_LEG_IN_T = 1.6
REINFORCEMENT = 1.1
PENETRATION_IN_T, MIN_PENETRATION_MM, MAX_PENETRATION_MM = 0.25, 0.2, 0.6
TOE_MM = 0.4
FACE_IN_LEGS, POOL_OVER_FACE_MM = 1.41, 0.8
# From cold to liquid, J/mm³ of steel.
MELTING_J_MM3 = 9.2
# The share of the heat that melts metal: complete from the second value, and no less below the
# third, because the heat flow in thinner sheet does not ask for a slower arc.
MELTING_EFFICIENCY, FULL_EFFICIENCY_MM, MIN_EFFICIENCY_MM = 0.27, 1.5, 0.8


def default_leg_mm(thickness_mm: float) -> float:
    """Return the leg of a fillet on thin sheet, mm: max(1.2, min(1.4 t, t + 0.8)).

    >>> [round(default_leg_mm(t), 2) for t in (0.8, 1.5, 3.0)]
    [1.2, 2.1, 3.8]
    """
    return max(MIN_LEG_MM, min(LEG_IN_T * thickness_mm, thickness_mm + LEG_MORE_MM))


def max_leg_mm(thickness_mm: float) -> float:
    """Return the longest leg that more filler makes for the weld metal, mm: 1.6 t."""
    return max(default_leg_mm(thickness_mm), MAX_LEG_IN_T * thickness_mm)


def deposit_section_mm2(leg_mm: float) -> float:
    """Return the section of the deposit, mm²: 1.1 leg² / 2."""
    return REINFORCEMENT * leg_mm**2 / 2


def leg_for_deposit_mm(deposit_mm2: float) -> float:
    """Return the leg of a deposit section, mm."""
    return math.sqrt(2 * deposit_mm2 / REINFORCEMENT)


def melted_section_mm2(leg_mm: float, thickness_mm: float) -> float:
    """Return the section of the melted sheet, mm²: 2 p (leg + 0.4), p = 0.25 t within 0.2 to 0.6.

    Args:
        leg_mm: Leg, mm.
        thickness_mm: Thickness of the thinner member, mm.
    """
    penetration = min(MAX_PENETRATION_MM, max(MIN_PENETRATION_MM, PENETRATION_IN_T * thickness_mm))
    return 2 * penetration * (leg_mm + TOE_MM)


def fillet_dilution(leg_mm: float, thickness_mm: float) -> float:
    """Return the share of melted sheet in the weld metal.

    Args:
        leg_mm: Leg, mm.
        thickness_mm: Thickness of the thinner member, mm.

    >>> [round(fillet_dilution(leg, 1.5), 2) for leg in (2.1, 2.4, 3, 4)]
    [0.44, 0.4, 0.34, 0.27]
    """
    melted = melted_section_mm2(leg_mm, thickness_mm)
    return melted / (melted + deposit_section_mm2(leg_mm))


def leg_for_dilution_mm(dilution: float, thickness_mm: float) -> float:
    """Return the leg at which the melted sheet has a share of the weld metal, mm.

    The share falls with the leg: 1.1 leg² / 2 = (1/d − 1) · 2 p (leg + 0.4), a quadratic equation.

    Args:
        dilution: The share, above 0.
        thickness_mm: Thickness of the thinner member, mm.
    """
    slope = (1 / dilution - 1) * melted_section_mm2(1 - TOE_MM, thickness_mm)
    half = slope / REINFORCEMENT
    return half + math.sqrt(half * half + 2 * half * TOE_MM)


def fillet_pool_mm(leg_mm: float) -> float:
    """Return the pool width of a fillet, mm: its face, 1.41 leg, and 0.8 mm."""
    return FACE_IN_LEGS * leg_mm + POOL_OVER_FACE_MM


def melting_efficiency(thickness_mm: float) -> float:
    """Return the share of the heat in the sheet that melts metal.

    It is 0.27 from 1.5 mm, and falls with the thickness to 0.14 at 0.8 mm and below.
    """
    share = max(MIN_EFFICIENCY_MM, thickness_mm) / FULL_EFFICIENCY_MM
    return MELTING_EFFICIENCY * min(1.0, share)


def fillet_travel_mm_s(power_w: float, leg_mm: float, thickness_mm: float) -> float:
    """Return the travel speed at which an arc melts the section of a fillet, mm/s.

    Args:
        power_w: Power into the work, W.
        leg_mm: Leg, mm.
        thickness_mm: Thickness of the thinner member, mm.

    >>> round(fillet_travel_mm_s(0.6 * 10 * 62, 2.1, 1.5), 1)
    2.5
    """
    section = deposit_section_mm2(leg_mm) + melted_section_mm2(leg_mm, thickness_mm)
    return melting_efficiency(thickness_mm) * power_w / (MELTING_J_MM3 * section)


def feed_mm_min(deposit_mm2: float, travel_mm_s: float, rod_mm: float) -> float:
    """Return the feed of a rod for a deposit, mm/min.

    Args:
        deposit_mm2: Section of the deposit, mm².
        travel_mm_s: Travel speed, mm/s.
        rod_mm: Diameter of the rod, mm.
    """
    return 60 * deposit_mm2 * travel_mm_s / (math.pi * rod_mm**2 / 4)
