"""The sources of a field of heat, and its estimates."""

from __future__ import annotations

from ..plan.arc.plan_field import get_part_mass_g
from ..plan.plan import Plan
from ..quantities import length, size, temperature
from ..reasons import Estimate, Published, Reason
from .limits import MAX_POOL_SHARE, MIN_FUSED_SHARE
from .trial import find_free_width_mm


def list_field_reasons(plan: Plan) -> tuple[Reason, ...]:
    """Return the reasons of the field of a plan, with sources and evidence levels.

    Args:
        plan: The plan.
    """
    target = plan.travel.pool_width_mm
    reasons: list[Reason] = [
        Published(
            "en-1993-1-2",
            "Conductivity and specific heat of austenitic and carbon steel vary with temperature, "
            "to {c}.",
            c=temperature(1200.0),
        ),
        Estimate(
            "field-of-heat",
            "Latent heat, hotter metal, ferritic and duplex steel, the arc, the metal of tacks "
            "and the loss to air, argon and bars are estimated.",
        ),
        Estimate(
            "field-limits",
            "A pool below {a} does not fuse the seam, and above {b} it burns through. The target "
            "is {t}.",
            a=size(MIN_FUSED_SHARE * target),
            b=size(MAX_POOL_SHARE * target),
            t=size(target),
        ),
        Published("heat-tint-tables", "The tables give a tint for each temperature."),
        Estimate("tint-growth", "A weld is hot for seconds, and tints less than in the tables."),
    ]
    if get_part_mass_g(plan.joint) is None:
        width = length(find_free_width_mm(plan))
        reasons.append(
            Estimate(
                "free-width",
                "No part size is entered. The sheet counts {w} wide on each side.",
                w=width,
            )
        )
    return tuple(reasons)
