"""The gap at the seam in section, enlarged: the maximum and the measured gap."""

from __future__ import annotations

from ...core.plan.plan import Plan
from ...core.quantities import exact, length
from ..canvas import Canvas, Drawing

WIDTH, HEIGHT = 640.0, 220.0
MIDDLE, TOP = 320.0, 70.0
# The minimum width of the view, mm, so that a hair is visible.
MIN_SHOWN_MM = 0.6


def draw_gap(plan: Plan, found_mm: float, units: str = "mm", palette: str = "screen") -> Drawing:
    """Draw the gap.

    Args:
        plan: A new or saved plan.
        found_mm: The largest measured gap, mm.
        units: Unit system.
        palette: Colours.
    """
    maximum, thin = plan.fit_up.max_gap_mm, plan.section.thin_mm
    displayed = max(MIN_SHOWN_MM, 1.5 * maximum, 1.25 * found_mm)
    scale = 260.0 / displayed
    text = (
        f"Gap {length(found_mm).text(units)} measured, maximum "
        f"{length(maximum).text(units)}, in {length(thin).text(units)}. "
        f"Magnified {scale / 3.78:.0f} "
        "times across."
    )
    canvas = Canvas(WIDTH, HEIGHT, "Measured gap and maximum gap", text, palette)
    left, right = MIDDLE - found_mm * scale / 2, MIDDLE + found_mm * scale / 2
    tall = min(120.0, max(46.0, thin * 34))
    canvas.frame(1.0, 0.0, 0.0)
    over = found_mm > maximum + 1e-9
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
    _measure(
        canvas, maximum * scale, TOP - 22, "good", f"maximum {exact(round(maximum, 3)).text(units)}"
    )
    _measure(
        canvas,
        found_mm * scale,
        TOP + tall + 30,
        "stop" if over else "ink",
        f"measured {exact(round(found_mm, 3)).text(units)}" if found_mm else "no gap measured",
    )
    canvas.text((24, TOP + tall / 2 + 5), f"{length(thin).text(units)}", colour="ink")
    return canvas.drawing()


def _measure(canvas: Canvas, wide: float, y: float, colour: str, text: str) -> None:
    """Draw a dimension about the centre with its text."""
    left, right = MIDDLE - wide / 2, MIDDLE + wide / 2
    canvas.path_px(
        f"M{left:.1f} {y - 6:.1f}V{y + 6:.1f}M{left:.1f} {y:.1f}H{right:.1f}M{right:.1f}"
        f" {y - 6:.1f}V{y + 6:.1f}",
        colour,
        2.5,
    )
    canvas.text((right + 10, y + 5), text, colour=colour, size=15, weight=600)
