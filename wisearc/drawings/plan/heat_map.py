"""The field of heat as a still picture: the highest temperatures of the sheet along the seam."""

from __future__ import annotations

import numpy as np

from ...core.conduction.grid import find_strip, measure_reach_mm
from ...core.conduction.outcome import Outcome
from ...core.conduction.tint import find_min_tint_c
from ...core.physics.heat import GLOW_C, HOT_BAND_C
from ...core.quantities import length, temperature
from ..canvas import Canvas, Drawing

_WIDTH, _HEIGHT = 700.0, 240.0
_LEFT, _RIGHT, _MIDDLE = 20.0, 680.0, 110.0
# Across the seam the drawing shows at least this much on each side, mm.
_MIN_HALF_MM = 12.0


def draw_heat_map(outcome: Outcome, units: str = "mm", palette: str = "screen") -> Drawing:
    """Draw how far each temperature reached, along the seam from above.

    Across the seam the scale is larger than along it.

    Args:
        outcome: The field.
        units: Unit system.
        palette: Colours.
    """
    problem = outcome.problem
    straw_c = find_min_tint_c()
    levels = (
        (straw_c, "straw", f"{temperature(straw_c).text(units)} straw"),
        (HOT_BAND_C, "plum", f"{temperature(HOT_BAND_C).text(units)} purple"),
        (GLOW_C, "blue", f"{temperature(GLOW_C).text(units)} red heat"),
        (problem.metal.liquidus_c, "pool", "melted"),
    )
    profiles = {level: _measure_reach(outcome, level) for level, _, _ in levels}
    half = max(_MIN_HALF_MM, float(max(reach.max() for reach in profiles[straw_c])))
    melted, tinted = (
        _format_middle(profiles[level], units) for level in (problem.metal.liquidus_c, HOT_BAND_C)
    )
    words = (
        f"From above, {length(problem.length_mm).text(units)} of seam. In the middle it is melted "
        f"over {melted}, and above {temperature(HOT_BAND_C).text(units)} over {tinted}."
    )
    # On paper the picture is too small for a legend. The sheet has the words.
    height = _HEIGHT if palette == "screen" else _MIDDLE + 100
    canvas = Canvas(_WIDTH, height, "Heat of the seam", words, palette)
    canvas.frame(1, 0, 0)
    tall = 92.0 / half
    count = len(profiles[straw_c][0])
    xs = np.linspace(_LEFT, _RIGHT, count)
    edge = [(_LEFT, _MIDDLE - 92), (_RIGHT, _MIDDLE - 92), (_RIGHT, _MIDDLE + 92)]
    canvas.polygon([*edge, (_LEFT, _MIDDLE + 92)], "steel", "ink-2", 1)
    for level, colour, _ in levels:
        first, second = profiles[level]
        upper = [(float(x), _MIDDLE - tall * float(r)) for x, r in zip(xs, first, strict=True)]
        lower = [(float(x), _MIDDLE + tall * float(r)) for x, r in zip(xs, second, strict=True)]
        canvas.polygon([*upper, *reversed(lower)], colour, "ink", 0.8, opacity=0.85)
    canvas.polyline([(_LEFT, _MIDDLE), (_RIGHT, _MIDDLE)], "ink", 0.8, "4 4")
    per_mm = (_RIGHT - _LEFT) / problem.length_mm
    for tack in problem.tacks_mm:
        low, high = (min(_RIGHT, max(_LEFT, _LEFT + per_mm * end)) for end in tack)
        canvas.polyline([(low, _MIDDLE), (high, _MIDDLE)], "ink", 4.0)
    x = _LEFT
    for _, colour, text in levels if palette == "screen" else ():
        box = [(x, 218.0), (x + 16, 218.0), (x + 16, 230.0), (x, 230.0)]
        canvas.polygon(box, colour, "ink", 0.8)
        canvas.text((x + 22, 229.0), text)
        x += 168
    return canvas.drawing()


def _measure_reach(outcome: Outcome, level_c: float) -> tuple[np.ndarray, np.ndarray]:
    """Return how far a temperature reached on the first and second side, mm, along the seam."""
    rows = outcome.get_seam_rows()
    peaks = outcome.peak_c[rows]
    group = max(1, len(peaks) // 160)
    peaks = peaks[: len(peaks) // group * group].reshape(-1, group, peaks.shape[1]).mean(axis=1)
    first, second = (
        measure_reach_mm(outcome.across, find_strip(outcome.problem, side), peaks, level_c)
        for side in (1, -1)
    )
    return first, second


def _format_middle(reach: tuple[np.ndarray, np.ndarray], units: str) -> str:
    middle = len(reach[0]) // 2
    return length(float(reach[0][middle] + reach[1][middle])).text(units)
