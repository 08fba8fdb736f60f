"""A purge over time.

Oxygen on a logarithmic scale, forecast with and without mixing, readings, fit, target.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

from ...core.physics.purge import AIR_PPM, Course, calculate_unmixed_course
from ...core.physics.purge_fit import PurgeFit, Reading
from ...core.quantities import format_plain
from ..canvas import Canvas, Drawing

WIDTH, HEIGHT = 700.0, 360.0
LEFT, RIGHT, TOP, BOTTOM = 74.0, 684.0, 22.0, 306.0
LOW_PPM, HIGH_PPM = 1.0, 400_000.0
# Readings are drawn as minimum and maximum of columns of this width, px. No spike is lost, and the
# time to draw does not depend on the duration.
COLUMN_PX = 1.5
MIN_DURATION_S = 60.0
POINTS = 120
Scale = Callable[[float], float]


def purge_course(
    course: Course,
    target_ppm: float,
    readings: Sequence[Reading] = (),
    fit: PurgeFit | None = None,
    now_s: float | None = None,
    marks: Sequence[tuple[float, str]] = (),
    palette: str = "screen",
) -> Drawing:
    """Draw the purge.

    Args:
        course: The forecast.
        target_ppm: Target, ppm.
        readings: The readings.
        fit: The fit, or None.
        now_s: Time since the gas was opened, s, or None.
        marks: Events as (s, text).
        palette: Colours.
    """
    mixed, soonest = (
        course.reaches_s(target_ppm),
        calculate_unmixed_course(course).reaches_s(target_ppm),
    )
    until = _find_span(course, mixed, readings, now_s, marks)
    canvas = Canvas(
        WIDTH,
        HEIGHT,
        "Oxygen at the vent over time",
        _describe_drawing(mixed, soonest, target_ppm, readings),
        palette,
    )

    def x(at: float) -> float:
        return LEFT + (RIGHT - LEFT) * min(at, until) / until

    def y(ppm: float) -> float:
        share = (math.log10(min(HIGH_PPM, max(LOW_PPM, ppm))) - math.log10(LOW_PPM)) / (
            math.log10(HIGH_PPM) - math.log10(LOW_PPM)
        )
        return BOTTOM - (BOTTOM - TOP) * share

    _draw_axes(canvas, until, x, y)
    slow = [(x(until * i / POINTS), y(course.ppm(until * i / POINTS))) for i in range(POINTS + 1)]
    quick = _place_unmixed_line(course, until, x, y)
    canvas.polygon([*slow, *quick[::-1]], "gas", None, opacity=0.45)
    canvas.polyline(slow, "blue", 2)
    canvas.polyline(quick, "blue", 2, "7 4")
    canvas.polyline([(LEFT, y(target_ppm)), (RIGHT, y(target_ppm))], "good", 2)
    canvas.text(
        (RIGHT - 4, y(target_ppm) - 6), f"target {target_ppm:g} ppm", "end", "good", weight=600
    )
    _draw_labels(canvas, course, slow, quick, until)
    if readings:
        for run in _build_columns(readings, until, x, y):
            canvas.polyline(run, "ink", 2)
    if fit is not None:
        fitted = [
            (x(until * i / POINTS), y(fit.reading_ppm(until * i / POINTS)))
            for i in range(POINTS + 1)
        ]
        canvas.polyline(fitted, "plum", 2, "2 4")
    for at, text in marks:
        canvas.polyline([(x(at), TOP), (x(at), BOTTOM)], "bronze", 1.5, "4 3")
        canvas.text((x(at) + 4, TOP + 12), text, colour="ink")
    if now_s is not None:
        canvas.polyline([(x(now_s), TOP), (x(now_s), BOTTOM)], "act", 1.5)
    return canvas.drawing()


def _find_span(
    course: Course,
    mixed: float | None,
    readings: Sequence[Reading],
    now_s: float | None,
    marks: Sequence[tuple[float, str]],
) -> float:
    """Return the time range of the drawing, s.

    Past forecast, readings and events, in steps, so that it does not move constantly.
    """
    ends = [
        MIN_DURATION_S,
        1.3 * (mixed or 600 * course.volume_l / course.flow_l_min),
        1.08 * (now_s or 0.0),
        *(1.05 * at for at, _ in marks),
    ]
    if readings:
        ends.append(1.05 * readings[-1][0])
    return 30 * math.ceil(max(ends) / 30)


def _describe_drawing(
    mixed: float | None, soonest: float | None, target: float, readings: Sequence[Reading]
) -> str:
    reach = (
        "never, because of the leak"
        if mixed is None or soonest is None
        else f"between {format_plain(soonest / 60, 1)} and {format_plain(mixed / 60, 1)} minutes"
    )
    read = (
        f" The meter reads {readings[-1][1]:.0f} ppm after {format_plain(readings[-1][0] / 60, 1)}"
        " minutes."
        if readings
        else ""
    )
    return f"Reaches {target:g} ppm {reach}, unmixed and mixed.{read}"


def _place_unmixed_line(
    course: Course, until: float, x: Scale, y: Scale
) -> list[tuple[float, float]]:
    turn, end = min(until, calculate_unmixed_course(course).delay_s), course.settles_ppm
    return [(x(0), y(AIR_PPM)), (x(turn), y(AIR_PPM)), (x(turn), y(end)), (x(until), y(end))]


def _draw_axes(canvas: Canvas, until: float, x: Scale, y: Scale) -> None:
    for power in range(6):
        ppm = 10.0**power
        canvas.polyline([(LEFT, y(ppm)), (RIGHT, y(ppm))], "line", 1)
        text = f"{ppm:g}" if power < 4 else f"{ppm / 10_000:g} %"
        canvas.text((LEFT - 8, y(ppm) + 4), text, "end")
    canvas.text((LEFT - 8, TOP - 6), "oxygen, ppm", "start")
    step = next(
        (s for s in (10, 15, 30, 60, 120, 300, 600, 1200) if until / s <= 10),
        1800 * math.ceil(until / 18_000),
    )
    for i in range(int(until // step) + 1):
        at = i * step
        canvas.polyline([(x(at), BOTTOM), (x(at), BOTTOM + 6)], "ink-2", 1)
        canvas.text((x(at), BOTTOM + 22), f"{at} s" if step < 60 else f"{at // 60} min", "middle")
    canvas.polyline([(LEFT, TOP), (LEFT, BOTTOM), (RIGHT, BOTTOM)], "ink-2", 1)
    canvas.text((RIGHT, HEIGHT - 6), "time since the gas started", "end")


def _draw_labels(
    canvas: Canvas,
    course: Course,
    slow: list[tuple[float, float]],
    quick: list[tuple[float, float]],
    until: float,
) -> None:
    at = slow[POINTS // 4]
    canvas.text((at[0] + 8, at[1] - 4), "mixed", colour="blue", weight=600)
    room = quick[1][0] > LEFT + 70
    at = quick[1][0] + (-6 if room else 6), (quick[1][1] + quick[2][1]) / 2
    canvas.text(at, "layered", "end" if room else "start", "blue", weight=600)


def _build_columns(
    readings: Sequence[Reading], until: float, x: Scale, y: Scale
) -> list[list[tuple[float, float]]]:
    """Return readings as lines in pixels.

    First, minimum, maximum and last of each column in order, with a break at long pauses.
    """
    columns: list[list[Reading]] = []
    at = -1
    for reading in readings:
        column = int(x(reading[0]) / COLUMN_PX)
        if column == at:
            columns[-1].append(reading)
        else:
            columns.append([reading])
            at = column
    runs: list[list[tuple[float, float]]] = [[]]
    gap, before = max(10.0, 4 * until / POINTS), readings[0][0]
    for column_readings in columns:
        if column_readings[0][0] - before > gap:
            runs.append([])
        kept = {
            column_readings[0],
            min(column_readings, key=lambda r: r[1]),
            max(column_readings, key=lambda r: r[1]),
            column_readings[-1],
        }
        runs[-1] += [(round(x(t), 1), round(y(c), 1)) for t, c in sorted(kept)]
        before = column_readings[-1][0]
    return [run for run in runs if len(run) > 1]
