"""The torch parts to scale in the order of assembly, from the front and from the back."""

from __future__ import annotations

from ...core.plan.plan import Plan
from ...core.plan.torch.owned import BuildPart
from ..canvas import Canvas, Drawing, Point

WIDTH, HEIGHT = 460.0, 640.0
HEAD_MM = {"small": (17.0, 24.0), "large": (22.0, 32.0)}
GAP_MM = 7.0
# The width of a cup over body or lens in the drawing: estimate.
CUP_ABOVE_MM = {"small": 18.0, "large": 22.0}
AXES = (54.0, 276.0)
LABEL_PX = 15.5
_FILLS = {
    "heat-shield": "ground",
    "collet-body": "copper",
    "gas-lens": "copper",
    "cup": "ceramic",
    "collet": "copper",
    "back-cap": "steel-2",
    "tungsten": "scale-grey",
}


def draw_torch_build(plan: Plan, units: str = "mm", palette: str = "screen") -> Drawing:
    """Draw the torch parts of a new or saved plan.

    A missing part is dashed.

    Args:
        plan: The plan.
        units: Unit system.
        palette: Colours.
    """
    build = plan.shop.build
    canvas = Canvas(
        WIDTH,
        HEIGHT,
        "The torch parts in assembly sequence, to scale",
        _describe_drawing(plan, units),
        palette,
    )
    columns = _build_columns(plan)
    tallest = max(
        (sum(_get_drawn_length(item) + GAP_MM for item in column) for column in columns),
        default=1.0,
    )
    scale = min(3.2, (HEIGHT - 70) / tallest)
    for axis, column in zip(AXES, columns, strict=True):
        canvas.frame(scale, axis, 52)
        down = 0.0
        canvas.polyline(
            [(0, -2), (0, sum(_get_drawn_length(item) + GAP_MM for item in column))],
            "line",
            1,
            "4 5",
        )
        for number, part in column:
            _draw(canvas, part, down)
            _label(canvas, number, part, down, axis, units)
            down += _get_drawn_length((number, part)) + GAP_MM
    canvas.text((AXES[0] - 42, 26), "fit from the front", colour="ink-2", size=15, pixels=True)
    canvas.text((AXES[1] - 30, 26), "fit from the back", colour="ink-2", size=15, pixels=True)
    canvas.frame(scale, 0, 0)
    if build:
        canvas.scale_bar(20.0, "20 mm" if units == "mm" else "0.79 in", 20, HEIGHT - 12)
    return canvas.drawing()


Numbered = tuple[int, BuildPart | str]


def _build_columns(plan: Plan) -> tuple[list[Numbered], list[Numbered]]:
    """Return the parts from the front, starting with the head, and from the back.

    Cap above tungsten above collet.
    """
    by_kind = {part.part: (number, part) for number, part in enumerate(plan.shop.build, 1)}
    body = "gas-lens" if "gas-lens" in by_kind else "collet-body"
    family = by_kind["back-cap"][1].family if "back-cap" in by_kind else "large"
    front: list[Numbered] = [
        (0, family),
        *(by_kind[key] for key in ("heat-shield", body, "cup") if key in by_kind),
    ]
    back: list[Numbered] = [
        by_kind[key] for key in ("back-cap", "tungsten", "collet") if key in by_kind
    ]
    return front, back


def _get_drawn_length(item: Numbered) -> float:
    part = item[1]
    return HEAD_MM[part][1] if isinstance(part, str) else part.length_mm


def _draw(canvas: Canvas, part: BuildPart | str, top: float) -> None:
    if isinstance(part, str):
        wide, long = HEAD_MM[part]
        canvas.polygon(_outline_box(wide, top, long), "steel-2", "ink-2", 1.4)
        canvas.polygon(
            [
                (wide / 2, top + 4),
                (wide / 2 + 12, top + long * 0.62),
                (wide / 2 + 7, top + long * 0.8),
                (wide / 2, top + long - 6),
            ],
            "steel-2",
            "ink-2",
            1.4,
        )
        return
    lacking = part.owned is False
    fill, stroke, dash = (None, "stop", "6 4") if lacking else (_FILLS[part.part], "ink-2", None)
    outline = _OUTLINES.get(part.part, _outline_plain)(part, top)
    canvas.polygon(outline, fill, stroke, 2 if lacking else 1.4, dash)
    if part.part == "gas-lens" and not lacking:
        for share in (0.80, 0.86, 0.92):
            y = top + part.length_mm * share
            canvas.polyline([(-part.width_mm / 2, y), (part.width_mm / 2, y)], "ink-2", 0.8)


def _outline_box(wide: float, top: float, long: float) -> list[Point]:
    return [(-wide / 2, top), (wide / 2, top), (wide / 2, top + long), (-wide / 2, top + long)]


def _outline_plain(part: BuildPart, top: float) -> list[Point]:
    return _outline_box(part.width_mm, top, part.length_mm)


def _outline_stepped(part: BuildPart, top: float) -> list[Point]:
    """Return a thin neck above the full width: a body or lens with its thread."""
    wide, neck, long = part.width_mm / 2, part.width_mm * 0.3, part.length_mm
    at = top + long * (0.62 if part.part == "gas-lens" else 0.55)
    return [
        (-neck, top),
        (neck, top),
        (neck, at),
        (wide, at),
        (wide, top + long),
        (-wide, top + long),
        (-wide, at),
        (-neck, at),
    ]


def _outline_cup(part: BuildPart, top: float) -> list[Point]:
    """Return a cup outline: wide above for the body, open below by its bore."""
    above, below, long = (
        max(part.width_mm, CUP_ABOVE_MM[part.family]) / 2,
        part.width_mm / 2,
        part.length_mm,
    )
    return [
        (-above, top),
        (above, top),
        (above, top + long * 0.3),
        (below, top + long * 0.7),
        (below, top + long),
        (-below, top + long),
        (-below, top + long * 0.7),
        (-above, top + long * 0.3),
    ]


def _outline_pointed(part: BuildPart, top: float) -> list[Point]:
    wide, long = part.width_mm / 2, part.length_mm
    tip = min(long / 4, 4 * part.width_mm)
    return [
        (-wide, top),
        (wide, top),
        (wide, top + long - tip),
        (0, top + long),
        (-wide, top + long - tip),
    ]


def _outline_cap(part: BuildPart, top: float) -> list[Point]:
    wide, long = part.width_mm / 2, part.length_mm
    return [
        (-wide * 0.7, top),
        (wide * 0.7, top),
        (wide, top + long * 0.2),
        (wide, top + long * 0.75),
        (wide * 0.6, top + long * 0.75),
        (wide * 0.6, top + long),
        (-wide * 0.6, top + long),
        (-wide * 0.6, top + long * 0.75),
        (-wide, top + long * 0.75),
        (-wide, top + long * 0.2),
    ]


_OUTLINES = {
    "collet-body": _outline_stepped,
    "gas-lens": _outline_stepped,
    "cup": _outline_cup,
    "tungsten": _outline_pointed,
    "collet": _outline_pointed,
    "back-cap": _outline_cap,
}


def _label(
    canvas: Canvas, number: int, part: BuildPart | str, top: float, axis: float, units: str
) -> None:
    """Draw number and text next to the part, in two lines if long."""
    if isinstance(part, str):
        canvas.text(
            (axis + 66, canvas.px((0, top))[1] + 24),
            "torch head",
            colour="ink-2",
            size=LABEL_PX,
            pixels=True,
        )
        return
    text = part.text_in if units == "in" else part.text
    colour = "stop" if part.owned is False else "ink"
    first, _, second = text.partition(", ")
    lines = [
        f"{number}  {first}",
        *([f"    {second}"] if second else []),
        *(["    out of stock"] if part.owned is False else []),
    ]
    x = axis + (44 if axis == AXES[0] else 30)
    y = max(
        canvas.px((0, top + part.length_mm / 2))[1] - 10 * (len(lines) - 1),
        canvas.px((0, top))[1] + 12,
    )
    for i, line in enumerate(lines):
        canvas.text(
            (x, y + 20 * i),
            line,
            colour=colour,
            size=LABEL_PX,
            weight=600 if i == 0 else 400,
            pixels=True,
        )


def _describe_drawing(plan: Plan, units: str) -> str:
    if not plan.shop.build:
        return "The record does not contain the torch parts."
    descriptions = (
        f"{i} {p.text_in if units == 'in' else p.text}"
        + (" (out of stock)" if p.owned is False else "")
        for i, p in enumerate(plan.shop.build, 1)
    )
    return "; ".join(descriptions) + "."
