"""Cut lists and holes as typed, and their totals for a job."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable

from msgspec import Struct

from ..errors import InputError
from ..quantities import exact
from ..typed_quantities import add_typed_unit, parse_quantity
from .job import MAX_LINES, Cut, Hole, Job

_LINE = re.compile(
    r"\s*(?:(?P<count>\d{1,5})\s*[x×*]\s+)?(?P<what>[^,;]+?)\s*[,;]\s*(?P<long>[^x×,;]+?)\s*(?:[x×]\s*(?P<wide>[^x×,;]+?)\s*)?"
)
_HOLE = re.compile(
    r"\s*[⌀ø]?\s*(?P<d>[^@,;]+?)\s*(?:at|@)\s*(?P<x>[^,;]+?)\s*[,;]\s*(?P<y>[^,;]+?)\s*"
)
LIKE_CUT, LIKE_HOLE = "2 x sheet 1.2 mm, 380 mm x 120 mm", "6.5 mm at 12 mm, 20 mm"


class Total(Struct, frozen=True):
    """The total of one material: number of pieces, length mm, area mm² (0 for tube, bar, rod)."""

    what: str
    count: int
    length_mm: float
    area_mm2: float


def read_cuts(text: str, units: str) -> tuple[Cut, ...]:
    r"""Parse a cut list with one cut in each line.

    Args:
        text: The text.
        units: Unit system of numbers without unit.

    Raises:
        InputError: A line is wrong. The error names it.

    >>> read_cuts("2 x sheet 1.2, 380 x 120\ntube 25 x 1.2, 620", "mm")[0]
    Cut(count=2, what='sheet 1.2', length_mm=380.0, width_mm=120.0)
    """
    cuts = []
    for i, line in _split_lines("cuts", text):
        # The material can contain a ×. The size follows the last comma.
        match = _LINE.fullmatch(line)
        if match is None:
            raise InputError(
                "cuts", line.strip(), f"has an error in line {i}. Write it like “{LIKE_CUT}”"
            )
        sizes = [
            _parse_mm("cuts", i, match[key], units) if match[key] else None
            for key in ("long", "wide")
        ]
        cuts.append(Cut(int(match["count"] or 1), match["what"].strip(), sizes[0] or 0.0, sizes[1]))
    return tuple(cuts)


def read_holes(text: str, units: str) -> tuple[Hole, ...]:
    """Parse holes and their positions, one in each line.

    Args:
        text: The text.
        units: Unit system of numbers without unit.

    Raises:
        InputError: A line is wrong. The error names it.

    >>> read_holes("6.5 at 12, 20", "mm")
    (Hole(diameter_mm=6.5, x_mm=12.0, y_mm=20.0),)
    """
    holes = []
    for i, line in _split_lines("holes", text):
        match = _HOLE.fullmatch(line)
        if match is None:
            raise InputError(
                "holes", line.strip(), f"has an error in line {i}. Write it like “{LIKE_HOLE}”"
            )
        holes.append(Hole(*(_parse_mm("holes", i, match[key], units) for key in ("d", "x", "y"))))
    return tuple(holes)


def _split_lines(field: str, text: str) -> Iterable[tuple[int, str]]:
    lines = [(i, line) for i, line in enumerate(text.splitlines(), 1) if line.strip()]
    if len(lines) > MAX_LINES:
        raise InputError(field, f"{len(lines)} lines", f"must be at most {MAX_LINES}")
    return lines


def _parse_mm(field: str, line: int, text: str, units: str) -> float:
    try:
        minus = text.startswith(("-", "−"))
        mm = parse_quantity(
            add_typed_unit(text.lstrip("-−").strip(), "length", units), "length", field, units
        )
    except InputError as error:
        raise InputError(field, text, f"has an error in line {line}: {error.rule}") from error
    return -mm if minus else mm


def cut_text(cut: Cut, units: str) -> str:
    """Return a line of a cut list as typed.

    Args:
        cut: The cut.
        units: Unit system.
    """
    size = exact(cut.length_mm).text(units) + (
        f" x {exact(cut.width_mm).text(units)}" if cut.width_mm else ""
    )
    return f"{cut.count} x {cut.what}, {size}"


def hole_text(hole: Hole, units: str) -> str:
    """Return a hole as typed.

    Args:
        hole: The hole.
        units: Unit system.
    """

    def placed(mm: float) -> str:
        return ("-" if mm < 0 else "") + exact(abs(mm)).text(units)

    return f"{exact(hole.diameter_mm).text(units)} at {placed(hole.x_mm)}, {placed(hole.y_mm)}"


def sum_materials(job: Job) -> tuple[Total, ...]:
    """Return the total of each material for all pieces of a job."""
    totals: dict[str, Total] = {}
    for part in job.about.values():
        for cut in part.cuts:
            count, before = (
                cut.count * job.quantity,
                totals.get(cut.what, Total(cut.what, 0, 0.0, 0.0)),
            )
            area = cut.length_mm * cut.width_mm if cut.width_mm else 0.0
            totals[cut.what] = Total(
                cut.what,
                before.count + count,
                before.length_mm + count * cut.length_mm,
                before.area_mm2 + count * area,
            )
    return tuple(totals.values())


def count_holes(job: Job) -> list[tuple[float, int]]:
    """Return the number of holes by diameter, mm, for all pieces of a job."""
    counts = Counter(hole.diameter_mm for part in job.about.values() for hole in part.holes)
    return sorted((d, count * job.quantity) for d, count in counts.items())
