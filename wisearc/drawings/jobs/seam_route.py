"""The route of a seam between two blocks of a layout, round the blocks between them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from itertools import pairwise

from msgspec import Struct

# A rectangle: left, top, width, height; and a point.
Box = tuple[float, float, float, float]
Point = tuple[float, float]
# The distance from a block that a route keeps, px.
CLEAR = 7.0


class Mark(Struct, frozen=True):
    """A seam in the drawing: its line, and the place of its number."""

    line: tuple[Point, ...]
    at: Point


def crosses(line: Sequence[Point], boxes: Iterable[Box]) -> bool:
    """Return whether a line runs through one of the boxes.

    Args:
        line: The points.
        boxes: Boxes other than those that it joins.
    """
    return any(_crosses_box(a, b, box) for a, b in pairwise(line) for box in boxes)


def _crosses_box(a: Point, b: Point, box: Box) -> bool:
    """Return whether a segment has a part inside a box, by clipping it to the box."""
    low, high = 0.0, 1.0
    for axis in (0, 1):
        start, end = box[axis] + 0.5, box[axis] + box[axis + 2] - 0.5
        d = b[axis] - a[axis]
        if abs(d) < 1e-9:
            if not start < a[axis] < end:
                return False
            continue
        enters, leaves = sorted(((start - a[axis]) / d, (end - a[axis]) / d))
        low, high = max(low, enters), min(high, leaves)
    return low < high


def route_seam(first: Box, second: Box, others: Sequence[Box], shift: float) -> Mark | None:
    """Return the shortest route from one block to another beside all others, or None.

    It leaves and reaches a block in the middle of a side, and runs along the gaps between blocks.

    Args:
        first: A block.
        second: The other block.
        others: The blocks to avoid.
        shift: Offset of this seam among those of the same two blocks, px.
    """
    # The gaps next to the two blocks lead everywhere in rows of blocks.
    boxes = (first, second)
    across = sorted({x + shift for box in boxes for x in (box[0] - CLEAR, box[0] + box[2] + CLEAR)})
    down = sorted({y + shift for box in boxes for y in (box[1] - CLEAR, box[1] + box[3] + CLEAR)})
    routes = [
        route
        for start in _list_ports(first, shift)
        for end in _list_ports(second, shift)
        for route in _list_routes(start, end, across, down)
    ]
    routes.sort(key=_measure)
    for route in routes:
        if (
            not crosses(route, others)
            and not crosses(route[1:], (first,))
            and not crosses(route[:-1], (second,))
        ):
            return Mark(route, _find_middle(route))
    return None


def _list_ports(box: Box, shift: float) -> list[tuple[Point, bool]]:
    """Return the middle of each side, and whether a route leaves it upright."""
    x, y, w, h = box
    middle_x, middle_y = x + w / 2 + shift, y + h / 2 + shift
    return [
        ((middle_x, y), True),
        ((middle_x, y + h), True),
        ((x, middle_y), False),
        ((x + w, middle_y), False),
    ]


def _list_routes(
    start: tuple[Point, bool], end: tuple[Point, bool], across: list[float], down: list[float]
) -> list[tuple[Point, ...]]:
    """Return routes with two or four corners along the gaps."""
    (a, a_upright), (b, b_upright) = start, end
    if a_upright and b_upright:
        return [(a, (a[0], y), (b[0], y), b) for y in down]
    if not a_upright and not b_upright:
        return [(a, (x, a[1]), (x, b[1]), b) for x in across]
    if a_upright:
        return [(a, (a[0], y), (x, y), (x, b[1]), b) for y in down for x in across]
    return [(a, (x, a[1]), (x, y), (b[0], y), b) for x in across for y in down]


def _measure(route: Sequence[Point]) -> float:
    corners = 4 * len(route)
    return sum(abs(b[0] - a[0]) + abs(b[1] - a[1]) for a, b in pairwise(route)) + corners


def _find_middle(route: Sequence[Point]) -> Point:
    """Return the middle of the longest part."""
    a, b = max(
        pairwise(route),
        key=lambda ends: abs(ends[1][0] - ends[0][0]) + abs(ends[1][1] - ends[0][1]),
    )
    return ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
