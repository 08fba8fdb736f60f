"""The catalogue: tables of the trade as TOML, with source and evidence level for each row.

Each loader returns frozen rows by key and reads its file once. A rule asks for a trait of a row. An
unknown trait is refused by name.
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
# The key of an oxidised root among the flaws, which a run records as the colour of its root.
OXIDISED_ROOT = "sugar"
# The traits of the rows of each table. Their meaning is at the top of the file.
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
        "rusts_wet",
        "long_heat",
        "brittle_hot",
        "hardens",
        "martensitic",
        "tints_tabled",
        "magnetic",
    ),
    "rods": (
        "braze",
        "brittle_hot",
        "nickel",
        "duplex",
        "martensitic",
        "fully_austenitic",
        "by_design",
        "butters",
    ),
    "joints": (
        "in_line",
        "along_edge",
        "splits_gas",
        "closed_back",
        "cope",
        "stud",
        "mitred",
        "fitted",
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


# The exercises on the screen.
EXERCISES = ("assembly", "grind", "seam", "tacks", "reading")


@cache
def _read_table(name: str) -> Data:
    text = Path(__file__).with_name(f"{name}.toml").read_text(encoding="utf-8")
    return tomli.loads(text)


def _read_rows(name: str, section: str) -> dict[str, Data]:
    table = _read_table(name)
    shared: Data = {key: table[key] for key in ("source", "mark") if key in table}
    rows_data: dict[str, Data] = table[section]
    return {key: shared | row for key, row in rows_data.items()}


def _convert_lists_to_tuples(row: Data) -> Data:
    """Return a row with tuples instead of lists."""
    return {k: tuple(v) if isinstance(v, list) else v for k, v in row.items()}


def _build(
    cls: type[Any],
    name: str,
    section: str,
    drop: tuple[str, ...] = (),
    more: Callable[[str, Data], Data] | None = None,
) -> Data:
    """Build the rows of a section.

    `more` adds values that follow from the key and the row.
    """
    items = {}
    for key, row in _read_rows(name, section).items():
        values = {k: v for k, v in _convert_lists_to_tuples(row).items() if k not in drop}
        if more:
            values |= more(key, values)
        if issubclass(cls, rows.Row):
            values["traits"] = _check_traits(name, key, values.get("traits", ()))
        try:
            items[key] = cls(key=key, **values)
        except TypeError as error:
            raise CatalogueError(f"{name}.toml, {key}: {error}") from error
    return items


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
    """Return base metals by name, each with the traits and the rod of its group."""
    groups = _read_rows("groups", "groups")

    def add_group_values(key: str, row: Data) -> Data:
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

    return _build(rows.Metal, "metals", "metals", more=add_group_values)


@cache
def load_rods() -> dict[str, rows.Rod]:
    """Return filler rods by class."""
    return _build(rows.Rod, "rods", "rods", more=lambda key, _row: {"name": key})


@cache
def butter_rod() -> rows.Rod:
    """Return the rod for a first layer on steel."""
    return next(rod for rod in load_rods().values() if rod.has("butters"))


@cache
def load_rod_sizes() -> rows.RodSizes:
    """Return rod diameters and the rod length."""
    row = _read_table("rods")["sizes"]
    stocked, spool, metric = (tuple(row[key]) for key in ("stocked_mm", "spool_mm", "metric_mm"))
    return rows.RodSizes(stocked, spool, metric, row["rod_length_mm"])


@cache
def load_thermals() -> dict[str, rows.Thermal]:
    """Return effective heat properties by group."""
    return _build(rows.Thermal, "thermal", "groups", drop=("source", "mark"))


@cache
def load_thermal_curves() -> dict[str, rows.ThermalCurve]:
    """Return heat properties by temperature, by group."""
    return _build(rows.ThermalCurve, "thermal_curves", "groups", drop=("source", "mark"))


@cache
def load_gauge_scales() -> dict[str, rows.GaugeScale]:
    """Return gauge scales by key: stainless, carbon, tube, galvanised."""
    return _build(rows.GaugeScale, "gauges", "scales")


@cache
def load_joint_kinds() -> dict[str, rows.JointKind]:
    """Return joint types by key."""
    return _build(rows.JointKind, "joints", "joints")


@cache
def load_positions() -> dict[str, rows.Position]:
    """Return welding positions by key."""
    return _build(rows.Position, "positions", "positions")


@cache
def load_pulse_patterns() -> dict[str, rows.PulsePattern]:
    """Return pulse patterns by key."""
    return _build(rows.PulsePattern, "pulses", "patterns", drop=("source", "mark"))


@cache
def back_covers() -> dict[str, rows.BackCover]:
    """Return root covers by key."""
    return _build(rows.BackCover, "backs", "backs", drop=("source", "mark"))


@cache
def load_tips() -> tuple[rows.Tip, ...]:
    """Return tungsten tips, smallest first."""
    return tuple(
        rows.Tip(**_convert_lists_to_tuples(row)) for row in _read_table("tungstens")["tips"]
    )


@cache
def rod_capacity_a() -> dict[float, tuple[float, float]]:
    """Return the capacity of tungstens by diameter in mm, electrode negative, A."""
    return {float(k): (v[0], v[1]) for k, v in _read_table("tungstens")["rod_a"].items()}


@cache
def load_tungsten_types() -> dict[str, rows.TungstenType]:
    """Return tungsten types by key."""
    return _build(rows.TungstenType, "tungstens", "types", drop=("mark",))


@cache
def load_cups() -> dict[int, str]:
    """Return the purpose of each cup number."""
    return {int(key): text for key, text in _read_table("cups")["cups"].items()}


@cache
def load_torches() -> dict[str, rows.Torch]:
    """Return torch sizes by number."""
    return _build(rows.Torch, "cups", "torches", drop=("source", "mark"))


@cache
def load_part_kinds() -> dict[str, rows.PartKind]:
    """Return the kinds of front-end parts in the order of assembly."""
    return _build(rows.PartKind, "parts", "kinds")


@cache
def cap_room_mm() -> dict[str, float]:
    """Return the maximum tungsten length of a back cap, mm, by its length."""
    return {key: float(value) for key, value in _read_table("parts")["cap_room_mm"].items()}


@cache
def set_up_lines() -> dict[str, rows.SetUpLine]:
    """Return the lines of the set-up checklist in order."""
    return _build(rows.SetUpLine, "set_up", "lines", drop=("source", "mark"))


@cache
def fit_up_lines() -> dict[str, rows.FitUpLine]:
    """Return the steps before the first tack in order."""
    return _build(rows.FitUpLine, "fit_up", "lines", drop=("source", "mark"))


@cache
def load_kits() -> tuple[rows.Kit, ...]:
    """Return the parts and cups that fit each torch family."""
    return tuple(rows.Kit(**row) for row in _read_table("parts")["kits"])


@cache
def load_filler_pairs() -> tuple[rows.FillerPair, ...]:
    """Return the rows of the filler chart."""
    table = _read_table("fillers")
    return tuple(
        rows.FillerPair(**{"mark": table["mark"], **_convert_lists_to_tuples(row)})
        for row in table["pairs"]
    )


@cache
def load_filler_rules() -> tuple[rows.FillerRule, ...]:
    """Return the rules for pairs outside the chart, in order."""
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
    """Return cited works by key."""
    return _build(rows.Work, "sources", "works")


@cache
def load_estimates() -> dict[str, rows.Estimate]:
    """Return estimates in use by key."""
    return _build(rows.Estimate, "sources", "estimates")


@cache
def load_questions() -> dict[str, rows.Question]:
    """Return the questions on which practitioners disagree, by the key of the joint."""
    questions = _read_rows("schools", "questions").items()
    questions_by_key = {
        key: row | {"schools": tuple(rows.Approach(**approach) for approach in row["schools"])}
        for key, row in questions
    }
    return {key: rows.Question(key, **row) for key, row in questions_by_key.items()}


@cache
def load_flaws() -> dict[str, str]:
    """Return the names of the flaws by key."""
    return {str(key): str(text) for key, text in _read_table("flaws")["flaws"].items()}


@cache
def load_flaw_groups() -> dict[str, dict[str, str]]:
    """Return the flaws by group in the order in which they are offered, those without group last.

    Raises:
        CatalogueError: A flaw of a group is unknown.
    """
    flaws, left = load_flaws(), dict(load_flaws())
    groups: dict[str, dict[str, str]] = {}
    for title, keys in _read_table("flaws").get("groups", {}).items():
        for key in keys:
            if key not in flaws:
                raise CatalogueError(f"flaws.toml, {title}: “{key}” is not a flaw of the table")
            left.pop(key, None)
        groups[str(title)] = {key: flaws[key] for key in keys}
    return groups | ({"Others": left} if left else {})


@cache
def load_tints() -> dict[str, rows.Tint]:
    """Return the heat tints in order of temperature."""
    return _build(rows.Tint, "tints", "tints")


@cache
def load_signs() -> dict[str, rows.Sign]:
    """Return the signs of a run by key.

    Raises:
        CatalogueError: A flaw is unknown.
    """
    signs: dict[str, rows.Sign] = _build(rows.Sign, "reading", "signs", drop=("source", "mark"))
    for key, sign in signs.items():
        if sign.flaw and sign.flaw not in load_flaws():
            raise CatalogueError(f"reading.toml, {key}: flaw “{sign.flaw}” is not in flaws.toml")
    return signs


@cache
def load_causes() -> dict[str, rows.Cause]:
    """Return the causes with their evidence by key.

    Raises:
        CatalogueError: A sign or a change is unknown.
    """
    causes: dict[str, rows.Cause] = _build(rows.Cause, "reading", "causes")
    for key, cause in causes.items():
        for name, known in ((cause.evidence, load_signs()), (cause.changes, read_changes())):
            for wanted_key in name:
                if wanted_key not in known:
                    raise CatalogueError(
                        f"reading.toml, {key}: “{wanted_key}” is not in the table. Use one of "
                        f"{', '.join(known)}"
                    )
    return causes


@cache
def read_changes() -> dict[str, rows.ReadChange]:
    """Return the possible changes by key."""
    changes: dict[str, rows.ReadChange] = {}
    for key, row in _read_table("reading")["changes"].items():
        values: Data = {k: tuple(v) if isinstance(v, list) else v for k, v in row.items()}
        changes[key] = rows.ReadChange(key, **values)
    return changes


@cache
def load_repairs() -> dict[str, rows.RepairRow]:
    """Return the repairs by flaw, "sugar" for an oxidised root.

    Raises:
        CatalogueError: A flaw is unknown.
    """
    repairs: dict[str, rows.RepairRow] = {}
    for first, row in _read_table("repairs")["repairs"].items():
        steps = tuple(
            rows.RepairStep(step["words"], tuple(step.get("when", ()))) for step in row["steps"]
        )
        values = {key: value for key, value in row.items() if key != "also"}
        for key in (first, *row.get("also", ())):
            if key != OXIDISED_ROOT and key not in load_flaws():
                raise CatalogueError(f"repairs.toml, {key}: is not a flaw in flaws.toml")
            repairs[key] = rows.RepairRow(key, **{**values, "steps": steps})
    return repairs


@cache
def load_drills() -> dict[str, rows.Drill]:
    """Return the drills on scrap by key."""
    return _build(rows.Drill, "drills", "drills")


def _complete_lesson(key: str, row: Data) -> Data:
    """Return the number, the mistakes and the seam of a lesson."""
    seam = row.get("seam")
    return {
        "number": list(_read_table("lessons")["lessons"]).index(key) + 1,
        "mistakes": tuple(rows.LessonMistake(**mistake) for mistake in row["mistakes"]),
        "seam": None if seam is None else rows.LessonSeam(**seam),
    }


@cache
def load_lessons() -> dict[str, rows.Lesson]:
    """Return the lessons of the course by key, in their order.

    Raises:
        CatalogueError: An exercise, a drill, a flaw, a cause or a picture is unknown.
    """
    lessons: dict[str, rows.Lesson] = _build(
        rows.Lesson, "lessons", "lessons", more=_complete_lesson
    )
    known = {
        "drills": set(load_drills()),
        "faults": set(load_flaws()),
        "causes": set(load_causes()),
    }
    for lesson in lessons.values():
        for field, names in known.items():
            if unknown := set(getattr(lesson, field)) - names:
                raise CatalogueError(f"lessons.toml, {lesson.key}: unknown {field} {unknown}")
        if lesson.exercise not in EXERCISES:
            raise CatalogueError(f"lessons.toml, {lesson.key}: unknown exercise {lesson.exercise}")
    return lessons


@cache
def load_buying_works() -> dict[str, str]:
    """Return the kinds of work of a kit to buy, with their labels."""
    return dict(_read_table("buying")["works"])


@cache
def load_buying_items() -> tuple[rows.BuyingItem, ...]:
    """Return the items of the kits to buy, with a count for each kind of work."""
    works = tuple(load_buying_works())
    return tuple(
        rows.BuyingItem(
            row["list"], dict(row["item"]), dict(zip(works, row["counts"], strict=True))
        )
        for row in _read_table("buying")["items"]
    )


@cache
def load_phrases() -> dict[str, dict[str, str]]:
    """Return the words that people type for a joint, by field, with the value of each."""
    return {section: dict(table) for section, table in _read_table("phrases").items()}


@cache
def load_cue_languages() -> dict[str, rows.CueLanguage]:
    """Return the languages of the cues of a run."""
    table = _read_table("cues")
    return {
        key: rows.CueLanguage(name, {unit: words[key] for unit, words in table["units"].items()})
        for key, name in table["languages"].items()
    }


@cache
def load_cues() -> dict[str, rows.CueText]:
    """Return the cues of a run, each in every language."""
    return {
        key: rows.CueText(
            label=row["label"],
            tones=tuple(row["tones"]),
            texts={language: row[language] for language in load_cue_languages()},
        )
        for key, row in _read_rows("cues", "cues").items()
    }


@cache
def load_glossary() -> dict[str, rows.Term]:
    """Return the terms of the glossary by key.

    Raises:
        CatalogueError: A flaw is unknown, or two terms have one name.
    """
    terms: dict[str, rows.Term] = _build(rows.Term, "glossary", "terms")
    owners: dict[str, str] = {}
    for key, term in terms.items():
        if term.flaw and term.flaw not in load_flaws():
            raise CatalogueError(f"glossary.toml, {key}: flaw “{term.flaw}” is not in flaws.toml")
        for name in term.names:
            other = owners.setdefault(name.lower(), key)
            if other != key:
                raise CatalogueError(f"glossary.toml, {key}: “{name}” is a name of {other} too")
    return dict(sorted(terms.items(), key=lambda pair: pair[1].term.lower()))


def find_terms(search: str) -> tuple[rows.Term, ...]:
    """Return the terms of the glossary that match a search.

    One of the names of a term must contain all words of the search.

    Args:
        search: The words, as the user typed them. A word may be the start of a longer one.

    >>> [term.key for term in find_terms("Sugar")]
    ['oxidised-root']
    """
    starts = [re.compile(rf"\b{re.escape(word)}", re.IGNORECASE) for word in search.split()]
    return tuple(
        term
        for term in load_glossary().values()
        if starts and any(all(pattern.search(name) for pattern in starts) for name in term.names)
    )


@cache
def load_contraries() -> tuple[rows.Contrary, ...]:
    """Return pairs of signs that exclude each other."""
    return tuple(rows.Contrary(**row) for row in _read_table("reading")["contraries"])


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
