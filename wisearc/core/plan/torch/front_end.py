"""Front end, cup and stick-out for a joint, and the limits of each front end.

Common practice and geometry. Shielding width in bores: estimate.
"""

from __future__ import annotations

import math

from ... import catalogue
from ...joint.joint import Joint
from ...joint.section import Section
from ...quantities import size
from ...reasons import Practice, Reason
from ..arc.need import ARC_LENGTH_MM

MAX_LENS_STICKOUT_MM = 16.0
LENS_CAUTION_MM = 19.0
BIG_LENS_CAUTION_MM = 25.0
BIG_LENS_FROM = 14
CAUTION_IN_BORES = 1.5
PLAIN_STICKOUT_MM = 6.4
MAX_PLAIN_STICKOUT_MM = 9.5
COVER_BORES = {"gas-lens": 1.5, "plain": 1.0}
NAMES = {"gas-lens": "gas lens", "plain": "collet body"}
SHOW_CUPS, STANDARD_CUP, STEEL_CUP = (8, 10, 12), 8, 7
OFFERED_CUPS = (6, 8, 10, 12, 16)
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
    the heel of a cope).
    """
    if joint.opening_deg is not None:
        return joint.opening_deg if joint.opening_deg < 180 else None
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
    if opens is None:
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


def limits_mm(front: str, cup: int) -> tuple[float, float]:
    """Return the recommended and the maximum stick-out, mm.

    Plain: the bore up to 6.4, and 9.5. Gas lens: the bore up to 16, and 1.5 bores up to 19 (25 from
    no. 14).

    Args:
        front: "gas-lens" or "plain".
        cup: Number of the cup.

    References:
        Common practice.
    """
    bore = bore_mm(cup)
    if front == "plain":
        return min(bore, PLAIN_STICKOUT_MM), MAX_PLAIN_STICKOUT_MM
    maximum = BIG_LENS_CAUTION_MM if cup >= BIG_LENS_FROM else LENS_CAUTION_MM
    return min(bore, MAX_LENS_STICKOUT_MM), min(CAUTION_IN_BORES * bore, maximum)


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
    if stickout_mm(joint, cup) > limits_mm(front, cup)[0] + SLACK_MM:
        wanted = cup
        cup = min(
            catalogue.load_cups(), key=lambda c: (*beyond_mm(joint, front, c), abs(c - wanted))
        )
        why = "No. {c}: this cup suits the stick-out of {s} best."
    return cup, Practice(why, c=cup, s=size(stickout_mm(joint, cup)))


def beyond_mm(joint: Joint, front: str, cup: int) -> tuple[float, float]:
    """Return the excess of a stick-out over its maximum and over the recommended limit, mm.

    Args:
        joint: The joint.
        front: The front end.
        cup: Number of the cup.
    """
    out, (limit_mm, maximum) = stickout_mm(joint, cup), limits_mm(front, cup)
    return max(0.0, out - maximum), max(0.0, out - limit_mm)
