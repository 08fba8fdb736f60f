"""The seam from above.

Complete with tacks and bars, and an enlarged section of ripples, each to scale.
"""

from __future__ import annotations

import math

from ...core.plan.arc.travel import Travel
from ...core.plan.plan import Plan
from ...core.plan.preparation.weld_spans import place_mm
from ...core.quantities import format_count
from ...core.schema.figures import fill_template, format_figure
from ..canvas import Canvas, Drawing

WIDTH, HEIGHT = 700.0, 430.0
LEFT, RIGHT = 26.0, 674.0
STRIP_TOP, STRIP_HEIGHT = 64.0, 76.0
WINDOW_TOP, WINDOW_HEIGHT = 206.0, 176.0
# Above this number only some marks are drawn, with a note, because they could not be distinguished.
MAX_MARKS = 200


def draw_seam_from_above(plan: Plan, units: str = "mm", palette: str = "screen") -> Drawing:
    """Draw the seam from above.

    Args:
        plan: A new or saved plan.
        units: Unit system.
        palette: Colours.
    """
    canvas = Canvas(
        WIDTH, HEIGHT, "Seam from above, to scale", _describe_drawing(plan, units), palette
    )
    _draw_full_seam(canvas, plan, units)
    _draw_magnified(canvas, plan, units)
    return canvas.drawing()


def _describe_drawing(plan: Plan, units: str) -> str:
    t, lengths = plan.travel, plan.back.bar_lengths
    ripple = "ripples {pitch_mm} apart, {overlap_pct} overlap" if t.pitch_mm else "a smooth bead"
    tacks = fill_template("{count} tacks every {pitch_mm}, numbered in sequence", plan.tacks, units)
    bars = f"; {lengths} bar positions" if lengths else ""
    stops = plan.technique.stops
    pauses = f"; {format_count(len(stops), 'pause')}" if stops else ""
    return (
        fill_template("{length_mm} of seam, ", t, units)
        + tacks
        + bars
        + pauses
        + fill_template("; pool {pool_width_mm} wide, " + ripple, t, units)
        + "."
        + "".join(f" {text[0].upper()}{text[1:]}." for text in _list_thinned(plan))
    )


def _choose_one_in(count: float) -> int:
    """Return the step between drawn marks."""
    return max(1, math.ceil(count / MAX_MARKS))


def _count_ripples(plan: Plan) -> float:
    """Return the number of ripples in the enlarged section."""
    t = plan.travel
    return (_window_mm(plan) * 0.72 - t.pool_width_mm / 2) / t.pitch_mm if t.pitch_mm else 0


def _list_thinned(plan: Plan) -> list[str]:
    """Return the notes about omitted marks."""
    kinds = (
        ("tack", plan.tacks.count),
        ("bar position", plan.back.bar_lengths),
        ("ripple", _count_ripples(plan)),
    )
    return [
        f"one {kind} in {_choose_one_in(count)} is drawn"
        for kind, count in kinds
        if _choose_one_in(count) > 1
    ]


def _draw_full_seam(canvas: Canvas, plan: Plan, units: str) -> None:
    long = plan.travel.length_mm
    scale = (RIGHT - LEFT) / long
    canvas.frame(scale, LEFT, STRIP_TOP + STRIP_HEIGHT / 2)
    half = STRIP_HEIGHT / 2 / scale
    canvas.polygon([(0, -half), (long, -half), (long, 0), (0, 0)], "steel", "line")
    canvas.polygon([(0, 0), (long, 0), (long, half), (0, half)], "steel-2", "line")
    _draw_bar_lengths(canvas, plan, long, half)
    canvas.polyline([(0, 0), (long, 0)], "ink", max(2.0, plan.travel.pool_width_mm * scale))
    _draw_tack_marks(canvas, plan, scale, long)
    _draw_pauses(canvas, plan, scale)
    kind = "unrolled" if plan.section.all_round else "whole"
    canvas.text(
        (LEFT, 24),
        f"The {kind} seam, {format_figure(plan.travel, 'length_mm', units)}",
        colour="ink",
        size=14,
        weight=550,
        pixels=True,
    )
    canvas.text(
        (RIGHT, 24),
        "; ".join([*_list_thinned(plan), "continue from the hidden end →"]),
        "end",
        pixels=True,
    )
    (
        canvas.scale_bar(
            50.0 if units == "mm" else 50.8,
            "50 mm" if units == "mm" else "2 in",
            LEFT,
            STRIP_TOP + STRIP_HEIGHT + 26,
        )
        if long > 110
        else None
    )


def _draw_bar_lengths(canvas: Canvas, plan: Plan, long: float, half: float) -> None:
    bar = plan.back.bar_length_mm
    for i in range(0, plan.back.bar_lengths, _choose_one_in(plan.back.bar_lengths)):
        start, end = i * bar, min(long, (i + 1) * bar)
        for side in (-1, 1):
            canvas.polygon(
                [
                    (start, side * half * 0.45),
                    (end, side * half * 0.45),
                    (end, side * half),
                    (start, side * half),
                ],
                "copper",
                "surface",
                opacity=0.75,
            )


def _draw_tack_marks(canvas: Canvas, plan: Plan, scale: float, long: float) -> None:
    tacks = plan.tacks
    rank = {index: n + 1 for n, index in enumerate(tacks.order)}
    crowded = tacks.count > 26
    for i, position in list(enumerate(tacks.positions_mm))[:: _choose_one_in(tacks.count)]:
        x = LEFT + min(position, long) * scale
        wide = max(2.0, tacks.length_mm * scale / 2)
        y = STRIP_TOP + STRIP_HEIGHT / 2
        canvas.path_px(f"M{max(LEFT, x - wide):.1f} {y:.1f}H{min(RIGHT, x + wide):.1f}", "pool", 7)
        if not crowded or i in (0, len(tacks.positions_mm) - 1):
            canvas.text(
                (x, STRIP_TOP - 8), str(rank.get(i, i + 1)), "middle", "ink", 12, pixels=True
            )


def _draw_pauses(canvas: Canvas, plan: Plan, scale: float) -> None:
    """Draw where to pause: two short bars below the seam, thick where a restart is hidden."""
    stops = plan.technique.stops
    foot = STRIP_TOP + STRIP_HEIGHT
    for stop in stops[:: _choose_one_in(len(stops))]:
        x = LEFT + place_mm(plan, stop) * scale
        wide = 3.5 if stop.hidden else 2.0
        for dx in (-3.0, 3.0):
            canvas.path_px(f"M{x + dx:.1f} {foot - 15:.1f}v11", "act", wide)
    if stops:
        hidden = "; thick: a hidden place" if any(stop.hidden for stop in stops) else ""
        text = f"▮▮ pause and prop again{hidden}"
        canvas.text((RIGHT, foot + 32), text, "end", "ink", 12, pixels=True)


def _draw_magnified(canvas: Canvas, plan: Plan, units: str) -> None:
    t, heat = plan.travel, plan.heat
    pool = t.pool_width_mm
    displayed, wide = _shown_mm(plan), _window_mm(plan)
    scale = WINDOW_HEIGHT / displayed
    middle = WINDOW_TOP + WINDOW_HEIGHT / 2
    canvas.frame(scale, LEFT, middle)
    canvas.polygon(
        [(0, -displayed / 2), (wide, -displayed / 2), (wide, 0), (0, 0)], "steel", "line"
    )
    canvas.polygon(
        [(0, 0), (wide, 0), (wide, displayed / 2), (0, displayed / 2)], "steel-2", "line"
    )
    _draw_ripples(canvas, t, pool, wide, _choose_one_in(_count_ripples(plan)))
    for side in (-1, 1):
        y = side * min(heat.hot_band_mm, displayed) / 2
        canvas.polyline([(0, y), (wide, y)], "bronze", 2, "6 4")
    cover = plan.torch.cover_mm
    arc = [
        (wide * 0.72 + cover / 2 * math.cos(a), cover / 2 * math.sin(a))
        for a in (math.radians(d) for d in range(0, 361, 6))
    ]
    inside = [(x, y) for x, y in arc if abs(y) <= displayed / 2 and 0 <= x <= wide]
    for run in _split_curve(inside):
        canvas.polyline(run, "blue", 1.5, "2 4")
    canvas.text(
        (LEFT, WINDOW_TOP - 10), "Magnified", colour="ink", size=14, weight=550, pixels=True
    )
    canvas.text(
        (RIGHT, WINDOW_TOP - 10),
        fill_template("above {hot_c} between the dashes, gas shield dotted", heat, units),
        "end",
        pixels=True,
    )
    canvas.text(
        (RIGHT, HEIGHT - 20),
        fill_template(
            "pool {pool_width_mm} wide, "
            + ("ripples {pitch_mm} apart, {overlap_pct} overlap" if t.pitch_mm else "smooth"),
            t,
            units,
        ),
        "end",
        "ink",
        pixels=True,
    )
    canvas.scale_bar(
        5.0 if units == "mm" else 6.35, "5 mm" if units == "mm" else "1/4 in", LEFT, HEIGHT - 18
    )


def _shown_mm(plan: Plan) -> float:
    """Return the width across the seam in the enlarged section, mm."""
    return max(16.0, 1.25 * plan.heat.hot_band_mm)


def _window_mm(plan: Plan) -> float:
    """Return the length along the seam in the enlarged section, mm."""
    return (RIGHT - LEFT) / WINDOW_HEIGHT * _shown_mm(plan)


def _draw_ripples(canvas: Canvas, t: Travel, pool: float, wide: float, one_in: int) -> None:
    end = wide * 0.72
    if not t.pitch_mm:
        canvas.polygon(
            [(0, -pool / 2), (end, -pool / 2), (end, pool / 2), (0, pool / 2)], "steel-2", "ink"
        )
        canvas.circle((end, 0), pool / 2, "pool")
        return
    count = int((end - pool / 2) / t.pitch_mm)
    for i in (*range(0, count, one_in), *([count] if count >= 0 else [])):
        x = end - (count - i) * t.pitch_mm
        canvas.circle((x, 0), pool / 2, "pool" if i == count else "steel-2")


def _split_curve(points: list[tuple[float, float]]) -> list[list[tuple[float, float]]]:
    """Return a curve split at the border of the window."""
    runs: list[list[tuple[float, float]]] = []
    for point in points:
        if runs and math.dist(runs[-1][-1], point) < 4:
            runs[-1].append(point)
        else:
            runs.append([point])
    return [run for run in runs if len(run) > 1]
