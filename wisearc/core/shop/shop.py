"""What a shop owns: every list of it as one table of its fields. A list that is None was not
entered; an empty one is none owned.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

from .. import catalogue
from ..catalogue import rows
from ..history.shop_history import OwnBook
from ..physics.gas import contents_l
from ..schema.entries import Option, entry, one_of

STARTS = {"hf": "high frequency", "lift": "lift", "scratch": "scratch"}
CONTROLS = {"pedal": "pedal", "slide": "torch slide"}
HAS = {"oxygen-meter": "oxygen meter", "flux": "flux paste", "foil": "foil"}
CAPS = {"long": "long", "short": "short", "button": "button"}
ROLES = {"welder": "welder", "lead": "lead", "viewer": "viewer"}
# rows of a list; a shelf of a thousand is a large shop's
MOST_ITEMS, MOST_COUNT = 2000, 100_000
LONGEST_NAME = 40
# below so much by the gauge no regulator holds its flow: estimate
LEAST_BAR = 4.0


def _named(rows_of: Mapping[str, rows.Row]) -> Mapping[str, Option]:
    return {key: Option(row.name, row.note) for key, row in rows_of.items()}


def _count(usual: int = 1) -> int:
    found: int = entry("count", usual, low=0, high=MOST_COUNT, usual=usual, label="How many")
    return found


def _price(of: str = "one") -> float | None:
    found: float | None = entry("number", None, low=0, high=100_000, label=f"Price of {of}")
    return found


@dataclass(frozen=True)
class PulseRange:
    """From how many to how many pulses a second a machine makes."""

    least_pps: float = entry(
        "number", 0.5, usual=0.5, low=0.1, high=100, unit="/s", label="Pulses from"
    )
    most_pps: float = entry(
        "number", 250.0, usual=250.0, low=0.1, high=20_000, unit="/s", label="Pulses to"
    )


@dataclass(frozen=True)
class Machine:
    """A power source: what it gives A, its pulse (None: it cannot), whether it slopes, how long its
    gas timers run s, how it starts an arc, which remotes it takes.
    """

    name: str = entry("text", "", required=True, high=LONGEST_NAME, label="Name")
    least_a: float = entry(
        "number", 5.0, usual=5.0, low=0.5, high=100, unit="A", quantity="current", label="Least"
    )
    most_a: float = entry(
        "number", 200.0, usual=200.0, low=5, high=1000, unit="A", quantity="current", label="Most"
    )
    pulse: PulseRange | None = entry("part", PulseRange(), label="Pulse")
    slopes: bool = entry("yes", True, usual=True, label="Slopes up and down")
    preflow_most_s: float = entry(
        "number", 10.0, usual=10.0, low=0, high=60, unit="s", label="Pre-flow to"
    )
    postflow_most_s: float = entry(
        "number", 30.0, usual=30.0, low=0, high=120, unit="s", label="Post-flow to"
    )
    starts: tuple[str, ...] = entry(
        "names", ("hf", "lift"), names=one_of(STARTS), usual=["hf", "lift"], label="Starts by"
    )
    controls: tuple[str, ...] = entry(
        "names", ("pedal", "slide"), names=one_of(CONTROLS), usual=["pedal", "slide"], label="Takes"
    )

    @property
    def pulses(self) -> bool:
        """Whether it pulses at all."""
        return self.pulse is not None


@dataclass(frozen=True)
class OwnTorch:
    """A torch: its size, and the machine it goes with ("": any)."""

    name: str = entry("text", "", required=True, high=LONGEST_NAME, label="Name")
    size: str = entry(
        "name",
        "17",
        names=lambda: {k: Option(f"no. {k}") for k in catalogue.torches()},
        usual="17",
        label="Size",
    )
    machine: str = entry("text", "", usual="", high=LONGEST_NAME, label="Goes with")

    @property
    def row(self) -> rows.Torch:
        """Its family, rating and cooling."""
        return catalogue.torches()[self.size]


@dataclass(frozen=True)
class Part:
    """A part of a torch's front end. tungsten_mm: of a collet, body or lens. cup, fits: a cup's
    number, and which front end it goes on. length: of a back cap.
    """

    kind: str = entry(
        "name", "cup", names=lambda: _named(catalogue.part_kinds()), required=True, label="Part"
    )
    family: str = entry(
        "name", "large", names=one_of(("small", "large", "stubby")), required=True, label="Family"
    )
    tungsten_mm: float | None = entry(
        "number", None, low=0.5, high=6.4, unit="mm", quantity="stock", label="For tungsten"
    )
    cup: int | None = entry("count", None, low=3, high=24, label="Cup no.")
    fits: str | None = entry(
        "name", None, names=one_of({"gas-lens": "gas lens", "plain": "plain body"}), label="Cup for"
    )
    length: str | None = entry("name", None, names=one_of(CAPS), label="Length of cap")
    count: int = _count()


def _goes_by(part: Part) -> tuple[str, str, float | None, int | None, str | None]:
    """What a part is asked for by; a cup of which it is not told what it goes on is taken for a
    lens.
    """
    kind = catalogue.part_kinds()[part.kind]
    cup, fits = (part.cup, part.fits or "gas-lens") if kind.has("numbered") else (None, None)
    return part.kind, part.family, part.tungsten_mm if kind.has("for_tungsten") else None, cup, fits


@dataclass(frozen=True)
class TungstenStock:
    """Tungstens of a type and diameter, as long as they lie there."""

    type: str = entry(
        "name",
        "lanthanated-2",
        names=lambda: {
            k: Option(f"{r.name} ({r.colour})") for k, r in catalogue.tungsten_types().items()
        },
        required=True,
        label="Type",
    )
    diameter_mm: float = entry(
        "number",
        1.6,
        low=0.5,
        high=6.4,
        unit="mm",
        quantity="stock",
        required=True,
        label="Diameter",
    )
    length_mm: float = entry(
        "number", 175.0, usual=175.0, low=15, high=200, unit="mm", quantity="length", label="Length"
    )
    count: int = _count()
    price: float | None = _price()


@dataclass(frozen=True)
class RodStock:
    """Rods of a class and diameter."""

    rod: str = entry(
        "name", "ER308L", names=lambda: _named(catalogue.rods()), required=True, label="Rod"
    )
    diameter_mm: float = entry(
        "number",
        1.0,
        low=0.4,
        high=4.0,
        unit="mm",
        quantity="stock",
        required=True,
        label="Diameter",
    )
    length_mm: float = entry(
        "number",
        1000.0,
        usual=1000.0,
        low=100,
        high=2000,
        unit="mm",
        quantity="length",
        label="Length",
    )
    count: int = _count()
    price: float | None = _price()


@dataclass(frozen=True)
class Bar:
    """Backing or chill bars."""

    metal: str = entry(
        "name",
        "copper",
        names=one_of(("copper", "aluminium", "steel")),
        required=True,
        label="Metal",
    )
    length_mm: float = entry(
        "number",
        100.0,
        usual=100.0,
        low=20,
        high=2000,
        unit="mm",
        quantity="length",
        label="Length",
    )
    width_mm: float = entry(
        "number", 25.0, usual=25.0, low=3, high=300, unit="mm", quantity="length", label="Width"
    )
    thickness_mm: float = entry(
        "number", 6.0, usual=6.0, low=0.5, high=100, unit="mm", quantity="length", label="Thickness"
    )
    grooved: bool = entry("yes", False, usual=False, label="Grooved")
    count: int = _count()
    price: float | None = _price()


@dataclass(frozen=True)
class Cylinder:
    """A cylinder: its water volume L, its pressure now by the gauge bar, and what is in it."""

    gas: str = entry(
        "name",
        "argon",
        names=one_of(("argon", "argon-hydrogen", "argon-helium", "argon-nitrogen")),
        usual="argon",
        label="Gas",
    )
    water_l: float = entry(
        "number", 50.0, low=0.5, high=1000, unit="L", required=True, label="Water volume"
    )
    bar: float = entry(
        "number",
        200.0,
        low=0,
        high=350,
        unit="bar",
        quantity="pressure",
        required=True,
        label="Pressure now",
    )
    purity_pct: float = entry(
        "number", 99.996, usual=99.996, low=50, high=100, unit="%", label="Purity"
    )
    name: str = entry("text", "", usual="", high=LONGEST_NAME, label="Name")
    price: float | None = _price("a filling")


LISTS: Mapping[str, type] = {
    "machines": Machine,
    "torches": OwnTorch,
    "parts": Part,
    "tungstens": TungstenStock,
    "rods": RodStock,
    "bars": Bar,
    "cylinders": Cylinder,
}
LABELS = {
    "machines": "Machines",
    "torches": "Torches",
    "parts": "Parts of the torch",
    "tungstens": "Tungstens",
    "rods": "Rods",
    "bars": "Bars",
    "cylinders": "Cylinders",
}
NAMED = ("machines", "torches", "cylinders")


@dataclass(frozen=True, eq=False)
class Shop:
    """A shop's lists, which machine and torch are on the bench now, and what like joints took
    before.

    Compared by identity: it stands for the shelf and the record at one moment. own: what its runs
    tell of like joints, None where there is no book.
    """

    name: str = ""
    machines: tuple[Machine, ...] | None = None
    torches: tuple[OwnTorch, ...] | None = None
    parts: tuple[Part, ...] | None = None
    tungstens: tuple[TungstenStock, ...] | None = None
    rods: tuple[RodStock, ...] | None = None
    bars: tuple[Bar, ...] | None = None
    cylinders: tuple[Cylinder, ...] | None = None
    has: tuple[str, ...] | None = None
    bench_machine: str = ""
    bench_torch: str = ""
    own: OwnBook | None = None

    @property
    def entered(self) -> bool:
        """Whether anything of it was entered."""
        return self.has is not None or any(getattr(self, key) is not None for key in LISTS)

    @cached_property
    def shelf(self) -> frozenset[tuple[str, str, float | None, int | None, str | None]]:
        """The parts there are at least one of: kind, family, tungsten mm, cup, what the cup goes
        on.
        """
        return frozenset(_goes_by(p) for p in self.parts or () if p.count)

    @cached_property
    def caps(self) -> frozenset[tuple[str, str]]:
        """The back caps there are: family and length."""
        return frozenset(
            (p.family, p.length or "long")
            for p in self.parts or ()
            if p.count and p.kind == "back-cap"
        )

    @cached_property
    def tungsten_stock(self) -> Mapping[float, tuple[TungstenStock, ...]]:
        """The tungstens there are, by diameter mm."""
        found: dict[float, list[TungstenStock]] = {}
        for one in self.tungstens or ():
            if one.count:
                found.setdefault(one.diameter_mm, []).append(one)
        return {key: tuple(some) for key, some in found.items()}

    @cached_property
    def fullest_l(self) -> Mapping[str, float]:
        """What the fullest cylinder of each gas gives until no regulator holds its flow, L at 20 °C
        and 1 atm.
        """
        found: dict[str, float] = {}
        for one in self.cylinders or ():
            holds = contents_l(one.water_l, one.bar) - contents_l(one.water_l, LEAST_BAR)
            found[one.gas] = max(0.0, found.get(one.gas, 0.0), holds)
        return found

    @cached_property
    def rod_stock(self) -> Mapping[str, tuple[RodStock, ...]]:
        """The rods there are, by class."""
        found: dict[str, list[RodStock]] = {}
        for one in self.rods or ():
            if one.count:
                found.setdefault(one.rod, []).append(one)
        return {key: tuple(some) for key, some in found.items()}


ASSUMED = Shop()
"""Nothing entered: what the plan then counts on is the machine and torch assumed."""
