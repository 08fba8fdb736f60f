"""Rosenthal's thin plate, written independently of the product.

Closed form and fine sum, as a reference.
"""

from __future__ import annotations

import math

import numpy as np
from scipy.special import kve

from wisearc.core.physics.heat_field import Field

AMBIENT_C = 20.0


def rosenthal_c(field: Field, x_mm: float, y_mm: float) -> float:
    """Return T − T0 = q/(2πkh)·exp(−vx/2a)·K0(vr/2a), °C, in an open plate.

    Rosenthal, D., 1941.
    """
    half, r = field.travel_mm_s / (2 * field.a), math.hypot(x_mm, y_mm)
    rise = field.power_w / (2 * math.pi * field.k * field.h_mm)
    return float(AMBIENT_C + rise * math.exp(-half * (x_mm + r)) * kve(0, half * r))


def stopped_by_sum_c(field: Field, back_mm: float, after_s: float) -> float:
    """Return the temperature behind the stop, °C.

    A fine sum over the age of the heat, cold walls as 60 mirrors on each side.
    """
    u = np.linspace(math.log(after_s), math.log(after_s + 3000), 1200)
    age = np.exp(u)
    distance = 0.0 if field.wall_mm is None else 2 * field.wall_mm * np.arange(-60, 61)[:, None]
    sign = 1.0 if field.wall_mm is None else np.where(np.arange(-60, 61) % 2, -1.0, 1.0)[:, None]
    laid = np.square(field.travel_mm_s * (age - after_s) - back_mm)
    bits = sign * np.exp(-(laid + np.square(distance)) / (4 * field.a * age))
    rise = field.power_w / (4 * math.pi * field.k * field.h_mm)
    return float(AMBIENT_C + rise * np.trapezoid(np.atleast_2d(bits).sum(axis=0), u))
