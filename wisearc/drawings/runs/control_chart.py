"""A control chart: runs in order, centre line, limits, and marked outliers."""

from __future__ import annotations

from ...core.history.statistics import Chart
from ..canvas import Canvas, Drawing

WIDTH, HEIGHT = 640.0, 170.0
LEFT, RIGHT, TOP, BOTTOM = 52.0, 628.0, 14.0, 140.0


def draw_control_chart(chart: Chart, title: str, palette: str = "screen") -> Drawing:
    """Draw a chart.

    Args:
        chart: The chart.
        title: Its title.
        palette: Colours.
    """
    values = [point.value for point in chart.points]
    low, high = min(*values, chart.low), max(*values, chart.high)
    room = max(1.0, 0.08 * (high - low))
    low, high = low - room, high + room
    out = sum(bool(point.out) for point in chart.points)
    text = (
        f"{len(values)} good runs. Mean current {chart.middle:+.1f} % against the "
        f"rule of thumb, usual {chart.low:+.1f} to {chart.high:+.1f} %. Out of range: "
        f"{out or 'none'}"
    )
    canvas = Canvas(WIDTH, HEIGHT, title, text, palette)

    def y(value: float) -> float:
        return BOTTOM - (value - low) / (high - low) * (BOTTOM - TOP)

    def x(i: int) -> float:
        return LEFT + 10 + i * (RIGHT - LEFT - 20) / max(1, len(values) - 1)

    canvas.frame(1.0, 0.0, 0.0)
    canvas.polygon(
        [
            (LEFT, y(chart.high)),
            (RIGHT, y(chart.high)),
            (RIGHT, y(chart.low)),
            (LEFT, y(chart.low)),
        ],
        "steel",
        None,
        opacity=0.35,
    )
    for value, dash in ((chart.high, "5 4"), (chart.middle, None), (chart.low, "5 4")):
        canvas.polyline([(LEFT, y(value)), (RIGHT, y(value))], "ink-2", 1.2, dash)
        canvas.text(
            (LEFT - 6, y(value) + 4), f"{value:+.0f} %".replace("-", "−"), anchor="end", pixels=True
        )
    canvas.polyline([(x(i), y(value)) for i, value in enumerate(values)], "ink-2", 1.0)
    for i, point in enumerate(chart.points):
        canvas.circle(
            (x(i), y(point.value)),
            5.5 if point.out else 3.5,
            "stop" if point.out else "act",
            "surface",
        )
    first, last = chart.points[0], chart.points[-1]
    canvas.text((LEFT, HEIGHT - 10), first.made_on, pixels=True)
    canvas.text((RIGHT, HEIGHT - 10), last.made_on, anchor="end", pixels=True)
    return canvas.drawing()
