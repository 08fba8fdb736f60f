"""The pool of a pulse in time, integrated on a fine grid of ages with numpy.

Written independently of the product, as a reference.
"""

from __future__ import annotations

import math

import numpy as np

from wisearc.core.joint.section import Section

AMBIENT_C, ETA, VOLTS, SPREAD_MM = 20.0, 0.6, 10.5, 0.8
_AGES = np.geomspace(1e-4, 500.0, 8001)
_ALONG = np.arange(-14.0, 3.0, 0.05)


def rise_k(
    metal: tuple[float, float, float],
    train: tuple[float, float, float, float],
    travel_mm_s: float,
    at_mm: tuple[np.ndarray, float],
    before_peak: bool = False,
) -> np.ndarray:
    """Return the rise along a line beside the seam, K, at the end of a peak or before the next.

    T − T0 = ∫ q·exp(−r²/(4aτ + 2σ²)) / (ρ·c·h·π·(4aτ + 2σ²)) dτ.

    Args:
        metal: k W/mm·K, ρc J/mm³·K and effective thickness mm.
        train: Peak A, background A, frequency 1/s, peak time 0–1.
        travel_mm_s: Travel speed, mm/s.
        at_mm: Distances ahead of the arc, and the distance of the line from the seam, mm.
        before_peak: Whether the moment is the end of the background.
    """
    k, rho_c, h = metal
    peak, background, rate, on = train
    age, step = (_AGES[1:] + _AGES[:-1]) / 2, np.diff(_AGES)
    phase = (age * rate) % 1
    in_peak = phase >= 1 - on if before_peak else phase < on
    watts = ETA * VOLTS * np.where(in_peak, peak, background)
    spread = 4 * k / rho_c * age + 2 * SPREAD_MM**2
    along, offset = at_mm
    square = (along[:, None] + travel_mm_s * age) ** 2 + offset**2
    return (np.exp(-square / spread) * (watts * step / (rho_c * h * math.pi * spread))).sum(axis=1)


def integrated_pool_mm(
    section: Section,
    train: tuple[float, float, float, float],
    travel_mm_s: float,
    before_peak: bool = False,
) -> tuple[float, float]:
    """Return width and length of the pool, mm; see `rise_k`."""
    heat = section.heat
    needed = heat.liquidus_c - AMBIENT_C
    metal = heat.k, heat.rho_c, section.h_mm

    def find_max_rise_k(offset: float) -> float:
        return float(rise_k(metal, train, travel_mm_s, (_ALONG, offset), before_peak).max())

    on_seam = rise_k(metal, train, travel_mm_s, (_ALONG, 0.0), before_peak)
    if on_seam.max() < needed:
        return 0.0, 0.0
    low, high = 0.0, 8.0
    for _ in range(12):
        middle = (low + high) / 2
        low, high = (middle, high) if find_max_rise_k(middle) >= needed else (low, middle)
    melted = _ALONG[on_seam >= needed]
    return 2 * low, float(melted[-1] - melted[0] + 0.05)
