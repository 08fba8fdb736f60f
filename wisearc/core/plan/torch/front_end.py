"""Front end, cup and stick-out for a joint, and the limits of each front end.

Common practice and geometry. Shielding width in bores: estimate.
"""

from __future__ import annotations

import math

from msgspec import Struct

from ... import catalogue
from ...joint.joint import Joint
from ...joint.section import Section
from ...quantities import size
from ...reasons import Practice, Reason
from ..arc.need import ARC_LENGTH_MM

# From this stick-out any draught matters, and beyond the next nobody works, whatever the bore.
DRAUGHT_FROM_MM, MAX_USED_MM = 16.0, 25.0
CAUTION_IN_BORES, MAX_IN_BORES = 1.75, 2.0
BIG_LENS_FROM = 14
PLAIN_STICKOUT_MM = 6.4
MAX_PLAIN_STICKOUT_MM = 9.5
COVER_BORES = {"gas-lens": 1.5, "plain": 1.0}
NAMES = {"gas-lens": "gas lens", "plain": "collet body"}
SHOW_CUPS, STANDARD_CUP, STEEL_CUP = (8, 10, 12), 8, 7
OFFERED_CUPS = (6, 8, 10, 12, 16)
# The approach of a long stick-out from a standard cup.
LONG_REACH = "long"
LONG_SEAM_MM = 150.0
UNCOVERED_FROM_MM = 0.5
SLACK_MM = 1e-9
MM_PER_CUP_NUMBER = 25.4 / 16
CUP_WALL_MM = 2.0
PUSHED = 1.07
PAST_REACH_MM = 1.0
MIN_STICKOUT_MM = 5.0


def bore_mm(cup: int) -> float:
    """Return the bore of a cup, mm: the number in sixteenths of an inch.

    >>> bore_mm(8)
    12.7
    """
    return cup * MM_PER_CUP_NUMBER


def outside_mm(cup: int) -> float:
    """Return the outside diameter of a cup, mm: its bore and a wall of 2 mm; measure it.

    Estimate.
    """
    return bore_mm(cup) + 2 * CUP_WALL_MM


def opening_deg(joint: Joint) -> float | None:
    """Return the opening angle of the joint at the torch, °, or None for an open seam.

    It is as entered, or the angle between the members on the welded side (the acute side of a tee,
    the heel of a cope, the inside of a bend).
    """
    if joint.opening_deg is not None:
        return joint.opening_deg if joint.opening_deg < 180 else None
    if joint.kind.has("mitred"):
        return joint.angle_deg if joint.angle_deg < 180 else None
    if not joint.kind.has("inner"):
        return None
    both_sides = joint.kind.through_arms > 1
    return min(joint.angle_deg, 180 - joint.angle_deg) if both_sides else joint.angle_deg


def cup_rests_mm(cup: int, opening_deg: float) -> float:
    """Return the stick-out of a cup that touches both sides, mm: 1.07 r / tan(θ/2) − arc.

    The torch is on the bisector, pushed by 15°. An upper bound at the heel of a cope.

    Args:
        cup: Number of the cup.
        opening_deg: Opening angle θ, °.

    References:
        Geometry; the cup wall is an estimate.

    >>> round(cup_rests_mm(8, 90), 1)
    7.4
    """
    return PUSHED * outside_mm(cup) / 2 / math.tan(math.radians(opening_deg) / 2) - ARC_LENGTH_MM


def stickout_mm(joint: Joint, cup: int, entered_deg: float | None = None) -> float:
    """Return the stick-out of the tungsten, mm.

    It is manual, or the entered reach plus 1 mm, or by the opening, or the reach of the joint plus
    1 mm.

    Args:
        joint: The joint.
        cup: Number of the cup.
        entered_deg: Another opening than that of the joint, °, or None.
    """
    if "stickout_mm" in joint.pins:
        return float(joint.pins["stickout_mm"])
    if joint.reach is not None:
        return joint.reach.mm + PAST_REACH_MM
    opens = opening_deg(joint) if entered_deg is None else entered_deg
    if opens is None or opens >= 180:
        return joint.kind.reach_mm + PAST_REACH_MM
    return max(MIN_STICKOUT_MM, cup_rests_mm(cup, opens))


def toe_stickout_mm(joint: Joint, cup: int) -> float | None:
    """Return the stick-out at the toe of a cope, mm. The toe opens 180° − θ.

    Args:
        joint: The joint.
        cup: Number of the cup.

    Returns:
        Stick-out, mm; None without a cope or with a stick-out or reach that the user set.
    """
    if not joint.kind.has("cope") or joint.reach is not None or "stickout_mm" in joint.pins:
        return None
    return stickout_mm(joint, cup, 180 - joint.angle_deg)


def cover_mm(front: str, cup: int) -> float:
    """Return the shielding width of a front end with a cup, mm.

    Args:
        front: "gas-lens" (1.5 bores) or "plain" (1 bore).
        cup: Number of the cup.

    References:
        Estimate.
    """
    return COVER_BORES[front] * bore_mm(cup)


class StickoutLimits(Struct, frozen=True):
    """The stick-out limits of a front end, mm: sound up to, caution up to, and the maximum."""

    limit_mm: float
    caution_mm: float
    maximum_mm: float

    def rank(self, stickout: float) -> int:
        """Return the state of a stick-out in mm.

        Returns:
            0 sound, 1 a caution, 2 a strong caution, 3 a stop.
        """
        limits = (self.limit_mm, self.caution_mm, self.maximum_mm)
        return sum(stickout > limit + SLACK_MM for limit in limits)


def find_limits(front: str, cup: int) -> StickoutLimits:
    """Return the stick-out limits of a front end with a cup.

    Collet body: sound to the bore and 6.4 mm, and 9.5 at most. Gas lens: sound to the bore, caution
    to 1.75 bores, strong caution to 2 bores.

    Args:
        front: "gas-lens" or "plain".
        cup: Number of the cup.

    References:
        Common practice.

    >>> find_limits("gas-lens", 8)
    StickoutLimits(limit_mm=12.7, caution_mm=22.224999999999998, maximum_mm=25.4)
    """
    bore = bore_mm(cup)
    if front == "plain":
        return StickoutLimits(
            min(bore, PLAIN_STICKOUT_MM), MAX_PLAIN_STICKOUT_MM, MAX_PLAIN_STICKOUT_MM
        )
    return StickoutLimits(bore, CAUTION_IN_BORES * bore, MAX_IN_BORES * bore)


def rank_stickout(joint: Joint, front: str, cup: int) -> int:
    """Return the state of the stick-out of a cup in a joint: 0 sound to 3 a stop.

    Args:
        joint: The joint.
        front: The front end.
        cup: Number of the cup.
    """
    return find_limits(front, cup).rank(stickout_mm(joint, cup))


def choose_wanted_front_end(joint: Joint, section: Section) -> str:
    """Return the preferred front end.

    A gas lens, or plain for a short reach on invisible carbon steel.

    Args:
        joint: The joint.
        section: Its section.
    """
    short = stickout_mm(joint, joint.pins.get("cup", STEEL_CUP)) <= PLAIN_STICKOUT_MM
    return (
        "plain"
        if section.stainless_sides == 0 and short and joint.finish == "sound"
        else "gas-lens"
    )


def choose_wanted_cup(
    joint: Joint, section: Section, band: float, front: str
) -> tuple[int, Reason]:
    """Return the preferred cup for the hot width, or one with a better reach, with its reason.

    Args:
        joint: The joint.
        section: Its section.
        band: Hot width, mm.
        front: The front end.
    """
    if section.stainless_sides == 0:
        cup, why = STEEL_CUP, "No. 7, the all-round cup for steel."
    elif joint.finish == "show":
        cup = next((c for c in SHOW_CUPS if cover_mm(front, c) >= band), SHOW_CUPS[-1])
        why = (
            "No. {c}: the smallest that shields the hot width for show work."
            if cover_mm(front, cup) >= band
            else "No. {c}, the widest for a whole seam. No. 14 to 16 use too much argon."
        )
    else:
        cup, why = STANDARD_CUP, "No. {c}: with a gas lens, the default for stainless."
    if joint.kind.has("splits_gas"):
        cup = next((c for c in catalogue.load_cups() if c > cup), cup)
        why = "No. {c}: an edge splits the gas stream, so one size larger."
    if rank_stickout(joint, front, cup):
        cup = _choose_reaching_cup(joint, front, cup)
        why = (
            "No. {c}: the smallest whose stick-out of {s} is within 1.75 bores, for still air."
            if joint.reach_school == LONG_REACH and front == "gas-lens"
            else "No. {c}: this cup shields the stick-out of {s} best."
        )
    return cup, Practice(why, c=cup, s=size(stickout_mm(joint, cup)))


def _choose_reaching_cup(joint: Joint, front: str, wanted: int) -> int:
    """Return the cup for a stick-out beyond the bore of the preferred cup.

    With a lens it is never smaller than no. 8, and only grows as an opening closes: its bore covers
    the stick-out that a no. 8 needs. For a long reach it is the smallest within 1.75 bores. With a
    collet body it is the cup with the smallest excess.
    """
    cups = list(catalogue.load_cups())
    if front == "plain":
        return min(cups, key=lambda c: (rank_stickout(joint, front, c), abs(c - wanted)))
    cups = [c for c in cups if c >= max(wanted, STANDARD_CUP)]
    if joint.reach_school == LONG_REACH:
        return next(
            (c for rank in (1, 2) for c in cups if rank_stickout(joint, front, c) <= rank),
            cups[-1],
        )
    needed_mm = stickout_mm(joint, STANDARD_CUP)
    return next((c for c in cups if bore_mm(c) >= needed_mm - SLACK_MM), cups[-1])
