"""The gap at the seam, cut through and magnified: what may be at most, and what was found."""

from __future__ import annotations

from ...core.plan.plan import Plan
from ...core.quantities import exact, length
from ..canvas import Canvas, Drawing

WIDTH, HEIGHT = 640.0, 220.0
MIDDLE, TOP = 320.0, 70.0
# as wide as this, mm, at the least, so that a hair is seen
MIN_SHOWN_MM = 0.6


def draw_gap(plan: Plan, found_mm: float, habit: str = "mm", palette: str = "screen") -> Drawing:
    """Draw it. Parameters: plan, made or kept; found_mm, the greatest gap that was measured."""
    most, thin = plan.fit_up.max_gap_mm, plan.section.thin_mm
    shown = max(MIN_SHOWN_MM, 1.5 * most, 1.25 * found_mm)
    scale = 260.0 / shown
    words = (
        f"Gap {length(found_mm).text(habit)} measured, maximum "
        f"{length(most).text(habit)}, in {length(thin).text(habit)}. Magnified {scale / 3.78:.0f} "
        "times across."
    )
    canvas = Canvas(WIDTH, HEIGHT, "Measured gap and maximum gap", words, palette)
    left, right = MIDDLE - found_mm * scale / 2, MIDDLE + found_mm * scale / 2
    tall = min(120.0, max(46.0, thin * 34))
    canvas.frame(1.0, 0.0, 0.0)
    over = found_mm > most + 1e-9
    canvas.polygon([(20, TOP), (left, TOP), (left, TOP + tall), (20, TOP + tall)], "steel", "ink")
    canvas.polygon(
        [(right, TOP), (WIDTH - 20, TOP), (WIDTH - 20, TOP + tall), (right, TOP + tall)],
        "steel-2",
        "ink",
    )
    if found_mm > 0:
        canvas.polygon(
            [(left, TOP), (right, TOP), (right, TOP + tall), (left, TOP + tall)],
            "surface",
            "stop" if over else "good",
            1.5,
        )
    _measure(canvas, most * scale, TOP - 22, "good", f"maximum {exact(round(most, 3)).text(habit)}")
    _measure(
        canvas,
        found_mm * scale,
        TOP + tall + 30,
        "stop" if over else "ink",
        f"measured {exact(round(found_mm, 3)).text(habit)}" if found_mm else "no gap measured",
    )
    canvas.text((24, TOP + tall / 2 + 5), f"{length(thin).text(habit)}", colour="ink")
    return canvas.drawing()


def _measure(canvas: Canvas, wide: float, y: float, colour: str, words: str) -> None:
    """A span about the middle with its words beside it."""
    left, right = MIDDLE - wide / 2, MIDDLE + wide / 2
    canvas.path_px(
        f"M{left:.1f} {y - 6:.1f}V{y + 6:.1f}M{left:.1f} {y:.1f}H{right:.1f}M{right:.1f}"
        f" {y - 6:.1f}V{y + 6:.1f}",
        colour,
        2.5,
    )
    canvas.text((right + 10, y + 5), words, colour=colour, size=15, weight=600)
