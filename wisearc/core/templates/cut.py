"""The cut of a tube's end: coped onto a run, mitred to its like, or stood on a plate; its fields
declared once, and its curve.

Geometry, exact; the lean of paper on a tube by half its thickness.
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
from .cope import cope_height_mm, cope_length_mm, hole_point_mm, offset_most_mm, seat_height_mm
from .plane_cut import ellipse_mm, ellipse_round_mm, mitre_slope_deg, plane_height_mm

MIN_ANGLE_DEG = 20.0
# ordinary paper of 80 g/m², common practice
PAPER_MM = 0.1
SLACK_MM = 1e-9
# a branch nearer to its run's own width than this runs out to a knife edge: estimate
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
    """A kind of cut: its name, what its angle is, from and to how many degrees, whether it takes a
    run, whether a hole goes with it, what φ = 0 is, what z is measured from, and whether its plane
    halves the angle.
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
    """A cut as it is asked for. Lengths mm, angle °; paper, the thickness of what the template is
    drawn on.
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
        """Refuse what several fields cannot be together, and a name that cannot be printed. Raises
        BadInput.
        """
        if not self.name.isprintable():
            raise InputError(
                "name", self.name, "contains characters that cannot be printed. Use plain letters"
            )
        if self.wall_mm > self.outer_r + SLACK_MM:
            words = Sentence(
                "exceeds the radius, {r}. Enter the wall thickness, not the bore",
                r=exact(self.outer_r),
            )
            raise InputError("wall_mm", self.wall_mm, words)
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
        most = offset_most_mm(self.outer_r, self.run_mm / 2)
        if most < -SLACK_MM:
            words = Sentence(
                "is larger than the header, {run}. Cope the other tube, or flatten the end",
                run=exact(self.run_mm),
            )
            raise InputError("branch_mm", self.branch_mm, words)
        if abs(self.offset_mm) > most + SLACK_MM:
            words = Sentence(
                (
                    "is too large: the branch would miss the header. Enter at most {m} in either "
                    "direction"
                ),
                m=exact(most),
            )
            raise InputError("offset_mm", self.offset_mm, words)

    @property
    def of(self) -> CutKind:
        """What its kind is."""
        return KINDS[self.kind]

    @property
    def outer_r(self) -> float:
        """The branch's outside radius, mm."""
        return self.branch_mm / 2

    @property
    def inner_r(self) -> float:
        """The branch's inside radius, mm."""
        return max(0.0, self.branch_mm / 2 - self.wall_mm)

    @property
    def slope_deg(self) -> float:
        """The angle between the tube's axis and what it is cut to, °."""
        return mitre_slope_deg(self.angle_deg) if self.of.halved else self.angle_deg


def make_cut(data: JsonObject) -> Cut:
    """Check plain data and make the cut. Raises InputError (UnknownName, OutOfRange) naming the
    field, value and rule.

    >>> make_cut({"branch_mm": 25, "wall_mm": 1.2, "run_mm": 51, "angle_deg": 45}).edge
    'seat'
    """
    return read_document(Cut, data, what="a cut")


def _check_angle(cut: Cut) -> str:
    of = cut.of
    if cut.angle_deg > of.high:
        return f"is the obtuse side. Enter the acute angle, {180 - cut.angle_deg:g}°"
    return (
        f"is below {of.low:g}°, which is too long for a template. Enter {of.low:g}° to {of.high:g}°"
    )


def height_mm(cut: Cut, radius: float, phi: float) -> float:
    """Height of the cut at a radius of the wall, at φ (rad), mm. Geometry, exact."""
    if cut.run_mm is not None and cut.of.on_run:
        return cope_height_mm(radius, cut.run_mm / 2, cut.angle_deg, phi, cut.offset_mm)
    return plane_height_mm(radius, cut.slope_deg, phi)


def edge_mm(cut: Cut, phi: float) -> float:
    """Height of the line that is cut at φ (rad), mm: of the edge asked for. Geometry, exact."""
    if cut.edge != "seat":
        return height_mm(cut, cut.outer_r if cut.edge == "outside" else cut.inner_r, phi)
    if cut.run_mm is not None and cut.of.on_run:
        return seat_height_mm(
            cut.outer_r, cut.inner_r, cut.run_mm / 2, cut.angle_deg, phi, cut.offset_mm
        )
    return max(height_mm(cut, r, phi) for r in (cut.outer_r, cut.inner_r))


class CutRow(Struct, frozen=True):
    """A place of the curve: φ °, along the paper x, and the heights of the line, the wall's outside
    and its inside, mm.
    """

    phi_deg: float
    x_mm: float
    z_mm: float
    z_outside_mm: float
    z_inside_mm: float


class HoleRow(Struct, frozen=True):
    """A place of a hole's curve: φ ° round the branch, round the run on the paper (across the
    plate) and along it, mm.
    """

    phi_deg: float
    round_mm: float
    along_mm: float


def paper_r_mm(cut: Cut) -> float:
    """The radius that paper round the branch lies at, mm: the outside and half the paper, whichever
    edge is cut by.
    """
    return cut.outer_r + cut.paper_mm / 2


def calculate_curve(cut: Cut, steps: int = 360) -> tuple[CutRow, ...]:
    """The cut unrolled, once round from φ = 0 to 360° in so many steps. Geometry, exact at each
    place.

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
    """The hole that goes with a cut, by the branch's bore: unrolled on the run, flat on the plate.
    Raises InputError where none does.

    Geometry, exact; paper round a run lies at its outside and half the paper.
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
    """The lowest and highest of the line, mm: the tube's long point, and where its cut is deepest.
    Geometry, to a quarter of a degree.
    """
    heights = [edge_mm(cut, math.pi * i / 720) for i in range(1440)]
    return min(heights), max(heights)


def seam_mm(cut: Cut) -> float:
    """Length of the seam round the outside, mm. Geometry."""
    if cut.run_mm is not None and cut.of.on_run:
        return cope_length_mm(cut.outer_r, cut.run_mm / 2, cut.angle_deg, cut.offset_mm, 720)
    return ellipse_round_mm(*ellipse_mm(cut.outer_r, cut.slope_deg))


def has_knife_edge(cut: Cut) -> bool:
    """Whether the ears of a cope run out to a knife edge, to be dressed back to the wall. Common
    practice; from 0.05 mm: estimate.
    """
    if cut.run_mm is None or not cut.of.on_run:
        return False
    return offset_most_mm(cut.outer_r, cut.run_mm / 2) - abs(cut.offset_mm) < KNIFE_MM


def describe_cut(cut: Cut, habit: str = "mm") -> str:
    """A cut in words: "25 × 1.2 mm on 51 mm at 45°, cut by the seat"."""
    bore = f"{exact(cut.branch_mm).number(habit)} × {exact(cut.wall_mm).text(habit)}"
    on = (
        f" on {exact(cut.run_mm).text(habit)}"
        if cut.run_mm is not None and cut.of.on_run
        else f", {cut.of.label}"
    )
    off = f", {exact(abs(cut.offset_mm)).text(habit)} off centre" if cut.offset_mm else ""
    return f"{bore}{on} at {cut.angle_deg:g}°{off}, cut along the {cut.edge}"
