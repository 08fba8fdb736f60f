"""A round tube cut by a plane: the mitre of two tubes, the foot of a tube on a plate.

Geometry, exact. φ goes round the tube from the acute side (the inside of a mitre). z is measured
along the tube axis, outward from its intersection with the plane.
"""

from __future__ import annotations

import math


def plane_height_mm(radius: float, slope_deg: float, phi: float) -> float:
    """Return the height of the cut at φ, mm.

    R cos φ / tan of the angle between tube axis and plane.

    Args:
        radius: Radius, mm.
        slope_deg: Angle between tube axis and plane, °.
        phi: Position φ, rad.

    References:
        Geometry, exact.

    >>> round(plane_height_mm(10, 45, 0), 6), round(plane_height_mm(10, 90, 0), 6)
    (10.0, 0.0)
    """
    return (
        radius
        * math.cos(phi)
        * math.cos(math.radians(slope_deg))
        / math.sin(math.radians(slope_deg))
    )


def mitre_slope_deg(angle_deg: float) -> float:
    """Return the angle between each tube axis and the plane of a mitre, °.

    Half of the angle between the tubes. Geometry, exact.
    """
    return angle_deg / 2


def ellipse_mm(radius: float, slope_deg: float) -> tuple[float, float]:
    """Return the half axes of the ellipse of a tube in a plane, along its lean and across, mm.

    Args:
        radius: Radius, mm.
        slope_deg: Angle between tube axis and plane, °.

    References:
        Geometry, exact.

    >>> [round(v, 3) for v in ellipse_mm(10, 30)]
    [20.0, 10.0]
    """
    return radius / math.sin(math.radians(slope_deg)), float(radius)


def mitre_length_mm(diameter_mm: float, from_square_deg: float) -> float:
    """Return the length of a mitre seam, mm: the perimeter of the ellipse of its cut.

    Args:
        diameter_mm: Outside diameter, mm.
        from_square_deg: Angle between the cut and a square cut, °.

    References:
        Geometry, exact to rounding.

    >>> round(mitre_length_mm(42.4, 45)), round(mitre_length_mm(42.4, 0), 1)
    (162, 133.2)
    """
    return ellipse_round_mm(*ellipse_mm(diameter_mm / 2, 90 - from_square_deg))


def ellipse_round_mm(long: float, short: float) -> float:
    """Return the perimeter of an ellipse, mm, by arithmetic and geometric means (Gauss).

    Args:
        long: Half axis, mm.
        short: Other half axis, mm.

    References:
        Geometry, exact to rounding.

    >>> round(ellipse_round_mm(1, 1), 9), round(ellipse_round_mm(2, 1), 6)
    (6.283185307, 9.688448)
    """
    a, b, part, left = long, short, 1.0, (long * long + short * short) / 2
    while a - b > 1e-9 * a:
        a, b, apart = (a + b) / 2, math.sqrt(a * b), (a - b) / 2
        left, part = left - part * apart * apart, part * 2
    return 4 * math.pi * left / (a + b)
