"""The pulse train and its ripples.

Currents A, fractions 0–1, lengths mm, speed mm/s.
"""

from __future__ import annotations

FLICKER_FROM_PPS = 2.0
FLICKER_TO_PPS = 30.0


def average_a(peak_a: float, background_a: float, on: float) -> float:
    """Return the mean of a square pulse train: peak·on + background·(1−on).

    Args:
        peak_a: Peak, A.
        background_a: Background, A.
        on: Peak time, 0–1.

    >>> average_a(110, 11, 0.3)
    40.7
    """
    return peak_a * on + background_a * (1 - on)


def peak_for_average_a(average: float, background_a: float, on: float) -> float:
    """Return the peak for a mean with a given background, A.

    Args:
        average: Mean, A.
        background_a: Background, A.
        on: Peak time, 0–1.
    """
    return (average - background_a * (1 - on)) / on


def pitch_mm(travel_mm_s: float, rate_pps: float) -> float:
    """Return the ripple pitch, mm: travel speed / frequency.

    Args:
        travel_mm_s: Travel speed, mm/s.
        rate_pps: Pulse frequency, 1/s.
    """
    return travel_mm_s / rate_pps


def overlap_pct(pitch: float, pool_mm: float) -> float:
    """Return the overlap of round pools, %: 1 − pitch / pool length along the seam.

    Args:
        pitch: Pitch, mm.
        pool_mm: Pool length, mm.
    """
    return 100 * (1 - pitch / pool_mm)


def pitch_for_overlap_mm(pool_mm: float, overlap: float) -> float:
    """Return the pitch for an overlap, mm: pool length · (1 − overlap).

    Args:
        pool_mm: Pool length, mm.
        overlap: Overlap, %.
    """
    return pool_mm * (1 - overlap / 100)


def travel_for_overlap_mm_s(rate_pps: float, pool_mm: float, overlap: float) -> float:
    """Return the travel speed for an overlap, mm/s: frequency · width · (1 − overlap).

    Args:
        rate_pps: Pulse frequency, 1/s.
        pool_mm: Pool width, mm.
        overlap: Overlap, %.
    """
    return rate_pps * pool_mm * (1 - overlap / 100)


def is_flickering(rate_pps: float) -> bool:
    """Return whether a frequency is tiring and too fast to follow: above 2, below 30 a second."""
    return FLICKER_FROM_PPS < rate_pps < FLICKER_TO_PPS
