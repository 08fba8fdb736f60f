"""The curve of a cut as CSV, and the cut list of a frame as CSV and back.

RFC 4180. Headings contain their unit.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Mapping
from typing import Any

from ...core.errors import InputError
from ...core.schema.json_types import Json
from ...core.templates.cut import Cut, calculate_curve, calculate_hole
from ...core.templates.frame import MAX_MEMBERS, Member, end_text, make_member
from ..table import read_table

BRANCH = ("phi_deg", "x_mm", "z_mm", "z_outside_mm", "z_inside_mm")
HOLE = ("phi_deg", "round_mm", "along_mm")
MEMBER = ("name", "count", "diameter_mm", "wall_mm", "centre_mm", "start", "end")
REACHED = ("blank_mm", "short_mm")


def cut_csv(cut: Cut, part: str = "branch") -> str:
    """Return the curve for every degree, mm to a micrometre.

    Args:
        cut: The cut.
        part: "branch" or "hole".

    Raises:
        InputError: The cut has no hole.
    """
    keys, rows = (HOLE, calculate_hole(cut)) if part == "hole" else (BRANCH, calculate_curve(cut))
    return _write_csv(
        keys,
        (
            (f"{row.phi_deg:g}", *(f"{getattr(row, key) + 0.0:.4f}" for key in keys[1:]))
            for row in rows
        ),
    )


def frame_csv(members: Iterable[Member]) -> str:
    """Return a cut list: the entered values of each member, and its calculated lengths."""
    return _write_csv(
        (*MEMBER, *REACHED),
        (
            (
                m.name,
                m.count,
                f"{m.diameter_mm:g}",
                f"{m.wall_mm:g}",
                f"{m.centre_mm:g}",
                end_text(m.start),
                end_text(m.end),
                f"{m.blank_mm:.2f}",
                f"{m.short_mm:.2f}",
            )
            for m in members
        ),
    )


def centres_csv(centres: Iterable[tuple[float, float]]) -> str:
    """Return centres from the lower left corner, mm to a micrometre.

    Args:
        centres: The centres, mm.
    """
    return _write_csv(
        ("centre", "x_mm", "y_mm"),
        ((str(i), f"{x + 0.0:.4f}", f"{y + 0.0:.4f}") for i, (x, y) in enumerate(centres, 1)),
    )


def _write_csv(keys: tuple[str, ...], rows: Iterable[tuple[Any, ...]]) -> str:
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(keys)
    writer.writerows(rows)
    return out.getvalue()


def read_frame_csv(text: str) -> list[Member]:
    """Parse the members of a cut list.

    Lengths are calculated again.

    Raises:
        InputError: A line is wrong. The error names it.
    """
    table = read_table(text.lstrip("\ufeff"), ",", MAX_MEMBERS, _build_limit_error)
    missing = [key for key in ("diameter_mm", "wall_mm", "centre_mm") if key not in table.headings]
    if missing:
        raise InputError(
            "file",
            ", ".join(missing),
            "is missing from the first line of the CSV, which lists the columns",
        )
    return [
        _read_member(line, dict(zip(table.headings, cells, strict=False)))
        for line, cells in table.lines
    ]


def _build_limit_error(lines: str) -> InputError:
    return InputError(
        "file", lines, f"must be at most {MAX_MEMBERS} members, the maximum of a list"
    )


def _read_member(line: int, row: Mapping[str, str]) -> Member:
    data: dict[str, Json] = {key: row.get(key) or "" for key in ("name", "start", "end")}
    for key in ("count", "diameter_mm", "wall_mm", "centre_mm"):
        data[key] = _parse_number(
            row.get(key) or ("1" if key == "count" else ""), f"line {line}: {key}"
        )
    return make_member(data, f"line {line}: ")


def _parse_number(text: str, field: str) -> float:
    try:
        return float(text)
    except ValueError as error:
        raise InputError(field, text, "must be a number, with a decimal point") from error
