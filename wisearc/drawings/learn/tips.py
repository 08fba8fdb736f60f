"""Tips of tungstens: ground as they should be, and with usual mistakes."""

from __future__ import annotations

from collections.abc import Callable

from ..canvas import Canvas, Drawing, Point

WIDTH, HEIGHT = 150.0, 64.0
_MIDDLE, _LEFT, _SHANK, _HALF = 32.0, 6.0, 70.0, 9.0


def draw_tip(key: str, text: str, palette: str = "screen") -> Drawing:
    """Draw the tip of a tungsten from the side, without its mistake in the description.

    Args:
        key: Kind of the grind.
        text: Its label.
        palette: Colours.
    """
    canvas = Canvas(WIDTH, HEIGHT, text, "A tungsten tip from the side", palette)
    canvas.frame(1.0, 0.0, 0.0)
    _DRAWN.get(key, _draw_lengthwise)(canvas)
    return canvas.drawing()


def _draw_shank(canvas: Canvas, cone: list[Point]) -> None:
    top, bottom = _MIDDLE - _HALF, _MIDDLE + _HALF
    outline = [(_LEFT, top), (_SHANK, top), *cone, (_SHANK, bottom), (_LEFT, bottom)]
    canvas.polygon(outline, "steel-2", "ink-2")


def _draw_cone(canvas: Canvas, diameters: float, point_y: float = _MIDDLE) -> float:
    """Draw a ground cone, and return where it ends, px."""
    end = _SHANK + diameters * 2 * _HALF
    _draw_shank(canvas, [(end, point_y - 1), (end, point_y + 1)])
    return end


def _draw_lines(canvas: Canvas, end: float, point_y: float = _MIDDLE) -> None:
    """Draw grinding marks along the axis."""
    for share in (-0.6, -0.2, 0.2, 0.6):
        canvas.polyline(
            [(_SHANK + 2, _MIDDLE + share * _HALF), (end - 4, point_y + share)], "ink-2", 0.8
        )


def _draw_lengthwise(canvas: Canvas) -> None:
    _draw_lines(canvas, _draw_cone(canvas, 2.25))


def _draw_across(canvas: Canvas) -> None:
    end = _draw_cone(canvas, 2.25)
    for n in range(1, 9):
        x = _SHANK + n * (end - _SHANK) / 9.5
        half = _HALF * (1 - (x - _SHANK) / (end - _SHANK))
        canvas.polyline([(x, _MIDDLE - half), (x, _MIDDLE + half)], "ink-2", 1.0)


def _draw_blunt(canvas: Canvas) -> None:
    _draw_lines(canvas, _draw_cone(canvas, 0.6))


def _draw_needle(canvas: Canvas) -> None:
    _draw_lines(canvas, _draw_cone(canvas, 4.0))


def _draw_crooked(canvas: Canvas) -> None:
    point = _MIDDLE + 0.8 * _HALF
    _draw_lines(canvas, _draw_cone(canvas, 2.25, point), point)


def _draw_blue(canvas: Canvas) -> None:
    end = _draw_cone(canvas, 2.25)
    canvas.polygon(
        [
            (_SHANK - 14, _MIDDLE - _HALF),
            (_SHANK, _MIDDLE - _HALF),
            (end, _MIDDLE - 1),
            (end, _MIDDLE + 1),
            (_SHANK, _MIDDLE + _HALF),
            (_SHANK - 14, _MIDDLE + _HALF),
        ],
        "blue",
        None,
        opacity=0.75,
    )
    _draw_lines(canvas, end)


def _draw_ball(canvas: Canvas) -> None:
    _draw_shank(canvas, [(_SHANK + 16, _MIDDLE - 5), (_SHANK + 16, _MIDDLE + 5)])
    canvas.ellipse((_SHANK + 22, _MIDDLE), 11, 10, 0, "scale-grey", "ink-2")


_DRAWN: dict[str, Callable[[Canvas], None]] = {
    "lengthwise": _draw_lengthwise,
    "across": _draw_across,
    "blunt": _draw_blunt,
    "needle": _draw_needle,
    "crooked": _draw_crooked,
    "blue": _draw_blue,
    "ball": _draw_ball,
}
