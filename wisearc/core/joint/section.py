"""Geometry of the joint for drawing and heat: thicknesses, arms, seam length, mixed properties.

The effective thickness by arms, thick to thin and the cap of twice the thinner are estimates and
common practice; see each function.
"""

import math
from typing import Annotated

from msgspec import Struct
from msgspec.structs import replace

from .. import catalogue
from ..catalogue.rows import Metal
from ..physics.chemistry import calculate_cr_eq, calculate_ni_eq
from ..schema.figures import Figure
from ..templates.cope import cope_length_mm
from ..templates.plane_cut import mitre_length_mm
from .joint import Joint, Member


class HeatProperties(Struct, frozen=True):
    """Mean effective properties of the two metals.

    They are k W/mm·K, rho_c J/mm³·K, a mm²/s, liquidus °C and c_part J/kg·K.
    """

    k: Annotated[float, Figure("Conductivity", "plain", positive=True)]
    rho_c: Annotated[float, Figure("Heat capacity", "plain", positive=True)]
    a: Annotated[float, Figure("Diffusivity", "plain", positive=True)]
    liquidus_c: Annotated[float, Figure("Liquidus", "temperature", positive=True)]
    c_part: Annotated[float, Figure("Heat capacity of the part", "plain", positive=True)]


class Side(Struct, frozen=True):
    """A member for drawing and labels: metal, kind, form, thickness mm, type of alloy."""

    metal: Annotated[str, Figure("Metal")]
    kind: Annotated[str, Figure("Kind of metal")]
    form: Annotated[str, Figure("Form")]
    thickness_mm: Annotated[float, Figure("Thickness", "length", 4, positive=True)]
    diameter_mm: Annotated[float | None, Figure("Outside diameter", "length", 4)]
    cr_eq: Annotated[float, Figure("Chromium equivalent", "plain", 2)]
    ni_eq: Annotated[float, Figure("Nickel equivalent", "plain", 2)]


class Section(Struct, frozen=True, kw_only=True):
    """The section of a joint.

    It has name, shape, sides, angle °, thicknesses mm (thin, thick, design thickness for the
    current, effective thickness for heat) and seam length mm.
    """

    joint_name: Annotated[str, Figure("Joint")]
    shape: Annotated[str, Figure("Cross-section type")]
    coped: Annotated[bool, Figure("First side coped")]
    all_round: Annotated[bool, Figure("Seam all round")]
    angle_deg: Annotated[float, Figure("Angle", "degrees", positive=True)]
    gap_mm: Annotated[float, Figure("Gap", "length", 4)]
    sides: Annotated[tuple[Side, ...], Figure("Sides", holds=Side)]
    thin_mm: Annotated[float, Figure("Thinner member", "length", 4, positive=True)]
    thick_mm: Annotated[float, Figure("Thicker member", "length", 4, positive=True)]
    reckoned_mm: Annotated[float, Figure("Thickness for the current", "length", 4, positive=True)]
    h_mm: Annotated[float, Figure("Effective thickness", "length", 4, positive=True)]
    third_arm: Annotated[
        float, Figure("Heat into a third member, of two", "plain", 4, positive=True)
    ]
    length_mm: Annotated[float, Figure("Seam", "length", 2, positive=True)]
    heat: Annotated[HeatProperties, Figure("Heat properties", holds=HeatProperties)]
    carbon_sides: Annotated[int, Figure("Sides of carbon steel", "count")]
    stainless_sides: Annotated[int, Figure("Sides of stainless", "count")]

    @property
    def ratio(self) -> float:
        """Return the ratio of the thicknesses, thick to thin."""
        return self.thick_mm / self.thin_mm

    @property
    def unlike(self) -> bool:
        """Return whether the sides differ by more than a tenth in thickness and melt unevenly."""
        return self.ratio > UNLIKE_RATIO

    @property
    def ends_at_edge(self) -> bool:
        """Return whether the seam ends at the edges of its members, and not on a tube or stud."""
        return self.circumference_mm is None

    @property
    def circumference_mm(self) -> float | None:
        """Return the length once round the tube or stud of the seam, mm, or None."""
        if self.all_round:
            return self.length_mm
        tubes = [side for side in self.sides if side.form == "tube" and side.diameter_mm]
        return math.pi * (tubes[0].diameter_mm or 0.0) if tubes else None


UNLIKE_RATIO = 1.1


def build_section(joint: Joint) -> Section:
    """Build the section of a joint."""
    first, second = joint.members[0], joint.members[1]
    sizes = (first.thickness_mm, second.thickness_mm)
    thin, thick = min(sizes), max(sizes)
    return Section(
        joint_name=joint.kind.name,
        shape=joint.kind.shape,
        coped=joint.kind.has("cope"),
        all_round=joint.all_round,
        angle_deg=joint.angle_deg,
        gap_mm=joint.gap_mm,
        sides=tuple(_build_side(m) for m in joint.members),
        thin_mm=thin,
        thick_mm=thick,
        reckoned_mm=design_thickness_mm(thin, thick),
        h_mm=effective_thickness_mm(joint),
        third_arm=get_third_arm_factor(joint),
        length_mm=seam_length_mm(joint),
        heat=mix_properties(first.metal, second.metal),
        carbon_sides=sum(m.kind == "carbon" for m in joint.pair),
        stainless_sides=sum(m.stainless for m in joint.pair),
    )


def _build_side(member: Member) -> Side:
    metal = member.metal
    return Side(
        metal.name,
        metal.kind,
        member.form,
        member.thickness_mm,
        member.diameter_mm,
        calculate_cr_eq(member.analysis),
        calculate_ni_eq(member.analysis),
    )


def design_thickness_mm(thin_mm: float, thick_mm: float) -> float:
    """Return the design thickness for the current, mm: (2·thin + thick)/3, thick up to twice thin.

    Args:
        thin_mm: Thickness of the thinner member, mm.
        thick_mm: Thickness of the thicker member, mm.

    References:
        Common practice.

    >>> design_thickness_mm(1.5, 1.5), round(design_thickness_mm(1.2, 4.0), 6)
    (1.5, 1.6)
    """
    return (2 * thin_mm + min(thick_mm, 2 * thin_mm)) / 3


def effective_thickness_mm(joint: Joint) -> float:
    """Return the plate thickness that conducts heat like the arms, mm: half of the sum of the arms.

    The second member has two arms in a tee, lap, tube to plate and cope. Each arm counts up to
    twice the thinner member, and a round bar by its diameter. A third member adds an arm.

    References:
        Estimate.
    """
    thin = min(m.thickness_mm for m in joint.members)
    arms = [min(m.thickness_mm, 2 * thin) for m in joint.members]
    arms += [arms[1]] * (joint.kind.through_arms - 1)
    return sum(arms) / 2


def get_third_arm_factor(joint: Joint) -> float:
    """Return the heat of three members relative to two, as effective thickness; 1 for two.

    Estimate.
    """
    if len(joint.members) < 3:
        return 1.0
    return max(
        1.0,
        effective_thickness_mm(joint)
        / effective_thickness_mm(replace(joint, members=joint.members[:2])),
    )


def mix_properties(first: Metal, second: Metal) -> HeatProperties:
    """Return mean effective properties of two metals.

    The liquidus is the higher one, because both must melt. Estimate.

    Args:
        first: First metal.
        second: Second metal.
    """
    rows = [catalogue.load_thermals()[m.thermal] for m in (first, second)]
    k = sum(r.k for r in rows) / 2 * 1e-3
    rho_c = sum(r.rho * r.c for r in rows) / 2 * 1e-9
    return HeatProperties(
        k=k,
        rho_c=rho_c,
        a=k / rho_c,
        liquidus_c=max(r.liquidus_c for r in rows),
        c_part=sum(r.c_part for r in rows) / 2,
    )


def seam_length_mm(joint: Joint) -> float:
    """Return the length of the seam, mm, as typed or round a tube or stud."""
    if not joint.all_round:
        return joint.length.mm
    diameter = joint.round_mm
    run = joint.members[1].diameter_mm
    if joint.kind.has("cope") and run:
        return cope_length_mm(diameter / 2, run / 2, joint.angle_deg)
    if joint.kind.has("mitred"):
        return mitre_length_mm(diameter, (180 - joint.angle_deg) / 2)
    return math.pi * diameter
