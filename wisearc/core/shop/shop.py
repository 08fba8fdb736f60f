"""What a shop owns: every list of it as one table of its fields. A list that is None was not
entered; an empty one is none owned.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

from .. import catalogue
from ..catalogue import rows
from ..errors import BadInput
from ..history.shop_history import OwnBook
from ..physics.gas import contents_l
from ..schema.entries import Option, entries, entry, one_of

STARTS = {"hf": "high frequency", "lift": "lift", "scratch": "scratch"}
CONTROLS = {"pedal": "pedal", "slide": "torch slide"}
HAS = {"oxygen-meter": "oxygen meter", "flux": "flux paste", "foil": "foil"}
CAPS = {"long": "long", "short": "short", "button": "button"}
ROLES = {"welder": "welder", "lead": "lead", "viewer": "viewer"}
# rows of a list; a shelf of a thousand is a large shop's
MOST_ITEMS, MOST_COUNT = 2000, 100_000
LONGEST_NAME = 40
# tungstens and what holds them come in these, mm
TUNGSTEN_SIZES_MM = (0.5, 1.0, 1.6, 2.0, 2.4, 3.2, 4.0)
# below so much by the gauge no regulator holds its flow: estimate
LEAST_BAR = 4.0


def _named(rows_of: Mapping[str, rows.Row]) -> Mapping[str, Option]:
    return {key: Option(row.name, row.note) for key, row in rows_of.items()}


def _count(usual: int = 1) -> int:
    found: int = entry("count", usual, low=0, high=MOST_COUNT, label="How many")
    return found


def _price(of: str = "one") -> float | None:
    found: float | None = entry("number", None, low=0, high=100_000, label=f"Price of {of}")
    return found


def _check_named(name: str, what: str, where: str) -> None:
    if not name.strip():
        raise BadInput(f"{where}.name", name, f"is missing; give the {what} a name")


@dataclass(frozen=True)
class PulseRange:
    """From how many to how many pulses a second a machine makes."""

    least_pps: float = entry("number", 0.5, low=0.1, high=100, unit="/s", label="Pulses from")
    most_pps: float = entry("number", 250.0, low=0.1, high=20_000, unit="/s", label="Pulses to")

    def check(self, where: str) -> None:
        """Refuse ends that cross. Raises BadInput."""
        if self.least_pps > self.most_pps:
            rule = f"is over the most, {self.most_pps:g} a second"
            raise BadInput(f"{where}.least_pps", self.least_pps, rule)


@dataclass(frozen=True)
class Machine:
    """A power source: what it gives A, its pulse (None: it cannot), whether it slopes, how long its
    gas timers run s, how it starts an arc, which remotes it takes.
    """

    name: str = entry("text", "", required=True, high=LONGEST_NAME, label="Name")
    least_a: float = entry(
        "number", 5.0, low=0.5, high=100, unit="A", quantity="current", label="Least"
    )
    most_a: float = entry(
        "number", 200.0, low=5, high=1000, unit="A", quantity="current", label="Most"
    )
    pulse: PulseRange | None = entry(
        "object", PulseRange(), of=PulseRange, null=True, label="Pulse"
    )
    slopes: bool = entry("flag", True, label="Slopes up and down")
    preflow_most_s: float = entry("number", 10.0, low=0, high=60, unit="s", label="Pre-flow to")
    postflow_most_s: float = entry("number", 30.0, low=0, high=120, unit="s", label="Post-flow to")
    starts: tuple[str, ...] = entry(
        "names", ("hf", "lift"), names=one_of(STARTS), label="Starts by"
    )
    controls: tuple[str, ...] = entry(
        "names", ("pedal", "slide"), names=one_of(CONTROLS), label="Takes"
    )

    def check(self, where: str) -> None:
        """Refuse one without a name, or whose ends cross. Raises BadInput."""
        if self.least_a > self.most_a:
            rule = f"is over the most, {self.most_a:g} A; give the lower of the two as least"
            raise BadInput(f"{where}.least_a", self.least_a, rule)
        _check_named(self.name, "machine", where)

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
        label="Size",
    )
    machine: str = entry("text", "", high=LONGEST_NAME, label="Goes with")

    def check(self, where: str) -> None:
        """Refuse one without a name. Raises BadInput."""
        _check_named(self.name, "torch", where)

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
        "number",
        None,
        sizes=TUNGSTEN_SIZES_MM,
        low=0.5,
        high=6.4,
        unit="mm",
        quantity="stock",
        label="For tungsten",
    )
    cup: int | None = entry("count", None, low=3, high=24, label="Cup no.")
    fits: str | None = entry(
        "name", None, names=one_of({"gas-lens": "gas lens", "plain": "plain body"}), label="Cup for"
    )
    length: str | None = entry("name", None, names=one_of(CAPS), label="Length of cap")
    count: int = _count()

    def check(self, where: str) -> None:
        """Refuse what its kind of part cannot be. Raises BadInput."""
        kind = catalogue.part_kinds()[self.kind]
        if kind.has("for_tungsten") and self.tungsten_mm is None:
            rule = f"is missing: a {kind.name} is for one size of tungsten"
            raise BadInput(f"{where}.tungsten_mm", None, rule)
        if kind.has("numbered") and self.cup is None:
            raise BadInput(f"{where}.cup", None, "is missing: give the cup's number")
        if self.family not in kind.sizes:
            rule = f"has no {kind.name}; give one of " + ", ".join(kind.sizes)
            raise BadInput(f"{where}.family", self.family, rule)


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
        sizes=TUNGSTEN_SIZES_MM,
        low=0.5,
        high=6.4,
        unit="mm",
        quantity="stock",
        required=True,
        label="Diameter",
    )
    length_mm: float = entry(
        "number", 175.0, low=15, high=200, unit="mm", quantity="length", label="Length"
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
        low=20,
        high=2000,
        unit="mm",
        quantity="length",
        label="Length",
    )
    width_mm: float = entry(
        "number", 25.0, low=3, high=300, unit="mm", quantity="length", label="Width"
    )
    thickness_mm: float = entry(
        "number", 6.0, low=0.5, high=100, unit="mm", quantity="length", label="Thickness"
    )
    grooved: bool = entry("flag", False, label="Grooved")
    count: int = _count()
    price: float | None = _price()


@dataclass(frozen=True)
class Cylinder:
    """A cylinder: its water volume L, its pressure now by the gauge bar, and what is in it."""

    gas: str = entry(
        "name",
        "argon",
        names=one_of(("argon", "argon-hydrogen", "argon-helium", "argon-nitrogen")),
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
    purity_pct: float = entry("number", 99.996, low=50, high=100, unit="%", label="Purity")
    name: str = entry("text", "", high=LONGEST_NAME, label="Name")
    price: float | None = _price("a filling")


Item = Machine | OwnTorch | Part | TungstenStock | RodStock | Bar | Cylinder


def _list(of: type, label: str) -> Any:
    return entry("objects", None, of=of, most=MOST_ITEMS, null=True, label=label)


@dataclass(frozen=True, eq=False)
class Shop:
    """A shop's lists, which machine and torch are on the bench now, and what like joints took
    before.

    Compared by identity: it stands for the shelf and the record at one moment. own: what its runs
    tell of like joints, None where there is no book.
    """

    name: str = entry("text", "", high=LONGEST_NAME)
    machines: tuple[Machine, ...] | None = _list(Machine, "Machines")
    torches: tuple[OwnTorch, ...] | None = _list(OwnTorch, "Torches")
    parts: tuple[Part, ...] | None = _list(Part, "Parts of the torch")
    tungstens: tuple[TungstenStock, ...] | None = _list(TungstenStock, "Tungstens")
    rods: tuple[RodStock, ...] | None = _list(RodStock, "Rods")
    bars: tuple[Bar, ...] | None = _list(Bar, "Bars")
    cylinders: tuple[Cylinder, ...] | None = _list(Cylinder, "Cylinders")
    has: tuple[str, ...] | None = entry("names", None, names=one_of(HAS), null=True)
    bench_machine: str = entry("text", "", high=LONGEST_NAME)
    bench_torch: str = entry("text", "", high=LONGEST_NAME)
    own: OwnBook | None = None

    def items(self, key: str) -> tuple[Item, ...] | None:
        """A list by its key, None where it was not entered."""
        found: tuple[Item, ...] | None = getattr(self, key)
        return found

    def check(self, where: str) -> None:
        """Refuse names that stand twice, and those that lead nowhere. Raises BadInput."""
        for key in LISTS:
            names = [name for one in self.items(key) or () if (name := name_of(one))]
            twice = next((name for name in names if names.count(name) > 1), None)
            if twice is not None:
                raise BadInput(f"{key}.name", twice, "stands twice; give each its own")
        machines = {m.name for m in self.machines or ()}
        for i, torch in enumerate(self.torches or ()):
            if torch.machine and self.machines is not None and torch.machine not in machines:
                rule = "must be one of the machines, or be left empty for any"
                raise BadInput(f"torches[{i}].machine", torch.machine, rule)
        torches = {t.name for t in self.torches or ()}
        for key, name, names_of in (
            ("bench_machine", self.bench_machine, machines),
            ("bench_torch", self.bench_torch, torches),
        ):
            if name and name not in names_of:
                raise BadInput(key, name, "must be one that is entered")

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
LISTS: Mapping[str, type[Item]] = {
    key: declared.of
    for key, declared in entries(Shop).items()
    if declared.kind == "objects" and declared.of
}
LABELS: Mapping[str, str] = {key: entries(Shop)[key].label for key in LISTS}


def of_lists(lists: Mapping[str, Iterable[Item]]) -> Shop:
    """A shop of lists, by their keys; the others were not entered."""
    made: dict[str, Any] = {key: tuple(items) for key, items in lists.items()}
    return Shop(**made)


def list_of(item: Item) -> str:
    """The key of the list that an item is of."""
    return next(key for key, of in LISTS.items() if isinstance(item, of))


def name_of(item: Item) -> str:
    """What an item is named, "" where its like have no names."""
    return item.name if isinstance(item, Machine | OwnTorch | Cylinder) else ""


def count_of(item: Item) -> int | None:
    """How many of an item there are, None for what is not counted."""
    return None if isinstance(item, Machine | OwnTorch | Cylinder) else item.count


def with_count(item: Item, count: int) -> Item:
    """An item with how many there are of it; what is not counted stays as it is."""
    return item if isinstance(item, Machine | OwnTorch | Cylinder) else replace(item, count=count)
