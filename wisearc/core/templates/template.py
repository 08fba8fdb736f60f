"""A flat template at true scale, mm: lines by purpose, and texts. x to the right, y up.

SVG, DXF and PDF draw exactly this. Geometry.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from msgspec import Struct

from ..errors import UnknownName
from ..quantities import MM_PER_INCH, format_plain
from .cut import (
    Cut,
    CutRow,
    HoleRow,
    calculate_curve,
    calculate_hole,
    describe_cut,
    has_knife_edge,
    paper_r_mm,
)

Point = tuple[float, float]
PARTS = ("branch", "hole")
# The purpose of a line. Each is a layer of a DXF.
LAYERS = ("cut", "edge", "quarter", "waste", "ruler")
RULER_MM = {"mm": 100.0, "in": 4 * MM_PER_INCH}
COLLAR_MM, BELOW_MM, TAB_MM = 22.0, 11.0, 12.0
HATCH_MM = 7.0
RULER_ROOM_MM, LINE_MM, TEXT_MM = 12.0, 4.6, 3.2
# The width of a letter relative to its height: estimate.
LETTER = 0.56
STEPS = 360


class Stroke(Struct, frozen=True):
    """A line: purpose, points mm, and whether it is dashed."""

    layer: str
    points: tuple[Point, ...]
    dashed: bool = False


class Label(Struct, frozen=True):
    """A text: position of its baseline mm, text, height mm, and anchor."""

    at: Point
    text: str
    size_mm: float = TEXT_MM
    anchor: str = "start"
    layer: str = "text"


class Flat(Struct, frozen=True):
    """A flat template.

    Title, strokes, labels, bounding box (left, bottom, right, top) mm, and the length of the check
    ruler.
    """

    title: str
    strokes: tuple[Stroke, ...]
    labels: tuple[Label, ...]
    box: tuple[float, float, float, float]
    ruler_mm: float
    ruler_at: Point = (0.0, 0.0)
    ruler_text: str = ""
    marks: tuple[Point, ...] = ()

    @property
    def size_mm(self) -> tuple[float, float]:
        """Return width and height, mm."""
        left, bottom, right, top = self.box
        return right - left, top - bottom


def lay_flat(cut: Cut, part: str = "branch", units: str = "mm") -> Flat:
    """Lay out a template.

    Args:
        cut: The cut.
        part: "branch" or "hole".
        units: Unit system.

    Raises:
        UnknownName: The part is unknown.
        InputError: The cut has no hole.
    """
    if part not in PARTS:
        raise UnknownName("part", part, list(PARTS))
    return (
        _lay_hole(cut, calculate_hole(cut, STEPS), units)
        if part == "hole"
        else _lay_branch(cut, calculate_curve(cut, STEPS), units)
    )


def _lay_branch(cut: Cut, rows: Sequence[CutRow], units: str) -> Flat:
    wide = rows[-1].x_mm
    low, high = min(r.z_mm for r in rows), max(r.z_mm for r in rows)
    top, bottom = high + COLLAR_MM, low - BELOW_MM
    line = tuple((r.x_mm, r.z_mm) for r in rows)
    strokes = [
        Stroke("cut", line),
        Stroke("edge", ((0, rows[0].z_mm), (0, top), (wide, top), (wide, rows[-1].z_mm))),
        Stroke(
            "edge",
            (
                (wide, top),
                (wide + TAB_MM, top),
                (wide + TAB_MM, rows[-1].z_mm),
                (wide, rows[-1].z_mm),
            ),
            True,
        ),
        *_draw_hatching(rows, bottom),
    ]
    size = _fit_text(TEXT_MM, wide / 4 - 2, "90° quarter")
    names = (f"0° {cut.of.nought}", "90°", "180°", "270°", "360° = 0°")
    labels = [
        Label((wide * q / 4 + 1, top - 4), _shorten_text(name, wide / 4 - 2, size), size)
        for q, name in enumerate(names[:4])
    ]
    labels += [
        Label((wide + 1, top - 4), "lap", size),
        Label(
            (1, high + 9),
            f"KEEP  {cut.name or cut.of.label}",
            _fit_text(5, wide - 2, f"KEEP  {cut.name or cut.of.label}"),
        ),
        Label((wide / 2, bottom + 1.2), "WASTE", _fit_text(4, wide / 3, "WASTE"), "middle"),
    ]
    for q in range(5):
        strokes += _draw_fold(wide * q / 4, (bottom, top), labels)
    text = _describe_template(cut, top, low, high, units)
    return with_ruler(
        f"{cut.name or cut.of.label}: {describe_cut(cut, units)}",
        strokes,
        labels,
        (0, bottom, wide + TAB_MM, top),
        text,
        units,
    )


def _describe_template(cut: Cut, top: float, low: float, high: float, units: str) -> list[str]:
    def mm(value: float) -> str:
        return (
            f"{format_plain(value, 1)} mm"
            if units == "mm"
            else f"{format_plain(value / MM_PER_INCH, 3)} in"
        )

    text = [
        describe_cut(cut, units),
        (
            "Print side out, wrap it round the branch with the top edge square to the "
            f"tube. The full turn is {mm(2 * math.pi * paper_r_mm(cut))}."
        ),
        (
            f"Top edge {mm(top)} from {cut.of.origin}. Long point {mm(low)} and deepest "
            f"point {mm(high)}, measured along the tube."
        ),
    ]
    if has_knife_edge(cut):
        text.append("The ears end in a knife edge. Dress them back to the wall thickness.")
    return text


def _lay_hole(cut: Cut, rows: Sequence[HoleRow], units: str) -> Flat:
    wide, long = max(abs(r.round_mm) for r in rows), [r.along_mm for r in rows]
    left, right = min(long), max(long)
    away = 10.0
    line = tuple((r.along_mm, r.round_mm) for r in rows)
    shift = sum(r.round_mm for r in rows[:-1]) / (len(rows) - 1)
    tall = max(r.round_mm for r in rows), min(r.round_mm for r in rows)
    strokes = [
        Stroke("cut", line),
        Stroke("quarter", ((left - away, 0), (right + away, 0)), True),
    ]
    centre = ((left + right) / 2, shift)
    labels = [
        Label((centre[0], centre[1] + 2), "WASTE", _fit_text(4, wide, "WASTE"), "middle"),
        Label((right + 1, 1.2), cut.of.nought),
    ]
    strokes += _draw_fold(0, (tall[1] - away, tall[0] + away), labels)
    box = (
        left - away,
        tall[1] - away,
        right + away + LETTER * TEXT_MM * len(cut.of.nought),
        tall[0] + away,
    )
    on = "run" if cut.of.on_run else "plate"
    text = [
        f"{cut.of.hole}, from the branch bore: {describe_cut(cut, units)}",
        (
            (
                f"Long line along the axis of the {on}, on its crest. Short line at the "
                "intersection of the axes."
            )
            if cut.of.on_run
            else (
                "Long line along the lean of the tube. Short line where the axis meets the plate."
            )
        ),
    ]
    return with_ruler(
        f"{cut.name or cut.of.label}: {cut.of.hole}", strokes, labels, box, text, units
    )


def with_ruler(
    title: str,
    strokes: list[Stroke],
    labels: list[Label],
    box: tuple[float, float, float, float],
    wording: list[str],
    units: str,
) -> Flat:
    """Return a layout with its check ruler and its texts below.

    Args:
        title: Title of the template.
        strokes: Its lines.
        labels: Its texts.
        box: Left, bottom, right and top, mm.
        wording: Sentences below the ruler.
        units: Unit system.
    """
    left, bottom, right, top = box
    ruler = RULER_MM[units]
    at = (left, bottom - RULER_ROOM_MM)
    strokes = [*strokes, *draw_ruler(at, ruler, units)]
    layer_names = (
        f"{format_plain(ruler if units == 'mm' else ruler / MM_PER_INCH, 2)} "
        f"{'mm' if units == 'mm' else 'in'} exactly. Measure it before you cut"
    )
    labels = [*labels, Label((left, at[1] - 4), layer_names)]
    lines = [line for text in wording for line in _wrap_text(text, max(right - left, ruler + 20))]
    for i, text in enumerate(lines):
        labels.append(Label((left, at[1] - 4 - LINE_MM * (i + 1)), text))
    min_y = at[1] - 4 - LINE_MM * (len(lines) + 0.5)
    max_width = max(
        right,
        left + ruler,
        *(
            label.at[0] + LETTER * label.size_mm * len(label.text)
            for label in labels
            if label.anchor == "start"
        ),
    )
    return Flat(
        title, tuple(strokes), tuple(labels), (left, min_y, max_width, top), ruler, at, layer_names
    )


def draw_ruler(at: Point, long: float, units: str) -> list[Stroke]:
    """Return a check ruler from a point to the right.

    The line, then ticks every 10 mm or half inch.

    Args:
        at: Its left end, mm.
        long: Its length, mm.
        units: Unit system.
    """
    x, y = at
    step = 10.0 if units == "mm" else MM_PER_INCH / 2
    count = round(long / step)
    ticks = [
        Stroke(
            "ruler",
            ((x + i * step, y), (x + i * step, y + (4 if i % 5 in (0,) or i == count else 2.5))),
        )
        for i in range(count + 1)
    ]
    return [Stroke("ruler", ((x, y), (x + long, y))), *ticks]


def _draw_fold(x: float, ends: tuple[float, float], labels: Sequence[Label]) -> list[Stroke]:
    """Return an upright dashed line with a gap at each text that it would cross."""
    gaps = []
    for label in labels:
        wide = LETTER * label.size_mm * len(label.text)
        left = label.at[0] - (wide / 2 if label.anchor == "middle" else 0.0)
        if left - 0.5 < x < left + wide + 0.5:
            gaps.append((label.at[1] - 1.0, label.at[1] + label.size_mm))
    pieces, start = [], ends[0]
    for low, high in sorted(gaps):
        if low > start:
            pieces.append(Stroke("quarter", ((x, start), (x, low)), True))
        start = max(start, high)
    return [*pieces, Stroke("quarter", ((x, start), (x, ends[1])), True)]


def _draw_hatching(rows: Sequence[CutRow], bottom: float) -> list[Stroke]:
    """Return short slanted strokes below the line, on the waste side."""
    wide = rows[-1].x_mm
    count = max(8, round(wide / HATCH_MM))
    strokes = []
    for i in range(count):
        at = round((i + 0.5) * (len(rows) - 1) / count)
        row, rising = rows[at], rows[at].z_mm < rows[min(at + 1, len(rows) - 1)].z_mm
        down = min(4.0, row.z_mm - bottom)
        offset = row.x_mm + (down if rising else -down) / 2
        strokes.append(
            Stroke("waste", ((row.x_mm, row.z_mm), (min(wide, max(0.0, offset)), row.z_mm - down)))
        )
    return strokes


def _fit_text(size: float, room: float, text: str) -> float:
    """Return the text height that fits a width, mm, at least 1.5."""
    return max(1.5, min(size, room / (LETTER * max(1, len(text)))))


def _shorten_text(text: str, room: float, size: float) -> str:
    """Return the first word of a text that is too long for its place."""
    return text if LETTER * size * len(text) <= room else text.split(" ")[0]


def _wrap_text(text: str, room: float) -> list[str]:
    """Wrap a text to a width."""
    maximum, lines = int(room / (LETTER * TEXT_MM)), [""]
    for word in text.split(" "):
        if len(lines[-1]) + len(word) + 1 > maximum and lines[-1]:
            lines.append("")
        lines[-1] = f"{lines[-1]} {word}".strip()
    return lines
