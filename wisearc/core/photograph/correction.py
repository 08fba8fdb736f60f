"""The shop's own correction of photographs: bead widths by callipers against measured ones."""

from __future__ import annotations

import statistics
from collections.abc import Sequence

from msgspec import Struct

# With fewer beads chance decides. Estimate.
MIN_BEADS = 5
# A difference within this many standard errors can be chance: common practice of statistics.
_SURE = 2.0
# A smaller correction than this is less than callipers show on a bead, mm. Estimate.
MIN_CORRECTION_MM = 0.03
# A difference further than this from the median, mm, is a mistake. Estimate.
_MAX_OFF_MM = 1.0


class WidthPair(Struct, frozen=True):
    """One bead: its width in a photograph without correction, and by callipers, mm."""

    photograph_mm: float
    callipers_mm: float

    @property
    def difference_mm(self) -> float:
        """Return the amount that the photograph lacks, mm."""
        return self.callipers_mm - self.photograph_mm


class Correction(Struct, frozen=True):
    """The correction of a shop.

    Attributes:
        beads: Number of compared beads.
        left_out: Number of beads with an obvious mistake.
        mean_mm: Mean difference of callipers from photographs.
        spread_mm: Standard deviation of the differences.
        width_mm: The correction of a width: the mean, or 0 while it is not certain.
    """

    beads: int = 0
    left_out: int = 0
    mean_mm: float = 0.0
    spread_mm: float = 0.0
    width_mm: float = 0.0


def calculate_correction(pairs: Sequence[WidthPair]) -> Correction:
    """Return the correction that compared beads give.

    Args:
        pairs: The beads.

    References:
        Standard error of a mean: common practice of statistics. The limits are estimates.

    >>> calculate_correction([WidthPair(4.0, 4.1)] * 6).width_mm
    0.1
    """
    if not pairs:
        return Correction()
    middle = statistics.median(pair.difference_mm for pair in pairs)
    kept = [p.difference_mm for p in pairs if abs(p.difference_mm - middle) <= _MAX_OFF_MM]
    mean = statistics.fmean(kept)
    spread = statistics.stdev(kept) if len(kept) > 1 else 0.0
    error = spread / len(kept) ** 0.5
    is_sure = len(kept) >= MIN_BEADS and abs(mean) >= max(MIN_CORRECTION_MM, _SURE * error)
    return Correction(
        len(kept),
        len(pairs) - len(kept),
        round(mean, 3),
        round(spread, 3),
        round(mean, 3) if is_sure else 0.0,
    )
