"""The cut of a tube end.

A cope, a mitre or a foot on a plate, with its declared fields and its curve. Geometry, exact. Paper
on a tube adds half its thickness to the radius.
"""

import math
from functools import lru_cache
from typing import Annotated

from msgspec import Struct

from ..errors import InputError
from ..quantities import exact
from ..reasons import Sentence
from ..schema.documents import read_document
from ..schema.entries import Entry, list_options
from ..schema.json_types import JsonObject
from .cope import cope_height_mm, cope_length_mm, hole_point_mm, max_offset_mm, seat_height_mm
from .plane_cut import ellipse_mm, ellipse_round_mm, mitre_slope_deg, plane_height_mm

MIN_ANGLE_DEG = 20.0
# Ordinary paper of 80 g/m², common practice.
PAPER_MM = 0.1
SLACK_MM = 1e-9
# A branch closer to the width of its run has knife edges: estimate.
KNIFE_MM = 0.05
MAX_NAME_LENGTH = 60
EDGES = {
    "seat": (
        "seat",
        "the largest distance through the wall at each place: a square saw cut fits it",
    ),
    "outside": ("outside", "outside of the wall"),
    "inside": ("inside", "inside of the wall"),
}


class CutKind(Struct, frozen=True):
    """A kind of cut.

    Name, meaning and limits of its angle, whether it has a run and a hole, the origins of φ and z,
    and whether its plane halves the angle.
    """

    label: str
    angle: str
    low: float
    high: float
    on_run: bool
    hole: str
    nought: str
    origin: str
    halved: bool = False


KINDS = {
    "cope": CutKind(
        "coped tube",
        "angle to the header",
        MIN_ANGLE_DEG,
        90,
        True,
        "hole in the header",
        "acute side",
        "header axis",
    ),
    "mitre": CutKind(
        "mitre",
        "angle between the tubes",
        2 * MIN_ANGLE_DEG,
        180,
        False,
        "",
        "inner side",
        "intersection of the axes",
        True,
    ),
    "plate": CutKind(
        "tube to plate",
        "angle to the plate",
        MIN_ANGLE_DEG,
        90,
        False,
        "ellipse on the plate",
        "acute side",
        "plate",
    ),
}


class Cut(Struct, frozen=True, kw_only=True):
    """A requested cut.

    Lengths mm, angle °. `paper` is the thickness of the template material.
    """

    kind: Annotated[
        str, Entry("name", names=list_options({k: v.label for k, v in KINDS.items()}), label="Cut")
    ] = "cope"
    branch_mm: Annotated[
        float,
        Entry(
            "number",
            required=True,
            low=3,
            high=1000,
            unit="mm",
            quantity="length",
            label="Branch diameter",
        ),
    ]
    wall_mm: Annotated[
        float,
        Entry(
            "number", required=True, low=0.2, high=100, unit="mm", quantity="length", label="Wall"
        ),
    ]
    run_mm: Annotated[
        float | None,
        Entry("number", low=3, high=3000, unit="mm", quantity="length", label="Header diameter"),
    ] = None
    angle_deg: Annotated[
        float, Entry("number", low=0, high=180, unit="°", quantity="degrees", label="Angle")
    ] = 90.0
    offset_mm: Annotated[
        float,
        Entry("number", low=-1500, high=1500, unit="mm", quantity="length", label="Axis offset"),
    ] = 0.0
    edge: Annotated[str, Entry("name", names=list_options(EDGES), label="Cut by")] = "seat"
    paper_mm: Annotated[
        float, Entry("number", low=0, high=2, unit="mm", quantity="length", label="Paper thickness")
    ] = PAPER_MM
    name: Annotated[str, Entry("text", high=MAX_NAME_LENGTH, label="Part")] = ""

    def check(self, _where: str) -> None:
        """Check the fields together, and that the name can be printed.

        Raises:
            InputError: They are wrong.
        """
        if not self.name.isprintable():
            raise InputError(
                "name", self.name, "contains characters that cannot be printed. Use plain letters"
            )
        if self.wall_mm > self.outer_r + SLACK_MM:
            text = Sentence(
                "exceeds the radius, {r}. Enter the wall thickness, not the bore",
                r=exact(self.outer_r),
            )
            raise InputError("wall_mm", self.wall_mm, text)
        of = self.of
        if not of.low <= self.angle_deg <= of.high:
            raise InputError("angle_deg", self.angle_deg, _check_angle(self))
        if not of.on_run:
            for key, value in (("offset_mm", self.offset_mm), ("run_mm", self.run_mm)):
                if value:
                    raise InputError(
                        key, value, f"is only for a coped tube. Leave it empty for a {of.label}"
                    )
            return
        if self.run_mm is None:
            raise InputError("run_mm", None, "is missing. Enter the outside diameter of the header")
        maximum = max_offset_mm(self.outer_r, self.run_mm / 2)
        if maximum < -SLACK_MM:
            text = Sentence(
                "is larger than the header, {run}. Cope the other tube, or flatten the end",
                run=exact(self.run_mm),
            )
            raise InputError("branch_mm", self.branch_mm, text)
        if abs(self.offset_mm) > maximum + SLACK_MM:
            text = Sentence(
                (
                    "is too large: the branch would miss the header. Enter at most {m} in either "
                    "direction"
                ),
                m=exact(maximum),
            )
            raise InputError("offset_mm", self.offset_mm, text)

    @property
    def of(self) -> CutKind:
        """Return its kind."""
        return KINDS[self.kind]

    @property
    def outer_r(self) -> float:
        """Return the outside radius of the branch, mm."""
        return self.branch_mm / 2

    @property
    def inner_r(self) -> float:
        """Return the inside radius of the branch, mm."""
        return max(0.0, self.branch_mm / 2 - self.wall_mm)

    @property
    def slope_deg(self) -> float:
        """Return the angle between the tube axis and the other member, °."""
        return mitre_slope_deg(self.angle_deg) if self.of.halved else self.angle_deg


def make_cut(data: JsonObject) -> Cut:
    """Check plain data and build the cut.

    Args:
        data: The keys of the cut.

    Raises:
        InputError: A value is wrong. UnknownName and OutOfRange name field, value and rule.

    >>> make_cut({"branch_mm": 25, "wall_mm": 1.2, "run_mm": 51, "angle_deg": 45}).edge
    'seat'
    """
    return read_document(Cut, data, document="a cut")


def _check_angle(cut: Cut) -> str:
    of = cut.of
    if cut.angle_deg > of.high:
        return f"is the obtuse side. Enter the acute angle, {180 - cut.angle_deg:g}°"
    return (
        f"is below {of.low:g}°, which is too long for a template. Enter {of.low:g}° to {of.high:g}°"
    )


def height_mm(cut: Cut, radius: float, phi: float) -> float:
    """Return the height of the cut at a radius, mm.

    Args:
        cut: The cut.
        radius: Radius in the wall, mm.
        phi: Position φ, rad.

    References:
        Geometry, exact.
    """
    if cut.run_mm is not None and cut.of.on_run:
        return cope_height_mm(radius, cut.run_mm / 2, cut.angle_deg, phi, cut.offset_mm)
    return plane_height_mm(radius, cut.slope_deg, phi)


def edge_mm(cut: Cut, phi: float) -> float:
    """Return the height of the cutting line for the selected edge, mm.

    Args:
        cut: The cut.
        phi: Position φ, rad.

    References:
        Geometry, exact.
    """
    if cut.edge != "seat":
        return height_mm(cut, cut.outer_r if cut.edge == "outside" else cut.inner_r, phi)
    if cut.run_mm is not None and cut.of.on_run:
        return seat_height_mm(
            cut.outer_r, cut.inner_r, cut.run_mm / 2, cut.angle_deg, phi, cut.offset_mm
        )
    return max(height_mm(cut, r, phi) for r in (cut.outer_r, cut.inner_r))


class CutRow(Struct, frozen=True):
    """A point of the curve.

    φ °, position on the paper x, and heights of line, outside and inside, mm.
    """

    phi_deg: float
    x_mm: float
    z_mm: float
    z_outside_mm: float
    z_inside_mm: float


class HoleRow(Struct, frozen=True):
    """A point of a hole.

    φ ° round the branch, and positions on the paper round the run (across the plate) and along it,
    mm.
    """

    phi_deg: float
    round_mm: float
    along_mm: float


def paper_r_mm(cut: Cut) -> float:
    """Return the radius of the paper on the branch, mm.

    The outside plus half the paper, for any edge.
    """
    return cut.outer_r + cut.paper_mm / 2


def calculate_curve(cut: Cut, steps: int = 360) -> tuple[CutRow, ...]:
    """Return the unrolled cut, from φ = 0 to 360°.

    Args:
        cut: The cut.
        steps: Number of steps.

    References:
        Geometry, exact at each point.

    >>> rows = calculate_curve(make_cut({"branch_mm": 20, "wall_mm": 1, "run_mm": 40,
    ...     "edge": "outside", "paper_mm": 0}), 4)
    >>> [(row.phi_deg, round(row.x_mm, 3), round(row.z_mm, 3)) for row in rows[:3]]
    [(0.0, 0.0, 20.0), (90.0, 15.708, 17.321), (180.0, 31.416, 20.0)]
    """
    rows, radius = [], paper_r_mm(cut)
    for i in range(steps + 1):
        phi = 2 * math.pi * (i % steps) / steps
        out, within = (height_mm(cut, r, phi) for r in (cut.outer_r, cut.inner_r))
        z = edge_mm(cut, phi) if cut.edge == "seat" else out if cut.edge == "outside" else within
        rows.append(CutRow(360 * i / steps, 2 * math.pi * i / steps * radius, z, out, within))
    return tuple(rows)


def calculate_hole(cut: Cut, steps: int = 360) -> tuple[HoleRow, ...]:
    """Return the hole for a cut, unrolled on the run or flat on the plate.

    It fits the bore of the branch. Paper round a run is at its outside plus half the paper.

    Args:
        cut: The cut.
        steps: Number of steps.

    Raises:
        InputError: The cut has no hole.

    References:
        Geometry, exact.
    """
    if not cut.of.hole:
        raise InputError("part", "hole", f"does not apply: a {cut.of.label} has no hole")
    rows = []
    for i in range(steps + 1):
        phi = 2 * math.pi * (i % steps) / steps
        if cut.run_mm is not None and cut.of.on_run:
            along, turn = hole_point_mm(
                cut.inner_r, cut.run_mm / 2, cut.angle_deg, phi, cut.offset_mm
            )
            rows.append(HoleRow(360 * i / steps, turn * (cut.run_mm + cut.paper_mm) / 2, along))
        else:
            long, short = ellipse_mm(cut.inner_r, cut.slope_deg)
            rows.append(HoleRow(360 * i / steps, short * math.sin(phi), long * math.cos(phi)))
    return tuple(rows)


@lru_cache(maxsize=1024)
def ends_mm(cut: Cut) -> tuple[float, float]:
    """Return the minimum and maximum of the line, mm.

    The long point, and the deepest point of the cut. Geometry, to a quarter of a degree.
    """
    heights = [edge_mm(cut, math.pi * i / 720) for i in range(1440)]
    return min(heights), max(heights)


def seam_mm(cut: Cut) -> float:
    """Return the length of the seam round the outside, mm.

    Geometry.
    """
    if cut.run_mm is not None and cut.of.on_run:
        return cope_length_mm(cut.outer_r, cut.run_mm / 2, cut.angle_deg, cut.offset_mm, 720)
    return ellipse_round_mm(*ellipse_mm(cut.outer_r, cut.slope_deg))


def has_knife_edge(cut: Cut) -> bool:
    """Return whether the ears of a cope have a knife edge that must be dressed.

    Common practice; from 0.05 mm: estimate.
    """
    if cut.run_mm is None or not cut.of.on_run:
        return False
    return max_offset_mm(cut.outer_r, cut.run_mm / 2) - abs(cut.offset_mm) < KNIFE_MM


def describe_cut(cut: Cut, units: str = "mm") -> str:
    """Return the description of a cut: "25 × 1.2 mm on 51 mm at 45°, cut by the seat".

    Args:
        cut: The cut.
        units: Unit system.
    """
    bore = f"{exact(cut.branch_mm).number(units)} × {exact(cut.wall_mm).text(units)}"
    on = (
        f" on {exact(cut.run_mm).text(units)}"
        if cut.run_mm is not None and cut.of.on_run
        else f", {cut.of.label}"
    )
    off = f", {exact(abs(cut.offset_mm)).text(units)} off centre" if cut.offset_mm else ""
    return f"{bore}{on} at {cut.angle_deg:g}°{off}, cut along the {cut.edge}"
