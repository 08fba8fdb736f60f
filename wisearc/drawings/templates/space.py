"""A cut in space.

Tube and run, two mitred tubes, or tube on plate, rotated and tilted, drawn in strips along each
tube. From above (tilt 0 to 85°), the branch is in front of its base. Of two mitred tubes, the one
behind the plane is drawn first. Geometry.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

from msgspec import Struct

from ...core.templates.cope import hole_point_mm
from ...core.templates.cut import Cut, describe_cut, height_mm
from ..canvas import Canvas, Drawing

WIDTH, HEIGHT = 560.0, 430.0
STRIPS = 60
TURN_DEG, TILT_DEG = 30.0, 24.0
MAX_TILT_DEG = 85.0
# Light from the upper left.
_LIGHT = (-0.45, -0.55, 0.7)
Vector = tuple[float, float, float]
PX = tuple[float, float]


class Eye(Struct, frozen=True):
    """The view: rotation about the vertical ° and tilt ° (0: from the side)."""

    turn_deg: float = TURN_DEG
    tilt_deg: float = TILT_DEG

    @property
    def towards(self) -> Vector:
        """Return the direction towards the eye."""
        turn, tilt = math.radians(self.turn_deg), math.radians(self.tilt_deg)
        return math.sin(turn) * math.cos(tilt), -math.cos(turn) * math.cos(tilt), math.sin(tilt)

    def seen(self, point: Vector) -> PX:
        """Return the projection of a point, right and down, mm."""
        turn, tilt = math.radians(self.turn_deg), math.radians(self.tilt_deg)
        x, y, z = point
        right = x * math.cos(turn) + y * math.sin(turn)
        back = -x * math.sin(turn) + y * math.cos(turn)
        return right, -(back * math.sin(tilt) + z * math.cos(tilt))


def build_eye(turn: str, tilt: str) -> Eye:
    """Return the view from two typed numbers.

    An invalid number has its default, and the tilt is limited.

    Args:
        turn: Rotation, °.
        tilt: Tilt, °.
    """

    def number(text: str, usual: float) -> float:
        try:
            value = float(text)
        except ValueError:
            return usual
        return value if math.isfinite(value) and abs(value) < 1e6 else usual

    return Eye(number(turn, TURN_DEG) % 360, min(MAX_TILT_DEG, max(0.0, number(tilt, TILT_DEG))))


class _Tube(Struct, frozen=True):
    """A tube in space.

    Point on its axis at height zero, unit vectors along it and to φ = 0 and φ = 90°, radii, ends by
    φ and radius.
    """

    origin: Vector
    along: Vector
    front: Vector
    side: Vector
    outer: float
    inner: float
    low: Callable[[float, float], float]
    high: Callable[[float, float], float]
    ink: str
    cut: bool = True

    def normal(self, phi: float) -> Vector:
        """Return the outward normal at φ."""
        c, s = math.cos(phi), math.sin(phi)
        return tuple(f * c + d * s for f, d in zip(self.front, self.side, strict=True))  # type: ignore[return-value]

    def point(self, phi: float, radius: float, height: float) -> Vector:
        """Return a point of the tube.

        Args:
            phi: Angle φ, rad.
            radius: Radius, mm.
            height: Height, mm.
        """
        return tuple(
            o + a * height + n * radius
            for o, a, n in zip(self.origin, self.along, self.normal(phi), strict=True)
        )  # type: ignore[return-value]


def draw_space(
    cut: Cut, eye: Eye, apart: bool = False, units: str = "mm", palette: str = "screen"
) -> Drawing:
    """Draw the cut in space.

    Args:
        cut: The cut.
        eye: The view.
        apart: Whether the branch is lifted off its base.
        units: Unit system.
        palette: Colours.
    """
    text = (
        f"{describe_cut(cut, units)}, turned by {eye.turn_deg:.0f}°, from {eye.tilt_deg:.0f}° "
        f"above{', pulled apart' if apart else ''}."
    )
    canvas = Canvas(WIDTH, HEIGHT, "View in space", text, palette)
    lift = 1.2 * cut.branch_mm if apart else 0.0
    tubes = _SCENES[cut.kind](cut, lift)
    plate = _build_plate(cut) if cut.kind == "plate" else []
    _fit(canvas, tubes, plate, eye)
    if plate:
        canvas.polygon([eye.seen(p) for p in plate], "steel-2", "ink-2")
        rim = [_find_foot(cut, 2 * math.pi * i / STRIPS) for i in range(STRIPS)]
        canvas.polygon([eye.seen(p) for p in rim], "surface", "act", 1.5)
    for i, tube in enumerate(_sort_back_to_front(cut, tubes, eye)):
        _draw(canvas, tube, eye)
        if i == 0 and cut.of.on_run:
            _draw_hole(canvas, cut, eye)
    return canvas.drawing()


def _sort_back_to_front(cut: Cut, tubes: Sequence[_Tube], eye: Eye) -> Sequence[_Tube]:
    if cut.kind != "mitre":
        return tubes
    # The plane of a mitre is vertical across X. The tube on the side of the eye is drawn last.
    return tubes if eye.towards[0] >= 0 else tubes[::-1]


def _build_cope(cut: Cut, lift: float) -> list[_Tube]:
    theta, big = math.radians(cut.angle_deg), (cut.run_mm or 0.0) / 2
    reach = 1.15 * cut.outer_r / math.sin(theta) + abs(big / math.tan(theta)) + 0.5 * cut.branch_mm
    middle = big / math.tan(theta) if cut.angle_deg < 90 else 0.0
    run = _Tube(
        (middle / 2, 0, 0),
        (1, 0, 0),
        (0, 0, 1),
        (0, -1, 0),
        big,
        max(0.0, big - cut.wall_mm),
        lambda p, r: -reach,
        lambda p, r: reach,
        "steel-2",
        False,
    )
    top = (
        max(height_mm(cut, cut.outer_r, 0), height_mm(cut, cut.outer_r, math.pi))
        + 1.5 * cut.branch_mm
    )
    return [run, _build_branch(cut, theta, (0.0, cut.offset_mm, 0.0), lift, top)]


def _build_branch(cut: Cut, theta: float, origin: Vector, lift: float, top: float) -> _Tube:
    along = (math.cos(theta), 0.0, math.sin(theta))
    return _Tube(
        origin,
        along,
        (math.sin(theta), 0.0, -math.cos(theta)),
        (0.0, 1.0, 0.0),
        cut.outer_r,
        cut.inner_r,
        lambda phi, r: height_mm(cut, r, phi) + lift,
        lambda phi, r: top + lift,
        "steel",
    )


def _build_mitre(cut: Cut, lift: float) -> list[_Tube]:
    half = math.radians(cut.angle_deg / 2)
    top = abs(height_mm(cut, cut.outer_r, 0)) + 2 * cut.branch_mm
    tubes = []
    for side in (-1, 1):
        # Both lean over the floor from the middle plane. φ = 0 is the inside, towards the other
        # tube.
        along = (side * math.sin(half), 0.0, math.cos(half))
        front = (-side * math.cos(half), 0.0, math.sin(half))
        tubes.append(
            _Tube(
                (side * lift / 2, 0, 0),
                along,
                front,
                (0.0, float(side), 0.0),
                cut.outer_r,
                cut.inner_r,
                lambda phi, r: height_mm(cut, r, phi),
                lambda phi, r: top,
                "steel" if side < 0 else "steel-2",
            )
        )
    return tubes


def _build_upright(cut: Cut, lift: float) -> list[_Tube]:
    theta = math.radians(cut.angle_deg)
    return [
        _build_branch(
            cut,
            theta,
            (0.0, 0.0, 0.0),
            lift,
            abs(height_mm(cut, cut.outer_r, 0)) + 2 * cut.branch_mm,
        )
    ]


_SCENES: dict[str, Callable[[Cut, float], list[_Tube]]] = {
    "cope": _build_cope,
    "mitre": _build_mitre,
    "plate": _build_upright,
}


def _build_plate(cut: Cut) -> list[Vector]:
    long = cut.outer_r / math.sin(math.radians(cut.angle_deg)) + 0.8 * cut.branch_mm
    wide = cut.outer_r + 0.8 * cut.branch_mm
    return [(-long, -wide, 0), (long, -wide, 0), (long, wide, 0), (-long, wide, 0)]


def _find_foot(cut: Cut, phi: float) -> Vector:
    return (
        cut.inner_r * math.cos(phi) / math.sin(math.radians(cut.angle_deg)),
        cut.inner_r * math.sin(phi),
        0.0,
    )


def _draw_hole(canvas: Canvas, cut: Cut, eye: Eye) -> None:
    """Draw the hole in the near face of the run, if visible."""
    big, points = (cut.run_mm or 0.0) / 2, []
    for i in range(STRIPS):
        along, turn = hole_point_mm(
            cut.inner_r, big, cut.angle_deg, 2 * math.pi * i / STRIPS, cut.offset_mm
        )
        normal = (0.0, math.sin(turn), math.cos(turn))
        if _multiply(normal, eye.towards) > 0:
            points.append(eye.seen((along, big * normal[1], big * normal[2])))
    if len(points) > 2:
        canvas.polygon(points, "surface", "act", 1.5)


def _fit(canvas: Canvas, tubes: Sequence[_Tube], plate: Sequence[Vector], eye: Eye) -> None:
    """Set the scale by the bounding sphere, so that every view fits."""
    points = [
        t.point(2 * math.pi * i / 12, t.outer, end(2 * math.pi * i / 12, t.outer))
        for t in tubes
        for i in range(12)
        for end in (t.low, t.high)
    ]
    points += plate
    middle = tuple((min(p[k] for p in points) + max(p[k] for p in points)) / 2 for k in range(3))
    radius = max(math.dist(p, middle) for p in points)
    scale = min(WIDTH, HEIGHT) / 2 / radius * 0.97
    x, y = eye.seen(middle)  # type: ignore[arg-type]
    canvas.frame(scale, WIDTH / 2 - x * scale, HEIGHT / 2 - y * scale)


def _draw(canvas: Canvas, tube: _Tube, eye: Eye) -> None:
    """Draw a tube: the visible inside, then the outside, with strips shaded by the light."""
    step = 2 * math.pi / STRIPS
    for inside in (True, False):
        radius = tube.inner if inside else tube.outer
        if radius <= 0:
            continue
        for i in range(STRIPS):
            middle = (i + 0.5) * step
            normal = tube.normal(middle)
            facing = _multiply(normal, eye.towards) * (-1 if inside else 1)
            if facing <= -0.02:
                continue
            corners = [
                tube.point(phi, radius, end(phi, radius))
                for phi, end in (
                    (i * step, tube.low),
                    ((i + 1) * step, tube.low),
                    ((i + 1) * step, tube.high),
                    (i * step, tube.high),
                )
            ]
            light = _multiply(normal, _LIGHT) * (-1 if inside else 1)
            canvas.polygon(
                [eye.seen(p) for p in corners],
                "ink" if inside else tube.ink,
                None if inside else tube.ink,
                0.8,
                opacity=0.55 if inside else None,
            )
            if not inside:
                shade = max(0.0, 0.34 - 0.34 * light)
                canvas.polygon([eye.seen(p) for p in corners], "ink", None, opacity=round(shade, 2))
        _draw_rims(canvas, tube, eye, radius, inside)


def _draw_rims(canvas: Canvas, tube: _Tube, eye: Eye, radius: float, inside: bool) -> None:
    """Draw the edges of both ends, and the wall of the far end if its inside is visible."""
    turns = [2 * math.pi * i / STRIPS for i in range(STRIPS + 1)]
    for end, side in ((tube.high, 1), (tube.low, -1)):
        rim = [eye.seen(tube.point(phi, radius, end(phi, radius))) for phi in turns]
        opens = side * _multiply(tube.along, eye.towards) > 0
        if not inside and opens and tube.inner > 0 and end is tube.high:
            within = [eye.seen(tube.point(phi, tube.inner, end(phi, tube.inner))) for phi in turns]
            canvas.polygon([*rim, *within[::-1]], "surface", "ink", 1)
        elif not inside:
            near = [
                p
                for p, phi in zip(rim, turns, strict=True)
                if _multiply(tube.normal(phi), eye.towards) > -0.05
            ]
            _split_rim(canvas, rim, near, tube.cut and end is tube.low)


def _split_rim(canvas: Canvas, rim: list[PX], near: list[PX], low: bool) -> None:
    """Draw the near part of a rim, without a line across the hidden part."""
    near_points, piece = set(near), list[PX]()
    for point in [*rim, None]:
        if point in near_points and point is not None:
            piece.append(point)
        elif len(piece) > 1:
            canvas.polyline(piece, "act" if low else "ink", 2.0 if low else 1)
            piece = []
        else:
            piece = []


def _multiply(a: Vector, b: Vector) -> float:
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
