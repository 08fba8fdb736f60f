"""The runs of a revision in order: the current setting of each, against its allowed range."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from ...core.schema.figures import format_value
from ..canvas import Canvas, Drawing

WIDTH, HEIGHT = 460.0, 130.0
LEFT, RIGHT, TOP, BOTTOM = 12.0, 448.0, 24.0, 104.0


class RunPoint(Struct, frozen=True):
    """A run: date, current setting A or None, and whether it is good."""

    made_on: str
    current_a: float | None
    is_good: bool


def draw_run_chart(
    points: Sequence[RunPoint], low_a: float, high_a: float, palette: str = "screen"
) -> Drawing:
    """Draw the runs of a revision.

    Args:
        points: The runs, oldest first. A run without a setting is in the middle of the range.
        low_a: Lower limit of the setting, A.
        high_a: Upper limit, A.
        palette: Colours.
    """
    middle = (low_a + high_a) / 2
    values = [middle if point.current_a is None else point.current_a for point in points]
    bottom_a, top_a = min([low_a, *values]), max([high_a, *values])
    room = max(1.0, 0.12 * (top_a - bottom_a))
    bottom_a, top_a = bottom_a - room, top_a + room
    good = sum(point.is_good for point in points)
    limits = f"{low_a:.0f} to {format_value(round(high_a), 'current', 'mm')}"
    title = f"{good} of {len(points)} runs good"
    text = f"{title}. Current setting of each run, allowed {limits}."
    canvas = Canvas(WIDTH, HEIGHT, title, text, palette)

    def y(value: float) -> float:
        return BOTTOM - (value - bottom_a) / (top_a - bottom_a) * (BOTTOM - TOP)

    def x(i: int) -> float:
        return LEFT + 16 + i * (RIGHT - LEFT - 32) / max(1, len(points) - 1)

    canvas.frame(1.0, 0.0, 0.0)
    canvas.polygon(
        [(LEFT, y(high_a)), (RIGHT, y(high_a)), (RIGHT, y(low_a)), (LEFT, y(low_a))],
        "good",
        None,
        opacity=0.16,
    )
    canvas.text((LEFT, 14), f"setting, allowed {limits}", pixels=True)
    for i, (point, value) in enumerate(zip(points, values, strict=True)):
        # A good run is filled and a bad one is a ring: the shape differs, not only the colour.
        if point.is_good:
            canvas.circle((x(i), y(value)), 6.0, "good", "surface")
        else:
            canvas.circle((x(i), y(value)), 6.0, "surface", "stop", 2.5)
    if points:
        canvas.text((LEFT, HEIGHT - 8), points[0].made_on, pixels=True)
        if len(points) > 1:
            canvas.text((RIGHT, HEIGHT - 8), points[-1].made_on, anchor="end", pixels=True)
    return canvas.drawing()
