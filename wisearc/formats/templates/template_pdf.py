"""A template as PDF at true scale, on A4 or Letter.

One page if possible, in either orientation, or tiles with matching marks.
"""

from __future__ import annotations

import io
import math
from functools import cache
from pathlib import Path
from typing import Any

from msgspec import Struct

from ...core.errors import InputError, UnknownName
from ...core.templates.template import Flat, Point, draw_ruler

# Width and height, mm: ISO 216, ANSI/ASME Y14.1.
PAPERS = {"a4": (210.0, 297.0), "letter": (215.9, 279.4)}
MARGIN_MM, OVERLAP_MM, FOOT_MM = 10.0, 15.0, 16.0
MAX_TILES = 80
PT_MM = 72 / 25.4
FONT = "Atkinson"
_WIDTHS = {"cut": 0.35, "edge": 0.25, "quarter": 0.18, "waste": 0.12, "ruler": 0.25}
_GREYS = {"cut": 0.0, "edge": 0.0, "quarter": 0.35, "waste": 0.45, "ruler": 0.0}


class Tile(Struct, frozen=True):
    """A page.

    Column and row from 1, from the lower left; its window in the template (left, bottom, right,
    top) mm; and the position of the lower left corner of the window on the page, mm.
    """

    column: int
    row: int
    window: tuple[float, float, float, float]
    at: Point

    @property
    def name(self) -> str:
        """Return its name: a letter for the row, a number for the column."""
        return f"{chr(ord('A') + self.row - 1)}{self.column}"

    def on_page(self, point: Point) -> Point:
        """Return a point of the template on this page, mm from its lower left corner."""
        return self.at[0] + point[0] - self.window[0], self.at[1] + point[1] - self.window[1]


class Tiling(Struct, frozen=True):
    """The layout of a template on paper.

    Page size mm, tiles, and positions of the matching marks mm.
    """

    page: Point
    tiles: tuple[Tile, ...]
    marks: tuple[Point, ...]


def get_paper_mm(paper: str) -> tuple[float, float]:
    """Return the width and height of a paper, mm.

    Raises:
        UnknownName: The paper is unknown.
    """
    if paper not in PAPERS:
        raise UnknownName("paper", paper, list(PAPERS))
    return PAPERS[paper]


def choose_tiling(flat: Flat, paper: str) -> Tiling:
    """Return the layout with the fewest pages, in either orientation, with an overlap of 15 mm.

    Args:
        flat: The template.
        paper: The paper.

    Raises:
        UnknownName: The paper is unknown.
        InputError: The template needs too many pages.
    """
    width, height = get_paper_mm(paper)
    tiling = min(
        (_tile_page(flat, page) for page in ((width, height), (height, width))),
        key=lambda t: len(t.tiles),
    )
    if len(tiling.tiles) > MAX_TILES:
        raise InputError(
            "paper", paper, f"needs {len(tiling.tiles)} pages. Print the SVG or DXF on a roll"
        )
    return tiling


def _tile_page(flat: Flat, page: Point) -> Tiling:
    left, bottom = flat.box[:2]
    room = page[0] - 2 * MARGIN_MM, page[1] - 2 * MARGIN_MM - FOOT_MM
    counts = [
        1 if size <= space else math.ceil((size - OVERLAP_MM) / (space - OVERLAP_MM))
        for size, space in zip(flat.size_mm, room, strict=True)
    ]
    steps = [space - OVERLAP_MM for space in room]
    tiles = []
    for row in range(counts[1]):
        for column in range(counts[0]):
            x, y = left + column * steps[0], bottom + row * steps[1]
            window = x, y, x + room[0], y + room[1]
            tiles.append(Tile(column + 1, row + 1, window, (MARGIN_MM, MARGIN_MM + FOOT_MM)))
    return Tiling(page, tuple(tiles), tuple(_place_marks(flat, counts, steps, room)))


def _place_marks(flat: Flat, counts: list[int], steps: list[float], room: Point) -> list[Point]:
    """Return crosses in the middle of every overlap, two along each side of a tile.

    Both pages show the same point of the template.
    """
    left, bottom = flat.box[:2]
    marks = []
    for row in range(counts[1]):
        for column in range(1, counts[0]):
            x, y = left + column * steps[0] + OVERLAP_MM / 2, bottom + row * steps[1]
            marks += [(x, y + room[1] * share) for share in (0.25, 0.75)]
    for column in range(counts[0]):
        for row in range(1, counts[1]):
            x, y = left + column * steps[0], bottom + row * steps[1] + OVERLAP_MM / 2
            marks += [(x + room[0] * share, y) for share in (0.25, 0.75)]
    return marks


def template_pdf(flat: Flat, paper: str = "a4", units: str = "mm", sheet: str = "") -> bytes:
    """Return the PDF.

    Each page has a check ruler. A template on one page has its own.

    Args:
        flat: The template.
        paper: The paper.
        units: Unit system.
        sheet: Text at the foot of each page.

    Raises:
        UnknownName: The paper is unknown.
        InputError: The template needs too many pages.
    """
    laid = choose_tiling(flat, paper)
    from reportlab.pdfgen.canvas import Canvas

    out = io.BytesIO()
    width, height = laid.page
    canvas = Canvas(
        out, pagesize=(width * PT_MM, height * PT_MM), invariant=True, pageCompression=1
    )
    canvas.setTitle(flat.title)
    canvas.setCreator("Wise Arc")
    register_font()
    for tile in laid.tiles:
        _draw_page(canvas, flat, laid, tile, units, sheet)
        canvas.showPage()
    canvas.save()
    return out.getvalue()


@cache
def register_font() -> None:
    """Register the shipped font for texts in any alphabet."""
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont

    path = Path(__file__).parent / "fonts" / "atkinson-next.ttf"
    pdfmetrics.registerFont(TTFont(FONT, str(path)))


def _draw_page(canvas: Any, flat: Flat, laid: Tiling, tile: Tile, units: str, sheet: str) -> None:
    left, bottom, right, top = tile.window
    canvas.saveState()
    canvas.setLineCap(1)
    clip = canvas.beginPath()
    clip.rect(*(v * PT_MM for v in (*tile.at, right - left, top - bottom)))
    canvas.clipPath(clip, stroke=0)
    for stroke in flat.strokes:
        _draw_stroke(canvas, [tile.on_page(p) for p in stroke.points], stroke.layer, stroke.dashed)
    canvas.setFillGray(0)
    for label in flat.labels:
        x, y = tile.on_page(label.at)
        canvas.setFont(FONT, label.size_mm * PT_MM)
        (canvas.drawCentredString if label.anchor == "middle" else canvas.drawString)(
            x * PT_MM, y * PT_MM, label.text
        )
    for i, mark in enumerate(laid.marks, 1):
        _draw_cross(canvas, tile.on_page(mark), str(i))
    canvas.restoreState()
    if len(laid.tiles) > 1:
        _draw_frame(canvas, tile, right - left, top - bottom)
        for stroke in draw_ruler((MARGIN_MM, MARGIN_MM + 2), flat.ruler_mm, units):
            _draw_stroke(canvas, stroke.points, stroke.layer, False)
    _draw_foot(canvas, flat, laid, tile, sheet)


def _draw_stroke(canvas: Any, points: Any, layer: str, dashed: bool) -> None:
    canvas.setLineWidth(_WIDTHS[layer] * PT_MM)
    canvas.setStrokeGray(_GREYS[layer])
    canvas.setDash([4, 2] if dashed else [])
    path = canvas.beginPath()
    path.moveTo(points[0][0] * PT_MM, points[0][1] * PT_MM)
    for x, y in points[1:]:
        path.lineTo(x * PT_MM, y * PT_MM)
    canvas.drawPath(path)


def _draw_cross(canvas: Any, at: Point, name: str) -> None:
    x, y = at
    for points in (((x - 4, y), (x + 4, y)), ((x, y - 4), (x, y + 4))):
        _draw_stroke(canvas, points, "edge", False)
    canvas.setFont(FONT, 3 * PT_MM)
    canvas.drawString((x + 1) * PT_MM, (y + 1) * PT_MM, name)


def _draw_frame(canvas: Any, tile: Tile, wide: float, tall: float) -> None:
    """Draw the border of a tile, to which the next page is aligned."""
    x, y = tile.at
    _draw_stroke(
        canvas, ((x, y), (x + wide, y), (x + wide, y + tall), (x, y + tall), (x, y)), "waste", True
    )


def _draw_foot(canvas: Any, flat: Flat, laid: Tiling, tile: Tile, sheet: str) -> None:
    many = len(laid.tiles) > 1
    page = (
        f"  Page {tile.name} of {len(laid.tiles)}: match equal numbers and crosses." if many else ""
    )
    ruler = f"{flat.ruler_text}." if many else ""
    canvas.setFillGray(0)
    canvas.setFont(FONT, 3 * PT_MM)
    for text, y in (
        (f"{flat.title}.{page}", MARGIN_MM + 12),
        (f"Print at 100 %, not scaled to the page. {sheet}", MARGIN_MM + 8),
        (ruler, MARGIN_MM - 2),
    ):
        canvas.drawString(MARGIN_MM * PT_MM, y * PT_MM, text)
