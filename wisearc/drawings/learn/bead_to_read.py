"""A bead to be read: its tint, ripples and flaw, drawn a little differently for every number."""

from __future__ import annotations

import math

from ...core import catalogue
from ...core.practice.exercises import Draw
from ..canvas import Canvas, Drawing

WIDTH, HEIGHT = 360.0, 96.0
_LEFT, _RIGHT, _MIDDLE, _HALF = 18.0, 342.0, 48.0, 11.0
_STEP = 3.0
# The tinted band beside a bead: how far the darkest tint reaches, and the lighter ones beyond, px.
_BAND, _FADE = 5.0, 4.0
# The width of a bead by its flaw, as shares of a sound one.
_WIDTHS = {"too-hot": 1.6, "cold": 0.55, "hole": 1.25}


def draw_bead_to_read(flaw: str, tint: str, number: int, palette: str = "screen") -> Drawing:
    """Draw a bead from above, without its flaw in the description.

    Args:
        flaw: Its flaw, or "".
        tint: Its darkest tint.
        number: The number of the picture.
        palette: Colours.
    """
    draw = Draw(number, "picture")
    canvas = Canvas(WIDTH, HEIGHT, "A bead to be read", "A bead from above", palette)
    canvas.frame(1.0, 0.0, 0.0)
    canvas.polygon([(2, 4), (WIDTH - 2, 4), (WIDTH - 2, 92), (2, 92)], "steel", None)
    canvas.polyline([(2, _MIDDLE), (WIDTH - 2, _MIDDLE)], "ink-2", 1.0)
    half = _HALF * _WIDTHS.get(flaw, 1.0) * (0.92 + 0.16 * draw.share())
    wave, phase = 0.4 + 0.5 * draw.share(), 6 * draw.share()
    if flaw == "uneven":
        wave *= 5
    places = [_LEFT + n * _STEP for n in range(int((_RIGHT - _LEFT) / _STEP) + 1)]
    halves = [half + wave * math.sin(x / 17 + phase) for x in places]
    at = _LEFT + (0.35 + 0.3 * draw.share()) * (_RIGHT - _LEFT)
    if flaw == "restart":
        halves = [
            h + 6 * math.exp(-(((x - at) / 9) ** 2)) for x, h in zip(places, halves, strict=True)
        ]
    _draw_band(canvas, places, halves, tint)
    _outline(canvas, places, halves, "steel-2" if tint == "grey" else "surface", 0.85)
    _draw_ripples(canvas, draw, places, halves, flaw)
    if flaw == "hole":
        canvas.ellipse((at, _MIDDLE), 10, 8, 0, "ink", "ink-2")
    if flaw == "crater-crack":
        x = _RIGHT - 9
        canvas.ellipse((x, _MIDDLE), 7, 6, 0, "steel-2", "ink-2")
        canvas.polyline([(x - 5, _MIDDLE - 3), (x, _MIDDLE + 1), (x + 5, _MIDDLE - 2)], "ink", 1.6)
    if flaw == "cold":
        for side in (-1, 1):
            y = _MIDDLE + side * (half + 3)
            canvas.polyline([(_LEFT, y), (_RIGHT, y)], "ink", 1.4)
    return canvas.drawing()


def _outline(
    canvas: Canvas, places: list[float], halves: list[float], fill: str, opacity: float
) -> None:
    top = [(x, _MIDDLE - h) for x, h in zip(places, halves, strict=True)]
    bottom = [(x, _MIDDLE + h) for x, h in zip(places, halves, strict=True)]
    canvas.polygon([*top, *reversed(bottom)], fill, "ink-2", opacity=opacity)


def _draw_band(canvas: Canvas, places: list[float], halves: list[float], tint: str) -> None:
    """Draw the tints beside the bead, the lightest one outside."""
    tints = catalogue.load_tints()
    names = list(tints)
    rank = names.index(tint)
    if rank == 0:
        return
    inner = [tint] if tints[tint].above else names[1 : rank + 1]
    canvas.colours = {**canvas.colours, **{f"tint-{k}": tints[k].ink[0] for k in inner}}
    for n, name in enumerate(inner):
        reach = _BAND + _FADE * (len(inner) - 1 - n)
        wider = [h + reach for h in halves]
        top = [(x, _MIDDLE - h) for x, h in zip(places, wider, strict=True)]
        bottom = [(x, _MIDDLE + h) for x, h in zip(places, wider, strict=True)]
        canvas.polygon([*top, *reversed(bottom)], f"tint-{name}", None)


def _draw_ripples(
    canvas: Canvas, draw: Draw, places: list[float], halves: list[float], flaw: str
) -> None:
    pitch = 10 + 6 * draw.share()
    x = places[0] + pitch
    while x < places[-1] - 4:
        half = halves[min(len(halves) - 1, int((x - places[0]) / _STEP))] - 1
        canvas.path_px(
            f"M{x - 4:.1f} {_MIDDLE - half:.1f}Q{x + 5:.1f} {_MIDDLE:.1f} {x - 4:.1f}"
            f" {_MIDDLE + half:.1f}",
            "ink-2",
        )
        spread = 0.9 if flaw == "uneven" else 0.12
        x += pitch * (1 + spread * (draw.share() - 0.5) * 2)
