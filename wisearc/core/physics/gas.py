"""Shielding gas: the jet from the cup, consumption, cylinder contents.

Flow L/min, bore mm, speed m/s. Properties of argon at 20 °C and 1 atm.
"""

from __future__ import annotations

import math

ARGON_NU_M2_S = 1.34e-5
FLOOR_L_MIN = 10 * 28.316846592 / 60
DRAUGHT_M_S = 0.45
TURBULENT_WARN = 2000.0
TURBULENT_STOP = 2300.0


def flow_l_min(reynolds: float, bore: float) -> float:
    """Return the flow for a Reynolds number in a bore, L/min: Q = π D ν Re / 4.

    Args:
        reynolds: Reynolds number.
        bore: Bore, mm.

    >>> round(flow_l_min(1200, 12.7), 1)
    9.6
    """
    return math.pi * bore * 1e-3 * ARGON_NU_M2_S * reynolds / 4 * 60000


def calculate_reynolds(flow: float, bore: float) -> float:
    """Return the Reynolds number of the jet, vD/ν with ν = 1.34×10⁻⁵ m²/s (reference value).

    Args:
        flow: Flow, L/min.
        bore: Bore, mm.
    """
    return exit_speed_m_s(flow, bore) * bore * 1e-3 / ARGON_NU_M2_S


def exit_speed_m_s(flow: float, bore: float) -> float:
    """Return the mean exit speed, m/s.

    Args:
        flow: Flow, L/min.
        bore: Bore, mm.
    """
    return flow / 60000 / (math.pi * (bore * 1e-3) ** 2 / 4)


def flow_at_speed_l_min(speed_m_s: float, bore: float) -> float:
    """Return the flow for a mean exit speed, L/min: speed × section, by definition.

    Args:
        speed_m_s: Speed, m/s.
        bore: Bore, mm.

    >>> round(flow_at_speed_l_min(exit_speed_m_s(9.5, 12.7), 12.7), 6)
    9.5
    """
    return speed_m_s * math.pi * (bore * 1e-3) ** 2 / 4 * 60000


def consumption_l(
    flow: float, arc_time_s: float, starts: int, preflow_s: float, postflow_s: float
) -> float:
    """Return the argon used by the torch in a run, L: flow × (arc time + starts × (pre + post)).

    Args:
        flow: Flow, L/min.
        arc_time_s: Arc time, s.
        starts: Number of starts.
        preflow_s: Pre-flow, s.
        postflow_s: Post-flow, s.
    """
    return flow * (arc_time_s + starts * (preflow_s + postflow_s)) / 60


# Compressibility of argon at 20 °C, Z = 1 + a p + b p² + c p³ + d p⁴, p absolute bar, to 351 bar,
# fitted to the reference library within 0.0003.
_Z = (-6.79563906e-4, 1.22288063e-6, 5.69810722e-9, -8.97172148e-12)
ATM_BAR = 1.01325


def calculate_compressibility(bar: float) -> float:
    """Return the compressibility factor of argon at 20 °C.

    It is fitted to a reference library within 0.0003.

    Args:
        bar: Absolute pressure, bar, to 351.

    >>> round(1 / calculate_compressibility(201), 2), round(1 / calculate_compressibility(301), 2)
    (1.06, 1.01)
    """
    return 1 + sum(c * bar ** (i + 1) for i, c in enumerate(_Z))


def contents_l(water_l: float, gauge_bar: float) -> float:
    """Return the contents of a cylinder above atmospheric pressure, L at 20 °C and 1 atm.

    Args:
        water_l: Water volume, L.
        gauge_bar: Gauge pressure, bar.

    References:
        The argon of the reference library.

    >>> round(contents_l(50, 200)), contents_l(50, 0)
    (10446, 0.0)
    """
    bar = gauge_bar + ATM_BAR
    return water_l * (
        bar / ATM_BAR * calculate_compressibility(ATM_BAR) / calculate_compressibility(bar) - 1
    )
