"""What a shop owns: every list of it as one table of its fields. A list that is None was not
entered; an empty one is none owned.
"""

from collections.abc import Iterable, Mapping
from functools import cached_property
from typing import Annotated, Any

from msgspec import Struct
from msgspec.structs import replace

from .. import catalogue
from ..catalogue import rows
from ..errors import InputError
from ..history.shop_history import HistoryLookup
from ..physics.gas import contents_l
from ..schema.entries import Entry, Option, list_options, read_entries

STARTS = {"hf": "high frequency", "lift": "lift", "scratch": "scratch"}
CONTROLS = {"pedal": "pedal", "slide": "torch slide"}
HAS = {"oxygen-meter": "oxygen meter", "flux": "flux paste", "foil": "foil"}
CAPS = {"long": "long", "short": "short", "button": "button"}
ROLES = {"welder": "welder", "lead": "lead", "viewer": "viewer"}
# rows of a list; a shelf of a thousand is a large shop's
MAX_ITEMS, MAX_COUNT = 2000, 100_000
MAX_NAME_LENGTH = 40
# tungstens and what holds them come in these, mm
TUNGSTEN_SIZES_MM = (0.5, 1.0, 1.6, 2.0, 2.4, 3.2, 4.0)
# below so much by the gauge no regulator holds its flow: estimate
MIN_CYLINDER_BAR = 4.0


def _list_row_names(rows_of: Mapping[str, rows.Row]) -> Mapping[str, Option]:
    return {key: Option(row.name, row.note) for key, row in rows_of.items()}


def _count() -> Entry:
    return Entry("count", low=0, high=MAX_COUNT, label="Quantity")


def _declare_price(of: str = "one") -> Entry:
    return Entry("number", low=0, high=100_000, label=f"Price per {of}")


def _check_named(name: str, what: str, where: str) -> None:
    if not name.strip():
        raise InputError(f"{where}.name", name, f"is missing. Enter a name for the {what}")


class PulseRange(Struct, frozen=True):
    """From how many to how many pulses a second a machine makes."""

    least_pps: Annotated[
        float, Entry("number", low=0.1, high=100, unit="/s", label="Minimum pulses per second")
    ] = 0.5
    most_pps: Annotated[
        float, Entry("number", low=0.1, high=20_000, unit="/s", label="Maximum pulses per second")
    ] = 250.0

    def check(self, where: str) -> None:
        """Refuse ends that cross. Raises InputError."""
        if self.least_pps > self.most_pps:
            rule = f"is above the maximum, {self.most_pps:g} per second"
            raise InputError(f"{where}.least_pps", self.least_pps, rule)


class Machine(Struct, frozen=True):
    """A power source: what it gives A, its pulse (None: it cannot), whether it slopes, how long its
    gas timers run s, how it starts an arc, which remotes it takes.
    """

    name: Annotated[str, Entry("text", required=True, high=MAX_NAME_LENGTH, label="Name")] = ""
    least_a: Annotated[
        float, Entry("number", low=0.5, high=100, unit="A", quantity="current", label="Minimum")
    ] = 5.0
    most_a: Annotated[
        float, Entry("number", low=5, high=1000, unit="A", quantity="current", label="Maximum")
    ] = 200.0
    pulse: Annotated[
        PulseRange | None, Entry("object", of=PulseRange, null=True, label="Pulse")
    ] = PulseRange()
    slopes: Annotated[bool, Entry("flag", label="Up-slope and down-slope")] = True
    preflow_most_s: Annotated[
        float, Entry("number", low=0, high=60, unit="s", label="Maximum pre-flow")
    ] = 10.0
    postflow_most_s: Annotated[
        float, Entry("number", low=0, high=120, unit="s", label="Maximum post-flow")
    ] = 30.0
    starts: Annotated[
        tuple[str, ...], Entry("names", names=list_options(STARTS), label="Arc start")
    ] = (
        "hf",
        "lift",
    )
    controls: Annotated[
        tuple[str, ...], Entry("names", names=list_options(CONTROLS), label="Current control")
    ] = (
        "pedal",
        "slide",
    )

    def check(self, where: str) -> None:
        """Refuse one without a name, or whose ends cross. Raises InputError."""
        if self.least_a > self.most_a:
            rule = f"is above the maximum, {self.most_a:g} A. Enter the lower value as the minimum"
            raise InputError(f"{where}.least_a", self.least_a, rule)
        _check_named(self.name, "machine", where)

    @property
    def pulses(self) -> bool:
        """Whether it pulses at all."""
        return self.pulse is not None


class OwnTorch(Struct, frozen=True):
    """A torch: its size, and the machine it goes with ("": any)."""

    name: Annotated[str, Entry("text", required=True, high=MAX_NAME_LENGTH, label="Name")] = ""
    size: Annotated[
        str,
        Entry(
            "name",
            names=lambda: {k: Option(f"no. {k}") for k in catalogue.load_torches()},
            label="Size",
        ),
    ] = "17"
    machine: Annotated[str, Entry("text", high=MAX_NAME_LENGTH, label="Used with")] = ""

    def check(self, where: str) -> None:
        """Refuse one without a name. Raises InputError."""
        _check_named(self.name, "torch", where)

    @property
    def row(self) -> rows.Torch:
        """Its family, rating and cooling."""
        return catalogue.load_torches()[self.size]


class Part(Struct, frozen=True):
    """A part of a torch's front end. tungsten_mm: of a collet, body or lens. cup, fits: a cup's
    number, and which front end it goes on. length: of a back cap.
    """

    kind: Annotated[
        str,
        Entry(
            "name",
            names=lambda: _list_row_names(catalogue.load_part_kinds()),
            required=True,
            label="Part",
        ),
    ] = "cup"
    family: Annotated[
        str,
        Entry(
            "name", names=list_options(("small", "large", "stubby")), required=True, label="Family"
        ),
    ] = "large"
    tungsten_mm: Annotated[
        float | None,
        Entry(
            "number",
            sizes=TUNGSTEN_SIZES_MM,
            low=0.5,
            high=6.4,
            unit="mm",
            quantity="stock",
            label="Tungsten size",
        ),
    ] = None
    cup: Annotated[int | None, Entry("count", low=3, high=24, label="Cup no.")] = None
    fits: Annotated[
        str | None,
        Entry(
            "name",
            names=list_options({"gas-lens": "gas lens", "plain": "collet body"}),
            label="Cup type",
        ),
    ] = None
    length: Annotated[
        str | None, Entry("name", names=list_options(CAPS), label="Back cap length")
    ] = None
    count: Annotated[int, _count()] = 1

    def check(self, where: str) -> None:
        """Refuse what its kind of part cannot be. Raises InputError."""
        kind = catalogue.load_part_kinds()[self.kind]
        if kind.has("for_tungsten") and self.tungsten_mm is None:
            rule = f"is missing. A {kind.name} fits one size of tungsten"
            raise InputError(f"{where}.tungsten_mm", None, rule)
        if kind.has("numbered") and self.cup is None:
            raise InputError(f"{where}.cup", None, "is missing. Enter the cup number")
        if self.family not in kind.sizes:
            rule = f"has no {kind.name}. Give one of " + ", ".join(kind.sizes)
            raise InputError(f"{where}.family", self.family, rule)


def _identify_part(part: Part) -> tuple[str, str, float | None, int | None, str | None]:
    """What a part is asked for by; a cup of which it is not told what it goes on is taken for a
    lens.
    """
    kind = catalogue.load_part_kinds()[part.kind]
    cup, fits = (part.cup, part.fits or "gas-lens") if kind.has("numbered") else (None, None)
    return part.kind, part.family, part.tungsten_mm if kind.has("for_tungsten") else None, cup, fits


class TungstenStock(Struct, frozen=True):
    """Tungstens of a type and diameter, as long as they lie there."""

    type: Annotated[
        str,
        Entry(
            "name",
            names=lambda: {
                k: Option(f"{r.name} ({r.colour})")
                for k, r in catalogue.load_tungsten_types().items()
            },
            required=True,
            label="Type",
        ),
    ] = "lanthanated-2"
    diameter_mm: Annotated[
        float,
        Entry(
            "number",
            sizes=TUNGSTEN_SIZES_MM,
            low=0.5,
            high=6.4,
            unit="mm",
            quantity="stock",
            required=True,
            label="Diameter",
        ),
    ] = 1.6
    length_mm: Annotated[
        float, Entry("number", low=15, high=200, unit="mm", quantity="length", label="Length")
    ] = 175.0
    count: Annotated[int, _count()] = 1
    price: Annotated[float | None, _declare_price()] = None


class RodStock(Struct, frozen=True):
    """Rods of a class and diameter."""

    rod: Annotated[
        str,
        Entry(
            "name", names=lambda: _list_row_names(catalogue.load_rods()), required=True, label="Rod"
        ),
    ] = "ER308L"
    diameter_mm: Annotated[
        float,
        Entry(
            "number",
            low=0.4,
            high=4.0,
            unit="mm",
            quantity="stock",
            required=True,
            label="Diameter",
        ),
    ] = 1.0
    length_mm: Annotated[
        float, Entry("number", low=100, high=2000, unit="mm", quantity="length", label="Length")
    ] = 1000.0
    count: Annotated[int, _count()] = 1
    price: Annotated[float | None, _declare_price()] = None


class Bar(Struct, frozen=True):
    """Backing or chill bars."""

    metal: Annotated[
        str,
        Entry(
            "name",
            names=list_options(("copper", "aluminium", "steel")),
            required=True,
            label="Metal",
        ),
    ] = "copper"
    length_mm: Annotated[
        float, Entry("number", low=20, high=2000, unit="mm", quantity="length", label="Length")
    ] = 100.0
    width_mm: Annotated[
        float, Entry("number", low=3, high=300, unit="mm", quantity="length", label="Width")
    ] = 25.0
    thickness_mm: Annotated[
        float, Entry("number", low=0.5, high=100, unit="mm", quantity="length", label="Thickness")
    ] = 6.0
    grooved: Annotated[bool, Entry("flag", label="Grooved")] = False
    count: Annotated[int, _count()] = 1
    price: Annotated[float | None, _declare_price()] = None


class Cylinder(Struct, frozen=True):
    """A cylinder: its water volume L, its pressure now by the gauge bar, and what is in it."""

    gas: Annotated[
        str,
        Entry(
            "name",
            names=list_options(("argon", "argon-hydrogen", "argon-helium", "argon-nitrogen")),
            label="Gas",
        ),
    ] = "argon"
    water_l: Annotated[
        float, Entry("number", low=0.5, high=1000, unit="L", required=True, label="Water volume")
    ] = 50.0
    bar: Annotated[
        float,
        Entry(
            "number",
            low=0,
            high=350,
            unit="bar",
            quantity="pressure",
            required=True,
            label="Present pressure",
        ),
    ] = 200.0
    purity_pct: Annotated[float, Entry("number", low=50, high=100, unit="%", label="Purity")] = (
        99.996
    )
    name: Annotated[str, Entry("text", high=MAX_NAME_LENGTH, label="Name")] = ""
    price: Annotated[float | None, _declare_price("fill")] = None


Item = Machine | OwnTorch | Part | TungstenStock | RodStock | Bar | Cylinder


def _list(of: type, label: str) -> Entry:
    return Entry("objects", of=of, most=MAX_ITEMS, null=True, label=label)


class Shop(Struct, frozen=True, eq=False, dict=True):
    """A shop's lists, which machine and torch are on the bench now, and what like joints took
    before.

    Compared by identity: it stands for the shelf and the record at one moment. own: what its runs
    tell of like joints, None where there is no book.
    """

    name: Annotated[str, Entry("text", high=MAX_NAME_LENGTH)] = ""
    machines: Annotated[tuple[Machine, ...] | None, _list(Machine, "Machines")] = None
    torches: Annotated[tuple[OwnTorch, ...] | None, _list(OwnTorch, "Torches")] = None
    parts: Annotated[tuple[Part, ...] | None, _list(Part, "Torch parts")] = None
    tungstens: Annotated[tuple[TungstenStock, ...] | None, _list(TungstenStock, "Tungstens")] = None
    rods: Annotated[tuple[RodStock, ...] | None, _list(RodStock, "Rods")] = None
    bars: Annotated[tuple[Bar, ...] | None, _list(Bar, "Bars")] = None
    cylinders: Annotated[tuple[Cylinder, ...] | None, _list(Cylinder, "Cylinders")] = None
    has: Annotated[tuple[str, ...] | None, Entry("names", names=list_options(HAS), null=True)] = (
        None
    )
    bench_machine: Annotated[str, Entry("text", high=MAX_NAME_LENGTH)] = ""
    bench_torch: Annotated[str, Entry("text", high=MAX_NAME_LENGTH)] = ""
    own: HistoryLookup | None = None

    def items(self, key: str) -> tuple[Item, ...] | None:
        """A list by its key, None where it was not entered."""
        found: tuple[Item, ...] | None = getattr(self, key)
        return found

    def check(self, where: str) -> None:
        """Refuse names that stand twice, and those that lead nowhere. Raises InputError."""
        for key in LISTS:
            names = [name for one in self.items(key) or () if (name := name_of(one))]
            twice = next((name for name in names if names.count(name) > 1), None)
            if twice is not None:
                raise InputError(
                    f"{key}.name", twice, "appears twice. Give each one a different name"
                )
        machines = {m.name for m in self.machines or ()}
        for i, torch in enumerate(self.torches or ()):
            if torch.machine and self.machines is not None and torch.machine not in machines:
                rule = "must be one of the machines. Leave it empty for any machine"
                raise InputError(f"torches[{i}].machine", torch.machine, rule)
        torches = {t.name for t in self.torches or ()}
        for key, name, names_of in (
            ("bench_machine", self.bench_machine, machines),
            ("bench_torch", self.bench_torch, torches),
        ):
            if name and name not in names_of:
                raise InputError(key, name, "must be one of the entries")

    @property
    def entered(self) -> bool:
        """Whether anything of it was entered."""
        return self.has is not None or any(getattr(self, key) is not None for key in LISTS)

    @cached_property
    def shelf(self) -> frozenset[tuple[str, str, float | None, int | None, str | None]]:
        """The parts there are at least one of: kind, family, tungsten mm, cup, what the cup goes
        on.
        """
        return frozenset(_identify_part(p) for p in self.parts or () if p.count)

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
            holds = contents_l(one.water_l, one.bar) - contents_l(one.water_l, MIN_CYLINDER_BAR)
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
"Nothing added. The plan then uses the assumed machine and torch."
LISTS: Mapping[str, type[Item]] = {
    key: declared.of
    for key, declared in read_entries(Shop).items()
    if declared.kind == "objects" and declared.of
}
LABELS: Mapping[str, str] = {key: read_entries(Shop)[key].label for key in LISTS}


def build_shop(lists: Mapping[str, Iterable[Item]]) -> Shop:
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
