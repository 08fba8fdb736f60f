"""The parts of a job as blocks in plan, with numbered seams coloured by their state."""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping
from urllib.parse import quote

from ...core.jobs.job import Job, Seam
from ...core.jobs.job_plan import JobPlan
from ...core.jobs.order import Schedule
from ...core.quantities import format_count
from ..canvas import Canvas, Drawing
from .seam_route import Box, Mark, crosses, route_seam

WIDTH, HEIGHT = 640.0, 330.0
# The field of the parts, 100 by 100, px.
LEFT, TOP, WIDE, HIGH = 14.0, 12.0, 612.0, 306.0
# Closer blocks touch, and their seam is on the border.
NEAR = 4.0
BADGE = 13.0
SIDES = ("left", "middle", "right")


def draw_job_lay(
    plan: JobPlan,
    displayed: Schedule,
    units: str = "mm",
    selected: str = "",
    done: Collection[str] = (),
    link: str = "",
    palette: str = "screen",
) -> Drawing:
    """Draw the layout.

    Args:
        plan: The plan of the job.
        displayed: The order for the numbers.
        units: Unit system.
        selected: A seam.
        done: Welded seams.
        link: Further parameters of the links, "&way=piece".
        palette: Colours.
    """
    job = plan.job
    # A seam with sections has the number of its first one.
    place = {key: displayed.order.index(key) + 1 for key in displayed.order}
    following = next((key for key in displayed.order if key not in done), "")
    text = (
        f"{format_count(len(job.parts), 'part')} and {format_count(len(job.seams), 'seam')}, "
        "numbered in sequence: "
    ) + ", ".join(
        f"{place[s.key]} {s.key} joins {' and '.join(s.joins)}"
        for s in sorted(job.seams, key=lambda s: place[s.key])[:40]
    )
    canvas = Canvas(WIDTH, HEIGHT, "Layout", text + ".", palette)
    # It contains links, so a screen reader must not treat it as an image.
    canvas.root.set("role", "group")
    # The size of the field in hundredths, so that a drag can be described.
    canvas.root.set("data-field", f"{WIDTH:g},{WIDE:g},{HIGH:g}")
    boxes = place_parts(job)
    for i, (name, box) in enumerate(boxes.items()):
        _draw_block(canvas, name, box, "steel-2" if i % 2 else "steel", name in plan.job.unjoined)
    marks = place_seams(job, boxes)
    for seam in job.seams:
        ink = "good" if seam.key in done else "bronze" if seam.key == following else "plum"
        _draw_seam(
            canvas, plan, seam, marks[seam.key], place[seam.key], ink, seam.key == selected, link
        )
    return canvas.drawing()


def place_parts(job: Job) -> Mapping[str, Box]:
    """Return the rectangle of each part, of 100 by 100: left, top, width, height.

    Parts without one are in rows.
    """
    free = [name for name in job.parts if name not in job.about or job.about[name].at is None]
    columns = max(1, math.ceil(math.sqrt(len(free) * 1.4)))
    rows = max(1, math.ceil(len(free) / columns))
    wide, high = 100 / columns, 100 / rows
    boxes: dict[str, Box] = {}
    for name in job.parts:
        at = job.about[name].at if name in job.about else None
        if at is not None:
            boxes[name] = at
        else:
            i = free.index(name)
            boxes[name] = (
                i % columns * wide + wide * 0.14,
                i // columns * high + high * 0.2,
                wide * 0.72,
                high * 0.6,
            )
    return boxes


def _convert_to_px(box: Box) -> Box:
    return (
        LEFT + box[0] * WIDE / 100,
        TOP + box[1] * HIGH / 100,
        box[2] * WIDE / 100,
        box[3] * HIGH / 100,
    )


def _draw_block(canvas: Canvas, name: str, box: Box, fill: str, alone: bool) -> None:
    x, y, w, h = _convert_to_px(box)
    attributes = {
        "data_part_block": name,
        "data_at": ",".join(f"{v:g}" for v in box),
        "tabindex": "0",
        "role": "button",
        "aria_label": f"{name}: Enter picks it, arrow keys move it, Shift and arrows resize it",
        "class": "lay-part",
    }
    with canvas.within("g", **attributes):
        canvas.polygon(
            [(x, y), (x + w, y), (x + w, y + h), (x, y + h)],
            fill,
            "ink-2",
            1,
            "5 4" if alone else None,
        )
        displayed = (
            name if len(name) * 7 < w - 6 or w > h * 1.6 else name[: max(2, int(w / 8))] + "…"
        )
        if len(name) * 7 < w - 6:
            canvas.text((x + w / 2, y + h / 2 + 5), name, "middle", "ink", 14, pixels=True)
        elif y + h + 16 < HEIGHT:
            canvas.text((x + w / 2, y + h + 15), displayed, "middle", "ink-2", 13, pixels=True)
        else:
            canvas.text((x + w / 2, y - 4), displayed, "middle", "ink-2", 13, pixels=True)


def place_seams(job: Job, boxes: Mapping[str, Box]) -> dict[str, Mark]:
    """Return the drawing of each seam.

    It is on the border of two touching blocks, between their nearest edges, or on the side of a
    single part. Seams at the same place are next to each other, left, middle and right.

    Args:
        job: The job.
        boxes: Rectangles of the parts.
    """
    groups: dict[tuple[str, ...], list[Seam]] = {}
    for seam in job.seams:
        edge = (seam.side,) if len(set(seam.joins)) == 1 else ()
        groups.setdefault((*sorted(set(seam.joins[:2])), *edge), []).append(seam)
    marks: dict[str, Mark] = {}
    for group in groups.values():
        group.sort(key=lambda s: SIDES.index(s.side))
        for i, seam in enumerate(group):
            names = list(dict.fromkeys(seam.joins))
            share = (i / len(group), (i + 1) / len(group))
            marks[seam.key] = (
                _mark_between(
                    _convert_to_px(boxes[names[0]]), _convert_to_px(boxes[names[1]]), share
                )
                if len(names) > 1
                else _mark_edge(_convert_to_px(boxes[names[0]]), seam.side, share)
            )
            shift = (i - (len(group) - 1) / 2) * BADGE
            marks[seam.key] = _avoid_blocks(marks[seam.key], names[:2], boxes, shift)
    return marks


def _avoid_blocks(mark: Mark, names: list[str], boxes: Mapping[str, Box], shift: float) -> Mark:
    """Return a seam that runs round other blocks, where there is such a way."""
    others = [_convert_to_px(box) for name, box in boxes.items() if name not in names]
    if len(names) < 2 or not crosses(mark.line, others):
        return mark
    first, second = (_convert_to_px(boxes[name]) for name in names)
    return route_seam(first, second, others, shift) or mark


def _mark_edge(box: Box, side: str, share: tuple[float, float]) -> Mark:
    x, y, w, h = box
    if side == "middle":
        # Across the block, below its name.
        line = (
            (x + w * (0.15 + 0.7 * share[0]), y + h * 0.74),
            (x + w * (0.15 + 0.7 * share[1]), y + h * 0.74),
        )
    else:
        at = x if side == "left" else x + w
        line = ((at, y + h * share[0]), (at, y + h * share[1]))
    return _mark(line)


def _mark(line: tuple[tuple[float, float], tuple[float, float]]) -> Mark:
    (ax, ay), (bx, by) = line
    inset = 0.08
    a, b = (
        (ax + (bx - ax) * inset, ay + (by - ay) * inset),
        (bx - (bx - ax) * inset, by - (by - ay) * inset),
    )
    return Mark((a, b), ((ax + bx) / 2, (ay + by) / 2))


def _mark_between(box: Box, other: Box, share: tuple[float, float]) -> Mark:
    """Return the seam of two blocks: along their common edge, or else across from edge to edge."""
    left, right = max(box[0], other[0]), min(box[0] + box[2], other[0] + other[2])
    top, bottom = max(box[1], other[1]), min(box[1] + box[3], other[1] + other[3])
    across, down = left - right, top - bottom
    if across < 0 and down < 0:
        # The blocks overlap: along the top of the common part.
        return _mark(
            ((left + (right - left) * share[0], top), (left + (right - left) * share[1], top))
        )
    if across < 0:
        at = (top + bottom) / 2
        return (
            _mark(((left + (right - left) * share[0], at), (left + (right - left) * share[1], at)))
            if down <= NEAR * 4
            else _mark_distant((left + right) / 2, (bottom, top), share, True)
        )
    if down < 0:
        at = (left + right) / 2
        return (
            _mark(((at, top + (bottom - top) * share[0]), (at, top + (bottom - top) * share[1])))
            if across <= NEAR * 4
            else _mark_distant((top + bottom) / 2, (right, left), share, False)
        )
    ax, ay = (
        (box[0] + box[2], other[0]) if box[0] < other[0] else (box[0], other[0] + other[2]),
        (box[1] + box[3], other[1]) if box[1] < other[1] else (box[1], other[1] + other[3]),
    )
    offset = (share[0] + share[1] - 1) * BADGE * 1.4 / (share[1] - share[0])
    line = ((ax[0] + offset, ay[0]), (ax[1] + offset, ay[1]))
    return Mark(line, ((line[0][0] + line[1][0]) / 2, (line[0][1] + line[1][1]) / 2))


def _mark_distant(
    at: float, ends: tuple[float, float], share: tuple[float, float], upright: bool
) -> Mark:
    offset = at + (share[0] + share[1] - 1) * BADGE * 1.4 / (share[1] - share[0])
    line = (
        ((offset, ends[0]), (offset, ends[1]))
        if upright
        else ((ends[0], offset), (ends[1], offset))
    )
    return Mark(line, ((line[0][0] + line[1][0]) / 2, (line[0][1] + line[1][1]) / 2))


def _draw_seam(
    canvas: Canvas,
    plan: JobPlan,
    seam: Seam,
    mark: Mark,
    place: int,
    ink: str,
    selected: bool,
    link: str,
) -> None:
    title = plan.work.tasks[seam.key].title.mm
    canvas.polyline(mark.line, ink, 8 if selected else 5, None if seam.seen else "9 5")
    with canvas.within(
        "a",
        href=f"?at={quote(seam.key)}{link}",
        data_live="",
        aria_label=f"{place}: {seam.key}, {title}",
        class_="lay-seam",
    ):
        canvas.circle(
            mark.at,
            BADGE + (3 if selected else 0),
            "surface",
            ink if selected else "ink",
            3 if selected else 1.2,
        )
        canvas.text(
            (mark.at[0], mark.at[1] + 5),
            str(place),
            "middle",
            "ink",
            13,
            700 if selected else 400,
            pixels=True,
        )
