"""A round tube cut by a plane: the mitre of two tubes, the foot of a tube on a plate. Geometry,
exact.

φ goes round the tube from the acute side (a mitre's inner side); z is measured along the tube's
axis outward from where the axis meets the plane.
"""

from __future__ import annotations

import math


def plane_height_mm(radius: float, slope_deg: float, phi: float) -> float:
    """Height of the cut at φ (rad), mm: r cos φ / tan of the angle between the tube's axis and the
    plane. Geometry, exact.

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
    """The angle between each tube's axis and the plane of a mitre, °: half of that between the
    tubes. Geometry, exact.
    """
    return angle_deg / 2


def ellipse_mm(radius: float, slope_deg: float) -> tuple[float, float]:
    """The half axes of the ellipse that a tube cuts out of a plane, along its lean and across, mm.
    Geometry, exact.

    >>> [round(v, 3) for v in ellipse_mm(10, 30)]
    [20.0, 10.0]
    """
    return radius / math.sin(math.radians(slope_deg)), float(radius)


def ellipse_round_mm(long: float, short: float) -> float:
    """The perimeter of an ellipse by its half axes, mm, by arithmetic and geometric means (Gauss).
    Geometry, exact to rounding.

    >>> round(ellipse_round_mm(1, 1), 9), round(ellipse_round_mm(2, 1), 6)
    (6.283185307, 9.688448)
    """
    a, b, part, left = long, short, 1.0, (long * long + short * short) / 2
    while a - b > 1e-9 * a:
        a, b, apart = (a + b) / 2, math.sqrt(a * b), (a - b) / 2
        left, part = left - part * apart * apart, part * 2
    return 4 * math.pi * left / (a + b)
