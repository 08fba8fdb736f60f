"""Original small drawings of flaws: the bead from above, or its section, with the flaw."""

from __future__ import annotations

import math
from collections.abc import Callable

from ..canvas import Canvas, Drawing
from ..plan.bead import HALF, HEIGHT, LEFT, MIDDLE, RIGHT, WIDTH, draw_bead, draw_ripple


def draw_fault(key: str, text: str, palette: str = "screen") -> Drawing:
    """Draw a flaw.

    A flaw without a drawing shows the plain bead.

    Args:
        key: The flaw.
        text: Its label.
        palette: Colours.
    """
    draw = _DRAWN.get(key, _draw_bare)
    view = "A section of a bead" if key in _SECTIONS else "A bead from above"
    canvas = Canvas(WIDTH, HEIGHT, text, f"{view}: {text}", palette)
    canvas.frame(1.0, 0.0, 0.0)
    canvas.polygon(
        [(2, 4), (WIDTH - 2, 4), (WIDTH - 2, HEIGHT - 4), (2, HEIGHT - 4)], "steel", None
    )
    draw(canvas)
    return canvas.drawing()


def _draw_crack(canvas: Canvas, points: list[tuple[float, float]]) -> None:
    canvas.polyline(points, "stop", 2.0)


def _draw_bare(canvas: Canvas) -> None:
    draw_bead(canvas)


def _draw_hole(canvas: Canvas) -> None:
    draw_bead(canvas)
    canvas.ellipse((66, MIDDLE), 9, 7, 0, "ink", "stop")


def _draw_cold(canvas: Canvas) -> None:
    draw_bead(canvas, half=5.0)
    for y in (MIDDLE - 7, MIDDLE + 7):
        canvas.path_px(f"M{LEFT} {y}H{RIGHT}", "stop", 2.0)


def _draw_too_hot(canvas: Canvas) -> None:
    canvas.polygon(
        [(2, 8), (WIDTH - 2, 8), (WIDTH - 2, HEIGHT - 8), (2, HEIGHT - 8)],
        "blue",
        None,
        opacity=0.55,
    )
    draw_bead(canvas, half=11.0, fill="steel-2")


def _draw_grey(canvas: Canvas) -> None:
    draw_bead(canvas, fill="scale-grey", step=0)
    for i in range(14):
        canvas.circle((12 + i * 8.2, MIDDLE + 4 * math.sin(i * 2.1)), 1.2, "ink-2", None)


def _draw_wobble(canvas: Canvas) -> None:
    upper = [(LEFT + i * 4, MIDDLE - HALF - 3 * math.sin(i * 0.9)) for i in range(30)]
    lower = [(LEFT + i * 4, MIDDLE + HALF - 3 * math.sin(i * 0.9 + 0.8)) for i in range(30)]
    canvas.polygon([*upper, *reversed(lower)], "straw", "stop", 1.5)


def _draw_pores(canvas: Canvas) -> None:
    draw_bead(canvas)
    for x, y, r in ((30, 25, 2.2), (47, 31, 1.6), (62, 26, 2.6), (84, 30, 1.8), (103, 27, 2.2)):
        canvas.circle((x, y), r, "ink", "stop")


def _draw_edge_lost(canvas: Canvas) -> None:
    canvas.polygon(
        [(2, MIDDLE), (WIDTH - 2, MIDDLE), (WIDTH - 2, HEIGHT), (2, HEIGHT)], "surface", None
    )
    edge = [
        (LEFT, MIDDLE),
        (30, MIDDLE),
        (38, MIDDLE - 10),
        (50, MIDDLE - 11),
        (58, MIDDLE),
        (84, MIDDLE),
        (90, MIDDLE - 8),
        (100, MIDDLE - 7),
        (106, MIDDLE),
        (RIGHT, MIDDLE),
    ]
    canvas.polygon([(LEFT, MIDDLE - 14), *edge, (RIGHT, MIDDLE - 14)], "straw", None)
    canvas.polyline(edge, "stop", 2.0)


def _draw_tacks_cracked(canvas: Canvas) -> None:
    canvas.path_px(f"M2 {MIDDLE - 1.5}H{WIDTH - 2}M2 {MIDDLE + 1.5}H{WIDTH - 2}", "ink")
    for x in (26, 66, 106):
        canvas.ellipse((x, MIDDLE), 9, 6, 0, "straw", "ink-2")
        _draw_crack(
            canvas, [(x - 8, MIDDLE), (x - 2, MIDDLE - 2), (x + 2, MIDDLE + 2), (x + 8, MIDDLE)]
        )


def _draw_crater(canvas: Canvas) -> None:
    draw_bead(canvas, end=96)
    canvas.circle((96, MIDDLE), HALF, "straw", "ink-2")
    for turn in (0.3, 2.4, 4.5):
        _draw_crack(canvas, [(96, MIDDLE), (96 + 6 * math.cos(turn), MIDDLE + 6 * math.sin(turn))])


def _draw_restart(canvas: Canvas) -> None:
    draw_bead(canvas)
    canvas.ellipse((66, MIDDLE), 11, 13, 0, "straw", "stop", 2.0)


def _draw_uneven(canvas: Canvas) -> None:
    draw_bead(canvas, step=0)
    for at, half, long in (
        (20, 8, 3),
        (27, 6, 8),
        (45, 8, 4),
        (50, 8, 10),
        (72, 5, 3),
        (92, 8, 12),
        (99, 8, 4),
        (116, 7, 9),
    ):
        draw_ripple(canvas, at, half, long)
    canvas.path_px(f"M60 {MIDDLE + HALF}q3 8 10 9M96 {MIDDLE + HALF}q3 7 8 8", "stop", 2.0)


def _draw_undercut(canvas: Canvas) -> None:
    draw_bead(canvas)
    for y in (MIDDLE - HALF - 2, MIDDLE + HALF + 2):
        canvas.path_px(
            f"M{LEFT + 12} {y}q14 {2 if y > MIDDLE else -2} 30 0m16 0q16 {2 if y > MIDDLE else -2}"
            " 34 0",
            "stop",
            3.5,
        )


def _draw_bowed(canvas: Canvas) -> None:
    canvas.polygon(
        [(2, 4), (WIDTH - 2, 4), (WIDTH - 2, HEIGHT - 4), (2, HEIGHT - 4)], "surface", None
    )
    canvas.path_px(f"M6 40Q66 4 {WIDTH - 6} 40", "ink", 5.0)
    canvas.path_px(f"M6 44H{WIDTH - 6}", "stop", 1.5)


def _draw_touched(canvas: Canvas) -> None:
    draw_bead(canvas)
    canvas.polygon([(66, 25), (74, 4), (82, 4)], "ink-2", "ink")
    canvas.circle((66, MIDDLE), 4, "ink", "stop")


def _draw_keyhole(canvas: Canvas) -> None:
    draw_bead(canvas, end=72)
    canvas.path_px(f"M72 {MIDDLE}H{RIGHT}", "ink-2")
    canvas.ellipse((78, MIDDLE), 8, 5.5, 0, "ink", "stop", 2.0)
    canvas.polygon([(104, 8), (108, 11), (84, 25), (81, 22)], "steel-2", "ink-2")


def _draw_frosty(canvas: Canvas) -> None:
    canvas.polygon(
        [(2, 4), (WIDTH - 2, 4), (WIDTH - 2, MIDDLE - 10), (2, MIDDLE - 10)], "surface", None
    )
    canvas.path_px(f"M2 {MIDDLE - 10}H{WIDTH - 2}", "ink", 1.5)
    draw_bead(canvas, fill="steel-2", step=0)
    for i in range(26):
        canvas.circle(
            (11 + i * 4.4, MIDDLE - 4 + 3.4 * math.sin(i * 2.7)), 1.0, "surface", "stop", 0.6
        )


def _draw_rod_grey(canvas: Canvas) -> None:
    canvas.polygon(
        [(12, MIDDLE - 5), (84, MIDDLE - 5), (84, MIDDLE + 5), (12, MIDDLE + 5)], "steel-2", "ink-2"
    )
    canvas.ellipse((92, MIDDLE), 14, 11, 0, "scale-grey", "stop", 2.0)
    for x, y in ((86, 24), (92, 33), (98, 26), (90, 21)):
        canvas.circle((x, y), 1.3, "ink-2", None)


def _draw_rust(canvas: Canvas) -> None:
    draw_bead(canvas)
    for x, y, r in (
        (24, 14, 3.0),
        (41, 44, 2.2),
        (58, 24, 2.6),
        (77, 12, 2.0),
        (90, 33, 3.2),
        (110, 45, 2.4),
    ):
        canvas.circle((x, y), r, "copper", "stop")


# The top and the bottom of the sheet in a section, px.
TOP, BOTTOM = 20.0, 38.0


def _draw_sheets(canvas: Canvas, step: float = 0.0) -> None:
    """Draw the section of two sheets that meet in the middle, one of them lower by a step, px."""
    canvas.polygon(
        [(2, 4), (WIDTH - 2, 4), (WIDTH - 2, HEIGHT - 4), (2, HEIGHT - 4)], "surface", None
    )
    for x0, x1, lower in ((8.0, 66.0, 0.0), (66.0, 124.0, step)):
        canvas.polygon(
            [
                (x0, TOP + lower),
                (x1, TOP + lower),
                (x1, BOTTOM + lower),
                (x0, BOTTOM + lower),
            ],
            "steel",
            "ink-2",
        )


def _draw_root_unfused(canvas: Canvas) -> None:
    _draw_sheets(canvas)
    canvas.path_px(
        f"M46 {TOP}Q66 {TOP - 8} 86 {TOP}Q66 {BOTTOM - 4} 46 {TOP}Z", "ink-2", 1, "straw"
    )
    canvas.path_px(f"M66 {BOTTOM - 11}V{BOTTOM}", "stop", 3.0)


def _draw_root_sagged(canvas: Canvas) -> None:
    _draw_sheets(canvas)
    path = f"M44 {TOP}Q66 {TOP + 8} 88 {TOP}L84 {BOTTOM}Q66 {BOTTOM + 16} 48 {BOTTOM}Z"
    canvas.path_px(path, "ink-2", 1, "straw")
    canvas.path_px(f"M48 {BOTTOM}Q66 {BOTTOM + 16} 84 {BOTTOM}", "stop", 2.5)


def _draw_root_sucked_back(canvas: Canvas) -> None:
    _draw_sheets(canvas)
    path = f"M44 {TOP}Q66 {TOP - 14} 88 {TOP}L82 {BOTTOM}Q66 {BOTTOM - 12} 50 {BOTTOM}Z"
    canvas.path_px(path, "ink-2", 1, "straw")
    canvas.path_px(f"M50 {BOTTOM}Q66 {BOTTOM - 12} 82 {BOTTOM}", "stop", 2.5)


def _draw_crack_centreline(canvas: Canvas) -> None:
    draw_bead(canvas)
    _draw_crack(canvas, [(18 + i * 8, MIDDLE + (1.5 if i % 2 else -1.5)) for i in range(13)])


def _draw_crack_toe(canvas: Canvas) -> None:
    draw_bead(canvas)
    y = MIDDLE + HALF + 1
    _draw_crack(canvas, [(28 + i * 7, y + (1.5 if i % 2 else 0)) for i in range(11)])


def _draw_crack_tack(canvas: Canvas) -> None:
    canvas.path_px(f"M2 {MIDDLE}H{WIDTH - 2}", "ink")
    for x in (26, 66, 106):
        canvas.ellipse((x, MIDDLE), 10, 7, 0, "straw", "ink-2")
    _draw_crack(canvas, [(62, MIDDLE - 7), (67, MIDDLE - 2), (64, MIDDLE + 2), (69, MIDDLE + 7)])


def _draw_tungsten_dark(canvas: Canvas) -> None:
    shank = [(8, MIDDLE - 7), (84, MIDDLE - 7), (84, MIDDLE + 7), (8, MIDDLE + 7)]
    canvas.polygon(shank, "steel-2", "ink-2")
    tip = [(84, MIDDLE - 7), (122, MIDDLE - 1), (122, MIDDLE + 1), (84, MIDDLE + 7)]
    canvas.polygon(tip, "ink", "stop")
    band = [(58, MIDDLE - 7), (84, MIDDLE - 7), (84, MIDDLE + 7), (58, MIDDLE + 7)]
    canvas.polygon(band, "blue", "ink-2")


def _draw_arc_wander(canvas: Canvas) -> None:
    draw_bead(canvas, end=80)
    canvas.polygon([(82, 4), (90, 4), (87, 14), (85, 14)], "ink-2", "ink")
    canvas.path_px(f"M86 14L80 {MIDDLE}", "ink-2", 1.0)
    canvas.path_px(f"M86 14Q98 22 106 {MIDDLE + 12}", "stop", 2.5)


def _draw_misaligned(canvas: Canvas) -> None:
    _draw_sheets(canvas, 8.0)
    path = f"M48 {TOP}Q60 {TOP - 6} 66 {TOP - 2}L86 {TOP + 8}L82 {BOTTOM + 8}L50 {BOTTOM}Z"
    canvas.path_px(path, "ink-2", 1, "straw")
    canvas.path_px(f"M66 {TOP - 2}L86 {TOP + 8}", "stop", 2.5)


def _draw_reinforcement_high(canvas: Canvas) -> None:
    _draw_sheets(canvas)
    path = f"M46 {TOP}Q48 4 66 4Q84 4 86 {TOP}L80 {BOTTOM}H52Z"
    canvas.path_px(path, "ink-2", 1, "straw")
    canvas.path_px(f"M46 {TOP}Q48 4 66 4Q84 4 86 {TOP}", "stop", 2.5)


_SECTIONS = ("root-unfused", "root-sagged", "root-sucked-back", "misaligned", "reinforcement-high")
_DRAWN: dict[str, Callable[[Canvas], None]] = {
    "hole": _draw_hole,
    "cold": _draw_cold,
    "too-hot": _draw_too_hot,
    "grey": _draw_grey,
    "wobble": _draw_wobble,
    "pores": _draw_pores,
    "edge-lost": _draw_edge_lost,
    "tacks-cracked": _draw_tacks_cracked,
    "crater-crack": _draw_crater,
    "restart": _draw_restart,
    "uneven": _draw_uneven,
    "undercut": _draw_undercut,
    "bowed": _draw_bowed,
    "touched": _draw_touched,
    "keyhole": _draw_keyhole,
    "frosty": _draw_frosty,
    "rod-grey": _draw_rod_grey,
    "rust": _draw_rust,
    "root-unfused": _draw_root_unfused,
    "root-sagged": _draw_root_sagged,
    "root-sucked-back": _draw_root_sucked_back,
    "crack-centreline": _draw_crack_centreline,
    "crack-toe": _draw_crack_toe,
    "crack-tack": _draw_crack_tack,
    "tungsten-dark": _draw_tungsten_dark,
    "arc-wander": _draw_arc_wander,
    "misaligned": _draw_misaligned,
    "reinforcement-high": _draw_reinforcement_high,
}
