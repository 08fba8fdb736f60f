"""Which joints a photograph can measure: bead and card must lie in one plane."""

from __future__ import annotations

import math

from ..errors import InputError
from ..joint.joint import Joint

# Within this angle of its crown a tube is flat enough. Estimate "photograph": its surface falls by
# 3.4 % of the radius, and a length along the seam looks 1.2 % shorter.
MAX_CROWN_DEG = 15.0
COOL_FIRST = "Wait until the metal is cool enough to touch. Hot metal burns you and curls the card."
VALIDATED = (
    "Tested on rendered photographs only, not on real welds. Measure a coupon with callipers, and "
    "compare, before you rely on these figures."
)
CROWN_ONLY = (
    "Only the top of the tube is measured, within 15° of its crown. Lay the middle of the card on "
    "the crown."
)


def check_suitable(joint: Joint) -> None:
    """Check that a photograph can measure the bead of a joint.

    Args:
        joint: The joint.

    Raises:
        InputError: Its bead is not in one plane with a card.
    """
    kind = joint.kind
    if not (kind.has("flat_bead") or kind.has("crown_bead")):
        raise InputError(
            "joint",
            kind.name,
            "cannot be measured in a photograph: its bead and the metal beside it are not in one "
            "plane. Butts, edges, flat laps, outside corners and the top of a tube butt can",
        )


def find_half_length_mm(joint: Joint) -> float | None:
    """Return the measured length on each side of the card's middle, or None: the complete seam.

    Args:
        joint: The joint.

    References:
        Geometry: the chord of a circle.
    """
    if not joint.kind.has("crown_bead"):
        return None
    diameters = [m.diameter_mm for m in joint.members if m.diameter_mm is not None]
    if not diameters:
        return None
    return min(diameters) / 2 * math.sin(math.radians(MAX_CROWN_DEG))
