"""Distortion: the pull of a seam, plates that buckle, and an outside corner that bows.

Forces kN, stresses MPa, lengths mm, Young's modulus GPa, heat J/mm.
"""

from __future__ import annotations

import math

from msgspec import Struct

TENDON_KN = 0.2
POISSON = 0.3
MIN_FREE_MM, MAX_FREE_MM = 40.0, 150.0
# The plate coefficient: far edge free, or folded, flanged or joined to another sheet.
FREE_K, JOINED_K = 0.43, 4.0
# The angle that a fillet on one side pulls on thin sheet, °: minimum and maximum, and the net heat
# over thickness squared at which the maximum is reached, J/mm³.
MIN_PULL_DEG, MAX_PULL_DEG, FULL_PULL_J_MM3 = 0.5, 2.0, 100.0


def tendon_kn(net_j_mm: float, times: float = 1.0) -> float:
    """Return the pull of a seam, kN: 0.2 · q/v.

    Args:
        net_j_mm: Net heat input, J/mm.
        times: Factor relative to carbon steel.

    References:
        White and Leggatt, from memory.

    >>> round(tendon_kn(93, 1.25), 2)
    23.25
    """
    return TENDON_KN * net_j_mm * times


def estimate_free_width_mm(seam_mm: float) -> float:
    """Return the width of sheet beside a seam where none is entered, mm.

    Args:
        seam_mm: Length of the seam, mm.

    References:
        Estimate: half as wide as the seam is long, from 40 to 150 mm.
    """
    return max(MIN_FREE_MM, min(MAX_FREE_MM, seam_mm / 2))


def buckling_mpa(
    young_gpa: float, thickness_mm: float, free_mm: float, plate_k: float = FREE_K
) -> float:
    """Return the buckling stress of a sheet next to a seam, MPa: k π² E / (12 (1 − ν²)) (t/b)².

    Args:
        young_gpa: Young's modulus, GPa.
        thickness_mm: Thickness, mm.
        free_mm: Width on one side of the seam, mm.
        plate_k: Coefficient of the far edge.

    References:
        Plate buckling, published; its use for sheet next to a seam is an estimate.

    >>> [round(buckling_mpa(193, 1.59, 150, k), 1) for k in (FREE_K, JOINED_K)]
    [8.4, 78.4]
    """
    shape = plate_k * math.pi**2 / (12 * (1 - POISSON**2))
    return shape * young_gpa * 1e3 * (thickness_mm / free_mm) ** 2


class AngleSection(Struct, frozen=True):
    """Two legs of sheet that meet in a seam.

    Area mm², distance of the seam from the centroid mm, and second moment of area mm⁴ about the
    axis through the centroid across the plane of symmetry.
    """

    area_mm2: float
    centroid_mm: float
    moment_mm4: float


def build_angle_section(leg_mm: float, thickness_mm: float, angle_deg: float) -> AngleSection:
    """Return the section of two equal legs.

    Args:
        leg_mm: Width of each leg, mm.
        thickness_mm: Thickness, mm.
        angle_deg: Angle between the legs, °.

    References:
        Geometry of thin walls.

    >>> section = build_angle_section(75, 1.5, 90)
    >>> round(section.area_mm2), round(section.centroid_mm, 1), round(section.moment_mm4)
    (225, 26.5, 52734)
    """
    along = math.cos(math.radians(angle_deg) / 2)
    return AngleSection(
        2 * leg_mm * thickness_mm,
        leg_mm / 2 * along,
        thickness_mm * leg_mm**3 * along**2 / 6,
    )


def camber_mm(section: AngleSection, force_kn: float, young_gpa: float, length_mm: float) -> float:
    """Return the bow of an angle section by the pull of its seam, mm: F e L² / (8 E I).

    Args:
        section: The section.
        force_kn: Pull of the seam, kN.
        young_gpa: Young's modulus, GPa.
        length_mm: Length, mm.

    References:
        Bending of a beam; estimate.
    """
    curvature = force_kn * 1e3 * section.centroid_mm / (young_gpa * 1e3 * section.moment_mm4)
    return curvature * length_mm**2 / 8


def angular_pull_deg(net_j_mm: float, thickness_mm: float) -> float:
    """Return the angle that a fillet on one side pulls, °.

    It is 0.5 to 2° on thin sheet, and grows with the heat in relation to the thickness.

    Args:
        net_j_mm: Net heat input, J/mm.
        thickness_mm: Thickness of the thinner member, mm.

    References:
        Common practice for the range; estimate between.
    """
    share = min(1.0, net_j_mm / thickness_mm**2 / FULL_PULL_J_MM3)
    return MIN_PULL_DEG + (MAX_PULL_DEG - MIN_PULL_DEG) * share
