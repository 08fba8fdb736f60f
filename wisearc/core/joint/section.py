"""The joint as geometry and heat see it: thicknesses, arms, seam length, mixed properties.

Effective thickness by arms, thick to thin and the cap of twice the thinner: estimates and common
practice of the trade; see each function.
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
from .joint import Joint, Member


class HeatProperties(Struct, frozen=True):
    """Mean effective properties of the pair: k W/mm·K, rho_c J/mm³·K, a mm²/s, liquidus °C, c_part
    J/kg·K.
    """

    k: Annotated[float, Figure("Conductivity", "plain", positive=True)]
    rho_c: Annotated[float, Figure("Heat capacity", "plain", positive=True)]
    a: Annotated[float, Figure("Diffusivity", "plain", positive=True)]
    liquidus_c: Annotated[float, Figure("Liquidus", "temperature", positive=True)]
    c_part: Annotated[float, Figure("Heat capacity of the part", "plain", positive=True)]


class Side(Struct, frozen=True):
    """A member as it is drawn and named: name of its metal and its kind, form, mm, place among
    chromium and nickel.
    """

    metal: Annotated[str, Figure("Metal")]
    kind: Annotated[str, Figure("Kind of metal")]
    form: Annotated[str, Figure("Form")]
    thickness_mm: Annotated[float, Figure("Thickness", "length", 4, positive=True)]
    diameter_mm: Annotated[float | None, Figure("Outside diameter", "length", 4)]
    cr_eq: Annotated[float, Figure("Chromium equivalent", "plain", 2)]
    ni_eq: Annotated[float, Figure("Nickel equivalent", "plain", 2)]


class Section(Struct, frozen=True, kw_only=True):
    """The joint as it is drawn: its name and shape, sides, angle °, and thicknesses mm (thin,
    thick, reckoned for the current, effective h for heat), seam length mm.
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
        return self.thick_mm / self.thin_mm

    @property
    def unlike(self) -> bool:
        """Whether the two sides differ in thickness enough to melt unevenly (more than a tenth)."""
        return self.ratio > UNLIKE_RATIO


UNLIKE_RATIO = 1.1


def build_section(joint: Joint) -> Section:
    """The section of a joint. Parameters: joint. Returns Section."""
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
        reckoned_mm=reckoned_thickness_mm(thin, thick),
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


def reckoned_thickness_mm(thin_mm: float, thick_mm: float) -> float:
    """Thickness the current is reckoned by, mm: (2·thin + thick)/3, thick up to twice thin. Common
    practice.

    >>> reckoned_thickness_mm(1.5, 1.5), round(reckoned_thickness_mm(1.2, 4.0), 6)
    (1.5, 1.6)
    """
    return (2 * thin_mm + min(thick_mm, 2 * thin_mm)) / 3


def effective_thickness_mm(joint: Joint) -> float:
    """Plate thickness that carries heat as the arms do, mm: the sum of the arms over two. Estimate.

    The second member runs through (two arms) in tee, lap, tube to plate and cope; each arm counts
    up to twice the thinner member; a round bar counts by its diameter; a third member adds an arm.
    """
    thin = min(m.thickness_mm for m in joint.members)
    arms = [min(m.thickness_mm, 2 * thin) for m in joint.members]
    arms += [arms[1]] * (joint.kind.through_arms - 1)
    return sum(arms) / 2


def get_third_arm_factor(joint: Joint) -> float:
    """How much more heat three members take than the first two, as effective thickness; 1 for two.
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
    """Mean effective properties of two metals; the higher liquidus, since both must melt.
    Estimate.
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
    """Length of the seam, mm: as typed, or all round the first member."""
    if not joint.all_round:
        return joint.length.mm
    diameter = joint.members[0].diameter_mm or 0.0
    run = joint.members[1].diameter_mm
    if joint.kind.has("cope") and run:
        return cope_length_mm(diameter / 2, run / 2, joint.angle_deg)
    return math.pi * diameter
