"""Tacks and bars during assembly.

The seam in line or round the tube, numbered tacks, finished ones filled, the next one marked, bar
runs below.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence

from ...core.plan.plan import Plan
from ...core.plan.preparation.bar_runs import BarRun, find_square_checks
from ...core.quantities import format_count, length
from ..canvas import Canvas, Drawing

WIDTH, HEIGHT = 700.0, 250.0
LEFT, RIGHT, SEAM = 34.0, 666.0, 92.0
ROUND_HEIGHT, RADIUS = 380.0, 118.0
# Closer numbers overlap and are drawn in two rows, px.
CLOSE_PX, MAX_NUMBERED = 26.0, 60


def draw_tack_plan(
    plan: Plan,
    runs: Sequence[BarRun],
    done: Collection[int],
    next_tack: int | None,
    units: str = "mm",
    palette: str = "screen",
) -> Drawing:
    """Draw the tacks.

    Args:
        plan: The plan.
        runs: Bar runs.
        done: Finished tacks, by index.
        next_tack: The next tack, or None.
        units: Unit system.
        palette: Colours.
    """
    draw = _round if plan.section.all_round else _draw_straight
    return draw(plan, runs, done, next_tack, units, palette)


def _describe_drawing(plan: Plan, runs: Sequence[BarRun], units: str) -> str:
    t = plan.tacks
    bars = f"; {format_count(len(runs), 'bar position')}" if runs else ""
    stops = sorted(find_square_checks(t.count))
    pause = f", squared after {', '.join(map(str, stops))}" if stops else ""
    return (
        f"{t.count} tacks every {length(t.pitch_mm).text(units)}, numbered in "
        f"sequence{pause}{bars}."
    )


def _draw_straight(
    plan: Plan,
    runs: Sequence[BarRun],
    done: Collection[int],
    next_tack: int | None,
    units: str,
    palette: str,
) -> Drawing:
    canvas = Canvas(
        WIDTH, HEIGHT, "Tacks and bars on the seam", _describe_drawing(plan, runs, units), palette
    )
    seam = plan.section.length_mm
    scale = (RIGHT - LEFT) / seam
    canvas.frame(scale, LEFT, SEAM)
    half = 26.0 / scale
    canvas.polygon([(0, -half), (seam, -half), (seam, 0), (0, 0)], "steel", "line")
    canvas.polygon([(0, 0), (seam, 0), (seam, half), (0, half)], "steel-2", "line")
    canvas.polyline([(0, 0), (seam, 0)], "ink", 2)
    _draw_bars(canvas, runs, scale, units)
    order, stops = plan.tacks.order, find_square_checks(plan.tacks.count)
    for n, index in enumerate(order[:MAX_NUMBERED], 1):
        x = LEFT + plan.tacks.positions_mm[index] * scale
        row = 0 if plan.tacks.pitch_mm * scale >= CLOSE_PX else index % 2
        _draw_tack(
            canvas,
            (x, SEAM),
            (x, SEAM - 42 - 22 * row),
            n,
            index in done,
            index == next_tack,
            n in stops,
        )
    canvas.text((LEFT, HEIGHT - 8), f"0 to {length(seam).text(units)}", pixels=True)
    if stops:
        canvas.text((RIGHT, HEIGHT - 8), "boxed: check for square", "end", pixels=True)
    return canvas.drawing()


def _draw_bars(canvas: Canvas, runs: Sequence[BarRun], scale: float, units: str) -> None:
    for i, run in enumerate(runs[:200]):
        x, wide, y = LEFT + run.start_mm * scale, (run.end_mm - run.start_mm) * scale, SEAM + 44
        canvas.frame(1.0, 0.0, 0.0)
        canvas.polygon(
            [(x + 1, y), (x + wide - 1, y), (x + wide - 1, y + 22), (x + 1, y + 22)],
            "copper",
            "ink-2",
            opacity=0.85,
        )
        if wide > 46:
            canvas.text((x + wide / 2, y + 40), f"bars {i + 1}", "middle", pixels=True)
            canvas.text(
                (x + wide / 2, y + 58),
                length(run.end_mm - run.start_mm).text(units),
                "middle",
                pixels=True,
            )


def _draw_tack(
    canvas: Canvas,
    at: tuple[float, float],
    label: tuple[float, float],
    n: int,
    done: bool,
    now: bool,
    stop: bool,
) -> None:
    canvas.frame(1.0, 0.0, 0.0)
    canvas.circle(
        at,
        9 if now else 7,
        "good" if done else "pool" if now else "surface",
        "ink",
        3 if now else 1.5,
    )
    if stop:
        half, (x, y) = 6 + 4.5 * len(str(n)), label
        canvas.polygon(
            [(x - half, y - 15), (x + half, y - 15), (x + half, y + 5), (x - half, y + 5)],
            None,
            "bronze",
            2,
        )
    canvas.text(
        label,
        str(n),
        "middle",
        "act" if now else "ink",
        17 if now else 14,
        700 if now else 550,
        pixels=True,
    )


def _round(
    plan: Plan,
    runs: Sequence[BarRun],
    done: Collection[int],
    next_tack: int | None,
    units: str,
    palette: str,
) -> Drawing:
    canvas = Canvas(
        WIDTH, ROUND_HEIGHT, "Tacks around the tube", _describe_drawing(plan, runs, units), palette
    )
    middle = (WIDTH / 2, ROUND_HEIGHT / 2)
    canvas.frame(1.0, 0.0, 0.0)
    canvas.circle(middle, RADIUS, "steel", "ink", 2)
    canvas.circle(middle, RADIUS - 16, "surface", "ink-2", 1)
    for i, text in enumerate(
        ("0°: acute side" if plan.section.coped else "0°", "90°", "180°", "270°")
    ):
        a = math.radians(90 * i - 90)
        x, y = middle[0] + (RADIUS - 40) * math.cos(a), middle[1] + (RADIUS - 40) * math.sin(a)
        canvas.text((x, y + 5), text, "middle", pixels=True)
    stops = find_square_checks(plan.tacks.count)
    for n, index in enumerate(plan.tacks.order[:MAX_NUMBERED], 1):
        a = 2 * math.pi * plan.tacks.positions_mm[index] / plan.section.length_mm - math.pi / 2
        at = middle[0] + RADIUS * math.cos(a), middle[1] + RADIUS * math.sin(a)
        label = middle[0] + (RADIUS + 26) * math.cos(a), middle[1] + (RADIUS + 26) * math.sin(a) + 5
        _draw_tack(canvas, at, label, n, index in done, index == next_tack, n in stops)
    if stops:
        canvas.text((WIDTH - 20, ROUND_HEIGHT - 10), "boxed: check for square", "end", pixels=True)
    return canvas.drawing()
