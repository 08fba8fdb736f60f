"""A job's parts as blocks in plan, the seams between them numbered in their order and coloured by
how they stand.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping
from urllib.parse import quote

from msgspec import Struct

from ...core.jobs.job import Job, Seam
from ...core.jobs.job_plan import JobPlan
from ...core.jobs.order import Schedule
from ...core.quantities import format_count
from ..canvas import Canvas, Drawing

WIDTH, HEIGHT = 640.0, 330.0
# the field the parts lie in, of 100 by 100, px
LEFT, TOP, WIDE, HIGH = 14.0, 12.0, 612.0, 306.0
# blocks nearer than so much touch: their seam is drawn on the border
NEAR = 4.0
BADGE = 13.0
Box = tuple[float, float, float, float]
SIDES = ("left", "middle", "right")


class Mark(Struct, frozen=True):
    """Where a seam is drawn: the ends of its line and the middle of its badge, px."""

    line: tuple[tuple[float, float], tuple[float, float]]
    at: tuple[float, float]


def draw_job_lay(
    plan: JobPlan,
    shown: Schedule,
    habit: str = "mm",
    selected: str = "",
    done: Collection[str] = (),
    link: str = "",
    palette: str = "screen",
) -> Drawing:
    """Draw it. Parameters: shown, the order whose places are the numbers; selected, a seam; done,
    seams that are welded; link, what a seam's link carries besides it, "&way=piece".
    """
    job = plan.job
    place = {key: i + 1 for i, key in enumerate(shown.order)}
    following = next((key for key in shown.order if key not in done), "")
    words = (
        f"{format_count(len(job.parts), 'part')} and {format_count(len(job.seams), 'seam')}, "
        "numbered in sequence: "
    ) + ", ".join(
        f"{place[s.key]} {s.key} joins {' and '.join(s.joins)}"
        for s in sorted(job.seams, key=lambda s: place[s.key])[:40]
    )
    canvas = Canvas(WIDTH, HEIGHT, "Layout", words + ".", palette)
    # it holds links, so that it is no picture to who hears it
    canvas.root.set("role", "group")
    # how large the field is that places are told in hundredths of, so that a drag can be told
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
    """Where each part lies, of 100 by 100: as it was laid, or else in rows: left, top, width,
    height.
    """
    free = [name for name in job.parts if name not in job.about or job.about[name].at is None]
    columns = max(1, math.ceil(math.sqrt(len(free) * 1.4)))
    rows = max(1, math.ceil(len(free) / columns))
    wide, high = 100 / columns, 100 / rows
    found: dict[str, Box] = {}
    for name in job.parts:
        at = job.about[name].at if name in job.about else None
        if at is not None:
            found[name] = at
        else:
            i = free.index(name)
            found[name] = (
                i % columns * wide + wide * 0.14,
                i // columns * high + high * 0.2,
                wide * 0.72,
                high * 0.6,
            )
    return found


def _convert_to_px(box: Box) -> Box:
    return (
        LEFT + box[0] * WIDE / 100,
        TOP + box[1] * HIGH / 100,
        box[2] * WIDE / 100,
        box[3] * HIGH / 100,
    )


def _draw_block(canvas: Canvas, name: str, box: Box, fill: str, alone: bool) -> None:
    x, y, w, h = _convert_to_px(box)
    told = {
        "data_part_block": name,
        "data_at": ",".join(f"{v:g}" for v in box),
        "tabindex": "0",
        "role": "button",
        "aria_label": f"{name}: arrow keys move it, Shift and arrow keys resize it",
        "class": "lay-part",
    }
    with canvas.within("g", **told):
        canvas.polygon(
            [(x, y), (x + w, y), (x + w, y + h), (x, y + h)],
            fill,
            "ink-2",
            1,
            "5 4" if alone else None,
        )
        shown = name if len(name) * 7 < w - 6 or w > h * 1.6 else name[: max(2, int(w / 8))] + "…"
        if len(name) * 7 < w - 6:
            canvas.text((x + w / 2, y + h / 2 + 5), name, "middle", "ink", 14, pixels=True)
        elif y + h + 16 < HEIGHT:
            canvas.text((x + w / 2, y + h + 15), shown, "middle", "ink-2", 13, pixels=True)
        else:
            canvas.text((x + w / 2, y - 4), shown, "middle", "ink-2", 13, pixels=True)


def place_seams(job: Job, boxes: Mapping[str, Box]) -> dict[str, Mark]:
    """Where each seam is drawn: on the border of two blocks that touch, else between the nearest of
    their edges; one of a single part on the edge of its side. Seams that would lie on one another
    stand side by side, left of the middle of right.
    """
    groups: dict[tuple[str, ...], list[Seam]] = {}
    for seam in job.seams:
        edge = (seam.side,) if len(set(seam.joins)) == 1 else ()
        groups.setdefault((*sorted(set(seam.joins[:2])), *edge), []).append(seam)
    found: dict[str, Mark] = {}
    for group in groups.values():
        group.sort(key=lambda s: SIDES.index(s.side))
        for i, seam in enumerate(group):
            names = list(dict.fromkeys(seam.joins))
            share = (i / len(group), (i + 1) / len(group))
            found[seam.key] = (
                _mark_between(
                    _convert_to_px(boxes[names[0]]), _convert_to_px(boxes[names[1]]), share
                )
                if len(names) > 1
                else _mark_edge(_convert_to_px(boxes[names[0]]), seam.side, share)
            )
    return found


def _mark_edge(box: Box, side: str, share: tuple[float, float]) -> Mark:
    x, y, w, h = box
    if side == "middle":
        # across the block, under its name
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


def _mark_between(one: Box, other: Box, share: tuple[float, float]) -> Mark:
    """The seam of two blocks: along what they share of an edge where they touch, else across from
    edge to edge.
    """
    left, right = max(one[0], other[0]), min(one[0] + one[2], other[0] + other[2])
    top, bottom = max(one[1], other[1]), min(one[1] + one[3], other[1] + other[3])
    across, down = left - right, top - bottom
    if across < 0 and down < 0:
        # they lie on one another: along the top of what they share
        return _mark(
            ((left + (right - left) * share[0], top), (left + (right - left) * share[1], top))
        )
    if across < 0:
        at = (top + bottom) / 2
        return (
            _mark(((left + (right - left) * share[0], at), (left + (right - left) * share[1], at)))
            if down <= NEAR * 4
            else _mark_far((left + right) / 2, (bottom, top), share, True)
        )
    if down < 0:
        at = (left + right) / 2
        return (
            _mark(((at, top + (bottom - top) * share[0]), (at, top + (bottom - top) * share[1])))
            if across <= NEAR * 4
            else _mark_far((top + bottom) / 2, (right, left), share, False)
        )
    ax, ay = (
        (one[0] + one[2], other[0]) if one[0] < other[0] else (one[0], other[0] + other[2]),
        (one[1] + one[3], other[1]) if one[1] < other[1] else (one[1], other[1] + other[3]),
    )
    aside = (share[0] + share[1] - 1) * BADGE * 1.4 / (share[1] - share[0])
    line = ((ax[0] + aside, ay[0]), (ax[1] + aside, ay[1]))
    return Mark(line, ((line[0][0] + line[1][0]) / 2, (line[0][1] + line[1][1]) / 2))


def _mark_far(
    at: float, ends: tuple[float, float], share: tuple[float, float], upright: bool
) -> Mark:
    aside = at + (share[0] + share[1] - 1) * BADGE * 1.4 / (share[1] - share[0])
    line = ((aside, ends[0]), (aside, ends[1])) if upright else ((ends[0], aside), (ends[1], aside))
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
