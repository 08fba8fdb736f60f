"""The aim of the arc across the seam: the one place that decides it."""

from __future__ import annotations

from ...joint.joint import Joint
from ...joint.section import Section
from .need import is_braze


def describe_aim(joint: Joint, section: Section, rod: str | None) -> str:
    """Return where to aim the arc, to follow "aim".

    Args:
        joint: The joint.
        section: Its section.
        rod: The rod, or None for an autogenous weld.

    References:
        Common practice.
    """
    if joint.kind.has("stud"):
        return "at the end of the rod until it melts, then over the edge of the hole"
    if is_braze(rod):
        return "on the rod and its pool, washed over both sheets"
    if section.unlike:
        return (
            "at the thick side until both edges melt, then wash onto the thin side without dwelling"
        )
    if section.carbon_sides == 1 and section.stainless_sides == 1:
        return "on the seam, leaning to the stainless"
    return (
        "into the root, equally on both sides"
        if joint.kind.has("inner")
        else "on the line of the seam"
    )
