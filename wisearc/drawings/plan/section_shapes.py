"""The section of the joint as shapes in mm: arms of sheet with their faces, torch tilt, seam.

The seam is the origin, y down, the torch above.
"""

from __future__ import annotations

import math

from msgspec import Struct
from msgspec.structs import replace

from ...core.joint.section import Section, Side
from ...core.plan.plan import Plan
from ..canvas import Point, move_along

ARM_MM = 24.0
# The drawn projection of a stud.
PROJECTION_MM = 0.75


class Arm(Struct, frozen=True):
    """An arm of sheet.

    Start of its torch-side face, direction, direction to its back face, thickness.
    """

    start: Point
    direction: Point
    back: Point
    thickness_mm: float
    side: Side
    near_bar: bool = True
    length_mm: float = ARM_MM

    def at(self, s: float, depth: float) -> Point:
        """Return a point on the arm, mm.

        Args:
            s: Distance along the arm, mm.
            depth: Depth below the torch-side face, mm.
        """
        return move_along(move_along(self.start, self.direction, s), self.back, depth)

    def outline(self) -> list[Point]:
        """Return the outline of the arm."""
        return [
            self.at(0, 0),
            self.at(self.length_mm, 0),
            self.at(self.length_mm, self.thickness_mm),
            self.at(0, self.thickness_mm),
        ]


class Shapes(Struct, frozen=True):
    """The shapes.

    Arms, torch tilt clockwise from vertical °, centre of the pool, outline of the deposit, arm of a
    third member.
    """

    arms: list[Arm]
    tilt_deg: float
    pool: Point
    deposit: list[Point]
    inner_corner: bool = False
    third: Arm | None = None

    @property
    def drawn(self) -> list[Arm]:
        """Return every arm to draw, with the third member."""
        return self.arms if self.third is None else [*self.arms, self.third]

    @property
    def torch_side_arms(self) -> tuple[Arm, Arm]:
        """Return the two arms that face the torch, left and right."""
        if len(self.arms) == 2:
            return self.arms[0], self.arms[1]
        return self.arms[2], self.arms[0]


def build_shapes(plan: Plan) -> Shapes:
    """Return the shapes of the joint of a plan."""
    shapes = _build_shapes(plan)
    sides = plan.section.sides
    return (
        replace(shapes, third=_place_third(plan.section, shapes, sides[2]))
        if len(sides) == 3
        else shapes
    )


def _place_third(section: Section, shapes: Shapes, side: Side) -> Arm:
    """Return a third member: next to the second along an edge, or else behind the seam."""
    t = side.thickness_mm
    if section.shape == "edge":
        second = shapes.arms[1]
        return Arm(
            second.at(0, second.thickness_mm),
            second.direction,
            second.back,
            t,
            side,
            near_bar=False,
        )
    below = (
        0.0
        if shapes.inner_corner
        else max(arm.thickness_mm for arm in shapes.arms if arm.back == (0, 1))
    )
    return Arm((-t / 2, below), (0, 1), (1, 0), t, side, near_bar=False, length_mm=16.0)


def _build_shapes(plan: Plan) -> Shapes:
    section = plan.section
    first, second = section.sides[0], section.sides[1]
    a, b = first.thickness_mm, second.thickness_mm
    half = section.gap_mm / 2
    if section.shape == "butt":
        arms = [
            Arm((-half, 0), (-1, 0), (0, 1), a, first),
            Arm((half, 0), (1, 0), (0, 1), b, second),
        ]
        return Shapes(arms, 0.0, (0, min(a, b) * 0.35), [])
    if section.shape == "stud":
        return _build_stud(plan)
    if section.shape == "corner":
        return _build_corner(section, a, b)
    if section.shape == "edge":
        arms = [
            Arm((-half, 0), (0, 1), (-1, 0), a, first, near_bar=False),
            Arm((half, 0), (0, 1), (1, 0), b, second, near_bar=False),
        ]
        return Shapes(arms, 0.0, ((b - a) / 2, plan.travel.pool_width_mm * 0.12), [])
    leg = plan.filler.leg_mm or max(1.5, min(a, b))
    if section.shape == "lap":
        arms = [
            Arm((0, 0), (1, 0), (0, 1), b, second, near_bar=False),
            Arm((0, 0), (-1, 0), (0, 1), b, second, near_bar=False),
            Arm((0, -a), (-1, 0), (0, 1), a, first, near_bar=False),
        ]
        return Shapes(arms, 35.0, (0.3 * a, -0.3 * a), [(0, 0), (leg, 0), (0, -min(leg, a))])
    return _build_fillet(section, a, b, leg, at_toe=section.coped and not plan.start)


def _build_stud(plan: Plan) -> Shapes:
    """Return a rod through the hole of a plate, projecting a little."""
    plate, rod = plan.section.sides[0], plan.section.sides[1]
    half, t = rod.thickness_mm / 2, plate.thickness_mm
    shift = half + plan.section.gap_mm
    arms = [
        Arm((-shift, 0), (-1, 0), (0, 1), t, plate, near_bar=False),
        Arm((shift, 0), (1, 0), (0, 1), t, plate, near_bar=False),
    ]
    stud = Arm(
        (-half, -PROJECTION_MM),
        (0, 1),
        (1, 0),
        rod.thickness_mm,
        rod,
        near_bar=False,
        length_mm=PROJECTION_MM + t + 12.0,
    )
    return Shapes(arms, 0.0, (half, 0.0), [], third=stud)


def _build_corner(section: Section, a: float, b: float) -> Shapes:
    half = math.radians(min(section.angle_deg, 150.0) / 2)
    s, c = math.sin(half), math.cos(half)
    right, left = (s, c), (-s, c)
    out_right, out_left = (c, -s), (-c, -s)
    shift = section.gap_mm / 2
    arms = [
        Arm(
            move_along((-shift, 0), out_left, a),
            left,
            (-out_left[0], -out_left[1]),
            a,
            section.sides[0],
        ),
        Arm(
            move_along((shift, 0), out_right, b),
            right,
            (-out_right[0], -out_right[1]),
            b,
            section.sides[1],
        ),
    ]
    deposit = [
        (0.0, 0.0),
        move_along((0, 0), out_right, b),
        (0.0, -(a + b) / 2 * 1.15),
        move_along((0, 0), out_left, a),
    ]
    return Shapes(arms, 0.0, (0, -(a + b) / 2 * s * 0.7), deposit, inner_corner=True)


def _build_fillet(section: Section, a: float, b: float, leg: float, at_toe: bool) -> Shapes:
    """Return a member on a through member; a cope at its heel, where the reach is longest.

    `at_toe` draws the cope of an older plan at its open side.
    """
    first, second = section.sides[0], section.sides[1]
    open_deg = 180.0 - section.angle_deg if at_toe else section.angle_deg
    phi = math.radians(open_deg)
    up, back = (math.cos(phi), -math.sin(phi)), (-math.sin(phi), -math.cos(phi))
    right = Arm((0, 0), (1, 0), (0, 1), b, second, near_bar=False)
    upright = Arm((0, 0), up, back, a, first, near_bar=False, length_mm=20.0)
    # The through member is the second, or the first with a socket. An inside corner has none.
    through = Arm((0, 0), (-1, 0), (0, 1), b, second, near_bar=False)
    if section.shape == "socket":
        through = Arm((0, 0), (0, 1), (-1, 0), a, first, near_bar=False, length_mm=b)
    arms = [upright, right] if section.shape == "inside-corner" else [right, through, upright]
    deposit = [(0.0, 0.0), (leg, 0.0), move_along((0, 0), up, leg)]
    middle = move_along((0, 0), (math.cos(phi / 2), -math.sin(phi / 2)), leg * 0.3)
    return Shapes(arms, 90.0 - open_deg / 2, middle, deposit)
