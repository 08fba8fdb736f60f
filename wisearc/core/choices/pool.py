"""The pool and the arc the plan aims for."""

from __future__ import annotations

from ..joint import Joint
from ..section import Section

ARC_LENGTH_MM = 1.5
POOL_LEAST_MM = 2.0
POOL_IN_T = 2.2
SMALL_POOL_IN_T = 2.0
SMALL_POOL_MOST_MM = 5.0


def pool_width_mm(joint: Joint, section: Section) -> float:
    """Pool width aimed for, mm: max(2.0, 2.2 t); against gravity no wider than 2 t or 5 mm. Estimate."""
    t = section.reckoned_mm
    width = max(POOL_LEAST_MM, POOL_IN_T * t)
    if joint.position.small_pool:
        width = min(width, max(POOL_LEAST_MM, SMALL_POOL_IN_T * t), SMALL_POOL_MOST_MM)
    return width
