"""The heat field of a plan: its arc in the sheet, the bars and the end of the sheet."""

from __future__ import annotations

from ...joint.section import Section
from ...physics.heat import (
    ARC_VOLTAGE_V,
    SENSITISING_C,
    net_power_w,
)
from ...physics.heat_field import (
    COOLED_FACES_W_MM2K,
    TAPER_S,
    Field,
    face_loss_1_s,
    find_inset_mm,
    tails_mm,
    wall_distance_mm,
)
from ...physics.peak_profile import PeakProfile, build_peak_profile
from ...schema.json_types import JsonObject
from ..shielding.back import Back
from .pulse import Pulse
from .travel import Travel


def get_part_mass_g(joint: JsonObject) -> float | None:
    """Return the mass of the part in the data of a joint, g, or None.

    Args:
        joint: The joint of a new or saved plan.
    """
    mass = joint.get("part_mass_g")
    return float(mass) if isinstance(mass, int | float) and mass else None


def build_heat_field(section: Section, back: Back, travel: Travel, pulse: Pulse) -> Field:
    """Return the heat field of a new or saved plan.

    Args:
        section: The section.
        back: The root cover.
        travel: The travel speed.
        pulse: The pulse.
    """
    power = net_power_w(ARC_VOLTAGE_V, pulse.average_a)
    loss = face_loss_1_s(section.heat.rho_c, section.reckoned_mm, COOLED_FACES_W_MM2K)
    at_edge = section.ends_at_edge
    return Field(
        power,
        travel.speed_mm_s,
        section.h_mm,
        section.heat.k,
        section.heat.a,
        _find_cold_wall(section, back),
        loss,
        find_inset_mm(travel.pool_width_mm, section.length_mm) if at_edge else None,
        TAPER_S if at_edge else 0.0,
    )


def build_plan_profile(
    section: Section, back: Back, power_w: float, travel_mm_s: float, pool_mm: float
) -> PeakProfile:
    """Return the peak temperatures beside the seam of a new or saved plan.

    Args:
        section: The section.
        back: The root cover.
        power_w: Net power, W.
        travel_mm_s: Travel speed, mm/s.
        pool_mm: Pool width, mm.
    """
    wall = _find_cold_wall(section, back)
    return build_peak_profile(section.heat, section.h_mm, power_w, travel_mm_s, pool_mm, wall)


def calculate_over_600_s(section: Section, back: Back, travel: Travel, pulse: Pulse) -> float:
    """Return how long a place of the seam is above 600 °C, s, for a new or saved plan.

    Args:
        section: The section.
        back: The root cover.
        travel: The travel speed.
        pulse: The pulse.

    References:
        Rosenthal 1941. Bars: estimate.
    """
    (tail,) = tails_mm(build_heat_field(section, back, travel, pulse), (SENSITISING_C,))
    return tail / travel.speed_mm_s


def _find_cold_wall(section: Section, back: Back) -> float | None:
    """Return the cold wall of chill bars, mm from the seam, or None.

    Estimate.
    """
    if not back.barred:
        return None
    return wall_distance_mm(
        back.bar_from_seam_mm, section.heat.k, section.h_mm, back.contact_w_mm2k
    )
