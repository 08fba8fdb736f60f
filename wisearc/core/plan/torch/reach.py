"""How far the tungsten must reach: as told, as the opening leaves room for the cup, or by the
joint. Geometry; estimates.
"""

from __future__ import annotations

import math

from ...joint.joint import Joint
from ...physics.gas import bore_mm
from ..arc.need import ARC_LENGTH_MM

CUP_WALL_MM = 2.0
PUSHED = 1.07
PAST_REACH_MM = 1.0
LEAST_STICKOUT_MM = 5.0


def outside_mm(cup: int) -> float:
    """Outside diameter of a cup, mm: its bore and 2 mm of wall each side; measure it. Estimate."""
    return bore_mm(cup) + 2 * CUP_WALL_MM


def opening_deg(joint: Joint) -> float | None:
    """How far the joint opens to the torch, °: as told, the angle between the members where it is
    welded inside (the acute side of a tee, the heel of a cope), or None for a seam in the open.
    """
    if joint.opening_deg is not None:
        return joint.opening_deg if joint.opening_deg < 180 else None
    if not joint.kind.has("inner"):
        return None
    both_sides = joint.kind.through_arms > 1
    return min(joint.angle_deg, 180 - joint.angle_deg) if both_sides else joint.angle_deg


def cup_rests_mm(cup: int, opening: float) -> float:
    """Stick-out at which a cup rests on both sides of an opening, torch on the bisector and pushed
    15°, mm: 1.07 r / tan(θ/2) − arc. An upper bound at the heel of a cope. Geometry; estimate of
    the cup's wall.

    >>> round(cup_rests_mm(8, 90), 1)
    7.4
    """
    return PUSHED * outside_mm(cup) / 2 / math.tan(math.radians(opening) / 2) - ARC_LENGTH_MM


def stickout_mm(joint: Joint, cup: int, opening: float | None = None) -> float:
    """Stick-out of the tungsten, mm: pinned; the reach that is told and 1 mm; by the opening; else
    the reach of the joint and 1 mm. Parameters: opening, another than the joint's own.
    """
    if "stickout_mm" in joint.pins:
        return float(joint.pins.get("stickout_mm", 0.0))
    if joint.reach is not None:
        return joint.reach.mm + PAST_REACH_MM
    opens = opening_deg(joint) if opening is None else opening
    if opens is None:
        return joint.kind.reach_mm + PAST_REACH_MM
    return max(LEAST_STICKOUT_MM, cup_rests_mm(cup, opens))
