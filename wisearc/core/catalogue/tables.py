"""The tables of the catalogue: TOML files, read once, and their rows with checked traits."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from pathlib import Path
from typing import Any

import tomli

from ..errors import CatalogueError
from ..schema.json_types import Data
from .rows import Row

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
        "flat_bead",
        "crown_bead",
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


def parse_table(name: str) -> Data:
    """Return a file of the catalogue, parsed.

    Args:
        name: Name of the file without its ending.
    """
    text = Path(__file__).with_name(f"{name}.toml").read_text(encoding="utf-8")
    return tomli.loads(text)


@cache
def read_table(name: str) -> Data:
    """Return a table of the catalogue, read once.

    Args:
        name: Name of its file without the ending.
    """
    return parse_table(name)


def read_rows(name: str, section: str) -> dict[str, Data]:
    """Return the rows of a section by key, with the source and mark that they share.

    Args:
        name: Name of the table.
        section: Name of the section.
    """
    table = read_table(name)
    shared: Data = {key: table[key] for key in ("source", "mark") if key in table}
    rows_data: dict[str, Data] = table[section]
    return {key: shared | row for key, row in rows_data.items()}


def convert_lists_to_tuples(row: Data) -> Data:
    """Return a row with tuples instead of lists.

    Args:
        row: The row.
    """
    return {k: tuple(v) if isinstance(v, list) else v for k, v in row.items()}


def build_rows(
    cls: type[Any],
    name: str,
    section: str,
    drop: tuple[str, ...] = (),
    more: Callable[[str, Data], Data] | None = None,
) -> Data:
    """Build the rows of a section.

    Args:
        cls: Type of a row.
        name: Name of the table.
        section: Name of the section.
        drop: Fields of the table that the type does not have.
        more: Adds values that follow from the key and the row.

    Raises:
        CatalogueError: A field or a trait is unknown.
    """
    items = {}
    for key, row in read_rows(name, section).items():
        values = {k: v for k, v in convert_lists_to_tuples(row).items() if k not in drop}
        if more:
            values |= more(key, values)
        if issubclass(cls, Row):
            values["traits"] = check_traits(name, key, values.get("traits", ()))
        try:
            items[key] = cls(key=key, **values)
        except TypeError as error:
            raise CatalogueError(f"{name}.toml, {key}: {error}") from error
    return items


def check_traits(table: str, key: str, traits: tuple[str, ...]) -> frozenset[str]:
    """Return traits after a check.

    Args:
        table: Name of the table.
        key: Key of the row.
        traits: The traits.

    Raises:
        CatalogueError: A trait is unknown.
    """
    for trait in traits:
        if trait not in TRAITS[table]:
            raise CatalogueError(
                f"{table}.toml, {key}: “{trait}” is not a trait. Use one of "
                f"{', '.join(TRAITS[table])}, or remove it"
            )
    return frozenset(traits)
