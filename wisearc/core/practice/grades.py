"""Grades: the score of an error, and its tolerance."""

from __future__ import annotations

# Tolerance, and the error beyond it that halves a score. Travel, current, width: relative errors
# (as logarithms); line: target widths beside the seam; dabs: relative error of their times;
# overlap: shares of a pool. Estimates.
TOLERANCES = {
    "travel": (0.04, 0.13),
    "current": (0.03, 0.10),
    "line": (0.07, 0.15),
    "dabs": (0.07, 0.13),
    "width": (0.05, 0.15),
    "overlap": (0.06, 0.15),
}


def grade(error: float, tolerance: float, half: float) -> float:
    """Return the score of an error: 100 within the tolerance, then half for every step beyond.

    Args:
        error: The error.
        tolerance: The largest error with a full score.
        half: The step.

    >>> grade(0.1, 0.1, 0.2), grade(0.3, 0.1, 0.2)
    (100.0, 50.0)
    """
    return float(100.0 * 0.5 ** (max(0.0, error - tolerance) / half))
