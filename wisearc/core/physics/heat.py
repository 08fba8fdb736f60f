"""Heat in closed form: heat input, power for a pool, peak temperature, thin plate at large.

Lengths mm, speed mm/s, power W, temperatures °C, k W/mm·K, ρc J/mm³·K, a mm²/s.
"""

from __future__ import annotations

import math
from collections.abc import Iterable

from ..joint.section import HeatProperties

ARC_EFFICIENCY = 0.6
ARC_VOLTAGE_V = 10.5
AMBIENT_C = 20.0
HOT_BAND_C = 450.0
GLOW_C = 525.0


def load_line_v(current_a: float) -> float:
    """Conventional load voltage for TIG, V: 10 + 0.04 I; the upper figure. Source: IEC 60974-1."""
    return 10 + 0.04 * current_a


def heat_input_kj_mm(voltage_v: float, average_a: float, travel_mm_s: float) -> float:
    """Heat input, kJ/mm, of the average current: 0.06·V·I / travel (mm/min). Source: ASME IX
    QW-409.1.

    >>> round(heat_input_kj_mm(10.5, 40.7, 3.4), 3)
    0.126
    """
    return 0.06 * voltage_v * average_a / (travel_mm_s * 60)


def heat_input_en_kj_mm(voltage_v: float, average_a: float, travel_mm_s: float) -> float:
    """Heat input with the arc efficiency of 0.6 applied, kJ/mm. Source: EN 1011-1."""
    return ARC_EFFICIENCY * heat_input_kj_mm(voltage_v, average_a, travel_mm_s)


def net_power_w(voltage_v: float, average_a: float) -> float:
    """Power that enters the sheet, W: η V I with η = 0.6 (EN 1011-1)."""
    return ARC_EFFICIENCY * voltage_v * average_a


def power_for_pool_w(p: HeatProperties, h_mm: float, width_mm: float, travel_mm_s: float) -> float:
    """Net power that keeps a pool of a given width in thin plate, W.

    q = 8 k ΔT h (0.2 + v w / 4a), ΔT from ambient to the liquidus. Source: Wells 1952.
    """
    delta_t = p.liquidus_c - AMBIENT_C
    return 8 * p.k * delta_t * h_mm * (0.2 + travel_mm_s * width_mm / (4 * p.a))


def current_for_pool_a(
    p: HeatProperties, h_mm: float, width_mm: float, travel_mm_s: float, voltage_v: float
) -> float:
    """Steady current for a pool of a given width, A: I = q / (η V), q by Wells 1952."""
    return power_for_pool_w(p, h_mm, width_mm, travel_mm_s) / (ARC_EFFICIENCY * voltage_v)


def pool_width_mm(p: HeatProperties, h_mm: float, power_w: float, travel_mm_s: float) -> float:
    """Pool width that a net power keeps, mm; 0 where it melts nothing. Wells 1952 turned round."""
    ratio = power_w / (8 * p.k * (p.liquidus_c - AMBIENT_C) * h_mm)
    return max(0.0, (ratio - 0.2) * 4 * p.a / travel_mm_s)


def peak_temperatures_c(
    p: HeatProperties, h_mm: float, power_w: float, travel_mm_s: float, beside_mm: Iterable[float]
) -> tuple[float, ...]:
    """Peak temperatures at distances from the pool's edge in thin plate, °C.

    1/(Tp−T0) = √(2πe)·ρc h v y / q + 1/(Tm−T0). Source: Adams 1958.
    """
    slope, at_edge = _ADAMS * p.rho_c * h_mm * travel_mm_s / power_w, 1 / (p.liquidus_c - AMBIENT_C)
    return tuple(AMBIENT_C + 1 / (slope * y + at_edge) for y in beside_mm)


def distance_to_peak_mm(
    p: HeatProperties, h_mm: float, power_w: float, travel_mm_s: float, peak_c: float
) -> float:
    """Distance from the pool's edge where the peak temperature is peak_c, mm. Adams 1958 turned
    round.
    """
    rise = 1 / (peak_c - AMBIENT_C) - 1 / (p.liquidus_c - AMBIENT_C)
    return max(0.0, rise * power_w / (_ADAMS * p.rho_c * h_mm * travel_mm_s))


_ADAMS = math.sqrt(2 * math.pi * math.e)


def cooling_time_s(
    p: HeatProperties, h_mm: float, power_w: float, travel_mm_s: float, from_c: float, to_c: float
) -> float:
    """Time the seam cools from one temperature to a lower one in thin plate, s.

    t = q² / (4π k ρc v² h²) · (1/(T2−T0)² − 1/(T1−T0)²). Source: Rosenthal 1941, far behind the
    arc.
    """
    at = power_w**2 / (4 * math.pi * p.k * p.rho_c * travel_mm_s**2 * h_mm**2)
    return at * (1 / (to_c - AMBIENT_C) ** 2 - 1 / (from_c - AMBIENT_C) ** 2)


def part_rise_k(
    voltage_v: float, current_a: float, arc_time_s: float, mass_g: float, c_part: float
) -> float:
    """Mean temperature rise of a small part, K: η V I t / (m c). Estimate: nothing is lost."""
    return net_power_w(voltage_v, current_a) * arc_time_s / (mass_g * 1e-3 * c_part)
