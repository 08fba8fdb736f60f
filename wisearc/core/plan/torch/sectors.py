"""The torch by sector of the seam: heel, side and toe of a cope, or the clock on a fixed tube.

The opening of a cope changes round the branch, and with it stick-out, torch angle and current.
"""

import math
from collections.abc import Callable
from typing import Annotated

from msgspec import Struct

from ... import catalogue
from ...joint.joint import Joint
from ...joint.section import Section
from ...schema.figures import Figure
from ...templates.cope import opening_at_deg
from ..arc.need import acute_factor
from ..preparation.technique import torch_angle_deg
from .front_end import opening_deg, stickout_mm

# The position factors of a fixed tube by the clock, common practice.
CLOCK_FACTORS = {
    "bottom, 6 o'clock": 0.95,
    "sides, 3 and 9 o'clock": 0.9,
    "top, 12 o'clock": 1.0,
}
SQUARE_DEG, STRAIGHT_DEG = 90.0, 180.0


class Sector(Struct, frozen=True):
    """A sector of a seam.

    Its place, the stick-out mm, the torch angle to the branch or tube °, the unpulsed current A.
    """

    place: Annotated[str, Figure("Sector")]
    stickout_mm: Annotated[float, Figure("Stick-out", "size", 2, positive=True)]
    torch_angle_deg: Annotated[float, Figure("Torch angle", "degrees", 0)]
    current_a: Annotated[float, Figure("Unpulsed current", "current", 1, positive=True)]


def list_sectors(joint: Joint, section: Section, cup: int, steady_a: float) -> tuple[Sector, ...]:
    """Return the sectors of a cope, a mitre or a fixed tube, or none.

    Args:
        joint: The joint.
        section: Its section.
        cup: Number of the cup.
        steady_a: Unpulsed current of the plan, A.
    """
    if joint.kind.has("cope"):
        return tuple(_list_cope_sectors(joint, cup, steady_a))
    if joint.kind.has("mitred") and joint.angle_deg < STRAIGHT_DEG:
        return tuple(_list_mitre_sectors(joint, cup, steady_a))
    if joint.position.has("fixed_tube"):
        return tuple(
            Sector(
                place,
                stickout_mm(joint, cup),
                torch_angle_deg(joint, section),
                steady_a / joint.position.current_factor * factor,
            )
            for place, factor in CLOCK_FACTORS.items()
        )
    return ()


def _list_cope_sectors(joint: Joint, cup: int, steady_a: float) -> list[Sector]:
    """Return heel, side and toe of a cope. A branch at 90° has two equal ends."""
    heel = opening_deg(joint) or joint.angle_deg
    branch, run = ((m.diameter_mm or 0.0) / 2 for m in joint.members[:2])
    side = opening_at_deg(branch, run, joint.angle_deg, math.pi / 2)
    toe = STRAIGHT_DEG - joint.angle_deg
    places = [("heel", heel), ("side", side), ("toe", toe)]
    if abs(joint.angle_deg - SQUARE_DEG) < 0.5 and joint.opening_deg is None:
        places = [("crown", heel), ("side", side)]
    factor = find_opening_factor(joint)
    return [
        Sector(
            place,
            stickout_mm(joint, cup, opening),
            opening / 2,
            steady_a * factor(opening) / factor(heel),
        )
        for place, opening in places
    ]


def _list_mitre_sectors(joint: Joint, cup: int, steady_a: float) -> list[Sector]:
    """Return the inside, the sides and the outside of a mitred bend."""
    inside = opening_deg(joint) or joint.angle_deg
    return [
        Sector(
            "inside of the bend",
            stickout_mm(joint, cup, inside),
            inside / 2,
            steady_a * (acute_factor(inside) if inside < SQUARE_DEG else 1.0),
        ),
        Sector("sides", stickout_mm(joint, cup, STRAIGHT_DEG), SQUARE_DEG, steady_a),
        Sector("outside of the bend", stickout_mm(joint, cup, STRAIGHT_DEG), SQUARE_DEG, steady_a),
    ]


def find_opening_factor(joint: Joint) -> Callable[[float], float]:
    """Return the current relative to a square opening, as a function of the opening in °.

    More metal lies close to the arc in an acute opening. From square to flat the joint becomes a
    butt of tubes, linearly.

    Args:
        joint: The joint.

    References:
        Estimate from the joint factors of common practice.
    """
    butt = next(
        kind
        for kind in catalogue.load_joint_kinds().values()
        if kind.has("in_line") and kind.has("closed_back")
    )
    flat = butt.current_factor / joint.kind.current_factor

    def factor(opening: float) -> float:
        if opening <= SQUARE_DEG:
            return acute_factor(opening)
        return 1 + (flat - 1) * (opening - SQUARE_DEG) / (STRAIGHT_DEG - SQUARE_DEG)

    return factor
