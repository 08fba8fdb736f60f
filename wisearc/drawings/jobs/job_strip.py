"""A job over time: lanes for arc, waiting, settings, torch, clamping and purge."""

from __future__ import annotations

from ...core.jobs.bench_state import PURGE
from ...core.jobs.job_plan import JobPlan
from ...core.jobs.order import CHECK, Schedule
from ...core.quantities import format_count
from ..canvas import Canvas, Drawing

WIDTH = 640.0
LEFT, RIGHT, TOP, LANE, BAR = 84.0, 626.0, 10.0, 27.0, 17.0
LANES = {
    "arc": ("arc", "pool"),
    "wait": ("waiting", "bronze"),
    "dial": ("dial", "blue"),
    "torch": ("torch", "straw"),
    "clamp": ("clamp", "violet"),
    "purge": ("purge", "gas"),
}
PIECES = {"piece": ("another piece", "scale-grey")}
TACKS = {"tack": ("tacks", "plum")}
# In the order before a step.
BEFORE = ("piece", "clamp", "torch", "dial", "tack-dial")
# Between time marks, s.
MARKS_S = (30, 60, 120, 300, 600, 900, 1800, 3600, 7200, 14_400, 28_800, 86_400)
MAX_MARKS = 7
NUMBERED_PX = 15.0


def draw_job_strip(
    plan: JobPlan,
    displayed: Schedule,
    units: str = "mm",
    selected: str = "",
    palette: str = "screen",
) -> Drawing:
    """Draw the timeline.

    Args:
        plan: The plan of the job.
        displayed: The schedule.
        units: Unit system.
        selected: A seam.
        palette: Colours.
    """
    lanes = {
        **LANES,
        **(PIECES if displayed.items.piece_s else {}),
        **(TACKS if displayed.items.tack_s else {}),
    }
    end = max(displayed.steps[-1].end_s if displayed.steps else 1.0, 1.0)
    height = TOP + LANE * len(lanes) + 24
    text = (
        f"{format_count(len(displayed.welds), 'run')} in {end / 60:.0f} minutes: arc "
        f"{displayed.items.arc_s / 60:.0f}, waiting {displayed.items.wait_s / 60:.0f}, "
        f"settings {displayed.items.dial_s / 60:.0f}, torch {displayed.items.torch_s / 60:.0f}, "
        f"clamping {displayed.items.clamp_s / 60:.0f} minutes."
    )
    canvas = Canvas(WIDTH, height, "Job timeline", text, palette)
    scale = (RIGHT - LEFT) / end
    rows = {key: TOP + LANE * i for i, key in enumerate(lanes)}
    _draw_time(canvas, end, scale, rows[next(reversed(rows))] + LANE)
    for key, (label, _) in lanes.items():
        canvas.text((4, rows[key] + BAR - 3), label, "start", "ink-2", 13, pixels=True)
    _draw_bars(canvas, plan, displayed, scale, rows, lanes, selected)
    return canvas.drawing()


def _draw_time(canvas: Canvas, end: float, scale: float, foot: float) -> None:
    step = next((s for s in MARKS_S if end / s <= MAX_MARKS), MARKS_S[-1])
    at = 0
    while at <= end:
        x = LEFT + at * scale
        canvas.path_px(f"M{x:.1f} {TOP - 6}V{foot:.1f}", "line", 1)
        text = (
            "0"
            if at == 0
            else (
                f"{at // 3600} h" + (f" {at % 3600 // 60}" if at % 3600 else "")
                if at >= 3600
                else f"{at / 60:g} min"
            )
        )
        canvas.text(
            (x, foot + 15), text, "start" if at == 0 else "middle", "ink-2", 12, pixels=True
        )
        at += step


def _draw_bars(
    canvas: Canvas,
    plan: JobPlan,
    displayed: Schedule,
    scale: float,
    rows: dict[str, float],
    lanes: dict[str, tuple[str, str]],
    selected: str,
) -> None:
    before_end = 0.0
    place = 0
    for step in displayed.steps:
        place += step.is_weld
        now = before_end
        if step.key == selected:
            x = LEFT + before_end * scale
            canvas.polygon(
                _build_box(x, TOP - 6, LEFT + step.end_s * scale - x, LANE * len(rows) + 6),
                "straw",
                None,
                opacity=0.28,
            )
        for key in BEFORE:
            seconds = step.changed_s.get(key, 0.0)
            lane = key.removeprefix("tack-")
            if seconds and lane in rows:
                _draw_bar(canvas, now, now + seconds, scale, rows[lane], lanes[lane][1])
            now += seconds
        if step.wait_s:
            _draw_bar(canvas, now, step.start_s, scale, rows["wait"], lanes["wait"][1], 0.6)
        purge = plan.work.tasks[step.key].plan.back.purge
        if step.is_weld and purge is not None and plan.work.tasks[step.key].clamped.behind == PURGE:
            _draw_bar(
                canvas,
                max(0.0, step.start_s - purge.before_s),
                step.end_s,
                scale,
                rows["purge"],
                lanes["purge"][1],
                stroke="ink-2",
            )
        lane = "arc" if step.is_weld else "tack"
        opacity = 0.4 if step.kind == CHECK else None
        _draw_bar(canvas, step.start_s, step.end_s, scale, rows[lane], lanes[lane][1], opacity)
        if step.is_weld and (step.end_s - step.start_s) * scale >= NUMBERED_PX:
            canvas.text(
                (LEFT + (step.start_s + step.end_s) / 2 * scale, rows["arc"] + BAR - 4),
                str(place),
                "middle",
                "ink",
                12,
                600,
                pixels=True,
                kind="figure-text on-pool",
            )
        before_end = step.end_s


def _build_box(x: float, y: float, w: float, h: float) -> list[tuple[float, float]]:
    return [(x, y), (x + w, y), (x + w, y + h), (x, y + h)]


def _draw_bar(
    canvas: Canvas,
    start: float,
    end: float,
    scale: float,
    y: float,
    fill: str,
    opacity: float | None = None,
    stroke: str | None = None,
) -> None:
    canvas.polygon(
        _build_box(LEFT + start * scale, y, max(1.5, (end - start) * scale), BAR),
        fill,
        stroke,
        1,
        None,
        opacity,
    )
