"""The filters of the library as typed: parsed from the address, with errors beside their fields."""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping
from urllib.parse import urlencode

from msgspec import Struct

from ..core import catalogue
from ..core.errors import InputError
from ..core.joint.joint import SERVICES
from ..core.schema import checks
from ..core.typed_quantities import parse_quantity
from ..services.procedures.library_search import OUTCOMES, SORTS, STATES, read_search
from ..services.records import LibraryFilter

# The fields in the address, in their order.
FIELDS = (
    "q",
    "status",
    "joint",
    "metal",
    "rod",
    "service",
    "machine",
    "welder",
    "outcome",
    "from",
    "to",
    "since",
    "until",
    "sort",
)
_MAX_LENGTH = 200


class FilterForm(Struct, frozen=True):
    """Typed filters: the texts by field, the errors by field, and the parsed view."""

    typed: Mapping[str, str]
    errors: Mapping[str, str]
    view: LibraryFilter

    @property
    def query(self) -> str:
        """Return the filters as the query of an address, without empty ones."""
        return urlencode([(key, self.typed[key]) for key in FIELDS if self.typed[key]])

    @property
    def is_filtered(self) -> bool:
        """Return whether a filter other than the search is set."""
        return any(self.typed[key] for key in FIELDS if key not in ("q", "sort"))


def read_filter(args: Mapping[str, str], units: str) -> FilterForm:
    """Parse the filters of an address. A wrong one filters nothing and has an error.

    Args:
        args: The query of the address.
        units: Unit system of a thickness without a unit.
    """
    typed = {key: args.get(key, "").strip()[:_MAX_LENGTH] for key in FIELDS}
    errors: dict[str, str] = {}

    view = LibraryFilter(
        read_search(typed["q"]),
        _choose(typed, errors, "status", STATES),
        _choose(typed, errors, "joint", catalogue.load_joint_kinds()),
        _choose(typed, errors, "metal", catalogue.load_metals()),
        _choose(typed, errors, "rod", {**catalogue.load_rods(), "none": None}),
        _choose(typed, errors, "service", SERVICES),
        typed["machine"],
        typed["welder"],
        _choose(typed, errors, "outcome", OUTCOMES),
        _read_thickness("from", typed, units, errors),
        _read_thickness("to", typed, units, errors),
        _read_day("since", typed, errors),
        _read_day("until", typed, errors),
        _choose(typed, errors, "sort", SORTS) or SORTS[0],
    )
    if view.thin_mm is not None and view.thick_mm is not None and view.thin_mm > view.thick_mm:
        errors["to"] = "This thickness is below the one before. Enter the larger one here."
    return FilterForm(typed, errors, view)


def _choose(
    typed: Mapping[str, str],
    errors: dict[str, str],
    key: str,
    allowed: Collection[str],
) -> str:
    value = typed[key]
    if value and value not in allowed:
        errors[key] = f"“{value}” is not a choice here. Select one from the list."
        return ""
    return value


def _read_thickness(
    key: str, typed: Mapping[str, str], units: str, errors: dict[str, str]
) -> float | None:
    text = typed[key]
    if not text:
        return None
    try:
        return parse_quantity(text, "length", key, units)
    except InputError as error:
        errors[key] = error.beside(units)
        return None


def _read_day(key: str, typed: Mapping[str, str], errors: dict[str, str]) -> str:
    text = typed[key]
    if not text:
        return ""
    try:
        if not re.fullmatch(r"\d{4}-\d\d-\d\d", text):
            raise InputError(key, text, "must be a date such as 2026-05-04")
        return checks.check_date(key, text)
    except InputError as error:
        errors[key] = error.beside()
        return ""
