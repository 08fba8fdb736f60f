"""Seams for tests of the field of heat."""

from __future__ import annotations

from typing import Any

from wisearc.core.conduction.metal import Metal, build_constant_metal
from wisearc.core.conduction.problem import Arc, Problem, Strip
from wisearc.core.joint.section import HeatProperties
from wisearc.core.physics.heat_in_time import STEADY_ARC, PulseTrain, Sheet

RHO_C = 7500 * 640e-9
AUSTENITIC = HeatProperties(k=0.024, rho_c=RHO_C, a=0.024 / RHO_C, liquidus_c=1450.0, c_part=500.0)
VOLTS, ETA = 10.5, 0.6


def arc(
    peak_a: float = 50.0, travel_mm_s: float = 3.4, train: PulseTrain = STEADY_ARC, **more: Any
) -> Arc:
    """Return an arc that starts at once and goes out at once."""
    return Arc(peak_a, train, travel_mm_s, VOLTS, ETA, **more)


def seam(
    burning: Arc,
    metal: Metal | None = None,
    strips: tuple[Strip, ...] | None = None,
    **more: Any,
) -> Problem:
    """Return a seam of 60 mm in a large sheet of 1.59 mm without bars, cover or losses."""
    values: dict[str, Any] = {
        "length_mm": 60.0,
        "before_mm": 0.0,
        "after_mm": 0.0,
        "closed": False,
        "inset_mm": 0.0,
        "contact_w_mm2k": 0.0,
        "cover_mm": 0.0,
        "jet_w_mm2k": 0.0,
        "back_covered": False,
        "postflow_s": 0.0,
        "start_c": 20.0,
        "interpass_c": 150.0,
        "grid_mm": 0.5,
        "until_c": 60.0,
        "max_after_s": 0.0,
    }
    return Problem(
        sheet=Sheet(AUSTENITIC.k, RHO_C, 1.59, AUSTENITIC.liquidus_c, VOLTS),
        metal=metal or build_constant_metal(AUSTENITIC),
        strips=strips or (Strip(1.59, 120.0, 2),),
        arc=burning,
        **{**values, **more},
    )
