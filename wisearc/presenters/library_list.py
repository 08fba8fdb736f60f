"""The list of the library: rows with their glyph and sizes as text, filter options, and CSV."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from msgspec import Struct

from ..core import catalogue
from ..core.joint.joint import SERVICES
from ..core.quantities import Quantity
from ..drawings.joint_glyph import draw_joint_glyph
from ..formats.jobs.job_csv import write_table
from ..services.procedures.library_search import list_filter_options
from ..services.procedures.states import STATUS_NAMES
from ..services.records import Listing

SORT_NAMES = {
    "newest": "newest number",
    "used": "last used",
    "title": "title",
    "thin": "thinnest first",
    "thick": "thickest first",
    "runs": "most runs",
}
OUTCOME_NAMES = {"good": "a good run", "not-good": "no good run yet", "none": "no runs"}
_CSV_HEAD = (
    "number",
    "revision",
    "title",
    "state",
    "joint",
    "metals",
    "thin_mm",
    "thick_mm",
    "diameter_mm",
    "service",
    "current_a",
    "rod",
    "runs",
    "good_runs",
    "last_used",
)


class LibraryRow(Struct, frozen=True):
    """A row: the listed revision, the glyph of its joint as SVG or "", metals and sizes."""

    listing: Listing
    glyph: str
    joint: str
    metals: str
    size: str


def build_rows(rows: Iterable[Listing], units: str) -> list[LibraryRow]:
    """Return rows of the library as text.

    Args:
        rows: The rows.
        units: Unit system.
    """
    return [_build_row(row, units) for row in rows]


def _build_row(row: Listing, units: str) -> LibraryRow:
    glyph = draw_joint_glyph(row.joint)
    kind = catalogue.load_joint_kinds().get(row.joint)
    return LibraryRow(
        row,
        glyph.svg if glyph else "",
        kind.name if kind else row.joint,
        row.metals,
        _format_size(row, units),
    )


def _format_size(row: Listing, units: str) -> str:
    if row.thin_mm is None:
        return ""
    thin = Quantity(row.thin_mm, "length").text(units)
    text = thin
    if row.thick_mm is not None and row.thick_mm != row.thin_mm:
        text = f"{thin} to {Quantity(row.thick_mm, 'length').text(units)}"
    if row.diameter_mm is not None:
        text = f"⌀ {Quantity(row.diameter_mm, 'length').text(units)}, {text}"
    return text


class FilterOptions(Struct, frozen=True):
    """The options of the filters: key and name by field."""

    joint: Mapping[str, str]
    metal: Mapping[str, str]
    rod: Mapping[str, str]
    service: Mapping[str, str]
    machine: Mapping[str, str]
    welder: Mapping[str, str]
    outcome: Mapping[str, str]
    sort: Mapping[str, str]
    status: Mapping[str, str]


def list_options(states: Iterable[str]) -> FilterOptions:
    """Return the options of the filters. Machines and welders are those of the library.

    Args:
        states: The states of a revision.
    """
    joints = {key: kind.name for key, kind in catalogue.load_joint_kinds().items()}
    metals = {key: key for key in list_filter_options("metal")}
    rods = {key: key for key in catalogue.load_rods()} | {"none": "none"}
    machine, welder = (
        {value: value for value in list_filter_options(kind)} for kind in ("machine", "welder")
    )
    return FilterOptions(
        joints,
        metals,
        rods,
        SERVICES,
        machine,
        welder,
        OUTCOME_NAMES,
        SORT_NAMES,
        {state: STATUS_NAMES[state] for state in states},
    )


def write_library_csv(rows: Iterable[Listing]) -> str:
    """Return rows of the library as CSV, with units in the header.

    Args:
        rows: The rows.
    """
    return write_table(
        _CSV_HEAD,
        (
            (
                row.label,
                row.letter,
                row.title,
                STATUS_NAMES[row.status],
                row.joint,
                row.metals,
                _format_figure(row.thin_mm),
                _format_figure(row.thick_mm),
                _format_figure(row.diameter_mm),
                row.service,
                _format_figure(row.current_a),
                row.rod or "none",
                str(row.runs),
                str(row.good),
                row.used_at,
            )
            for row in rows
        ),
    )


def _format_figure(value: float | None) -> str:
    return "" if value is None else f"{value:.6g}"
