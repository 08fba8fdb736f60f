"""The section of the joint to scale.

Members, pool, hot width, torch, gas column, rod, bars or purge.
"""

from __future__ import annotations

import math

from ...core.plan.plan import Plan
from ...core.schema.figures import fill_template, format_figure
from ..canvas import Canvas, Drawing, Point, move_along, turn_point
from ..plan.section_shapes import Shapes, build_shapes

WIDTH, HEIGHT = 700.0, 430.0
CUP_WALL_MM = 1.4
CUP_SEEN_MM = 8.0
BAR_MM = (13.0, 5.0)


def cut_through(
    plan: Plan, units: str = "mm", palette: str = "screen", labels: bool = True
) -> Drawing:
    """Draw the section.

    Args:
        plan: A new or saved plan.
        units: Unit system.
        palette: "screen" or "paper".
        labels: Whether to draw labels.
    """
    shapes = build_shapes(plan)
    canvas = Canvas(
        WIDTH,
        HEIGHT,
        "Cross-section of the joint, to scale",
        _describe_drawing(plan, units),
        palette,
    )
    _place(canvas, shapes, plan)
    _draw_gas(canvas, shapes, plan)
    _purge(canvas, shapes, plan)
    for arm in shapes.drawn:
        first = arm.side is plan.section.sides[0]
        canvas.polygon(
            arm.outline(),
            "carbon" if arm.side.kind == "carbon" else "steel" if first else "steel-2",
        )
    _draw_bars(canvas, shapes, plan)
    _draw_pool(canvas, shapes, plan)
    _draw_hot_band(canvas, shapes, plan)
    _draw_torch(canvas, shapes, plan)
    if labels:
        _draw_labels(canvas, shapes, plan, units)
    return canvas.drawing()


def _describe_drawing(plan: Plan, units: str) -> str:
    torch = fill_template(
        "under a no. {cup} {front_end_name}, stick-out {stickout_mm}", plan.torch, units
    )
    heat = fill_template("above {hot_c} over {hot_band_mm}", plan.heat, units)
    pool, rod = format_figure(plan.travel, "pool_width_mm", units), plan.filler.rod or "no filler"
    return (
        f"{plan.section.joint_name.capitalize()}: pool {pool} wide {torch}, {rod}; "
        f"{heat}; root cover: {plan.back.cover_name}."
    )


def _place(canvas: Canvas, shapes: Shapes, plan: Plan) -> None:
    """Set scale and origin so that cup, joint and bars fit between the labels."""
    bore, reach = plan.torch.bore_mm, _exit_mm(plan)
    above = (reach + CUP_SEEN_MM) * math.cos(math.radians(shapes.tilt_deg)) + (
        bore / 2 + CUP_WALL_MM
    ) * math.sin(math.radians(shapes.tilt_deg))
    above = max(
        above,
        (
            max(-p[1] for arm in shapes.arms for p in arm.outline() if p[1] < 0)
            if any(p[1] < -8 for arm in shapes.arms for p in arm.outline())
            else 0
        ),
    )
    below = max(min(p[1], 18.0) for arm in shapes.drawn for p in arm.outline()) + (
        6.5 if plan.back.bar_lengths else 2.0
    )
    scale = min(12.0, (HEIGHT - 62) / (above + below), 470 / (bore * 1.6 + 12))
    canvas.frame(scale, WIDTH / 2 - 20, 40 + above * scale)


def _exit_mm(plan: Plan) -> float:
    """Return the distance of the cup from the seam."""
    return plan.torch.stickout_mm + plan.travel.arc_length_mm


def _place_in_torch(shapes: Shapes, point: Point) -> Point:
    """Return a point of the torch frame (axis up, tip to the pool) in the mm of the drawing."""
    x, y = turn_point(point, shapes.tilt_deg)
    return x + shapes.pool[0] * 0.5, y + shapes.pool[1] * 0.5


def _draw_gas(canvas: Canvas, shapes: Shapes, plan: Plan) -> None:
    bore, out, cover = plan.torch.bore_mm, _exit_mm(plan), plan.torch.cover_mm
    mouth = [_place_in_torch(shapes, (side * bore / 2, -out)) for side in (-1, 1)]
    first, last = shapes.torch_side_arms
    if first.direction[1] > 0.9:
        reached = [(-cover / 2, 0.0), (cover / 2, 0.0)]
    else:
        reached = [first.at(cover / 2, 0), first.at(0, 0), last.at(0, 0), last.at(cover / 2, 0)]
    canvas.polygon([mouth[0], *reached, mouth[1]], "gas", None, opacity=0.35)


def _draw_torch(canvas: Canvas, shapes: Shapes, plan: Plan) -> None:
    bore, out = plan.torch.bore_mm, _exit_mm(plan)
    top = -(out + CUP_SEEN_MM)
    for side in (-1, 1):
        wall = [
            (side * bore / 2, top),
            (side * bore / 2, -out),
            (side * (bore / 2 + 0.7), -out),
            (side * (bore / 2 + CUP_WALL_MM), -out - 2.5),
            (side * (bore / 2 + CUP_WALL_MM), top),
        ]
        canvas.polygon([_place_in_torch(shapes, p) for p in wall], "ceramic")
    if plan.torch.front_end == "gas-lens":
        ends = [_place_in_torch(shapes, (x, -out - 4.0)) for x in (-bore / 2, bore / 2)]
        canvas.polyline(ends, "ink-2", 1.5, "2 3")
    _draw_tungsten(canvas, shapes, plan, top)


def _draw_tungsten(canvas: Canvas, shapes: Shapes, plan: Plan, top: float) -> None:
    t = plan.tungsten
    radius, flat = t.diameter_mm / 2, t.tip_flat_mm / 2
    tip = -plan.travel.arc_length_mm
    cone = (radius - flat) / math.tan(math.radians(t.included_angle_deg / 2))
    points = [
        (-radius, top),
        (-radius, tip - cone),
        (-flat, tip),
        (flat, tip),
        (radius, tip - cone),
        (radius, top),
    ]
    canvas.polygon([_place_in_torch(shapes, p) for p in points], "scale-grey")


def _draw_pool(canvas: Canvas, shapes: Shapes, plan: Plan) -> None:
    if shapes.deposit and (plan.filler.rod or shapes.inner_corner):
        canvas.polygon(shapes.deposit, "pool", None)
    width = plan.travel.pool_width_mm
    depth = min(arm.thickness_mm for arm in shapes.arms)
    canvas.ellipse(
        shapes.pool, width / 2, max(0.6, depth * 0.75), shapes.tilt_deg, "pool", "ink", 0.92
    )
    diameter = plan.filler.diameter_mm
    if diameter:
        leans = shapes.tilt_deg > 10
        rod_point = _place_in_torch(
            shapes,
            (
                (0.35 * width, -0.35 * width - diameter)
                if leans
                else (width / 2 + diameter * 0.65, -diameter * 0.75)
            ),
        )
        canvas.circle(rod_point, diameter / 2, "rod")


def _draw_hot_band(canvas: Canvas, shapes: Shapes, plan: Plan) -> None:
    half = plan.heat.hot_band_mm / 2
    for arm in shapes.arms:
        s = min(half, arm.length_mm)
        canvas.polyline([arm.at(s, -0.7), arm.at(s, arm.thickness_mm + 0.7)], "bronze", 2, "4 3")


def _draw_bars(canvas: Canvas, shapes: Shapes, plan: Plan) -> None:
    fill = plan.back.ink
    if not fill:
        return
    setback = plan.back.bar_from_seam_mm
    long, thick = BAR_MM
    # The cup covers it.
    near = thick if plan.back.bar_most_mm is None else min(thick, plan.back.bar_most_mm)
    for arm in shapes.arms:
        if arm.near_bar:
            canvas.polygon(
                [
                    arm.at(setback, -near),
                    arm.at(setback + long, -near),
                    arm.at(setback + long, 0),
                    arm.at(setback, 0),
                ],
                fill,
            )
    if shapes.inner_corner:
        _draw_inner_bar(canvas, shapes, fill)
        return
    first = shapes.arms[0]
    if first.direction[1] > 0.9:
        for arm in shapes.arms:
            t = arm.thickness_mm
            canvas.polygon(
                [
                    arm.at(setback, t),
                    arm.at(setback + long, t),
                    arm.at(setback + long, t + thick),
                    arm.at(setback, t + thick),
                ],
                fill,
            )
        return
    _draw_flat_bar(
        canvas,
        max(
            arm.thickness_mm
            for arm in shapes.arms
            if abs(arm.direction[1]) < 0.01 and arm.start[1] == 0
        ),
        fill,
        plan.back.purge is not None,
        shapes.third.thickness_mm if shapes.third else 0.0,
    )


def _draw_flat_bar(canvas: Canvas, under: float, fill: str, groove: bool, third: float) -> None:
    """Draw the bar behind the seam, with its groove, or one on each side of a third member."""
    w, t = 14.0, 5.0
    if third:
        for side in (-1, 1):
            inner, outer = side * third / 2, side * w
            canvas.polygon(
                [(inner, under), (outer, under), (outer, under + t), (inner, under + t)], fill
            )
        return
    if groove:
        points = [
            (-w, under),
            (-2.0, under),
            (-2.0, under + 1.0),
            (2.0, under + 1.0),
            (2.0, under),
            (w, under),
            (w, under + t),
            (-w, under + t),
        ]
    else:
        points = [(-w, under), (w, under), (w, under + t), (-w, under + t)]
    canvas.polygon(points, fill)


def _draw_inner_bar(canvas: Canvas, shapes: Shapes, fill: str) -> None:
    """Draw the angle bar inside a corner."""
    left, right = shapes.arms

    def inside(u: float, v: float) -> Point:
        return move_along(move_along((0, 0), right.direction, u), left.direction, v)

    c, long, thick = 0.8, 13.0, 5.0
    canvas.polygon(
        [
            inside(c, c),
            inside(long, 0),
            inside(long, thick),
            inside(thick, thick),
            inside(thick, long),
            inside(0, long),
        ],
        fill,
    )


def _purge(canvas: Canvas, shapes: Shapes, plan: Plan) -> None:
    if not plan.back.purged:
        return
    if shapes.inner_corner:
        left, right = shapes.arms
        canvas.polygon(
            [
                (0, 0),
                move_along((0, 0), right.direction, 14),
                move_along((0, 0), left.direction, 14),
            ],
            "gas",
            None,
            opacity=0.5,
        )
        return
    inside = shapes.arms[1:] if plan.section.shape == "socket" else shapes.arms
    for arm in inside:
        t = arm.thickness_mm
        canvas.polygon(
            [
                arm.at(0, t),
                arm.at(arm.length_mm, t),
                arm.at(arm.length_mm, t + 5),
                arm.at(0, t + 5),
            ],
            "gas",
            None,
            opacity=0.5,
        )


def _draw_labels(canvas: Canvas, shapes: Shapes, plan: Plan, units: str) -> None:
    _draw_cup_label(
        canvas,
        shapes,
        plan,
        fill_template("No. {cup} · {bore_mm} bore, {front_end_name}", plan.torch, units),
    )
    rows = [
        ("stick-out " + format_figure(plan.torch, "stickout_mm", units), "ink"),
        (f"pool {format_figure(plan.travel, 'pool_width_mm', units)} wide", "ink"),
        (fill_template("above {hot_c}: {hot_band_mm}", plan.heat, units), "bronze"),
        (
            fill_template("{rod}, {diameter_mm}", plan.filler, units)
            if plan.filler.rod
            else "no filler",
            "ink",
        ),
    ]
    for i, (text, colour) in enumerate(reversed(rows)):
        canvas.text((WIDTH - 12, HEIGHT - 12 - 19 * i), text, "end", colour, pixels=True)
    groove = ", argon in the groove" if plan.back.purge and plan.back.bar_lengths else ""
    canvas.text((12, HEIGHT - 38), f"Root cover: {plan.back.cover_name}{groove}", pixels=True)
    if plan.section.coped:
        canvas.text(
            (12, HEIGHT - 57),
            "View at the heel" if plan.start else "View at the toe, the open side",
            pixels=True,
        )
    canvas.scale_bar(
        5.0 if units == "mm" else 6.35, "5 mm" if units == "mm" else "1/4 in", 14, HEIGHT - 14
    )


def _draw_cup_label(canvas: Canvas, shapes: Shapes, plan: Plan, text: str) -> None:
    """Draw the label of the cup above it, or next to a leaning torch."""
    out, half = _exit_mm(plan), plan.torch.bore_mm / 2
    left, right = (
        canvas.px(_place_in_torch(shapes, (side * half, -out - CUP_SEEN_MM))) for side in (-1, 1)
    )
    if shapes.tilt_deg > 10:
        canvas.text((WIDTH - 12, 24), text, "end", "ink", 14, 550, pixels=True)
    else:
        canvas.text(
            ((left[0] + right[0]) / 2, max(16, left[1] - 10)),
            text,
            "middle",
            "ink",
            14,
            550,
            pixels=True,
        )
