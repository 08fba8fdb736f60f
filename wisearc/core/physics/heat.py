"""Heat in closed form: heat input, power for a pool, peak temperature, thin plate.

Lengths mm, speed mm/s, power W, temperatures °C, k W/mm·K, ρc J/mm³·K, a mm²/s.
"""

from __future__ import annotations

import math

from ..joint.section import HeatProperties

ARC_EFFICIENCY = 0.6
ARC_VOLTAGE_V = 10.5
AMBIENT_C = 20.0
HOT_BAND_C = 450.0
GLOW_C = 525.0
# Above this, carbides grow in stainless steel: published for austenitic steel, from memory.
SENSITISING_C = 600.0


def load_line_v(current_a: float) -> float:
    """Return the conventional load voltage for TIG, V: 10 + 0.04 I; the upper figure.

    References:
        IEC 60974-1.
    """
    return 10 + 0.04 * current_a


def heat_input_kj_mm(voltage_v: float, average_a: float, travel_mm_s: float) -> float:
    """Return the heat input of the average current, kJ/mm: 0.06·V·I / travel (mm/min).

    Args:
        voltage_v: Arc voltage, V.
        average_a: Average current, A.
        travel_mm_s: Travel speed, mm/s.

    References:
        ASME IX QW-409.1.

    >>> round(heat_input_kj_mm(10.5, 40.7, 3.4), 3)
    0.126
    """
    return 0.06 * voltage_v * average_a / (travel_mm_s * 60)


def heat_input_en_kj_mm(voltage_v: float, average_a: float, travel_mm_s: float) -> float:
    """Return the heat input with the arc efficiency of 0.6, kJ/mm.

    Args:
        voltage_v: Arc voltage, V.
        average_a: Average current, A.
        travel_mm_s: Travel speed, mm/s.

    References:
        EN 1011-1.
    """
    return ARC_EFFICIENCY * heat_input_kj_mm(voltage_v, average_a, travel_mm_s)


def net_power_w(voltage_v: float, average_a: float) -> float:
    """Return the power into the sheet, W: η V I with η = 0.6 (EN 1011-1).

    Args:
        voltage_v: Arc voltage, V.
        average_a: Average current, A.
    """
    return ARC_EFFICIENCY * voltage_v * average_a


def power_for_pool_w(p: HeatProperties, h_mm: float, width_mm: float, travel_mm_s: float) -> float:
    """Return the net power for a pool width in thin plate, W.

    The formula is q = 8 k ΔT h (0.2 + v w / 4a), with ΔT from ambient to the liquidus.

    Args:
        p: Heat properties.
        h_mm: Effective thickness, mm.
        width_mm: Pool width, mm.
        travel_mm_s: Travel speed, mm/s.

    References:
        Wells 1952.
    """
    delta_t = p.liquidus_c - AMBIENT_C
    return 8 * p.k * delta_t * h_mm * (0.2 + travel_mm_s * width_mm / (4 * p.a))


def current_for_pool_a(
    p: HeatProperties, h_mm: float, width_mm: float, travel_mm_s: float, voltage_v: float
) -> float:
    """Return the steady current for a pool width, A: I = q / (η V), q by Wells 1952.

    Args:
        p: Heat properties.
        h_mm: Effective thickness, mm.
        width_mm: Pool width, mm.
        travel_mm_s: Travel speed, mm/s.
        voltage_v: Arc voltage, V.
    """
    return power_for_pool_w(p, h_mm, width_mm, travel_mm_s) / (ARC_EFFICIENCY * voltage_v)


def pool_width_mm(p: HeatProperties, h_mm: float, power_w: float, travel_mm_s: float) -> float:
    """Return the pool width for a net power, mm; 0 without melting.

    Inverted Wells 1952.

    Args:
        p: Heat properties.
        h_mm: Effective thickness, mm.
        power_w: Net power, W.
        travel_mm_s: Travel speed, mm/s.
    """
    ratio = power_w / (8 * p.k * (p.liquidus_c - AMBIENT_C) * h_mm)
    return max(0.0, (ratio - 0.2) * 4 * p.a / travel_mm_s)


def cooling_time_s(
    p: HeatProperties, h_mm: float, power_w: float, travel_mm_s: float, from_c: float, to_c: float
) -> float:
    """Return the cooling time of the seam between two temperatures in thin plate, s.

    The formula is t = q² / (4π k ρc v² h²) · (1/(T2−T0)² − 1/(T1−T0)²).

    Args:
        p: Heat properties.
        h_mm: Effective thickness, mm.
        power_w: Net power, W.
        travel_mm_s: Travel speed, mm/s.
        from_c: Higher temperature, °C.
        to_c: Lower temperature, °C.

    References:
        Rosenthal 1941, far behind the arc.
    """
    at = power_w**2 / (4 * math.pi * p.k * p.rho_c * travel_mm_s**2 * h_mm**2)
    return at * (1 / (to_c - AMBIENT_C) ** 2 - 1 / (from_c - AMBIENT_C) ** 2)


def part_rise_k(
    voltage_v: float, current_a: float, arc_time_s: float, mass_g: float, c_part: float
) -> float:
    """Return the mean temperature rise of a small part, K: η V I t / (m c).

    Args:
        voltage_v: Arc voltage, V.
        current_a: Current, A.
        arc_time_s: Arc time, s.
        mass_g: Mass, g.
        c_part: Specific heat, J/kg·K.

    References:
        Estimate: no heat loss.
    """
    return net_power_w(voltage_v, current_a) * arc_time_s / (mass_g * 1e-3 * c_part)
