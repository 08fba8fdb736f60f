"""Current capacity of tungstens: the tip for a current, by size and grind.

AWS C5.5, from memory.
"""

from __future__ import annotations

from bisect import bisect_right

from ... import catalogue
from ...catalogue.rows import Tip

MIN_TIP_MM, MIN_TIP_TO_A = 1.0, 15.0


def choose_tip(steady: float, peak: float, diameter_mm: float | None = None) -> Tip:
    """Return the smallest tip of 1.6, 2.4 or 3.2 mm that carries the steady and the peak current.

    1.0 mm only to 15 A steady. The last row is returned if none carries them.

    Args:
        steady: Steady current, A.
        peak: Peak, A.
        diameter_mm: Manual diameter, mm, or None.

    References:
        AWS C5.5.
    """
    rows = [t for t in catalogue.load_tips() if diameter_mm in (None, t.diameter_mm)]
    if diameter_mm is None and steady > MIN_TIP_TO_A:
        rows = [t for t in rows if t.diameter_mm > MIN_TIP_MM]
    return next(
        (tip for tip in rows if tip.steady_a[1] >= steady and tip.pulsed_a[1] >= peak), rows[-1]
    )


def carried_a(angle_deg: float) -> tuple[float, float]:
    """Return the capacity of a tip by its included angle, steady and pulsed, A.

    Linear between the rows of AWS C5.5. Estimate.

    >>> carried_a(30), tuple(round(a) for a in carried_a(15))
    ((70.0, 140.0), (21, 38))
    """
    rows = sorted(catalogue.load_tips(), key=lambda t: t.included_angle_deg)
    at = [t.included_angle_deg for t in rows]
    i = min(max(bisect_right(at, angle_deg), 1), len(rows) - 1)
    low, high = rows[i - 1], rows[i]
    share = (angle_deg - at[i - 1]) / (at[i] - at[i - 1])
    steady, pulsed = (
        a + share * (b - a)
        for a, b in ((low.steady_a[1], high.steady_a[1]), (low.pulsed_a[1], high.pulsed_a[1]))
    )
    return steady, pulsed


def can_carry(tip: Tip, steady: float, peak: float) -> bool:
    """Return whether a tip carries a mean and a peak, and is not too large for the mean.

    Args:
        tip: The tip.
        steady: Mean current, A.
        peak: Peak, A.
    """
    minimum = min(t.steady_a[0] for t in catalogue.load_tips() if t.diameter_mm == tip.diameter_mm)
    small = tip.diameter_mm <= MIN_TIP_MM and steady > MIN_TIP_TO_A
    return minimum <= steady <= tip.steady_a[1] and peak <= tip.pulsed_a[1] and not small
