"""The rows of the catalogue's tables, as types. Rows that rules ask for their traits are compared
by identity.
"""

from __future__ import annotations

from msgspec import Struct


class Row(Struct, frozen=True, eq=False, kw_only=True):
    """A row that rules ask for its traits."""

    key: str
    name: str
    traits: frozenset[str] = frozenset()
    note: str = ""

    def has(self, trait: str) -> bool:
        """Whether the row has a trait."""
        return trait in self.traits


class Metal(Row, frozen=True, eq=False, kw_only=True):
    """A base metal: typical analysis in wt%, group (with its traits and rod), thermal row for the
    heat; the grade to take instead where a rule speaks against it.
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
        return self.kind == "stainless"

    def analysis_as(self, form: str) -> dict[str, float]:
        """The analysis of the metal in a form, wt%."""
        return (
            self.sheet_analysis
            if self.sheet_analysis is not None and form == "sheet"
            else self.analysis
        )


class Rod(Row, frozen=True, eq=False, kw_only=True):
    """A filler rod class: typical analysis in wt%, its price against the rod at 1 (estimate), how
    hot its weld metal may serve °C (0: no limit kept).
    """

    kind: str
    group: str
    analysis: dict[str, float]
    relative_cost: float
    source: str
    mark: str
    most_c: float = 0.0


class RodSizes(Struct, frozen=True):
    """Diameters on the shelf, diameters cut from a spool, and the length of a rod, all mm."""

    stocked_mm: tuple[float, ...]
    spool_mm: tuple[float, ...]
    rod_length_mm: float


class Thermal(Struct, frozen=True):
    """Effective heat properties: k W/m·K, rho kg/m³, c and c_part J/kg·K, growth 1/K, °C, Young's
    modulus GPa, how many times the pull of a seam in carbon steel, from and to.
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


class GaugeScale(Struct, frozen=True):
    """One gauge scale: {gauge number: inches}."""

    key: str
    label: str
    inches: dict[str, float]
    source: str
    mark: str


class JointKind(Row, frozen=True, eq=False, kw_only=True):
    """A kind of joint: how it takes current, dilution (usual and the least a hand can feed it to)
    and travel (how it is fed: in line, or as a fillet), what forms it joins, its shape cut through.
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
    """A welding position: factors on current and travel, whether the pool is kept small, which
    position mends it.
    """

    current_factor: float
    speed_factor: float
    small_pool: bool
    mark: str
    other: str = "flat"


class PulsePattern(Row, frozen=True, eq=False, kw_only=True):
    """A pattern of the pulse: rate 1/s, on and background %, and how the peak follows the steady
    current.
    """

    peak_rule: str
    use: str
    cost: str
    rate_pps: float | None = None
    on_pct: float | None = None
    background_pct: float | None = None
    peak_factor: float | None = None


class BackCover(Row, frozen=True, eq=False, kw_only=True):
    """What covers the back: what it costs, and how well a bar takes heat, W/mm²K (0 where none
    touches).
    """

    cost: str
    contact_w_mm2k: float = 0.0
    ink: str = ""
    metal: str = ""
    takes: str = ""


class Tip(Struct, frozen=True):
    """A tungsten tip: size, grind, and the currents it carries (A)."""

    diameter_mm: float
    included_angle_deg: float
    tip_flat_mm: float
    steady_a: tuple[float, float]
    pulsed_a: tuple[float, float]


class TungstenType(Struct, frozen=True):
    """A type of tungsten and its colour code; whether its grinding dust is radioactive."""

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
    """A kind of part of a front end; how wide and long it is drawn, mm, by family (0: by its
    bore).
    """

    source: str
    mark: str
    sizes: dict[str, list[float]]


class SetUpLine(Struct, frozen=True):
    """A line of the list that is ticked before the arc: its name, and what to do where it is not
    so.
    """

    key: str
    name: str
    note: str = ""


class FitUpLine(Struct, frozen=True):
    """A line of what is done before the first tack: which part of it (before, first, hold), what
    must be so of the joint, and its words.
    """

    key: str
    part: str
    text: str
    when: tuple[str, ...] = ()


class Kit(Struct, frozen=True):
    """What goes on the torches of a family: a front end with the family of its parts and that of
    its cups.
    """

    torch: str
    front_end: str
    parts: str
    cups: str
    name: str


class FillerPair(Struct, frozen=True):
    """A row of the filler chart: metals of each side, first choice, what else is sound, another
    school's rod.
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
    """A rule for pairs the chart does not list: what the pair must be, then as a row of the
    chart.
    """

    first: str
    sound: tuple[str, ...]
    why: str
    either: str = ""
    unlike: str = ""
    steel: bool = False
    both_steel: bool = False
    molybdenum: bool = False
    service: str = ""


class Work(Struct, frozen=True):
    """A published work the product cites."""

    key: str
    title: str
    kind: str
    used_for: str
    checked: bool


class Estimate(Struct, frozen=True):
    """An estimate in use, and the reasoning behind it."""

    key: str
    title: str
    reasoning: str


class School(Struct, frozen=True):
    """One school: the value that chooses it, its name, what it says, what it costs."""

    value: str
    name: str
    says: str
    costs: str


class Question(Struct, frozen=True):
    """A question on which practitioners disagree, of an answer; the first school is the default,
    and why.
    """

    key: str
    answer: str
    question: str
    why_default: str
    schools: tuple[School, ...]
    source: str
    mark: str

    @property
    def default(self) -> str:
        return self.schools[0].value


class Tint(Struct, frozen=True):
    """A tint that heat leaves in air: its name, the colour a run writes it down as, from which
    temperature °C a 304-type sheet takes it (None: none is tabled), how it is drawn; above: beyond
    the last of the table.
    """

    key: str
    name: str
    colour: str
    ink: tuple[str, str]
    source: str
    mark: str
    from_c: float | None = None
    above: bool = False


class Sign(Struct, frozen=True):
    """What is seen, set, logged or reckoned of a run: its words; how it is told where it was looked
    for and is not there; how it is asked where it is not known ("": it is not); the flaw of a run
    that tells it; whether that flaw may be missed by who looks for flaws.
    """

    key: str
    words: str
    absent: str
    ask: str = ""
    flaw: str = ""
    missed: bool = False


class Cause(Struct, frozen=True):
    """What may be behind what is seen: its weight before anything is known; its evidence, {sign:
    (weight where it is there, where it is looked for and is not)}; what is changed for it, in
    order.
    """

    key: str
    name: str
    prior: float
    evidence: dict[str, list[float]]
    changes: tuple[str, ...]
    source: str
    mark: str


class ReadChange(Struct, frozen=True):
    """A change that a reading proposes: which key of plan or set-up it moves ("hand", "fit" and
    "set" are none), it in few words and in all, what to look for; what it comes to ("more heat");
    the figures of a run that tell of it; the cautions that do not keep it back; those that do, even
    where they stood before it.
    """

    key_of: str
    short: str
    key: str
    words: str
    watch: str
    way: str = ""
    told: tuple[str, ...] = ()
    despite: tuple[str, ...] = ()
    against: tuple[str, ...] = ()


class Term(Struct, frozen=True):
    """A term of the glossary.

    Attributes:
        key: Its anchor on the page.
        term: The term.
        text: What it means, in one sentence.
        also: Other names, shop slang included.
        flaw: The flaw whose drawing shows it, or "".
        linked: Whether sentences link to it.
    """

    key: str
    term: str
    text: str
    also: tuple[str, ...] = ()
    flaw: str = ""
    linked: bool = True

    @property
    def names(self) -> tuple[str, ...]:
        """The term and its other names."""
        return (self.term, *self.also)


class Drill(Struct, frozen=True):
    """A drill on scrap: its name; the faults that speak for it; coupon and steps; what is measured,
    its kind of quantity, the most or the least that is good; what is seen where it is good, and
    what to do where it is not.
    """

    key: str
    name: str
    faults: tuple[str, ...]
    coupon: str
    steps: tuple[str, ...]
    measure: str
    quantity: str
    good: str
    bad: str
    source: str
    mark: str
    most: float | None = None
    least: float | None = None

    def met(self, value: float) -> bool:
        """Whether what was measured is good."""
        return (self.most is None or value <= self.most) and (
            self.least is None or value >= self.least
        )


class Contrary(Struct, frozen=True):
    """Two signs that do not go together, and what is said where both are told."""

    first: str
    second: str
    words: str
