"""The catalogue: tables of the trade as TOML, a value with its source and mark to every row.

Each loader returns frozen rows keyed by name and reads its file once. What a rule asks of a row is
one of the row's traits; a trait that the table does not know is refused by name.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import cache
from pathlib import Path
from typing import Any

import tomli

from ..errors import CatalogueError
from ..schema.json_types import Data
from . import rows

MARKS = ("published", "common-practice", "estimate", "own-record")
# what each table's rows may be asked for; the words for them stand at the top of its file
TRAITS: dict[str, tuple[str, ...]] = {
    "metals": (
        "austenitic",
        "fully_austenitic",
        "duplex",
        "no_chill",
        "needs_rod",
        "not_bare",
        "crack_prone",
        "sulphur",
        "heat_resisting",
        "stabilised",
        "manganese_fume",
        "ferritic",
        "sensitises",
        "long_heat",
        "brittle_hot",
        "hardens",
        "martensitic",
        "tints_tabled",
    ),
    "rods": (
        "braze",
        "brittle_hot",
        "nickel",
        "duplex",
        "martensitic",
        "fully_austenitic",
        "by_design",
    ),
    "joints": (
        "in_line",
        "along_edge",
        "splits_gas",
        "closed_back",
        "cope",
        "flanged",
        "bars_both_faces",
        "under_root",
        "inner",
        "back_apart",
        "crevice",
        "flat_bars",
        "taper",
    ),
    "positions": ("level", "down", "overhead", "fixed_tube"),
    "pulses": ("steady", "by_foot", "rippled", "chills"),
    "backs": ("bar", "gas", "paste", "bare", "smears", "melts"),
    "parts": ("for_tungsten", "plain", "lens", "numbered", "caps"),
}


@cache
def _read_table(name: str) -> Data:
    text = Path(__file__).with_name(f"{name}.toml").read_text(encoding="utf-8")
    return tomli.loads(text)


def _read_rows(name: str, section: str) -> dict[str, Data]:
    table = _read_table(name)
    shared: Data = {key: table[key] for key in ("source", "mark") if key in table}
    found: dict[str, Data] = table[section]
    return {key: shared | row for key, row in found.items()}


def _convert_lists_to_tuples(row: Data) -> Data:
    """A row with its lists as tuples."""
    return {k: tuple(v) if isinstance(v, list) else v for k, v in row.items()}


def _build(
    cls: type[Any],
    name: str,
    section: str,
    drop: tuple[str, ...] = (),
    more: Callable[[str, Data], Data] | None = None,
) -> Data:
    """Rows of a table's section. `more` gives a row what follows from its key and the rest of
    it.
    """
    made = {}
    for key, row in _read_rows(name, section).items():
        values = {k: v for k, v in _convert_lists_to_tuples(row).items() if k not in drop}
        if more:
            values |= more(key, values)
        if issubclass(cls, rows.Row):
            values["traits"] = _check_traits(name, key, values.get("traits", ()))
        try:
            made[key] = cls(key=key, **values)
        except TypeError as error:
            raise CatalogueError(f"{name}.toml, {key}: {error}") from error
    return made


def _check_traits(table: str, key: str, traits: tuple[str, ...]) -> frozenset[str]:
    for trait in traits:
        if trait not in TRAITS[table]:
            raise CatalogueError(
                f"{table}.toml, {key}: “{trait}” is not a trait. Use one of "
                f"{', '.join(TRAITS[table])}, or remove it"
            )
    return frozenset(traits)


@cache
def load_metals() -> dict[str, rows.Metal]:
    """Base metals by name, each with the traits and the rod of its group."""
    groups = _read_rows("groups", "groups")

    def of_group(key: str, row: Data) -> Data:
        group = groups.get(row.get("group", ""))
        if group is None:
            raise CatalogueError(
                f"metals.toml, {key}: “{row.get('group')}” is not a group. Use one of "
                f"{', '.join(groups)}"
            )
        traits = (
            *_check_traits("metals", f"group {row['group']}", group["traits"]),
            *row.get("traits", ()),
        )
        return {"traits": traits, "own_rod": group["rod"], "family": row.get("family", key)}

    return _build(rows.Metal, "metals", "metals", more=of_group)


@cache
def load_rods() -> dict[str, rows.Rod]:
    """Filler rods by class."""
    return _build(rows.Rod, "rods", "rods", more=lambda key, _row: {"name": key})


@cache
def load_rod_sizes() -> rows.RodSizes:
    """Rod diameters and length."""
    row = _read_table("rods")["sizes"]
    return rows.RodSizes(tuple(row["stocked_mm"]), tuple(row["spool_mm"]), row["rod_length_mm"])


@cache
def load_thermals() -> dict[str, rows.Thermal]:
    """Effective heat properties by group."""
    return _build(rows.Thermal, "thermal", "groups", drop=("source", "mark"))


@cache
def load_gauge_scales() -> dict[str, rows.GaugeScale]:
    """Gauge scales by key: stainless, carbon, tube, galvanised."""
    return _build(rows.GaugeScale, "gauges", "scales")


@cache
def load_joint_kinds() -> dict[str, rows.JointKind]:
    """Kinds of joint by key."""
    return _build(rows.JointKind, "joints", "joints")


@cache
def load_positions() -> dict[str, rows.Position]:
    """Welding positions by key."""
    return _build(rows.Position, "positions", "positions")


@cache
def load_pulse_patterns() -> dict[str, rows.PulsePattern]:
    """Patterns of the pulse by key."""
    return _build(rows.PulsePattern, "pulses", "patterns", drop=("source", "mark"))


@cache
def back_covers() -> dict[str, rows.BackCover]:
    """What covers the back, by key."""
    return _build(rows.BackCover, "backs", "backs", drop=("source", "mark"))


@cache
def load_tips() -> tuple[rows.Tip, ...]:
    """Tungsten tips, smallest first."""
    return tuple(
        rows.Tip(**_convert_lists_to_tuples(row)) for row in _read_table("tungstens")["tips"]
    )


@cache
def rod_capacity_a() -> dict[float, tuple[float, float]]:
    """What a tungsten of a diameter (mm) carries, electrode negative, A."""
    return {float(k): (v[0], v[1]) for k, v in _read_table("tungstens")["rod_a"].items()}


@cache
def load_tungsten_types() -> dict[str, rows.TungstenType]:
    """Types of tungsten by key."""
    return _build(rows.TungstenType, "tungstens", "types", drop=("mark",))


@cache
def load_cups() -> dict[int, str]:
    """Cup numbers and what each is for."""
    return {int(key): text for key, text in _read_table("cups")["cups"].items()}


@cache
def load_torches() -> dict[str, rows.Torch]:
    """Torch sizes by number."""
    return _build(rows.Torch, "cups", "torches", drop=("source", "mark"))


@cache
def load_part_kinds() -> dict[str, rows.PartKind]:
    """Kinds of part of a front end, in the order in which they go together."""
    return _build(rows.PartKind, "parts", "kinds")


@cache
def cap_room_mm() -> dict[str, float]:
    """How long a tungsten a back cap takes, mm, by its length."""
    return {key: float(value) for key, value in _read_table("parts")["cap_room_mm"].items()}


@cache
def set_up_lines() -> dict[str, rows.SetUpLine]:
    """The lines of the list that is ticked before the arc, in the order of the bench."""
    return _build(rows.SetUpLine, "set_up", "lines", drop=("source", "mark"))


@cache
def fit_up_lines() -> dict[str, rows.FitUpLine]:
    """What is done before the first tack, in its order."""
    return _build(rows.FitUpLine, "fit_up", "lines", drop=("source", "mark"))


@cache
def load_kits() -> tuple[rows.Kit, ...]:
    """Which parts and cups go on a torch of a family."""
    return tuple(rows.Kit(**row) for row in _read_table("parts")["kits"])


@cache
def load_filler_pairs() -> tuple[rows.FillerPair, ...]:
    """Rows of the filler chart."""
    table = _read_table("fillers")
    return tuple(
        rows.FillerPair(**{"mark": table["mark"], **_convert_lists_to_tuples(row)})
        for row in table["pairs"]
    )


@cache
def load_filler_rules() -> tuple[rows.FillerRule, ...]:
    """The rules for pairs the chart does not list, in order."""
    rules = [
        rows.FillerRule(**_convert_lists_to_tuples(row)) for row in _read_table("fillers")["rules"]
    ]
    for rule in rules:
        _check_traits(
            "metals",
            f"rule for {rule.first} in fillers.toml",
            tuple(t for t in (rule.either, rule.unlike) if t),
        )
    return tuple(rules)


@cache
def load_works() -> dict[str, rows.Work]:
    """Cited works by key."""
    return _build(rows.Work, "sources", "works")


@cache
def load_estimates() -> dict[str, rows.Estimate]:
    """Estimates in use by key."""
    return _build(rows.Estimate, "sources", "estimates")


@cache
def load_questions() -> dict[str, rows.Question]:
    """The questions on which practitioners disagree, by the joint's key that switches them."""
    found = _read_rows("schools", "questions").items()
    made = {
        key: row | {"schools": tuple(rows.School(**school) for school in row["schools"])}
        for key, row in found
    }
    return {key: rows.Question(key, **row) for key, row in made.items()}


@cache
def load_flaws() -> dict[str, str]:
    """The flaws that a run can name, by key, in words."""
    return {str(key): str(words) for key, words in _read_table("flaws")["flaws"].items()}


@cache
def load_tints() -> dict[str, rows.Tint]:
    """The tints of heat, in its order."""
    return _build(rows.Tint, "tints", "tints")


@cache
def load_signs() -> dict[str, rows.Sign]:
    """What can be told of a run, by key. Raises CatalogueError for a flaw that no run can name."""
    found: dict[str, rows.Sign] = _build(rows.Sign, "reading", "signs", drop=("source", "mark"))
    for key, sign in found.items():
        if sign.flaw and sign.flaw not in load_flaws():
            raise CatalogueError(f"reading.toml, {key}: flaw “{sign.flaw}” is not in flaws.toml")
    return found


@cache
def load_causes() -> dict[str, rows.Cause]:
    """What may be behind what is seen, with its evidence. Raises CatalogueError for a sign or a
    change that is not in the table.
    """
    found: dict[str, rows.Cause] = _build(rows.Cause, "reading", "causes")
    for key, cause in found.items():
        for name, known in ((cause.evidence, load_signs()), (cause.changes, read_changes())):
            for one in name:
                if one not in known:
                    raise CatalogueError(
                        f"reading.toml, {key}: “{one}” is not in the table. Use one of "
                        f"{', '.join(known)}"
                    )
    return found


@cache
def read_changes() -> dict[str, rows.ReadChange]:
    """What a reading can propose, by key."""
    found: dict[str, rows.ReadChange] = {}
    for key, row in _read_table("reading")["changes"].items():
        values: Data = {k: tuple(v) if isinstance(v, list) else v for k, v in row.items()}
        found[key] = rows.ReadChange(key, **values)
    return found


@cache
def load_drills() -> dict[str, rows.Drill]:
    """The drills on scrap, by key."""
    return _build(rows.Drill, "drills", "drills")


@cache
def load_glossary() -> dict[str, rows.Term]:
    """Return the terms of the glossary by key.

    Raises:
        CatalogueError: A flaw is unknown, or two terms have one name.
    """
    found: dict[str, rows.Term] = _build(rows.Term, "glossary", "terms")
    owners: dict[str, str] = {}
    for key, term in found.items():
        if term.flaw and term.flaw not in load_flaws():
            raise CatalogueError(f"glossary.toml, {key}: flaw “{term.flaw}” is not in flaws.toml")
        for name in term.names:
            other = owners.setdefault(name.lower(), key)
            if other != key:
                raise CatalogueError(f"glossary.toml, {key}: “{name}” is a name of {other} too")
    return dict(sorted(found.items(), key=lambda pair: pair[1].term.lower()))


def find_terms(search: str) -> tuple[rows.Term, ...]:
    """Return the terms of the glossary of which a name has all words of a search.

    Args:
        search: The words, as the user typed them. A word may be the start of a longer one.

    >>> [term.key for term in find_terms("Sugar")]
    ['oxidised-root']
    """
    starts = [re.compile(rf"\b{re.escape(word)}", re.IGNORECASE) for word in search.split()]
    return tuple(
        term
        for term in load_glossary().values()
        if starts and any(all(one.search(name) for one in starts) for name in term.names)
    )


@cache
def load_contraries() -> tuple[rows.Contrary, ...]:
    """Signs that do not go together."""
    return tuple(rows.Contrary(**row) for row in _read_table("reading")["contraries"])


def check_rows() -> None:
    """Build every table, so that a row that does not hold together is refused at start. Raises
    CatalogueError.
    """
    for load in (
        load_metals,
        load_rods,
        load_thermals,
        load_gauge_scales,
        load_joint_kinds,
        load_positions,
        load_pulse_patterns,
        back_covers,
        load_tungsten_types,
        load_torches,
        load_part_kinds,
        load_filler_rules,
        load_glossary,
        load_questions,
        load_works,
        load_estimates,
        load_tints,
        load_signs,
        load_causes,
        load_drills,
    ):
        load()
