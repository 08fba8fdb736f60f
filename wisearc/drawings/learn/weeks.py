"""Scores by week: the best and the middle score of each week with tries."""

from __future__ import annotations

from collections.abc import Sequence

from ..canvas import Canvas, Drawing

WIDTH, HEIGHT = 460.0, 150.0
_LEFT, _RIGHT, _TOP, _FOOT = 40.0, 446.0, 14.0, 118.0


def draw_weeks(
    weeks: Sequence[tuple[str, float, float]], passed: float, palette: str = "screen"
) -> Drawing:
    """Draw the scores by week.

    Args:
        weeks: Rows of label, best and middle score, the oldest first.
        passed: The score with which an exercise is passed.
        palette: Colours.
    """
    words = "; ".join(f"{label}: best {best:.0f}, middle {mid:.0f}" for label, best, mid in weeks)
    canvas = Canvas(WIDTH, HEIGHT, "Scores by week", words, palette)
    canvas.frame(1.0, 0.0, 0.0)
    for value in (0.0, 50.0, 100.0):
        y = _place(value)
        canvas.polyline([(_LEFT, y), (_RIGHT, y)], "line", 1.0)
        canvas.text((_LEFT - 8, y + 5), f"{value:.0f}", colour="ink-2", size=14, anchor="end")
    canvas.polyline([(_LEFT, _place(passed)), (_RIGHT, _place(passed))], "good", 1.5, "5 4")
    step = (_RIGHT - _LEFT) / max(1, len(weeks))
    for n, (label, best, middle) in enumerate(weeks):
        x = _LEFT + (n + 0.5) * step
        canvas.polyline([(x, _place(middle)), (x, _place(best))], "violet", 8.0)
        canvas.ellipse((x, _place(best)), 4, 4, 0, "violet", None)
        if n % max(1, round(len(weeks) / 6)) == 0:
            canvas.text((x, HEIGHT - 10), label, colour="ink-2", size=13, anchor="middle")
    return canvas.drawing()


def _place(score: float) -> float:
    return _FOOT - (_FOOT - _TOP) * score / 100
