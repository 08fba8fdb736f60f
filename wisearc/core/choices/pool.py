"""The pool the plan aims for."""

from __future__ import annotations

from .so_far import SoFar


def planned_width_mm(so_far: SoFar) -> float:
    """Pool width aimed for, mm: max(2.0, 2.2 t); against gravity no wider than 2 t or 5 mm. Estimate."""
    t = so_far.section.reckoned_mm
    width = max(2.0, 2.2 * t)
    if so_far.joint.position.small_pool:
        width = min(width, max(2.0, 2 * t), 5.0)
    return width
