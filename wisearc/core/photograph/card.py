"""The layout of the printed card beside a seam, mm.

The origin is the corner where the seam edge starts. x runs along the seam edge, y away from the
seam, so the seam has negative y.
"""

from __future__ import annotations

import re
from functools import cache

from msgspec import Struct

# The black and white cells of the markers, by number: a published dictionary of 5 × 5 markers.
CELLS = (
    ("10100", "01011", "01100", "10101", "11100"),
    ("00001", "11000", "00001", "10111", "00110"),
    ("11010", "11110", "00011", "10110", "11101"),
    ("10000", "00111", "00101", "01111", "10111"),
    ("11010", "11101", "01101", "01001", "00100"),
    ("11101", "01000", "00010", "00001", "01101"),
    ("01101", "00111", "10101", "11111", "01100"),
    ("01110", "00100", "00101", "00011", "01011"),
)
# With the black border around them.
MARKER_CELLS = 7
# The greys of the ramp as sRGB values, black to nearly white.
RAMP = (24, 80, 120, 160, 196, 226)
CHECK_LENGTH_MM = 100.0
# A printer that fits a page to the paper changes it by less than this.
MIN_CHECK_MM, MAX_CHECK_MM = 80.0, 120.0


class Box(Struct, frozen=True):
    """A rectangle on a card: its corner nearest to the origin, and its size, mm."""

    x_mm: float
    y_mm: float
    width_mm: float
    height_mm: float

    def shrink(self, share: float) -> Box:
        """Return the middle of the rectangle.

        Args:
            share: The part of each side that is left.
        """
        cut_x, cut_y = self.width_mm * (1 - share) / 2, self.height_mm * (1 - share) / 2
        return Box(
            self.x_mm + cut_x, self.y_mm + cut_y, self.width_mm * share, self.height_mm * share
        )


class Marker(Struct, frozen=True):
    """A marker on a card: its number, and its place with the black border."""

    number: int
    box: Box

    def list_corners(self) -> list[tuple[float, float]]:
        """Return its corners from the one nearest to the origin, along the seam edge first, mm."""
        box = self.box
        left, top = box.x_mm, box.y_mm
        right, bottom = left + box.width_mm, top + box.height_mm
        return [(left, top), (right, top), (right, bottom), (left, bottom)]

    def list_white_boxes(self) -> list[Box]:
        """Return its white parts on the black square.

        Cells in a row are joined, and cells in a column too, so that no hairline shows between
        them.
        """
        side = self.box.width_mm / MARKER_CELLS
        rows = CELLS[self.number]
        columns = ["".join(row[n] for row in rows) for n in range(len(rows))]
        boxes = []
        for down, row in enumerate(rows):
            for start, end in _list_runs(row):
                x, y = self._place(start + 1, down + 1)
                boxes.append(Box(x, y, (end - start) * side, side))
        for along, column in enumerate(columns):
            for start, end in _list_runs(column):
                x, y = self._place(along + 1, start + 1)
                if end - start > 1:
                    boxes.append(Box(x, y, side, (end - start) * side))
        return boxes

    def _place(self, along: int, down: int) -> tuple[float, float]:
        side = self.box.width_mm / MARKER_CELLS
        return self.box.x_mm + along * side, self.box.y_mm + down * side


def _list_runs(cells: str) -> list[tuple[int, int]]:
    """Start and end of each run of white cells."""
    return [match.span() for match in re.finditer("1+", cells)]


class Card(Struct, frozen=True):
    """A printed card.

    Attributes:
        key: "card", or "strip" at the foot of a printed sheet.
        width_mm: Its length along the seam.
        height_mm: Its other side.
        markers: Its four markers.
        ramp: The patches of its grey ramp, in the order of RAMP.
        white: Places that stay white, for the light.
        ruler: Where its ruler is. Its divisions start at the upper edge.
        check_start_mm: Where the check length starts.
    """

    key: str
    width_mm: float
    height_mm: float
    markers: tuple[Marker, ...]
    ramp: tuple[Box, ...]
    white: tuple[Box, ...]
    ruler: Box
    check_start_mm: tuple[float, float]


@cache
def load_cards() -> dict[str, Card]:
    """Return the card and the strip, by key."""
    card = Card(
        "card",
        148.0,
        105.0,
        tuple(
            Marker(number, Box(x, y, 22.0, 22.0))
            for number, (x, y) in enumerate(((5, 12), (121, 12), (121, 78), (5, 78)))
        ),
        tuple(Box(33.0 + 14 * n, 14.0, 12.0, 13.0) for n in range(len(RAMP))),
        (
            *(Box(x, 35.5, 18, 4.5) for x in (7, 42, 88, 123)),
            *(Box(x, 79, 16, 13) for x in (32, 55, 78, 101)),
        ),
        Box(4, 2, 140, 5),
        (24.0, 72.5),
    )
    strip = Card(
        "strip",
        170.0,
        26.0,
        tuple(Marker(number + 4, Box(x, 7, 13, 13)) for number, x in enumerate((2, 52, 105, 155))),
        tuple(Box(19.0 + 5 * n, 9.0, 4.4, 9.0) for n in range(len(RAMP))),
        (
            *(Box(x, 8.5, 7, 10) for x in (68, 95, 121, 145)),
            *(Box(x, 8.5, 1.6, 10) for x in (16.4,)),
        ),
        Box(2, 1, 166, 3.5),
        (35.0, 23.0),
    )
    return {card.key: card, strip.key: strip}
