"""The weld metal in the diagram of chromium and nickel equivalents, with rod and members.

Axes after Schaeffler 1949, ferrite lines after Séférian 1959.
"""

from __future__ import annotations

from ...core.plan.plan import Plan
from ...core.quantities import format_plain
from ...core.schema.figures import fill_template
from ..canvas import Canvas, Drawing, Point

WIDTH, HEIGHT = 700.0, 430.0
LEFT, BOTTOM, TOP, RIGHT = 58.0, 380.0, 30.0, 560.0
# A line of text, and the longest one, at the maximum display size, px.
LINE_PX, LONG_PX = 23.0, 240.0
MAX_CR, MAX_NI = 34.0, 28.0
FERRITE_LINES = (0, 5, 10, 20)
GOOD_FERRITE_PCT = (3.0, 15.0)


def draw_weld_metal(plan: Plan, units: str = "mm", palette: str = "screen") -> Drawing:
    """Draw the diagram.

    Args:
        plan: A new or saved plan.
        units: Unit system, without effect here.
        palette: Colours.
    """
    canvas = Canvas(
        WIDTH, HEIGHT, "Weld metal: chromium against nickel", _describe_drawing(plan), palette
    )
    canvas.frame(1, 0, 0)
    if plan.section.stainless_sides == 0:
        canvas.text(
            (LEFT, 60),
            "Carbon steel to carbon steel: this diagram is for stainless weld metal.",
            colour="ink",
            size=15,
            pixels=True,
        )
        return canvas.drawing()
    _draw_axes(canvas)
    _draw_ferrite_lines(canvas)
    _draw_points(canvas, plan)
    return canvas.drawing()


def place_equivalents(cr: float, ni: float) -> Point:
    """Return the point of a pair of equivalents, px.

    Args:
        cr: Chromium equivalent.
        ni: Nickel equivalent.
    """
    return LEFT + cr / MAX_CR * (RIGHT - LEFT), BOTTOM - ni / MAX_NI * (BOTTOM - TOP)


def _describe_drawing(plan: Plan) -> str:
    w = plan.weld_metal
    ferrite = "ferrite {ferrite_pct}" if w.ferrite_pct is not None else "ferrite not calculated"
    equivalents = (
        f"chromium equivalent {format_plain(w.cr_eq, 1)}, "
        f"nickel equivalent {format_plain(w.ni_eq, 1)}, "
    )
    return (
        f"Weld metal at {round(100 * w.dilution)} % dilution:"
        f" {equivalents}{fill_template(ferrite, w, 'mm')}."
    )


def _draw_axes(canvas: Canvas) -> None:
    canvas.path_px(f"M{LEFT} {TOP}V{BOTTOM}H{RIGHT}", "ink-2", 1)
    for cr in range(0, 35, 5):
        x, y = place_equivalents(cr, 0)
        canvas.path_px(f"M{x:.1f} {y}v5", "ink-2")
        canvas.text((x, y + 20), str(cr), "middle", size=12, pixels=True)
    for ni in range(0, 29, 5):
        x, y = place_equivalents(0, ni)
        canvas.path_px(f"M{x} {y:.1f}h-5", "ink-2")
        canvas.text((x - 9, y + 4), str(ni), "end", size=12, pixels=True)
    canvas.text(
        (RIGHT, BOTTOM + 40), "chromium equivalent: Cr + Mo + 1.5 Si + 0.5 Nb", "end", pixels=True
    )
    canvas.text(
        (LEFT - 46, TOP - 10), "nickel equivalent: Ni + 30 C + 0.5 Mn", size=12, pixels=True
    )


def _find_ferrite_line(ferrite: float) -> list[Point]:
    """Return a line of equal ferrite within the axes: Creq = δ/3 + 0.93 Nieq + 6.7."""
    points = []
    for ni in (0.0, MAX_NI):
        cr = ferrite / 3 + 0.93 * ni + 6.7
        points.append((cr, ni))
    (x0, y0), (x1, y1) = points
    if x1 > MAX_CR:
        x1, y1 = MAX_CR, y0 + (MAX_CR - x0) * (y1 - y0) / (x1 - x0)
    return [place_equivalents(x0, y0), place_equivalents(x1, y1)]


def _draw_ferrite_lines(canvas: Canvas) -> None:
    low, high = (_find_ferrite_line(f) for f in GOOD_FERRITE_PCT)
    canvas.polygon([*low, *reversed(high)], "straw", None, opacity=0.28)
    for ferrite in FERRITE_LINES:
        line = _find_ferrite_line(ferrite)
        canvas.polyline(line, "ink-2", 1.2)
        x, y = line[1]
        canvas.text(
            (x - 8, y + 14) if ferrite == 0 else (x + 6, y + 4),
            f"{ferrite} %",
            "end" if ferrite == 0 else "start",
            size=12,
            pixels=True,
        )
    x, y = place_equivalents(24.0, 24.5)
    canvas.text((x, y), "suitable: 3 to 15 %", "end", "ink", 12, pixels=True)


def _draw_points(canvas: Canvas, plan: Plan) -> None:
    w, sides = plan.weld_metal, plan.section.sides[:2]
    marks = [(s.cr_eq, s.ni_eq, s.metal, "steel") for s in sides]
    if sides[0].metal == sides[1].metal:
        marks = marks[:1]
    if w.rod_cr_eq is not None and w.rod_ni_eq is not None and plan.filler.rod:
        marks.append((w.rod_cr_eq, w.rod_ni_eq, plan.filler.rod, "rod"))
        # Mixing is linear: from the pure rod through the weld metal to the melted sheet.
        rod = (w.rod_cr_eq, w.rod_ni_eq)
        sheet = tuple(
            r + (m - r) / (w.dilution or 1.0) for r, m in zip(rod, (w.cr_eq, w.ni_eq), strict=True)
        )
        path = [
            (rod[0] + (sheet[0] - rod[0]) * d / 20, rod[1] + (sheet[1] - rod[1]) * d / 20)
            for d in range(21)
        ]
        canvas.polyline([place_equivalents(*point) for point in path], "act", 2, "6 4")
        for d in (4, 8, 12, 16):
            canvas.circle(place_equivalents(*path[d]), 2.6, "act", None)
    taken: list[Point] = []
    for cr, ni, name, fill in marks:
        x, y = place_equivalents(min(cr, MAX_CR), min(ni, MAX_NI))
        canvas.polygon([(x - 6, y - 6), (x + 6, y - 6), (x + 6, y + 6), (x - 6, y + 6)], fill)
        label = _clear((x + 11, y + 5), taken)
        canvas.text(label, name, colour="ink", weight=550, pixels=True)
    x, y = place_equivalents(min(w.cr_eq, MAX_CR), min(w.ni_eq, MAX_NI))
    canvas.circle((x, y), 8, "pool", "ink", 2)
    canvas.text(
        _clear((x + 12, y + 5), taken),
        f"weld, {round(100 * w.dilution)} % melted sheet",
        colour="ink",
        weight=640,
        pixels=True,
    )


def _clear(place: Point, taken: list[Point]) -> Point:
    """Return the place of a label, or the nearest free one below or above it within the axes."""
    x, y = place
    steps = (step * sign for step in range(len(taken) + 2) for sign in (1, -1))
    clear_place = next(
        (
            (x, y + LINE_PX * step)
            for step in steps
            if TOP + LINE_PX < y + LINE_PX * step < BOTTOM - 4
            and not any(
                abs(y + LINE_PX * step - ty) < LINE_PX and abs(x - tx) < LONG_PX for tx, ty in taken
            )
        ),
        place,
    )
    taken.append(clear_place)
    return clear_place
