"""Holes and studs marked out on a plate: their centres, and the distances to check. Geometry."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise

from msgspec import Struct

from ..errors import InputError
from ..quantities import MM_PER_INCH, exact, format_plain
from ..schema import checks
from .template import TEXT_MM, Flat, Label, Point, Stroke, with_ruler

ROW, GRID, CIRCLE, LIST = "row", "grid", "circle", "list"
PATTERNS = {
    ROW: "in a row",
    GRID: "in a rectangle",
    CIRCLE: "on a circle",
    LIST: "centres as typed",
}
KINDS = {"hole": "Holes", "stud": "Studs"}
MAX_CENTRES = 100
MIN_MM, MAX_PLATE_MM, MAX_HOLE_MM = 1.0, 2000.0, 500.0
# The cross of a centre reaches this far past its circle, and dimensions stand this far off, mm.
_CROSS_MM, _DIMENSION_MM, _TICK_MM = 3.0, 8.0, 1.5
# Points on a circle.
_POINTS = 72
_SAME_MM = 0.005


class Marking(Struct, frozen=True):
    """Holes or studs on a plate.

    Attributes:
        kind: A key of KINDS.
        width_mm: Width of the plate.
        height_mm: Height of the plate.
        diameter_mm: Diameter of a hole or stud.
        centres: Centres from the left and from the lower edge, mm.
    """

    kind: str
    width_mm: float
    height_mm: float
    diameter_mm: float
    centres: tuple[Point, ...]


class Distance(Struct, frozen=True):
    """A distance between two centres: their numbers from 1, and mm."""

    first: int
    second: int
    mm: float


def place_row(plate: Point, count: int, pitch_mm: float) -> tuple[Point, ...]:
    """Return centres in a row, in the middle of a plate.

    Args:
        plate: Width and height, mm.
        count: Number of centres.
        pitch_mm: Centre distance.

    >>> place_row((100, 20), 3, 30)
    ((20.0, 10.0), (50.0, 10.0), (80.0, 10.0))
    """
    return place_grid(plate, (count, 1), (pitch_mm, 0.0))


def place_grid(plate: Point, counts: tuple[int, int], pitches_mm: Point) -> tuple[Point, ...]:
    """Return centres in rows from the lower left, in the middle of a plate.

    Args:
        plate: Width and height, mm.
        counts: Numbers across and up.
        pitches_mm: Centre distances across and up.
    """
    starts = [
        (side - (count - 1) * pitch) / 2
        for side, count, pitch in zip(plate, counts, pitches_mm, strict=True)
    ]
    return tuple(
        (starts[0] + i * pitches_mm[0], starts[1] + j * pitches_mm[1])
        for j in range(counts[1])
        for i in range(counts[0])
    )


def place_circle(
    plate: Point, count: int, circle_mm: float, start_deg: float = 0.0
) -> tuple[Point, ...]:
    """Return centres on a circle in the middle of a plate.

    Args:
        plate: Width and height, mm.
        count: Number of centres.
        circle_mm: Diameter of the circle.
        start_deg: Angle of the first, from the right, counterclockwise.
    """
    angles = [math.radians(start_deg) + 2 * math.pi * i / count for i in range(count)]
    return tuple(
        (
            plate[0] / 2 + circle_mm / 2 * math.cos(angle),
            plate[1] / 2 + circle_mm / 2 * math.sin(angle),
        )
        for angle in angles
    )


def check_marking(marking: Marking) -> Marking:
    """Return a marking whose holes lie on the plate and apart.

    Raises:
        InputError: A hole crosses an edge or another hole.
    """
    checks.check_number("width", marking.width_mm, MIN_MM, MAX_PLATE_MM, "mm")
    checks.check_number("height", marking.height_mm, MIN_MM, MAX_PLATE_MM, "mm")
    checks.check_number("diameter", marking.diameter_mm, MIN_MM, MAX_HOLE_MM, "mm")
    if not 1 <= len(marking.centres) <= MAX_CENTRES:
        raise InputError("count", len(marking.centres), f"must be from 1 to {MAX_CENTRES}")
    if (edge := find_edge_distance(marking)) < 0:
        rule = f"crosses the edge of the plate by {format_plain(-edge, 1)} mm. Use a larger plate"
        raise InputError("centres", KINDS[marking.kind][:-1], rule)
    near = find_nearest(marking.centres)
    if near is not None and near.mm < marking.diameter_mm - _SAME_MM:
        rule = f"overlap: {near.first} and {near.second} are {format_plain(near.mm, 1)} mm apart"
        raise InputError("centres", KINDS[marking.kind], rule)
    return marking


def find_edge_distance(marking: Marking) -> float:
    """Return the metal between the plate edge and the nearest hole, mm."""
    half = marking.diameter_mm / 2
    return min(
        min(x, marking.width_mm - x, y, marking.height_mm - y) - half for x, y in marking.centres
    )


def find_nearest(centres: Sequence[Point]) -> Distance | None:
    """Return the smallest distance between two centres, or None for one centre."""
    return min(_list_all(centres), key=lambda distance: distance.mm, default=None)


def list_checks(centres: Sequence[Point]) -> tuple[Distance, ...]:
    """Return the distances to measure: from each centre to the next, and the longest one.

    >>> [round(d.mm, 1) for d in list_checks([(0, 0), (30, 0), (30, 40)])]
    [30.0, 40.0, 50.0]
    """
    chain = [Distance(i + 1, i + 2, math.dist(a, b)) for i, (a, b) in enumerate(pairwise(centres))]
    across = max(_list_all(centres), key=lambda distance: distance.mm, default=None)
    known = {(distance.first, distance.second) for distance in chain}
    if across is not None and (across.first, across.second) not in known:
        chain.append(across)
    return tuple(chain)


def _list_all(centres: Sequence[Point]) -> list[Distance]:
    return [
        Distance(i + 1, j + 1, math.dist(a, b))
        for i, a in enumerate(centres)
        for j, b in enumerate(centres[i + 1 :], i + 1)
    ]


def lay_marking(marking: Marking, units: str) -> Flat:
    """Lay out a marking at true scale, with a chain of distances across and up.

    Args:
        marking: The marking.
        units: Unit system.
    """
    width, height = marking.width_mm, marking.height_mm
    outline = ((0.0, 0.0), (width, 0.0), (width, height), (0.0, height), (0.0, 0.0))
    strokes, labels = [Stroke("edge", outline)], list[Label]()
    radius, reach = marking.diameter_mm / 2, marking.diameter_mm / 2 + _CROSS_MM
    for number, (x, y) in enumerate(marking.centres, 1):
        ring = tuple(
            (
                x + radius * math.cos(2 * math.pi * i / _POINTS),
                y + radius * math.sin(2 * math.pi * i / _POINTS),
            )
            for i in range(_POINTS + 1)
        )
        strokes += [
            Stroke("cut", ring, marking.kind == "stud"),
            Stroke("quarter", ((x - reach, y), (x + reach, y))),
            Stroke("quarter", ((x, y - reach), (x, y + reach))),
        ]
        labels.append(Label((x + radius + 0.8, y + radius + 0.8), str(number)))
    across = _list_stations([x for x, _ in marking.centres], width)
    upward = _list_stations([y for _, y in marking.centres], height)
    strokes += _draw_chain(across, 0) + _draw_chain(upward, 1)
    labels += [
        Label(((a + b) / 2, -_DIMENSION_MM + 1), _format(b - a, units), TEXT_MM * 0.8, "middle")
        for a, b in pairwise(across)
    ]
    labels += [
        Label((-_DIMENSION_MM - 10, (a + b) / 2 - 1), _format(b - a, units), TEXT_MM * 0.8)
        for a, b in pairwise(upward)
    ]
    name = KINDS[marking.kind]
    size = f"{_format(width, units)} × {_format(height, units)}"
    diameter = exact(marking.diameter_mm).text(units)
    text = [
        f"{len(marking.centres)} {name.lower()}, {diameter}, on {size}",
        "Punch each centre. Measure the distances between them before drilling.",
    ]
    box = (-_DIMENSION_MM - 12, -_DIMENSION_MM - 4, width + 2, height + 2)
    return with_ruler(f"{name} on {size}", strokes, labels, box, text, units)


def _list_stations(places: Sequence[float], end: float) -> list[float]:
    """Return edge, different places in order, and the other edge."""
    stations = [0.0]
    for place in sorted(places):
        if place - stations[-1] > _SAME_MM:
            stations.append(place)
    return [*stations, end]


def _draw_chain(stations: Sequence[float], axis: int) -> list[Stroke]:
    def at(along: float, off: float) -> Point:
        return (along, off) if axis == 0 else (off, along)

    line = Stroke("ruler", (at(stations[0], -_DIMENSION_MM), at(stations[-1], -_DIMENSION_MM)))
    ticks = [
        Stroke("ruler", (at(s, -_DIMENSION_MM - _TICK_MM), at(s, -_DIMENSION_MM + _TICK_MM)))
        for s in stations
    ]
    return [line, *ticks]


def format_distance(mm: float, units: str) -> str:
    """Return a distance to a tenth of a millimetre, or a thousandth of an inch.

    Args:
        mm: The distance.
        units: Unit system.

    >>> format_distance(94.3398, "mm"), format_distance(25.4, "in")
    ('94.3 mm', '1 in')
    """
    return f"{_format(mm, units)} {units}"


def _format(mm: float, units: str) -> str:
    return format_plain(mm, 1) if units == "mm" else format_plain(mm / MM_PER_INCH, 3)
