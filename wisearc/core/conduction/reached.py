"""Whether a changed seam reaches its goal."""

from __future__ import annotations

from .. import catalogue
from .findings import Findings
from .limits import MAX_POOL_SHARE
from .tint import find_tint

# A front up to straw is good: handbook 12.1, common practice.
GOOD_TINT_C = 380.0
# A seam is flatter with this share of its shrinkage force or less: estimate.
FLATTER_SHARE = 0.8
# The pool at the end of the seam, in target widths: below burn-through with a margin.
SAFE_POOL_SHARE = 0.9 * MAX_POOL_SHARE


def is_reached(goal: str, before: Findings, after: Findings, target_mm: float) -> bool:
    """Return whether a changed seam reaches a goal and still fuses.

    Args:
        goal: Key of the goal.
        before: The answers of the seam as planned.
        after: The answers of the changed seam.
        target_mm: Target pool width, mm.
    """
    narrow = after.width_peak_mm < 0.85 * min(before.width_peak_mm, target_mm)
    if not after.fuses or narrow:
        return False
    if goal == "silver":
        return _rank(after.tint_front) <= _rank(find_tint(GOOD_TINT_C)) and not after.burns_through
    if goal == "flat":
        return after.tendon_kn <= FLATTER_SHARE * before.tendon_kn and after is not before
    widths = [width for _, width in after.width_along_mm]
    return max(widths, default=0.0) <= SAFE_POOL_SHARE * target_mm


def _rank(tint: str) -> int:
    return list(catalogue.load_tints()).index(tint)
