"""Rosenthal's closed form for the thin plate, written apart from the product: what its quadrature is held against."""

from __future__ import annotations

import math

from scipy.special import kve

from wisearc.core.heat_field import Field

AMBIENT_C = 20.0


def rosenthal_c(field: Field, x_mm: float, y_mm: float) -> float:
    """T − T0 = q/(2πkh)·exp(−vx/2a)·K0(vr/2a), °C, in an open plate. Rosenthal, D., 1941."""
    half, r = field.travel_mm_s / (2 * field.a), math.hypot(x_mm, y_mm)
    rise = field.power_w / (2 * math.pi * field.k * field.h_mm)
    return float(AMBIENT_C + rise * math.exp(-half * (x_mm + r)) * kve(0, half * r))
