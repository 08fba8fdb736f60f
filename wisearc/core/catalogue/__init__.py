"""The catalogue: tables of the trade as TOML, with source and evidence level for each row.

Each loader returns frozen rows by key and reads its file once. A rule asks for a trait of a row. An
unknown trait is refused by name.
"""

from __future__ import annotations

from functools import cache

from ..errors import CatalogueError
from ..schema.json_types import Data
from . import rows
from .reading import (
    OXIDISED_ROOT,
    load_causes,
    load_contraries,
    load_flaw_groups,
    load_flaws,
    load_repairs,
    load_signs,
    load_tints,
    read_changes,
)
from .tables import (
    TRAITS,
    build_rows,
    check_traits,
    convert_lists_to_tuples,
    read_rows,
    read_table,
)
from .teaching import (
    EXERCISES,
    find_terms,
    load_cue_languages,
    load_cues,
    load_drills,
    load_glossary,
    load_lessons,
)

__all__ = [
    "EXERCISES",
    "MARKS",
    "OXIDISED_ROOT",
    "TRAITS",
    "CatalogueError",
    "back_covers",
    "butter_rod",
    "cap_room_mm",
    "check_rows",
    "find_terms",
    "fit_up_lines",
    "load_buying_items",
    "load_buying_works",
    "load_causes",
    "load_contraries",
    "load_cue_languages",
    "load_cues",
    "load_cups",
    "load_drills",
    "load_estimates",
    "load_filler_pairs",
    "load_filler_rules",
    "load_flaw_groups",
    "load_flaws",
    "load_gauge_scales",
    "load_glossary",
    "load_joint_kinds",
    "load_kits",
    "load_lessons",
    "load_metals",
    "load_part_kinds",
    "load_phrases",
    "load_positions",
    "load_pulse_patterns",
    "load_questions",
    "load_repairs",
    "load_rod_sizes",
    "load_rods",
    "load_signs",
    "load_thermal_curves",
    "load_thermals",
    "load_tints",
    "load_tips",
    "load_torches",
    "load_tungsten_types",
    "load_works",
    "read_changes",
    "rod_capacity_a",
    "rows",
    "set_up_lines",
]

MARKS = ("published", "common-practice", "estimate", "own-record")


@cache
def load_metals() -> dict[str, rows.Metal]:
    """Return base metals by name, each with the traits and the rod of its group."""
    groups = read_rows("groups", "groups")

    def add_group_values(key: str, row: Data) -> Data:
        group = groups.get(row.get("group", ""))
        if group is None:
            raise CatalogueError(
                f"metals.toml, {key}: “{row.get('group')}” is not a group. Use one of "
                f"{', '.join(groups)}"
            )
        traits = (
            *check_traits("metals", f"group {row['group']}", group["traits"]),
            *row.get("traits", ()),
        )
        return {"traits": traits, "own_rod": group["rod"], "family": row.get("family", key)}

    return build_rows(rows.Metal, "metals", "metals", more=add_group_values)


@cache
def load_rods() -> dict[str, rows.Rod]:
    """Return filler rods by class."""
    return build_rows(rows.Rod, "rods", "rods", more=lambda key, _row: {"name": key})


@cache
def butter_rod() -> rows.Rod:
    """Return the rod for a first layer on steel."""
    return next(rod for rod in load_rods().values() if rod.has("butters"))


@cache
def load_rod_sizes() -> rows.RodSizes:
    """Return rod diameters and the rod length."""
    row = read_table("rods")["sizes"]
    stocked, spool, metric = (tuple(row[key]) for key in ("stocked_mm", "spool_mm", "metric_mm"))
    return rows.RodSizes(stocked, spool, metric, row["rod_length_mm"])


@cache
def load_thermals() -> dict[str, rows.Thermal]:
    """Return effective heat properties by group."""
    return build_rows(rows.Thermal, "thermal", "groups", drop=("source", "mark"))


@cache
def load_thermal_curves() -> dict[str, rows.ThermalCurve]:
    """Return heat properties by temperature, by group."""
    return build_rows(rows.ThermalCurve, "thermal_curves", "groups", drop=("source", "mark"))


@cache
def load_gauge_scales() -> dict[str, rows.GaugeScale]:
    """Return gauge scales by key: stainless, carbon, tube, galvanised."""
    return build_rows(rows.GaugeScale, "gauges", "scales")


@cache
def load_joint_kinds() -> dict[str, rows.JointKind]:
    """Return joint types by key."""
    return build_rows(rows.JointKind, "joints", "joints")


@cache
def load_positions() -> dict[str, rows.Position]:
    """Return welding positions by key."""
    return build_rows(rows.Position, "positions", "positions")


@cache
def load_pulse_patterns() -> dict[str, rows.PulsePattern]:
    """Return pulse patterns by key."""
    return build_rows(rows.PulsePattern, "pulses", "patterns", drop=("source", "mark"))


@cache
def back_covers() -> dict[str, rows.BackCover]:
    """Return root covers by key."""
    return build_rows(rows.BackCover, "backs", "backs", drop=("source", "mark"))


@cache
def load_tips() -> tuple[rows.Tip, ...]:
    """Return tungsten tips, smallest first."""
    return tuple(
        rows.Tip(**convert_lists_to_tuples(row)) for row in read_table("tungstens")["tips"]
    )


@cache
def rod_capacity_a() -> dict[float, tuple[float, float]]:
    """Return the capacity of tungstens by diameter in mm, electrode negative, A."""
    return {float(k): (v[0], v[1]) for k, v in read_table("tungstens")["rod_a"].items()}


@cache
def load_tungsten_types() -> dict[str, rows.TungstenType]:
    """Return tungsten types by key."""
    return build_rows(rows.TungstenType, "tungstens", "types", drop=("mark",))


@cache
def load_cups() -> dict[int, str]:
    """Return the purpose of each cup number."""
    return {int(key): text for key, text in read_table("cups")["cups"].items()}


@cache
def load_torches() -> dict[str, rows.Torch]:
    """Return torch sizes by number."""
    return build_rows(rows.Torch, "cups", "torches", drop=("source", "mark"))


@cache
def load_part_kinds() -> dict[str, rows.PartKind]:
    """Return the kinds of front-end parts in the order of assembly."""
    return build_rows(rows.PartKind, "parts", "kinds")


@cache
def cap_room_mm() -> dict[str, float]:
    """Return the maximum tungsten length of a back cap, mm, by its length."""
    return {key: float(value) for key, value in read_table("parts")["cap_room_mm"].items()}


@cache
def set_up_lines() -> dict[str, rows.SetUpLine]:
    """Return the lines of the set-up checklist in order."""
    return build_rows(rows.SetUpLine, "set_up", "lines", drop=("source", "mark"))


@cache
def fit_up_lines() -> dict[str, rows.FitUpLine]:
    """Return the steps before the first tack in order."""
    return build_rows(rows.FitUpLine, "fit_up", "lines", drop=("source", "mark"))


@cache
def load_kits() -> tuple[rows.Kit, ...]:
    """Return the parts and cups that fit each torch family."""
    return tuple(rows.Kit(**row) for row in read_table("parts")["kits"])


@cache
def load_filler_pairs() -> tuple[rows.FillerPair, ...]:
    """Return the rows of the filler chart."""
    table = read_table("fillers")
    return tuple(
        rows.FillerPair(**{"mark": table["mark"], **convert_lists_to_tuples(row)})
        for row in table["pairs"]
    )


@cache
def load_filler_rules() -> tuple[rows.FillerRule, ...]:
    """Return the rules for pairs outside the chart, in order."""
    rules = [
        rows.FillerRule(**convert_lists_to_tuples(row)) for row in read_table("fillers")["rules"]
    ]
    for rule in rules:
        check_traits(
            "metals",
            f"rule for {rule.first} in fillers.toml",
            tuple(t for t in (rule.either, rule.unlike) if t),
        )
    return tuple(rules)


@cache
def load_works() -> dict[str, rows.Work]:
    """Return cited works by key."""
    return build_rows(rows.Work, "sources", "works")


@cache
def load_estimates() -> dict[str, rows.Estimate]:
    """Return estimates in use by key."""
    return build_rows(rows.Estimate, "sources", "estimates")


@cache
def load_questions() -> dict[str, rows.Question]:
    """Return the questions on which practitioners disagree, by the key of the joint."""
    questions = read_rows("schools", "questions").items()
    questions_by_key = {
        key: row | {"schools": tuple(rows.Approach(**approach) for approach in row["schools"])}
        for key, row in questions
    }
    return {key: rows.Question(key, **row) for key, row in questions_by_key.items()}


@cache
def load_buying_works() -> dict[str, str]:
    """Return the kinds of work of a kit to buy, with their labels."""
    return dict(read_table("buying")["works"])


@cache
def load_buying_items() -> tuple[rows.BuyingItem, ...]:
    """Return the items of the kits to buy, with a count for each kind of work."""
    works = tuple(load_buying_works())
    return tuple(
        rows.BuyingItem(
            row["list"], dict(row["item"]), dict(zip(works, row["counts"], strict=True))
        )
        for row in read_table("buying")["items"]
    )


@cache
def load_phrases() -> dict[str, dict[str, str]]:
    """Return the words that people type for a joint, by field, with the value of each."""
    return {section: dict(table) for section, table in read_table("phrases").items()}


def check_rows() -> None:
    """Build every table, so that an inconsistent row is refused at start.

    Raises:
        CatalogueError: A row is inconsistent.
    """
    for load in (
        load_metals,
        load_rods,
        load_thermals,
        load_thermal_curves,
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
        load_lessons,
    ):
        load()
