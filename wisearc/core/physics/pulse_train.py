"""The pulse train and the ripple it leaves. Currents A, fractions 0–1, lengths mm, speed mm/s."""

from __future__ import annotations

FLICKER_FROM_PPS = 2.0
FLICKER_TO_PPS = 30.0


def average_a(peak_a: float, background_a: float, on: float) -> float:
    """Mean of a square pulse train: peak·on + background·(1−on).

    >>> average_a(110, 11, 0.3)
    40.7
    """
    return peak_a * on + background_a * (1 - on)


def peak_for_average_a(average: float, background_a: float, on: float) -> float:
    """Peak that keeps a mean with a given background, A."""
    return (average - background_a * (1 - on)) / on


def pitch_mm(travel_mm_s: float, rate_pps: float) -> float:
    """Ripple pitch, mm: travel / rate."""
    return travel_mm_s / rate_pps


def overlap_pct(pitch: float, pool_mm: float) -> float:
    """Overlap of round pools, %: 1 − pitch / pool length along the seam."""
    return 100 * (1 - pitch / pool_mm)


def travel_for_overlap_mm_s(rate_pps: float, pool_mm: float, overlap: float) -> float:
    """Travel that leaves a wanted overlap (%), mm/s: rate · width · (1 − overlap)."""
    return rate_pps * pool_mm * (1 - overlap / 100)


def is_flickering(rate_pps: float) -> bool:
    """Whether a rate tires the eye and no hand keeps time with it: more than 2, less than 30 a
    second.
    """
    return FLICKER_FROM_PPS < rate_pps < FLICKER_TO_PPS
