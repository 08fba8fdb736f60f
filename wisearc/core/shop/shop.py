"""The equipment of a shop: every list as one table of its fields.

None is an unknown list, and an empty list means none owned.
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
# Maximum rows of a list. A thousand items is a large shop.
MAX_ITEMS, MAX_COUNT = 2000, 100_000
MAX_NAME_LENGTH = 40
# Diameters of tungstens and their holders, mm.
TUNGSTEN_SIZES_MM = (0.5, 1.0, 1.6, 2.0, 2.4, 3.2, 4.0)
# Below this gauge pressure no regulator maintains its flow: estimate.
MIN_CYLINDER_BAR = 4.0


def _list_row_names(catalogue_rows: Mapping[str, rows.Row]) -> Mapping[str, Option]:
    return {key: Option(row.name, row.note) for key, row in catalogue_rows.items()}


def _count() -> Entry:
    return Entry("count", low=0, high=MAX_COUNT, label="Quantity")


def _declare_price(of: str = "one") -> Entry:
    return Entry("number", low=0, high=100_000, label=f"Price per {of}")


def _check_named(name: str, label: str, where: str) -> None:
    if not name.strip():
        raise InputError(f"{where}.name", name, f"is missing. Enter a name for the {label}")


class PulseRange(Struct, frozen=True):
    """The pulse frequency range of a machine, 1/s."""

    least_pps: Annotated[
        float, Entry("number", low=0.1, high=100, unit="/s", label="Minimum pulses per second")
    ] = 0.5
    most_pps: Annotated[
        float, Entry("number", low=0.1, high=20_000, unit="/s", label="Maximum pulses per second")
    ] = 250.0

    def check(self, where: str) -> None:
        """Check the order of the limits.

        Raises:
            InputError: The minimum exceeds the maximum.
        """
        if self.least_pps > self.most_pps:
            rule = f"is above the maximum, {self.most_pps:g} per second"
            raise InputError(f"{where}.least_pps", self.least_pps, rule)


class Machine(Struct, frozen=True):
    """A power source.

    Current range A, pulse (None: no pulse), slopes, gas timers s, arc starts, remotes.
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
        """Check the name and the order of the limits.

        Raises:
            InputError: The name is missing or a minimum exceeds its maximum.
        """
        if self.least_a > self.most_a:
            rule = f"is above the maximum, {self.most_a:g} A. Enter the lower value as the minimum"
            raise InputError(f"{where}.least_a", self.least_a, rule)
        _check_named(self.name, "machine", where)

    @property
    def pulses(self) -> bool:
        """Return whether the machine can pulse."""
        return self.pulse is not None


class OwnTorch(Struct, frozen=True):
    """A torch: its size, and its machine ("": any)."""

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
        """Check the name.

        Raises:
            InputError: The name is missing.
        """
        _check_named(self.name, "torch", where)

    @property
    def row(self) -> rows.Torch:
        """Return its family, rating and cooling."""
        return catalogue.load_torches()[self.size]


class Part(Struct, frozen=True):
    """A front-end part.

    `tungsten_mm` belongs to a collet, body or lens. `cup` and `fits` are the number of a cup and
    its front end. `length` belongs to a back cap.
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
        """Check the fields for the kind of part.

        Raises:
            InputError: A field does not belong to the kind.
        """
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
    """Return the identity of a part.

    A cup without a front end counts as one for a gas lens.
    """
    kind = catalogue.load_part_kinds()[part.kind]
    cup, fits = (part.cup, part.fits or "gas-lens") if kind.has("numbered") else (None, None)
    return part.kind, part.family, part.tungsten_mm if kind.has("for_tungsten") else None, cup, fits


class TungstenStock(Struct, frozen=True):
    """Tungstens of a type and diameter, with their length."""

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
    """A cylinder: water volume L, present gauge pressure bar, and gas."""

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
    """The lists of a shop, the machine and torch in use, and the shop history.

    Compared by identity, because it is the stock and the history at one moment. `own` has the runs
    of similar joints, None without a library.
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
        """Return a list by its key, or None if unknown."""
        entered: tuple[Item, ...] | None = getattr(self, key)
        return entered

    def check(self, where: str) -> None:
        """Check names.

        Raises:
            InputError: A name is repeated or unknown.
        """
        for key in LISTS:
            names = [name for item in self.items(key) or () if (name := get_name(item))]
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
        for key, name, name_key in (
            ("bench_machine", self.bench_machine, machines),
            ("bench_torch", self.bench_torch, torches),
        ):
            if name and name not in name_key:
                raise InputError(key, name, "must be one of the entries")

    @property
    def entered(self) -> bool:
        """Return whether any list is known."""
        return self.has is not None or any(getattr(self, key) is not None for key in LISTS)

    @cached_property
    def shelf(self) -> frozenset[tuple[str, str, float | None, int | None, str | None]]:
        """Return the parts in stock: kind, family, tungsten mm, cup, front end of the cup."""
        return frozenset(_identify_part(p) for p in self.parts or () if p.count)

    @cached_property
    def caps(self) -> frozenset[tuple[str, str]]:
        """Return the back caps in stock: family and length."""
        return frozenset(
            (p.family, p.length or "long")
            for p in self.parts or ()
            if p.count and p.kind == "back-cap"
        )

    @cached_property
    def tungsten_stock(self) -> Mapping[float, tuple[TungstenStock, ...]]:
        """Return the tungstens in stock by diameter, mm."""
        stock: dict[float, list[TungstenStock]] = {}
        for tungsten in self.tungstens or ():
            if tungsten.count:
                stock.setdefault(tungsten.diameter_mm, []).append(tungsten)
        return {key: tuple(some) for key, some in stock.items()}

    @cached_property
    def max_cylinder_l(self) -> Mapping[str, float]:
        """Return the usable contents of the fullest cylinder of each gas, L at 20 °C and 1 atm."""
        volumes_l: dict[str, float] = {}
        for cylinder in self.cylinders or ():
            holds = contents_l(cylinder.water_l, cylinder.bar) - contents_l(
                cylinder.water_l, MIN_CYLINDER_BAR
            )
            volumes_l[cylinder.gas] = max(0.0, volumes_l.get(cylinder.gas, 0.0), holds)
        return volumes_l

    @cached_property
    def rod_stock(self) -> Mapping[str, tuple[RodStock, ...]]:
        """Return the rods in stock by class."""
        stock: dict[str, list[RodStock]] = {}
        for rod_stock in self.rods or ():
            if rod_stock.count:
                stock.setdefault(rod_stock.rod, []).append(rod_stock)
        return {key: tuple(some) for key, some in stock.items()}


ASSUMED = Shop()
# The empty shop. A plan then uses the assumed machine and torch.
LISTS: Mapping[str, type[Item]] = {
    key: declared.of
    for key, declared in read_entries(Shop).items()
    if declared.kind == "objects" and declared.of
}
LABELS: Mapping[str, str] = {key: read_entries(Shop)[key].label for key in LISTS}


def build_shop(lists: Mapping[str, Iterable[Item]]) -> Shop:
    """Build a shop of lists by key.

    The other lists are unknown.
    """
    fields: dict[str, Any] = {key: tuple(items) for key, items in lists.items()}
    return Shop(**fields)


def get_list_key(item: Item) -> str:
    """Return the key of the list of an item."""
    return next(key for key, of in LISTS.items() if isinstance(item, of))


def get_name(item: Item) -> str:
    """Return the name of an item, or "" for a list without names."""
    return item.name if isinstance(item, Machine | OwnTorch | Cylinder) else ""


def get_count(item: Item) -> int | None:
    """Return the count of an item, or None for a list without counts."""
    return None if isinstance(item, Machine | OwnTorch | Cylinder) else item.count


def with_count(item: Item, count: int) -> Item:
    """Return an item with a count.

    An item without a count is unchanged.

    Args:
        item: The item.
        count: The count.
    """
    return item if isinstance(item, Machine | OwnTorch | Cylinder) else replace(item, count=count)
