"""Types for the rows of the catalogue.

Rows with traits are compared by identity.
"""

from __future__ import annotations

from msgspec import Struct


class Row(Struct, frozen=True, eq=False, kw_only=True):
    """A row with traits."""

    key: str
    name: str
    traits: frozenset[str] = frozenset()
    note: str = ""

    def has(self, trait: str) -> bool:
        """Return whether the row has a trait."""
        return trait in self.traits


class Metal(Row, frozen=True, eq=False, kw_only=True):
    """A base metal.

    Typical analysis in wt%, group with its traits and rod, row of heat properties, and the grade to
    use instead where a rule excludes it.
    """

    kind: str
    group: str
    thermal: str
    analysis: dict[str, float]
    family: str
    own_rod: str
    source: str
    mark: str
    sheet_analysis: dict[str, float] | None = None
    instead: str = ""

    @property
    def stainless(self) -> bool:
        """Return whether the metal is stainless."""
        return self.kind == "stainless"

    def analysis_as(self, form: str) -> dict[str, float]:
        """Return the analysis of the metal in a form, wt%."""
        return (
            self.sheet_analysis
            if self.sheet_analysis is not None and form == "sheet"
            else self.analysis
        )


class Rod(Row, frozen=True, eq=False, kw_only=True):
    """A filler rod class.

    Typical analysis in wt%, price relative to the rod at 1 (estimate), and maximum service
    temperature °C (0: no limit).
    """

    kind: str
    group: str
    analysis: dict[str, float]
    relative_cost: float
    source: str
    mark: str
    most_c: float = 0.0


class RodSizes(Struct, frozen=True):
    """Stock diameters, those from a spool, those not sold in inches, length of a rod, all mm."""

    stocked_mm: tuple[float, ...]
    spool_mm: tuple[float, ...]
    metric_mm: tuple[float, ...]
    rod_length_mm: float


class Thermal(Struct, frozen=True):
    """Effective heat properties.

    K W/m·K, rho kg/m³, c and c_part J/kg·K, growth 1/K, °C, Young's modulus GPa, and the pull of a
    seam relative to carbon steel, minimum and maximum.
    """

    key: str
    k: float
    rho: float
    c: float
    liquidus_c: float
    growth: float
    c_part: float
    interpass_c: float
    young_gpa: float
    tendon_low: float
    tendon_high: float


class ThermalCurve(Struct, frozen=True):
    """Heat properties that vary with temperature, as straight lines between points.

    Points °C, k W/m·K, c J/kg·K, cold rho kg/m³, solidus °C, latent heat J/g.
    """

    key: str
    at_c: tuple[float, ...]
    k: tuple[float, ...]
    c: tuple[float, ...]
    rho: float
    solidus_c: float
    latent_j_g: float


class GaugeScale(Struct, frozen=True):
    """One gauge scale: {gauge number: inches}."""

    key: str
    label: str
    inches: dict[str, float]
    source: str
    mark: str


class JointKind(Row, frozen=True, eq=False, kw_only=True):
    """A joint type.

    Factors for current, dilution (usual and minimum by feed) and travel speed, feed (in line or as
    a fillet), allowed forms and section shape.
    """

    phrase: str
    current_factor: float
    dilution: float
    least_dilution: float
    speed_factor: float
    fed: str
    forms: str
    reach_mm: float
    deposit: str
    shape: str
    through_arms: int
    bare_fit: bool
    instead: str = ""


class Position(Row, frozen=True, eq=False, kw_only=True):
    """A welding position.

    Factors on current and travel speed, whether the pool stays small, its codes for grooves and
    fillets (AWS A3.0 and ISO 6947), and a better position.
    """

    current_factor: float
    speed_factor: float
    small_pool: bool
    mark: str
    codes: tuple[str, str]
    iso_codes: tuple[str, str]
    other: str = "flat"

    def get_code(self, is_fillet: bool) -> str:
        """Return its code: 2F for a fillet, 2G for a groove.

        Args:
            is_fillet: Whether the weld is a fillet.
        """
        return self.codes[is_fillet]


class PulsePattern(Row, frozen=True, eq=False, kw_only=True):
    """A pulse pattern: frequency 1/s, peak time and background %, and the rule for the peak."""

    peak_rule: str
    use: str
    cost: str
    rate_pps: float | None = None
    on_pct: float | None = None
    background_pct: float | None = None
    peak_factor: float | None = None


class BackCover(Row, frozen=True, eq=False, kw_only=True):
    """A root cover: its cost, and the heat transfer of a bar, W/mm²K (0 without contact)."""

    cost: str
    contact_w_mm2k: float = 0.0
    ink: str = ""
    metal: str = ""
    takes: str = ""


class Tip(Struct, frozen=True):
    """A tungsten tip: size, grind and current range, A."""

    diameter_mm: float
    included_angle_deg: float
    tip_flat_mm: float
    steady_a: tuple[float, float]
    pulsed_a: tuple[float, float]


class TungstenType(Struct, frozen=True):
    """A tungsten type: colour code, and whether its grinding dust is radioactive."""

    key: str
    name: str
    colour: str
    source: str
    note: str
    radioactive: bool = False


class Torch(Struct, frozen=True):
    """A torch size: family of front-end parts, rating in A, water-cooled or not."""

    key: str
    family: str
    rating_a: float
    water: bool


class PartKind(Row, frozen=True, eq=False, kw_only=True):
    """A kind of front-end part: drawn width and length, mm, by family (0: by its bore)."""

    source: str
    mark: str
    sizes: dict[str, list[float]]


class SetUpLine(Struct, frozen=True):
    """A line of the set-up checklist: its name, and the action if the check fails."""

    key: str
    name: str
    note: str = ""


class FitUpLine(Struct, frozen=True):
    """A step before the first tack: its part (before, first, hold), its conditions and its text."""

    key: str
    part: str
    text: str
    when: tuple[str, ...] = ()


class Kit(Struct, frozen=True):
    """Parts for the torches of a family.

    A front end with the families of its parts and cups, and its largest cup.
    """

    torch: str
    front_end: str
    parts: str
    cups: str
    name: str
    max_cup: int


class FillerPair(Struct, frozen=True):
    """A row of the filler chart.

    Metals of each side, first choice, other suitable rods, and the rod of another approach.
    """

    a: tuple[str, ...]
    b: tuple[str, ...]
    first: str
    sound: tuple[str, ...]
    why: str
    source: str
    mark: str
    other_school: str = ""
    service: str = ""


class FillerRule(Struct, frozen=True):
    """A rule for pairs outside the chart: its conditions, then the same as a row of the chart."""

    first: str
    sound: tuple[str, ...]
    why: str
    either: str = ""
    unlike: str = ""
    steel: bool = False
    both_steel: bool = False
    service: str = ""


class Work(Struct, frozen=True):
    """A published work that the product cites."""

    key: str
    title: str
    kind: str
    used_for: str
    checked: bool


class Estimate(Struct, frozen=True):
    """An estimate in use, with its reasoning."""

    key: str
    title: str
    reasoning: str


class Approach(Struct, frozen=True):
    """One approach: the value that selects it, its name, its text and its cost."""

    value: str
    name: str
    says: str
    costs: str


class Question(Struct, frozen=True):
    """A question on which practitioners disagree.

    The first approach is the default, with its reason.
    """

    key: str
    answer: str
    question: str
    why_default: str
    schools: tuple[Approach, ...]
    source: str
    mark: str

    @property
    def default(self) -> str:
        """Return the default approach."""
        return self.schools[0].value


class BuyingItem(Struct, frozen=True):
    """An item of a kit to buy: its list in a shop file, its fields, its count for each work."""

    list: str
    item: dict[str, float | int | str]
    counts: dict[str, int]
