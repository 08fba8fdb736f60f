"""A bead from above for small drawings."""

from __future__ import annotations

from ..canvas import Canvas

WIDTH, HEIGHT = 132.0, 56.0
MIDDLE, LEFT, RIGHT, HALF = 28.0, 8.0, 124.0, 8.0


def draw_bead(
    canvas: Canvas,
    half: float = HALF,
    fill: str = "straw",
    start: float = LEFT,
    end: float = RIGHT,
    step: float = 9.0,
) -> None:
    """Draw a bead with ripples.

    Args:
        canvas: The canvas.
        half: Half width, px.
        fill: Colour.
        start: Start, px.
        end: End, px.
        step: Ripple pitch, px; 0: no ripples.
    """
    canvas.polygon(
        [
            (start, MIDDLE - half),
            (end, MIDDLE - half),
            (end, MIDDLE + half),
            (start, MIDDLE + half),
        ],
        fill,
        "ink-2",
    )
    at = start + step
    while step and at < end:
        draw_ripple(canvas, at, half)
        at += step


def draw_ripple(canvas: Canvas, at: float, half: float = HALF, long: float = 5.0) -> None:
    """Draw one ripple across a bead.

    Args:
        canvas: The canvas.
        at: Position, px.
        half: Half width, px.
        long: Length, px.
    """
    canvas.path_px(
        f"M{at - long:.1f} {MIDDLE - half:.1f}Q{at + long:.1f} {MIDDLE:.1f} {at - long:.1f}"
        f" {MIDDLE + half:.1f}",
        "ink-2",
    )
