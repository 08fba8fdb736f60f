"""Peak temperature across the seam: tint bands, hot width, shielding width.

Peak temperature next to the pool after Adams 1958; tints of 304-type from published tables, from
memory.
"""

from __future__ import annotations

from itertools import pairwise

from ...core.plan.plan import Plan
from ...core.quantities import size, temperature
from ...core.schema.figures import fill_template, format_figure
from ..canvas import Canvas, Drawing, Point

WIDTH, HEIGHT = 700.0, 430.0
LEFT, RIGHT, TOP, BOTTOM = 88.0, 676.0, 30.0, 318.0
# To either side of the seam; a wider axis has coarser steps.
MAX_STEPS = 20
# Start temperature (°C) of a tint, its colour in the palette, its name. Grey from 650 is an
# estimate, because the tables end with dark blue at 600.
TINTS = (
    (290.0, "straw", "straw"),
    (390.0, "bronze", "brown"),
    (420.0, "plum", "purple"),
    (540.0, "blue", "blue"),
    (650.0, "scale-grey", "grey without gas"),
)


def draw_heat_across(plan: Plan, units: str = "mm", palette: str = "screen") -> Drawing:
    """Draw the heat across the seam.

    Args:
        plan: A new or saved plan.
        units: Unit system.
        palette: Colours.
    """
    curve = Curve(plan)
    canvas = Canvas(
        WIDTH, HEIGHT, "Temperature across the seam", _describe_drawing(plan, units), palette
    )
    canvas.frame(1, 0, 0)
    _draw_grid(canvas, curve, units)
    _strip(canvas, curve)
    points = [
        (x, curve.peak_c(x)) for x in [-curve.half + i * curve.half / 120 for i in range(241)]
    ]
    canvas.polygon(
        [curve.at(-curve.half, 20), *(curve.at(*p) for p in points), curve.at(curve.half, 20)],
        "pool",
        None,
        opacity=0.18,
    )
    canvas.polyline([curve.at(*p) for p in points], "ink", 2.2)
    _draw_brackets(canvas, curve, plan, units)
    return canvas.drawing()


class Curve:
    """Peak temperature by distance from the centre of the seam, and its position in the drawing."""

    def __init__(self, plan: Plan) -> None:
        """Set the scales for a plan."""
        heat = plan.heat
        self.step, self.points, self.pool = (
            heat.curve_step_mm,
            heat.curve_c,
            plan.travel.pool_width_mm,
        )
        self.liquidus, self.hot_c = plan.section.heat.liquidus_c, heat.hot_c
        self.half = max(1.25 * heat.hot_band_mm, 0.6 * plan.torch.cover_mm, 12.0)
        self.most = self.liquidus + 100

    def peak_c(self, x_mm: float) -> float:
        """Return the peak temperature, °C, interpolated; the liquidus in the pool."""
        place = max(0.0, abs(x_mm) - self.pool / 2) / self.step
        i = min(int(place), len(self.points) - 2)
        return self.points[i] + (self.points[i + 1] - self.points[i]) * min(1.0, place - i)

    def at(self, x_mm: float, c: float) -> Point:
        """Return the point in pixels.

        Args:
            x_mm: Distance, mm.
            c: Temperature, °C.
        """
        return LEFT + (x_mm + self.half) / (2 * self.half) * (RIGHT - LEFT), BOTTOM - (c - 20) / (
            self.most - 20
        ) * (BOTTOM - TOP)


def _describe_drawing(plan: Plan, units: str) -> str:
    short = plan.torch.uncovered_mm > 0.05
    cover = (
        f"; {format_figure(plan.torch, 'uncovered_mm', units)} of it outside the gas shield"
        if short
        else ", all inside the gas shield"
    )
    passes = fill_template(
        "The sheet exceeds {hot_c} over {hot_band_mm} across the seam", plan.heat, units
    )
    return f"{passes}{cover}. Under gas it stays bright. Without gas it takes the tints shown."


def _draw_grid(canvas: Canvas, curve: Curve, units: str) -> None:
    canvas.path_px(f"M{LEFT} {TOP}V{BOTTOM}H{RIGHT}", "ink-2")
    for c in (290.0, curve.hot_c, 600.0, 1000.0, curve.liquidus):
        y = curve.at(0, c)[1]
        canvas.path_px(f"M{LEFT} {y:.1f}H{RIGHT}", "line", 1)
        canvas.text((LEFT - 8, y + 4), temperature(c).text(units), "end", size=12, pixels=True)
    canvas.text(
        (RIGHT, BOTTOM - 6),
        "mm from the seam" if units == "mm" else "inches from the seam",
        "end",
        size=12,
        pixels=True,
    )
    step = 5.0 if units == "mm" else 6.35
    while curve.half / step > MAX_STEPS:
        step *= 2
    n = int(curve.half / step)
    for i in range(-n, n + 1):
        x = curve.at(i * step, 20)[0]
        canvas.path_px(f"M{x:.1f} {BOTTOM}v5", "ink-2")
        if i % 2 == 0:
            canvas.text(
                (x, BOTTOM + 19), size(abs(i * step)).number(units), "middle", size=12, pixels=True
            )


def _strip(canvas: Canvas, curve: Curve) -> None:
    """Draw the sheet from above along the same axis, with its tints in air."""
    top = BOTTOM + 30
    steps = 160
    edges = [-curve.half + 2 * curve.half * i / steps for i in range(steps + 1)]
    start, held = edges[0], ""
    for x0, x1 in pairwise(edges):
        c = curve.peak_c((x0 + x1) / 2)
        fill = next((colour for limit, colour, _ in reversed(TINTS) if c >= limit), "steel")
        if held and fill != held:
            _draw_cell(canvas, curve, start, x0, top, held)
            start = x0
        held = fill
    _draw_cell(canvas, curve, start, edges[-1], top, held)
    pool = [curve.at(side * curve.pool / 2, 20)[0] for side in (-1, 1)]
    canvas.polygon(
        [(pool[0], top), (pool[1], top), (pool[1], top + 22), (pool[0], top + 22)], "pool", "ink"
    )
    x = LEFT
    for _, colour, text in TINTS:
        canvas.polygon(
            [(x, top + 34), (x + 12, top + 34), (x + 12, top + 46), (x, top + 46)], colour, "ink-2"
        )
        canvas.text((x + 17, top + 45), f"{text}", size=12, pixels=True)
        x += 74 if len(text) < 9 else 100
    canvas.text((RIGHT, top + 45), "tints in air", "end", size=12, pixels=True)


def _draw_cell(canvas: Canvas, curve: Curve, x0: float, x1: float, top: float, fill: str) -> None:
    left, right = curve.at(x0, 20)[0], curve.at(x1, 20)[0]
    canvas.polygon([(left, top), (right, top), (right, top + 22), (left, top + 22)], fill, None)


def _draw_brackets(canvas: Canvas, curve: Curve, plan: Plan, units: str) -> None:
    band, cover = plan.heat.hot_band_mm, plan.torch.cover_mm
    y = curve.at(0, curve.hot_c)[1]
    left, right = curve.at(-band / 2, 0)[0], curve.at(band / 2, 0)[0]
    canvas.path_px(
        f"M{left:.1f} {y - 6:.1f}v12M{left:.1f} {y:.1f}H{right:.1f}M{right:.1f} {y - 6:.1f}v12",
        "bronze",
        2,
    )
    canvas.text(
        (right + 10, y - 8),
        f"heat tint {size(band).text(units)}",
        colour="bronze",
        weight=640,
        pixels=True,
    )
    a, b = (max(LEFT, min(RIGHT, curve.at(side * cover / 2, 20)[0])) for side in (-1, 1))
    canvas.path_px(f"M{a:.1f} {TOP + 2}v-10H{b:.1f}v10", "blue", 2)
    canvas.text(
        ((a + b) / 2, TOP + 12),
        f"cup shields {size(cover).text(units)}",
        "middle",
        "blue",
        weight=640,
        pixels=True,
    )
