"""The coped cut: a round branch that seats on a round run. Geometry, exact.

Frame: the run's axis is X; the branch's axis leans over +X by the angle θ in the plane X–Z and
stands off the run's by the offset e along Y. φ goes round the branch from the acute side (φ = 0),
by +Y (φ = 90°); z is measured from the run's axis outward along the branch's.
"""

from __future__ import annotations

import itertools
import math


def cope_height_mm(
    branch_r: float, run_r: float, angle_deg: float, phi: float, offset: float = 0.0
) -> float:
    """Height of the coped cut at φ (rad) round the branch, mm: z(φ) = (√(R² − (r sin φ + e)²) + r
    cos φ cos θ) / sin θ. Geometry, exact.

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
    """The largest height from the inside of the wall to its outside at φ (rad), mm: a square saw
    cut seats by it. Geometry, exact.

    z is concave in the radius ρ, so it is largest where its slope is nought, at (ρ sin φ + e) = R k
    / √(1 + k²) with k = cos φ cos θ / sin φ, or at the nearer face of the wall.

    >>> seat = seat_height_mm(12.5, 11.3, 25.5, 90, math.pi / 2)
    >>> round(seat, 3) == round(cope_height_mm(11.3, 25.5, 90, math.pi / 2), 3)
    True
    """
    faces = max(cope_height_mm(r, run_r, angle_deg, phi, offset) for r in (outer_r, inner_r))
    across = math.sin(phi)
    if abs(across) < 1e-12:
        return faces
    k = math.cos(phi) * math.cos(math.radians(angle_deg)) / across
    within = (run_r * k / math.sqrt(1 + k * k) - offset) / across
    return (
        max(faces, cope_height_mm(within, run_r, angle_deg, phi, offset))
        if inner_r < within < outer_r
        else faces
    )


def cope_length_mm(
    branch_r: float, run_r: float, angle_deg: float, offset: float = 0.0, steps: int = 180
) -> float:
    """Length of the saddle seam, mm, as a polygon of `steps` sides on the branch's outside.
    Geometry.
    """
    points = []
    for i in range(steps + 1):
        phi = 2 * math.pi * i / steps
        z = cope_height_mm(branch_r, run_r, angle_deg, phi, offset)
        points.append((branch_r * math.cos(phi), branch_r * math.sin(phi), z))
    return sum(math.dist(p, q) for p, q in itertools.pairwise(points))


def hole_point_mm(
    radius: float, run_r: float, angle_deg: float, phi: float, offset: float = 0.0
) -> tuple[float, float]:
    """Where a tube of a radius meets the run's outside at φ (rad): along the run from where the
    axes pass, towards the acute side, and the angle round the run from its crest, (mm, rad).
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


def offset_most_mm(branch_r: float, run_r: float) -> float:
    """How far a branch may stand off its run's axis and still seat all round, mm; below 0: it is
    wider than its run. Geometry.
    """
    return run_r - branch_r
