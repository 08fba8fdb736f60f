"""The trace of a log.

Minimum and maximum of each column, the allowed ranges behind it, arc intervals, and excursions.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from ...core.arc_log.arc_log import Stretch
from ...core.arc_log.pyramid import Columns
from ...core.run.run import Excursion
from ..canvas import Canvas, Drawing

WIDTH, HEIGHT = 1180.0, 340.0
LEFT, RIGHT, TOP, BOTTOM = 54.0, 10.0, 34.0, 40.0
_STEPS = (1, 2, 5)


def draw_arc_trace(
    of: Columns,
    start_s: float,
    end_s: float,
    bands: Mapping[str, tuple[float | None, float | None]],
    stretches: Sequence[Stretch],
    left: Sequence[Excursion],
    palette: str = "screen",
) -> Drawing:
    """Draw the trace.

    Args:
        of: The columns.
        start_s: Start, s.
        end_s: End, s.
        bands: Ranges in A by label.
        stretches: Arc intervals.
        left: Excursions.
        palette: Colours.
    """
    maximum = (
        max([float(of.high.max()), *(high for _, high in bands.values() if high is not None), 10.0])
        * 1.08
    )
    minimum = min(0.0, float(of.low.min()))
    text = (
        f"Current from {start_s:.2f} s to {end_s:.2f} s, {float(of.low.min()):.0f} to"
        f" {float(of.high.max()):.0f} A"
    )
    canvas = Canvas(WIDTH, HEIGHT, "Current over time", text, palette)
    canvas.frame(1.0, 0.0, 0.0)

    def x(at: float) -> float:
        return LEFT + (WIDTH - LEFT - RIGHT) * (at - start_s) / max(1e-9, end_s - start_s)

    def y(amps: float) -> float:
        return HEIGHT - BOTTOM - (HEIGHT - TOP - BOTTOM) * (amps - minimum) / (maximum - minimum)

    for label, (low, high) in bands.items():
        top, bottom = y(maximum if high is None else high), y(minimum if low is None else low)
        canvas.polygon(
            [(LEFT, top), (WIDTH - RIGHT, top), (WIDTH - RIGHT, bottom), (LEFT, bottom)],
            "good",
            None,
            opacity=0.18,
        )
        canvas.text((WIDTH - RIGHT - 6, top - 4), label, colour="ink-2", size=13, anchor="end")
    for spell in left:
        a, b = max(LEFT, x(spell.start_s)), min(WIDTH - RIGHT, x(spell.end_s))
        if b > a - 2 and spell.end_s > start_s and spell.start_s < end_s:
            canvas.polygon(
                [(a, TOP - 8), (max(b, a + 3), TOP - 8), (max(b, a + 3), TOP - 2), (a, TOP - 2)],
                "stop",
                None,
            )
    _draw_axes(canvas, x, y, start_s, end_s, minimum, maximum)
    for i, stretch in enumerate(stretches, 1):
        at = max(start_s, stretch.start_s)
        if (
            stretch.end_s > start_s
            and stretch.start_s < end_s
            and x(min(end_s, stretch.end_s)) - x(at) > 26
        ):
            canvas.text(
                (x(at) + 3, TOP - 14), "tack" if stretch.tack else f"{i}", colour="ink-2", size=13
            )
    canvas.path_px(_build_path(of, x, y), "pool", 1.5)
    return canvas.drawing()


def _build_path(of: Columns, x: Any, y: Any) -> str:
    parts: list[str] = []
    for at, low, high in zip(of.start_s.tolist(), of.low.tolist(), of.high.tolist(), strict=True):
        px = f"{x(at):.1f}"
        parts.append(
            f"{'L' if parts else 'M'}{px} {y(high):.1f}" + (f"V{y(low):.1f}" if low != high else "")
        )
    return "".join(parts)


def _draw_axes(
    canvas: Canvas, x: Any, y: Any, start_s: float, end_s: float, minimum: float, maximum: float
) -> None:
    step = choose_nice_step((end_s - start_s) / 8)
    at = (start_s // step + 1) * step
    digits = 0 if step >= 1 else 1 if step >= 0.1 else 2 if step >= 0.01 else 3
    while at < end_s:
        canvas.path_px(f"M{x(at):.1f} {HEIGHT - BOTTOM:.1f}v6", "ink-2")
        canvas.text(
            (x(at), HEIGHT - BOTTOM + 20),
            f"{at:.{digits}f} s",
            colour="ink-2",
            size=13,
            anchor="middle",
        )
        at += step
    rise = choose_nice_step((maximum - minimum) / 5)
    amps = 0.0
    while amps < maximum:
        canvas.path_px(f"M{LEFT:.1f} {y(amps):.1f}H{WIDTH - RIGHT:.1f}", "line")
        canvas.text((LEFT - 6, y(amps) + 5), f"{amps:.0f} A", colour="ink-2", size=13, anchor="end")
        amps += rise


def choose_nice_step(about: float) -> float:
    """Return the next step of 1, 2 or 5 times a power of ten.

    >>> choose_nice_step(0.3), choose_nice_step(7), choose_nice_step(20)
    (0.5, 10.0, 20.0)
    """
    power = 1.0
    while power > about:
        power /= 10
    while power * 10 <= about:
        power *= 10
    return float(next((k * power for k in _STEPS if k * power >= about - 1e-12), 10 * power))
