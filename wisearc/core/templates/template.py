"""A template laid out flat, in mm at true scale: lines by what they are for, words where they
stand. x to the right, y up.

What SVG, DXF and PDF draw is this and nothing else. Geometry.
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
# what a line is for; each is a layer of a DXF
LAYERS = ("cut", "edge", "quarter", "waste", "ruler")
RULER_MM = {"mm": 100.0, "in": 4 * MM_PER_INCH}
COLLAR_MM, BELOW_MM, TAB_MM = 22.0, 11.0, 12.0
HATCH_MM = 7.0
RULER_ROOM_MM, LINE_MM, TEXT_MM = 12.0, 4.6, 3.2
# a letter is about so wide as part of its height: estimate
LETTER = 0.56
STEPS = 360


class Stroke(Struct, frozen=True):
    """A line: what it is for, its points mm, whether it is dashed."""

    layer: str
    points: tuple[Point, ...]
    dashed: bool = False


class Label(Struct, frozen=True):
    """Words: where their foot stands mm, the words, how tall mm, and which end of them stands
    there.
    """

    at: Point
    text: str
    size_mm: float = TEXT_MM
    anchor: str = "start"
    layer: str = "text"


class Flat(Struct, frozen=True):
    """A template laid out: its title, its strokes and labels, and the box that holds them, (left,
    bottom, right, top) mm; how long its check ruler is.
    """

    title: str
    strokes: tuple[Stroke, ...]
    labels: tuple[Label, ...]
    box: tuple[float, float, float, float]
    ruler_mm: float
    ruler_at: Point = (0.0, 0.0)
    ruler_words: str = ""
    marks: tuple[Point, ...] = ()

    @property
    def size_mm(self) -> tuple[float, float]:
        """Width and height, mm."""
        left, bottom, right, top = self.box
        return right - left, top - bottom


def lay_flat(cut: Cut, part: str = "branch", habit: str = "mm") -> Flat:
    """Lay a template out. Parameters: part, "branch" or "hole". Raises UnknownName, BadInput where
    no hole goes with the cut.
    """
    if part not in PARTS:
        raise UnknownName("part", part, list(PARTS))
    return (
        _lay_hole(cut, calculate_hole(cut, STEPS), habit)
        if part == "hole"
        else _lay_branch(cut, calculate_curve(cut, STEPS), habit)
    )


def _lay_branch(cut: Cut, rows: Sequence[CutRow], habit: str) -> Flat:
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
        *(Stroke("quarter", ((wide * q / 4, bottom), (wide * q / 4, top)), True) for q in range(5)),
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
    words = _describe_template(cut, top, low, high, habit)
    return _with_ruler(
        f"{cut.name or cut.of.label}: {describe_cut(cut, habit)}",
        strokes,
        labels,
        (0, bottom, wide + TAB_MM, top),
        words,
        habit,
    )


def _describe_template(cut: Cut, top: float, low: float, high: float, habit: str) -> list[str]:
    def mm(value: float) -> str:
        return (
            f"{format_plain(value, 1)} mm"
            if habit == "mm"
            else f"{format_plain(value / MM_PER_INCH, 3)} in"
        )

    words = [
        describe_cut(cut, habit),
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
        words.append("The ears end in a knife edge. Dress them back to the wall thickness.")
    return words


def _lay_hole(cut: Cut, rows: Sequence[HoleRow], habit: str) -> Flat:
    wide, long = max(abs(r.round_mm) for r in rows), [r.along_mm for r in rows]
    left, right = min(long), max(long)
    away = 10.0
    line = tuple((r.along_mm, r.round_mm) for r in rows)
    shift = sum(r.round_mm for r in rows[:-1]) / (len(rows) - 1)
    tall = max(r.round_mm for r in rows), min(r.round_mm for r in rows)
    strokes = [
        Stroke("cut", line),
        Stroke("quarter", ((left - away, 0), (right + away, 0)), True),
        Stroke("quarter", ((0, tall[1] - away), (0, tall[0] + away)), True),
    ]
    centre = ((left + right) / 2, shift)
    labels = [
        Label((centre[0], centre[1] + 2), "WASTE", _fit_text(4, wide, "WASTE"), "middle"),
        Label((right + 1, 1.2), cut.of.nought),
    ]
    box = (
        left - away,
        tall[1] - away,
        right + away + LETTER * TEXT_MM * len(cut.of.nought),
        tall[0] + away,
    )
    on = "run" if cut.of.on_run else "plate"
    words = [
        f"{cut.of.hole}, from the branch bore: {describe_cut(cut, habit)}",
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
    return _with_ruler(
        f"{cut.name or cut.of.label}: {cut.of.hole}", strokes, labels, box, words, habit
    )


def _with_ruler(
    title: str,
    strokes: list[Stroke],
    labels: list[Label],
    box: tuple[float, float, float, float],
    words: list[str],
    habit: str,
) -> Flat:
    """A layout with its check ruler and its words below."""
    left, bottom, right, top = box
    ruler = RULER_MM[habit]
    at = (left, bottom - RULER_ROOM_MM)
    strokes = [*strokes, *draw_ruler(at, ruler, habit)]
    told_as = (
        f"{format_plain(ruler if habit == 'mm' else ruler / MM_PER_INCH, 2)} "
        f"{'mm' if habit == 'mm' else 'in'} exactly. Measure it before you cut"
    )
    labels = [*labels, Label((left, at[1] - 4), told_as)]
    lines = [line for text in words for line in _wrap_text(text, max(right - left, ruler + 20))]
    for i, text in enumerate(lines):
        labels.append(Label((left, at[1] - 4 - LINE_MM * (i + 1)), text))
    lowest = at[1] - 4 - LINE_MM * (len(lines) + 0.5)
    widest = max(
        right,
        left + ruler,
        *(
            label.at[0] + LETTER * label.size_mm * len(label.text)
            for label in labels
            if label.anchor == "start"
        ),
    )
    return Flat(
        title, tuple(strokes), tuple(labels), (left, lowest, widest, top), ruler, at, told_as
    )


def draw_ruler(at: Point, long: float, habit: str) -> list[Stroke]:
    """A check ruler from a point to the right: its line first, then its ticks, every 10 mm or half
    inch.
    """
    x, y = at
    step = 10.0 if habit == "mm" else MM_PER_INCH / 2
    count = round(long / step)
    ticks = [
        Stroke(
            "ruler",
            ((x + i * step, y), (x + i * step, y + (4 if i % 5 in (0,) or i == count else 2.5))),
        )
        for i in range(count + 1)
    ]
    return [Stroke("ruler", ((x, y), (x + long, y))), *ticks]


def _draw_hatching(rows: Sequence[CutRow], bottom: float) -> list[Stroke]:
    """Short slanted strokes under the line, on the side that is waste."""
    wide = rows[-1].x_mm
    count = max(8, round(wide / HATCH_MM))
    strokes = []
    for i in range(count):
        at = round((i + 0.5) * (len(rows) - 1) / count)
        row, rising = rows[at], rows[at].z_mm < rows[min(at + 1, len(rows) - 1)].z_mm
        down = min(4.0, row.z_mm - bottom)
        aside = row.x_mm + (down if rising else -down) / 2
        strokes.append(
            Stroke("waste", ((row.x_mm, row.z_mm), (min(wide, max(0.0, aside)), row.z_mm - down)))
        )
    return strokes


def _fit_text(size: float, room: float, text: str) -> float:
    """A height at which words fit a width, mm; 1.5 at least."""
    return max(1.5, min(size, room / (LETTER * max(1, len(text)))))


def _shorten_text(text: str, room: float, size: float) -> str:
    """The first word of a text that is too long for its place."""
    return text if LETTER * size * len(text) <= room else text.split(" ")[0]


def _wrap_text(text: str, room: float) -> list[str]:
    """Words in lines no longer than a width."""
    most, lines = int(room / (LETTER * TEXT_MM)), [""]
    for word in text.split(" "):
        if len(lines[-1]) + len(word) + 1 > most and lines[-1]:
            lines.append("")
        lines[-1] = f"{lines[-1]} {word}".strip()
    return lines
