"""The coped cut: a round branch on a round run.

Geometry, exact. Frame: the axis of the run is X. The axis of the branch leans over +X by the angle
θ in the plane X–Z, with the offset e along Y. φ goes round the branch from the acute side (φ = 0)
by +Y (φ = 90°). z is measured from the axis of the run outward along the branch.
"""

from __future__ import annotations

import itertools
import math


def cope_height_mm(
    branch_r: float, run_r: float, angle_deg: float, phi: float, offset: float = 0.0
) -> float:
    """Return the height of the coped cut at φ, mm.

    The formula is z(φ) = (√(R² − (r sin φ + e)²) + r / cos φ cos θ) / sin θ.

    Args:
        branch_r: Radius of the branch, mm.
        run_r: Radius of the run, mm.
        angle_deg: Angle θ, °.
        phi: Position φ, rad.
        offset: Offset e, mm.

    References:
        Geometry, exact.

    >>> round(cope_height_mm(10, 20, 90, 0), 3)
    20.0
    """
    theta = math.radians(angle_deg)
    across = branch_r * math.sin(phi) + offset
    return (
        math.sqrt(max(0.0, run_r**2 - across**2)) + branch_r * math.cos(phi) * math.cos(theta)
    ) / math.sin(theta)


def seat_height_mm(
    outer_r: float, inner_r: float, run_r: float, angle_deg: float, phi: float, offset: float = 0.0
) -> float:
    """Return the maximum height between the inside and the outside of the wall at φ, mm.

    A square saw cut seats on it. z is concave in the radius ρ, so the maximum is at slope zero, at
    (ρ sin φ + e) = R k / √(1 + k²) with k = cos φ cos θ / sin φ, or at the nearer face of the wall.

    Args:
        outer_r: Outside radius, mm.
        inner_r: Inside radius, mm.
        run_r: Radius of the run, mm.
        angle_deg: Angle θ, °.
        phi: Position φ, rad.
        offset: Offset e, mm.

    References:
        Geometry, exact.

    >>> seat = seat_height_mm(12.5, 11.3, 25.5, 90, math.pi / 2)
    >>> round(seat, 3) == round(cope_height_mm(11.3, 25.5, 90, math.pi / 2), 3)
    True
    """
    heights = max(cope_height_mm(r, run_r, angle_deg, phi, offset) for r in (outer_r, inner_r))
    across = math.sin(phi)
    if abs(across) < 1e-12:
        return heights
    k = math.cos(phi) * math.cos(math.radians(angle_deg)) / across
    within = (run_r * k / math.sqrt(1 + k * k) - offset) / across
    return (
        max(heights, cope_height_mm(within, run_r, angle_deg, phi, offset))
        if inner_r < within < outer_r
        else heights
    )


def cope_length_mm(
    branch_r: float, run_r: float, angle_deg: float, offset: float = 0.0, steps: int = 180
) -> float:
    """Return the length of the saddle seam, mm, as a polygon on the outside of the branch.

    Args:
        branch_r: Outside radius of the branch, mm.
        run_r: Radius of the run, mm.
        angle_deg: Angle θ, °.
        offset: Offset e, mm.
        steps: Number of sides.

    References:
        Geometry.
    """
    points = []
    for i in range(steps + 1):
        phi = 2 * math.pi * i / steps
        z = cope_height_mm(branch_r, run_r, angle_deg, phi, offset)
        points.append((branch_r * math.cos(phi), branch_r * math.sin(phi), z))
    return sum(math.dist(p, q) for p, q in itertools.pairwise(points))


def opening_at_deg(
    branch_r: float, run_r: float, angle_deg: float, phi: float, offset: float = 0.0
) -> float:
    """Return the opening between branch and run at φ, °, on the welded side.

    It is 180° less the angle between the outward normals of the two surfaces: θ at the heel (φ = 0)
    and 180° − θ at the toe (φ = π).

    Args:
        branch_r: Outside radius of the branch, mm.
        run_r: Radius of the run, mm.
        angle_deg: Angle θ, °.
        phi: Position φ, rad.
        offset: Offset e, mm.

    References:
        Geometry, exact.

    >>> [round(opening_at_deg(10, 20, 60, phi)) for phi in (0, math.pi / 2, math.pi)]
    [60, 120, 120]
    """
    across = branch_r * math.sin(phi) + offset
    up = math.sqrt(max(0.0, run_r**2 - across**2))
    cosine = (
        across * math.sin(phi) - up * math.cos(phi) * math.cos(math.radians(angle_deg))
    ) / run_r
    return 180 - math.degrees(math.acos(max(-1.0, min(1.0, cosine))))


def hole_point_mm(
    radius: float, run_r: float, angle_deg: float, phi: float, offset: float = 0.0
) -> tuple[float, float]:
    """Return the point at which a tube meets the outside of the run, (mm, rad).

    The coordinates are along the run from the crossing of the axes towards the acute side, and the
    angle round the run from its crest.

    Args:
        radius: Radius of the tube, mm.
        run_r: Radius of the run, mm.
        angle_deg: Angle θ, °.
        phi: Position φ, rad.
        offset: Offset e, mm.

    References:
        Geometry, exact.

    >>> (
    ...     [round(v, 3) for v in hole_point_mm(10, 20, 90, 0)],
    ...     round(hole_point_mm(10, 20, 90, math.pi / 2)[1], 4),
    ... )
    ([10.0, 0.0], 0.5236)
    """
    theta = math.radians(angle_deg)
    z = cope_height_mm(radius, run_r, angle_deg, phi, offset)
    along = z * math.cos(theta) + radius * math.cos(phi) * math.sin(theta)
    return along, math.asin(max(-1.0, min(1.0, (radius * math.sin(phi) + offset) / run_r)))


def max_offset_mm(branch_r: float, run_r: float) -> float:
    """Return the maximum offset at which the branch seats all round, mm.

    Negative: the branch is wider than the run.

    Args:
        branch_r: Radius of the branch, mm.
        run_r: Radius of the run, mm.

    References:
        Geometry.
    """
    return run_r - branch_r
