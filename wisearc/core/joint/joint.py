"""The joint: the facts that the welder knows before the plan, as one table of fields.

Each row declares a field: name, type, default, limits, its word in the sentence and its label.
`joint_data` converts a Joint to plain data and back.
"""

from collections.abc import Mapping
from typing import TYPE_CHECKING, Annotated, Any, TypeVar

from msgspec import Struct, field

from .. import catalogue
from ..catalogue.rows import BackCover, JointKind, Metal, Position, PulsePattern
from ..schema.entries import Entry, Option, list_options
from ..typed_quantities import Length

T = TypeVar("T")
ALL_ROUND = "all-round"
FORMS = {"sheet": "sheet", "tube": "tube", "rod": "round rod", "bar": "bar", "flange": "flange"}
SHEET_FORMS = ("sheet", "bar", "rod", "flange")
HEAVY_FORMS = ("rod", "bar", "flange")
COATINGS = {"none": "bare metal", "zinc": "zinc", "paint": "paint", "plating": "plating"}
FINISHES = {
    "show": ("show", "Both faces are visible, so colour matters."),
    "sound": ("soundness only", "Colour does not matter."),
}
SERVICES = {
    "dry": "dry air",
    "wet": "wet or salty service",
    "food": "food service",
    "hot": "hot service",
    "structural": "structural service",
}
CONTROLS = {"pedal": "pedal", "slide": "torch slide", "none": "no remote control"}
CORNER_FITS = {
    "edge-to-edge": ("edge to edge", "The inner corners touch. The groove is open."),
    "half-open": ("half open", "One sheet covers half of the other edge."),
    "flush": ("flush", "One sheet covers the whole edge of the other. There is no groove."),
}
FREE_EDGES = {
    "free": ("free", "The edges away from the seam are flat and free."),
    "joined": ("folded or joined", "They are folded, flanged or joined to another sheet."),
}
ACCESSES = {
    "reached": ("accessible", "Bars can be clamped behind the seam."),
    "closed": ("closed", "Only argon can reach the root. Purge it."),
}


def _list_named(rows: Mapping[str, PulsePattern] | Mapping[str, BackCover]) -> Mapping[str, Option]:
    """Return the names of rows with their labels, and "auto"."""
    return {"auto": Option("auto"), **{key: Option(row.name) for key, row in rows.items()}}


class Pins(dict[str, Any]):
    """Manual answers by key; 0 is a valid answer.

    A joint with its pins is a cache key, so the object must not change.
    """

    if TYPE_CHECKING:

        def get(self, key: str, planned: T) -> T:  # type: ignore[override]
            """Return a manual answer, or the planned value without one.

            Args:
                key: Key of the answer.
                planned: The planned value; a manual answer has its type.
            """

    def __hash__(self) -> int:  # type: ignore[override]
        """Return a hash, so that a joint can be a cache key."""
        return hash(frozenset(self.items()))


class Member(Struct, frozen=True):
    """One member: metal, form, thickness or wall, outside diameter of a tube, coating."""

    metal: Annotated[Metal, Entry("row", rows=catalogue.load_metals, label="Metal", required=True)]
    form: Annotated[str, Entry("name", names=list_options(FORMS), usual="sheet", label="Form")]
    thickness: Annotated[
        Length,
        Entry(
            "length",
            gauged=True,
            low=0.3,
            high=50.0,
            label="Thickness",
            hint="16 ga, .065, 1/16, 1.5 mm",
            required=True,
        ),
    ]
    diameter: Annotated[
        Length | None,
        Entry("length", low=3.0, high=1000.0, label="Outside diameter", hint="25 mm, 1 in, 1-1/2"),
    ] = None
    coating: Annotated[
        str, Entry("name", names=list_options(COATINGS), usual="none", label="Surface")
    ] = "none"

    @property
    def thickness_mm(self) -> float:
        """Return the thickness or wall, mm."""
        return self.thickness.mm

    @property
    def diameter_mm(self) -> float | None:
        """Return the outside diameter, mm, or None."""
        return self.diameter.mm if self.diameter else None

    @property
    def analysis(self) -> Mapping[str, float]:
        """Return the analysis of the metal in its form, wt%."""
        return self.metal.analysis_as(self.form)


class Joint(Struct, frozen=True, kw_only=True):
    """A checked joint.

    Lengths mm, angle °, travel speed mm/s, mass g. The second member is the through member in a
    tee, lap, tube to plate and coped tube.
    """

    title: Annotated[
        str,
        Entry(
            "text",
            usual="",
            high=120,
            word="more",
            label="Title",
            hint="A name for your lists. Example: Lid rim, long side",
        ),
    ]
    kind: Annotated[
        JointKind,
        Entry(
            "row",
            key="joint",
            rows=catalogue.load_joint_kinds,
            word="joint",
            label="Joint type",
            required=True,
        ),
    ]
    members: tuple[Member, ...]
    position: Annotated[
        Position,
        Entry(
            "row", rows=catalogue.load_positions, usual="flat", word="position", label="Position"
        ),
    ]
    length: Annotated[
        Length,
        Entry(
            "length",
            low=1.0,
            high=20000.0,
            usual="100 mm",
            word="length",
            label="Seam length",
            hint="380 mm, 15 in",
        ),
    ]
    gap: Annotated[
        Length,
        Entry(
            "length",
            low=0.0,
            high=10.0,
            usual="0 mm",
            word="gap",
            label="Measured gap",
            hint="0, or 0.2 mm, .010",
        ),
    ]
    leg: Annotated[
        Length | None,
        Entry(
            "length",
            low=0.5,
            high=12.0,
            word="more",
            label="Fillet leg",
            hint="Leave empty to use the plan. Example: 2 mm or 3/32 in",
        ),
    ]
    corner_fit: Annotated[
        str,
        Entry(
            "name",
            names=list_options(CORNER_FITS),
            usual="edge-to-edge",
            word="more",
            label="Fit of the corner",
            for_trait="fitted",
        ),
    ]
    far_edge: Annotated[
        str,
        Entry("name", names=list_options(FREE_EDGES), usual="free", word="more", label="Far edges"),
    ]
    reach: Annotated[
        Length | None,
        Entry("length", low=0.0, high=60.0, word="more", label="Reach of the tungsten"),
    ]
    angle_deg: Annotated[
        float,
        Entry(
            "number",
            low=20,
            high=180,
            unit="°",
            usual=90.0,
            quantity="degrees",
            word="angle",
            label="Angle between the members, °",
            hint="90, from 20 for a cope; of a mitre 180 is straight",
        ),
    ]
    opening_deg: Annotated[
        float | None,
        Entry(
            "number",
            low=15,
            high=180,
            unit="°",
            quantity="degrees",
            word="more",
            label="Opening of the joint, °",
            hint="Leave empty to use the angle",
        ),
    ]
    filler: Annotated[
        str,
        Entry(
            "name",
            names=lambda: list_options(["auto", "none", *catalogue.load_rods()])(),
            usual="auto",
            answer="filler",
            label="Rod",
        ),
    ]
    pulse: Annotated[
        str,
        Entry(
            "name",
            names=lambda: _list_named(catalogue.load_pulse_patterns()),
            usual="auto",
            answer="pulse",
            label="Pulse pattern",
        ),
    ]
    rod_school: Annotated[
        str, Entry("name", names=list_options(("under-sheet", "equals-sheet")), usual="under-sheet")
    ]
    tip_school: Annotated[
        str, Entry("name", names=list_options(("table", "needle")), usual="table")
    ]
    setting_school: Annotated[
        str, Entry("name", names=list_options(("headroom", "ride")), usual="headroom")
    ]
    reach_school: Annotated[str, Entry("name", names=list_options(("bore", "long")), usual="bore")]
    tack_school: Annotated[str, Entry("name", names=list_options(("held", "burst")), usual="held")]
    gas_school: Annotated[str, Entry("name", names=list_options(("full", "frugal")), usual="full")]
    own_record: Annotated[
        str, Entry("name", names=list_options(("record", "bench")), usual="record")
    ]
    back: Annotated[
        str,
        Entry(
            "name",
            names=lambda: _list_named(catalogue.back_covers()),
            usual="auto",
            answer="back",
            label="Root cover",
        ),
    ]
    bar_gas: Annotated[
        str,
        Entry("name", names=list_options(("auto", "yes", "no")), usual="auto"),
    ]
    back_access: Annotated[
        str,
        Entry(
            "name",
            names=list_options(ACCESSES),
            usual="reached",
            word="access",
            label="Root access",
        ),
    ]
    purge_length: Annotated[
        Length | None,
        Entry(
            "length",
            low=10.0,
            high=20000.0,
            word="purge",
            label="Dammed length",
            hint="Leave empty to use the plan. Example: 300 mm or 12 in",
        ),
    ]
    purge_volume_l: Annotated[
        float | None,
        Entry(
            "number",
            low=0.01,
            high=1000,
            unit="L",
            quantity="litres",
            word="purge",
            label="Or purge volume, L",
            hint="Leave empty to use bore × length",
        ),
    ]
    purge_target_ppm: Annotated[
        float | None,
        Entry(
            "number",
            low=10,
            high=5000,
            unit="ppm",
            quantity="ppm",
            word="purge",
            label="Oxygen target at the vent, ppm",
            hint="Leave empty to use the purpose. Example: 50, 100 or 500",
        ),
    ]
    finish: Annotated[
        str,
        Entry("name", names=list_options(FINISHES), usual="show", word="purpose", label="Purpose"),
    ]
    service: Annotated[
        str,
        Entry("name", names=list_options(SERVICES), usual="dry", word="purpose", label="Service"),
    ]
    control: Annotated[
        str,
        Entry(
            "name",
            names=list_options(CONTROLS),
            usual="pedal",
            word="control",
            label="Current control",
        ),
    ]
    overlap_pct: Annotated[
        float | None,
        Entry(
            "number",
            low=25,
            high=80,
            unit="%",
            quantity="percent",
            word="more",
            label="Ripple overlap, %",
            hint="empty: 35; many say 50",
        ),
    ]
    travel_mm_s: Annotated[
        float | None,
        Entry(
            "number",
            low=0.3,
            high=20,
            unit="mm/s",
            quantity="speed",
            word="travel",
            label="Travel speed",
            hint="Leave empty to use the plan. Example: 3.4 mm/s or 8 in/min",
            answer="travel",
        ),
    ]
    part_mass_g: Annotated[
        float | None,
        Entry(
            "number",
            low=1,
            high=1e6,
            unit="g",
            quantity="mass",
            word="more",
            label="Mass of a small part, g",
            hint="Leave empty for a large part",
        ),
    ]
    pins: Pins = field(default_factory=Pins)

    @property
    def all_round(self) -> bool:
        """Return whether the seam goes all round a tube or a stud."""
        return self.length.typed == ALL_ROUND or self.kind.has("stud")

    @property
    def round_mm(self) -> float:
        """Return the diameter that a seam goes round, mm: of the first tube or of the stud."""
        if self.kind.has("stud"):
            return self.members[1].thickness_mm
        return self.members[0].diameter_mm or 0.0

    @property
    def gap_mm(self) -> float:
        """Return the gap, mm."""
        return self.gap.mm

    @property
    def metals(self) -> tuple[Metal, ...]:
        """Return the metals of all members."""
        return tuple(m.metal for m in self.members)

    @property
    def pair(self) -> tuple[Metal, Metal]:
        """Return the two metals that form the weld metal."""
        return self.members[0].metal, self.members[1].metal

    @property
    def remote(self) -> bool:
        """Return whether the welder can reduce the current while welding."""
        return self.control != "none"

    @property
    def analyses(self) -> tuple[Mapping[str, float], Mapping[str, float]]:
        """Return the analyses of the two metals, wt%."""
        return self.members[0].analysis, self.members[1].analysis

    def which(self, trait: str) -> str | None:
        """Return the key of the first of the two metals with a trait, or None."""
        return next((m.key for m in self.pair if m.has(trait)), None)

    def any_metal(self, trait: str) -> bool:
        """Return whether the metal of any member has a trait."""
        return any(m.metal.has(trait) for m in self.members)
