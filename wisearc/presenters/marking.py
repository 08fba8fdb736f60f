"""Holes and studs as page contents: centres, distances to check, and the drawing."""

from __future__ import annotations

from msgspec import Struct

from ..core.templates.marking import (
    Marking,
    find_edge_distance,
    find_nearest,
    format_distance,
    lay_marking,
    list_checks,
)
from ..drawings.templates.template_sheet import draw_template_sheet


class MarkingView(Struct, frozen=True):
    """A marking as page contents.

    Attributes:
        centres: Number, and distances from the left and the lower edge.
        distances: From which centre to which, and the distance.
        facts: Labels with figures.
        svg: The drawing.
    """

    centres: tuple[tuple[str, str, str], ...]
    distances: tuple[tuple[str, str], ...]
    facts: tuple[tuple[str, str], ...]
    svg: str


def build_marking_view(marking: Marking, units: str) -> MarkingView:
    """Return a marking as page contents.

    Args:
        marking: The marking.
        units: Unit system.
    """
    near = find_nearest(marking.centres)
    web = near.mm - marking.diameter_mm if near else None
    return MarkingView(
        tuple(
            (str(number), format_distance(x, units), format_distance(y, units))
            for number, (x, y) in enumerate(marking.centres, 1)
        ),
        tuple(
            (f"{distance.first} to {distance.second}", format_distance(distance.mm, units))
            for distance in list_checks(marking.centres)
        ),
        (
            ("Edge to the nearest rim", format_distance(find_edge_distance(marking), units)),
            *([("Metal between two rims", format_distance(web, units))] if web is not None else []),
        ),
        draw_template_sheet(lay_marking(marking, units), "screen").svg,
    )
