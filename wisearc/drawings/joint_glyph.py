"""A joint kind as a small section, for a row of a list."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cache

from ..core.catalogue import load_joint_kinds
from .canvas import Canvas, Drawing, Point

WIDTH, HEIGHT = 44.0, 30.0
_PLATE = 6.0
_Box = Sequence[Point]


def _bar(x: float, y: float, width: float, height: float) -> _Box:
    return [(x, y), (x + width, y), (x + width, y + height), (x, y + height)]


# The members of each section shape, and the centre of its weld, in px.
_SHAPES: Mapping[str, tuple[Sequence[_Box], Point]] = {
    "butt": ((_bar(3, 12, 18.5, _PLATE), _bar(22.5, 12, 18.5, _PLATE)), (22.0, 13.0)),
    "lap": ((_bar(3, 15, 26, _PLATE), _bar(16, 8.5, 25, _PLATE)), (15.0, 14.0)),
    "fillet": ((_bar(3, 21, 38, _PLATE), _bar(19, 3, _PLATE, 17.5)), (18.0, 20.0)),
    "corner": (
        (
            [(22, 4), (26.5, 8.5), (8, 27), (3.5, 22.5)],
            [(22, 4), (17.5, 8.5), (36, 27), (40.5, 22.5)],
        ),
        (22.0, 5.0),
    ),
    "inside-corner": (
        (
            [(22, 26), (17.5, 21.5), (36, 3), (40.5, 7.5)],
            [(22, 26), (26.5, 21.5), (8, 3), (3.5, 7.5)],
        ),
        (22.0, 18.0),
    ),
    "edge": ((_bar(15.5, 6, _PLATE, 22), _bar(22.5, 6, _PLATE, 22)), (22.0, 6.0)),
    "socket": (
        (_bar(3, 18, 13, 9), _bar(28, 18, 13, 9), _bar(17, 3, 10, 20)),
        (16.0, 17.0),
    ),
    "stud": ((_bar(3, 18, 13, 7), _bar(28, 18, 13, 7), _bar(17, 3, 10, 22)), (16.0, 17.0)),
}
_TUBE = "tube"


@cache
def draw_joint_glyph(joint: str) -> Drawing | None:
    """Return the glyph of a joint kind, or None for an unknown kind.

    Args:
        joint: Key of the joint kind.
    """
    kind = load_joint_kinds().get(joint)
    if kind is None or kind.shape not in _SHAPES:
        return None
    boxes, weld = _SHAPES[kind.shape]
    canvas = Canvas(WIDTH, HEIGHT, kind.name, "Section of the joint")
    canvas.frame(1.0, 0.0, 0.0)
    for i, box in enumerate(boxes):
        canvas.polygon(box, "steel-2" if i else "steel", "ink-2", 1.0)
    if kind.forms.startswith(_TUBE):
        # The axis of the tube, dashed as on a drawing.
        canvas.polyline([(22.0, 1.0), (22.0, HEIGHT - 1.0)], "ink-2", 0.8, "4 2 1 2")
    canvas.circle(weld, 2.6, "pool", "ink-2", 0.8)
    return canvas.drawing()
