"""Original small drawings of a bead: tint, edges, ripple, surface, tinted width."""

from __future__ import annotations

import math
from collections.abc import Callable

from ...core import catalogue
from ..canvas import Canvas, Drawing
from ..plan.bead import HALF, HEIGHT, LEFT, MIDDLE, RIGHT, WIDTH, draw_bead, draw_ripple


def draw_tint(key: str, palette: str = "screen") -> Drawing:
    """Draw a face with a bead and its tint.

    Args:
        key: The tint.
        palette: Colours.

    Raises:
        KeyError: The tint is unknown.
    """
    tint = catalogue.load_tints()[key]
    canvas = _start_face(
        tint.name, f"A bead from above with a {tint.name} tint on the face", palette
    )
    canvas.colours = {**canvas.colours, "tint": tint.ink[0], "tint-2": tint.ink[1]}
    for half, ink in ((22.0, "tint-2"), (15.0, "tint")):
        canvas.polygon(
            [
                (LEFT, MIDDLE - half),
                (RIGHT, MIDDLE - half),
                (RIGHT, MIDDLE + half),
                (LEFT, MIDDLE + half),
            ],
            ink,
            None,
        )
    draw_bead(canvas, fill="tint-2")
    if tint.above:
        for i in range(22):
            canvas.circle((9 + i * 5.4, MIDDLE + 5 * math.sin(i * 2.3)), 0.9, "ink-2", None)
    return canvas.drawing()


def draw_bead_feature(kind: str, key: str, text: str, palette: str = "screen") -> Drawing:
    """Draw edges, ripple or surface of a bead.

    Args:
        kind: "edges", "ripple" or "look".
        key: The variant.
        text: Its label.
        palette: Colours.

    Raises:
        KeyError: The variant is unknown.
    """
    draw = _DRAWN[kind][key]
    canvas = _start_face(text, f"A bead: {text}", palette)
    draw(canvas)
    return canvas.drawing()


def draw_band(palette: str = "screen") -> Drawing:
    """Draw the tinted width with its dimension, from the start to the end of the colour."""
    canvas = _start_face(
        "Width of the tint",
        "A bead from above, with the width of the tinted band marked",
        palette,
    )
    canvas.polygon([(LEFT, 10), (RIGHT, 10), (RIGHT, 46), (LEFT, 46)], "straw", None, opacity=0.7)
    draw_bead(canvas, fill="steel-2")
    canvas.path_px("M66 10V46M62 10H70M62 46H70", "ink", 1.8)
    return canvas.drawing()


def _start_face(title: str, text: str, palette: str) -> Canvas:
    canvas = Canvas(WIDTH, HEIGHT, title, text, palette)
    canvas.frame(1.0, 0.0, 0.0)
    canvas.polygon(
        [(2, 3), (WIDTH - 2, 3), (WIDTH - 2, HEIGHT - 3), (2, HEIGHT - 3)], "steel", None
    )
    return canvas


def _draw_across(canvas: Canvas, bead: str, ink: str = "straw") -> None:
    """Draw the sheet in section with a bead as a path."""
    canvas.polygon(
        [(2, 3), (WIDTH - 2, 3), (WIDTH - 2, HEIGHT - 3), (2, HEIGHT - 3)], "surface", None
    )
    canvas.polygon([(4, 30), (WIDTH - 4, 30), (WIDTH - 4, 44), (4, 44)], "steel", "ink-2")
    canvas.path_px(bead, "ink-2", 1.4, fill=ink)


def _draw_blend(canvas: Canvas) -> None:
    _draw_across(canvas, "M34 30Q66 20 98 30L84 44H48Z")


def _draw_upright(canvas: Canvas) -> None:
    _draw_across(canvas, "M50 30Q44 12 66 11Q88 12 82 30L76 40H56Z")
    canvas.path_px("M50 30V22M82 30V22", "stop", 2.2)


def _draw_undercut(canvas: Canvas) -> None:
    _draw_across(canvas, "M40 30Q66 16 92 30L80 44H52Z")
    canvas.path_px("M32 30Q36 38 42 30M90 30Q96 38 100 30", "stop", 2.2, fill="surface")


def _draw_melted(canvas: Canvas) -> None:
    _draw_across(canvas, "M48 44Q58 34 66 30L98 30L90 44Z")
    canvas.path_px("M20 30H34Q40 44 50 44", "stop", 2.2, fill="surface")


def _draw_even(canvas: Canvas) -> None:
    draw_bead(canvas)


def _draw_uneven(canvas: Canvas) -> None:
    draw_bead(canvas, step=0)
    for at, half, long in (
        (14, 7, 3),
        (20, 5, 8),
        (41, 7, 4),
        (47, 7, 10),
        (70, 5, 3),
        (92, 7, 12),
        (99, 7, 4),
        (118, 6, 9),
    ):
        draw_ripple(canvas, at, half, long)


def _draw_tails(canvas: Canvas) -> None:
    draw_bead(canvas)
    canvas.path_px(
        f"M26 {MIDDLE + HALF}q4 8 12 10M62 {MIDDLE + HALF}q4 8 12 10M98 {MIDDLE + HALF}q4 8 12 10",
        "stop",
        2.2,
    )


def _smooth(canvas: Canvas) -> None:
    draw_bead(canvas, step=0)


def _draw_proud(canvas: Canvas) -> None:
    _draw_across(canvas, "M52 30Q46 9 66 8Q86 9 80 30Z")


def _draw_sunk(canvas: Canvas) -> None:
    _draw_across(canvas, "M40 30Q66 46 92 30L82 50Q66 54 50 50Z", "steel-2")


def _draw_wide(canvas: Canvas) -> None:
    upper = [(LEFT + i * 4, MIDDLE - 11 - 4 * math.sin(i * 0.7)) for i in range(32)]
    lower = [(LEFT + i * 4, MIDDLE + 11 - 4 * math.sin(i * 0.7 + 0.6)) for i in range(32)]
    canvas.polygon([*upper, *reversed(lower)], "straw", "ink-2")


def _draw_rough(canvas: Canvas) -> None:
    draw_bead(canvas, fill="scale-grey", step=0)
    for i in range(20):
        canvas.circle(
            (10 + i * 6, MIDDLE + 4.5 * math.sin(i * 2.1)),
            1.5 + 0.7 * math.sin(i * 1.3),
            "ink",
            None,
        )


_DRAWN: dict[str, dict[str, Callable[[Canvas], None]]] = {
    "edges": {
        "blend": _draw_blend,
        "stand": _draw_upright,
        "undercut": _draw_undercut,
        "melted": _draw_melted,
    },
    "ripple": {"even": _draw_even, "uneven": _draw_uneven, "tails": _draw_tails, "none": _smooth},
    "look": {
        "even": _draw_even,
        "smooth": _smooth,
        "proud": _draw_proud,
        "sunk": _draw_sunk,
        "wide": _draw_wide,
        "rough": _draw_rough,
    },
}
