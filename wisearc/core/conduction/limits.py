"""Where a pool no longer fuses or burns through, and from when a field differs from its plan."""

from __future__ import annotations

from ..plan.arc.slow_pulse import CALCULATED_SHARE
from ..plan.arc.travel import MAX_DEVIATION

# Where a manual pool would get a strong caution, in target widths: the seam does not fuse below
# the first and burns through above the second. A calculated pool is narrower than a real one, so
# only the first has the share of the calculation. Estimate "field-limits".
MIN_FUSED_SHARE, MAX_POOL_SHARE = CALCULATED_SHARE * (1 - MAX_DEVIATION), 1 + MAX_DEVIATION
# A smaller difference between a field and its plan is not shown.
DIFFERS_BY = 0.15
# A stop in the middle of a seam, to move the hand, the rod or a bar: common practice, no source.
RESTART_AFTER_S = 10.0
