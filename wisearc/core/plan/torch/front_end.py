"""Front end, cup and stick-out for a joint, and the limits of each front end. Common practice and
geometry; shielding width in bores: estimate.
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
PLAIN_SOUND_MM = 6.4
MAX_PLAIN_STICKOUT_MM = 9.5
COVER_BORES = {"gas-lens": 1.5, "plain": 1.0}
NAMES = {"gas-lens": "gas lens", "plain": "collet body"}
SHOW_CUPS, SOUND_CUP, STEEL_CUP = (8, 10, 12), 8, 7
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
    """Bore of a cup, mm: the number in sixteenths of an inch.

    >>> bore_mm(8)
    12.7
    """
    return cup * MM_PER_CUP_NUMBER


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
        return float(joint.pins["stickout_mm"])
    if joint.reach is not None:
        return joint.reach.mm + PAST_REACH_MM
    opens = opening_deg(joint) if opening is None else opening
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
    """Sound stick-out and the most before it is refused, mm. Common practice.

    Plain: to the bore and 6.4, refused past 9.5. Lens: to the bore and 16; to 1.5 bores and 19, 25
    from no. 14.
    """
    bore = bore_mm(cup)
    if front == "plain":
        return min(bore, PLAIN_SOUND_MM), MAX_PLAIN_STICKOUT_MM
    most = BIG_LENS_CAUTION_MM if cup >= BIG_LENS_FROM else LENS_CAUTION_MM
    return min(bore, MAX_LENS_STICKOUT_MM), min(CAUTION_IN_BORES * bore, most)


def choose_wanted_front_end(joint: Joint, section: Section) -> str:
    """Gas lens or plain: the lens but for a short reach on carbon steel that is not looked at."""
    short = stickout_mm(joint, joint.pins.get("cup", STEEL_CUP)) <= PLAIN_SOUND_MM
    return (
        "plain"
        if section.stainless_sides == 0 and short and joint.finish == "sound"
        else "gas-lens"
    )


def choose_wanted_cup(
    joint: Joint, section: Section, band: float, front: str
) -> tuple[int, Reason]:
    """The cup for what is to be covered, or another that reaches in better."""
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
        cup, why = SOUND_CUP, "No. {c}: with a gas lens, the default for stainless."
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
    """How far a cup's stick-out lies past its most, and past what is sound, mm."""
    out, (sound, most) = stickout_mm(joint, cup), limits_mm(front, cup)
    return max(0.0, out - most), max(0.0, out - sound)
