"""The catalogue: tables of the trade as TOML, a value with its source and mark to every row.

Each loader returns frozen rows keyed by name and reads its file once.
"""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

from ..errors import BadCatalogue

MARKS = ("published", "common-practice", "estimate", "own-record")


@dataclass(frozen=True)
class Metal:
    """A base metal: typical analysis in wt%, group for the rules, thermal row for the heat."""

    key: str
    name: str
    kind: str
    group: str
    thermal: str
    analysis: dict[str, float]
    note: str
    source: str
    mark: str
    thermal_note: str | None = None

    @property
    def stainless(self) -> bool:
        return self.kind == "stainless"

    @property
    def austenitic(self) -> bool:
        return self.group in ("austenitic", "fully-austenitic", "free-machining")


@dataclass(frozen=True)
class Rod:
    """A filler rod class: typical analysis in wt% and its price against ER308L (estimate)."""

    key: str
    kind: str
    group: str
    analysis: dict[str, float]
    relative_cost: float
    note: str
    source: str
    mark: str


@dataclass(frozen=True)
class RodSizes:
    """Diameters on the shelf, diameters cut from a spool, and the length of a rod, all mm."""

    stocked_mm: tuple[float, ...]
    spool_mm: tuple[float, ...]
    rod_length_mm: float


@dataclass(frozen=True)
class Thermal:
    """Effective heat properties: k W/m·K, rho kg/m³, c and c_part J/kg·K, growth 1/K, °C."""

    key: str
    k: float
    rho: float
    c: float
    liquidus_c: float
    growth: float
    c_part: float
    interpass_c: float


@dataclass(frozen=True)
class GaugeScale:
    """One gauge scale: {gauge number: inches}."""

    key: str
    label: str
    inches: dict[str, float]
    source: str
    mark: str


@dataclass(frozen=True)
class JointKind:
    """A kind of joint: how it takes current, dilution and travel, and what forms it joins."""

    key: str
    name: str
    phrase: str
    note: str
    current_factor: float
    dilution: float
    speed_factor: float
    forms: str
    reach: str
    reach_mm: float
    deposit: str
    through_arms: int
    bare_fit: bool


@dataclass(frozen=True)
class Position:
    """A welding position: factors on current and travel, and whether the pool is kept small."""

    key: str
    name: str
    current_factor: float
    speed_factor: float
    small_pool: bool
    mark: str
    note: str


@dataclass(frozen=True)
class PulseSchool:
    """A school of pulsing: rate 1/s, on and background %, and how the peak follows the steady current."""

    key: str
    name: str
    peak_rule: str
    use: str
    cost: str
    rate_pps: float | None = None
    on_pct: float | None = None
    background_pct: float | None = None
    peak_factor: float | None = None


@dataclass(frozen=True)
class Tip:
    """A tungsten tip: size, grind, and the currents it carries (A)."""

    diameter_mm: float
    included_angle_deg: float
    tip_flat_mm: float
    steady_a: tuple[float, float]
    pulsed_a: tuple[float, float]


@dataclass(frozen=True)
class TungstenType:
    """A type of tungsten and its colour code."""

    key: str
    name: str
    colour: str
    source: str
    note: str


@dataclass(frozen=True)
class Torch:
    """A torch size: family of front-end parts, rating in A, water-cooled or not."""

    key: str
    family: str
    rating_a: float
    water: bool


@dataclass(frozen=True)
class FillerPair:
    """A row of the filler chart: metals of each side, first choice, what else is sound."""

    a: tuple[str, ...]
    b: tuple[str, ...]
    first: str
    sound: tuple[str, ...]
    why: str
    source: str
    mark: str


@dataclass(frozen=True)
class Work:
    """A published work the product cites."""

    key: str
    title: str
    kind: str
    used_for: str
    checked: bool


@dataclass(frozen=True)
class Estimate:
    """An estimate in use, and the reasoning behind it."""

    key: str
    title: str
    reasoning: str


@cache
def _table(name: str) -> dict[str, Any]:
    text = files(__name__).joinpath(f"{name}.toml").read_text(encoding="utf-8")
    return tomllib.loads(text)


def _rows(table: dict[str, Any], section: str) -> dict[str, dict[str, Any]]:
    shared: dict[str, Any] = {key: table[key] for key in ("source", "mark") if key in table}
    rows: dict[str, dict[str, Any]] = table[section]
    return {key: shared | row for key, row in rows.items()}


def _build(cls: type[Any], section: str, rows: dict[str, dict[str, Any]], drop: tuple[str, ...] = ()) -> dict[str, Any]:
    try:
        return {
            key: cls(key=key, **{k: _frozen(v) for k, v in row.items() if k not in drop}) for key, row in rows.items()
        }
    except TypeError as error:
        raise BadCatalogue(f"{section}: {error}") from error


def _frozen(value: Any) -> Any:
    return tuple(value) if isinstance(value, list) else value


@cache
def metals() -> dict[str, Metal]:
    """Base metals by name."""
    return _build(Metal, "metals", _rows(_table("metals"), "metals"))


@cache
def rods() -> dict[str, Rod]:
    """Filler rods by class."""
    return _build(Rod, "rods", _rows(_table("rods"), "rods"))


@cache
def rod_sizes() -> RodSizes:
    """Rod diameters and length."""
    row = _table("rods")["sizes"]
    return RodSizes(tuple(row["stocked_mm"]), tuple(row["spool_mm"]), row["rod_length_mm"])


@cache
def thermals() -> dict[str, Thermal]:
    """Effective heat properties by group."""
    return _build(Thermal, "thermal", _rows(_table("thermal"), "groups"), drop=("source", "mark"))


@cache
def gauge_scales() -> dict[str, GaugeScale]:
    """Gauge scales by key: stainless, carbon, tube, galvanised."""
    return _build(GaugeScale, "gauges", _rows(_table("gauges"), "scales"))


@cache
def joint_kinds() -> dict[str, JointKind]:
    """Kinds of joint by key."""
    return _build(JointKind, "joints", _rows(_table("joints"), "joints"))


@cache
def positions() -> dict[str, Position]:
    """Welding positions by key."""
    return _build(Position, "positions", _rows(_table("positions"), "positions"))


@cache
def pulse_schools() -> dict[str, PulseSchool]:
    """Schools of pulsing by key."""
    return _build(PulseSchool, "pulses", _rows(_table("pulses"), "schools"), drop=("source", "mark"))


@cache
def tips() -> tuple[Tip, ...]:
    """Tungsten tips, smallest first."""
    return tuple(Tip(**{k: _frozen(v) for k, v in row.items()}) for row in _table("tungstens")["tips"])


@cache
def rod_capacity_a() -> dict[float, tuple[float, float]]:
    """What a tungsten of a diameter (mm) carries, electrode negative, A."""
    return {float(k): (v[0], v[1]) for k, v in _table("tungstens")["rod_a"].items()}


@cache
def tungsten_types() -> dict[str, TungstenType]:
    """Types of tungsten by key."""
    return _build(TungstenType, "tungstens", _rows(_table("tungstens"), "types"), drop=("mark",))


@cache
def cups() -> dict[int, str]:
    """Cup numbers and what each is for."""
    return {int(key): text for key, text in _table("cups")["cups"].items()}


@cache
def torches() -> dict[str, Torch]:
    """Torch sizes by number."""
    return _build(Torch, "cups", _rows(_table("cups"), "torches"), drop=("source", "mark"))


@cache
def filler_pairs() -> tuple[FillerPair, ...]:
    """Rows of the filler chart."""
    table = _table("fillers")
    return tuple(
        FillerPair(**{"mark": table["mark"], **{k: _frozen(v) for k, v in row.items()}}) for row in table["pairs"]
    )


@cache
def works() -> dict[str, Work]:
    """Cited works by key."""
    return _build(Work, "sources", _rows(_table("sources"), "works"))


@cache
def estimates() -> dict[str, Estimate]:
    """Estimates in use by key."""
    return _build(Estimate, "sources", _rows(_table("sources"), "estimates"))
