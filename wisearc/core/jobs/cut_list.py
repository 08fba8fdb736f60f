"""A part's cut list and holes as people write them, and what the lists of a job come to."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable

from msgspec import Struct

from ..errors import InputError
from ..quantities import add_typed_unit, exact, parse_quantity
from .job import MAX_LINES, Cut, Hole, Job

_LINE = re.compile(
    r"\s*(?:(?P<count>\d{1,5})\s*[x×*]\s+)?(?P<what>[^,;]+?)\s*[,;]\s*(?P<long>[^x×,;]+?)\s*(?:[x×]\s*(?P<wide>[^x×,;]+?)\s*)?"
)
_HOLE = re.compile(
    r"\s*[⌀ø]?\s*(?P<d>[^@,;]+?)\s*(?:at|@)\s*(?P<x>[^,;]+?)\s*[,;]\s*(?P<y>[^,;]+?)\s*"
)
LIKE_CUT, LIKE_HOLE = "2 x sheet 1.2 mm, 380 mm x 120 mm", "6.5 mm at 12 mm, 20 mm"


class Total(Struct, frozen=True):
    """What a job needs of one stuff: how many pieces, how long in all mm, how large in all mm² (0
    of tube, bar and rod).
    """

    what: str
    count: int
    length_mm: float
    area_mm2: float


def read_cuts(text: str, habit: str) -> tuple[Cut, ...]:
    """A cut list, a line each. Raises InputError naming the line.

    >>> read_cuts("2 x sheet 1.2, 380 x 120\\ntube 25 x 1.2, 620", "mm")[0]
    Cut(count=2, what='sheet 1.2', length_mm=380.0, width_mm=120.0)
    """
    found = []
    for i, line in _split_lines("cuts", text):
        # the stuff may itself hold a ×: what comes after its last comma is the size
        match = _LINE.fullmatch(line)
        if match is None:
            raise InputError(
                "cuts", line.strip(), f"has an error in line {i}. Write it like “{LIKE_CUT}”"
            )
        sizes = [
            _parse_mm("cuts", i, match[key], habit) if match[key] else None
            for key in ("long", "wide")
        ]
        found.append(
            Cut(int(match["count"] or 1), match["what"].strip(), sizes[0] or 0.0, sizes[1])
        )
    return tuple(found)


def read_holes(text: str, habit: str) -> tuple[Hole, ...]:
    """Holes by their places, a line each. Raises InputError naming the line.

    >>> read_holes("6.5 at 12, 20", "mm")
    (Hole(diameter_mm=6.5, x_mm=12.0, y_mm=20.0),)
    """
    found = []
    for i, line in _split_lines("holes", text):
        match = _HOLE.fullmatch(line)
        if match is None:
            raise InputError(
                "holes", line.strip(), f"has an error in line {i}. Write it like “{LIKE_HOLE}”"
            )
        found.append(Hole(*(_parse_mm("holes", i, match[key], habit) for key in ("d", "x", "y"))))
    return tuple(found)


def _split_lines(field: str, text: str) -> Iterable[tuple[int, str]]:
    lines = [(i, line) for i, line in enumerate(text.splitlines(), 1) if line.strip()]
    if len(lines) > MAX_LINES:
        raise InputError(field, f"{len(lines)} lines", f"must be at most {MAX_LINES}")
    return lines


def _parse_mm(field: str, line: int, text: str, habit: str) -> float:
    try:
        minus = text.startswith(("-", "−"))
        mm = parse_quantity(
            add_typed_unit(text.lstrip("-−").strip(), "length", habit), "length", field, habit
        )
    except InputError as error:
        raise InputError(field, text, f"has an error in line {line}: {error.rule}") from error
    return -mm if minus else mm


def cut_text(cut: Cut, habit: str) -> str:
    """A line of a cut list as it is written."""
    size = exact(cut.length_mm).text(habit) + (
        f" x {exact(cut.width_mm).text(habit)}" if cut.width_mm else ""
    )
    return f"{cut.count} x {cut.what}, {size}"


def hole_text(hole: Hole, habit: str) -> str:
    """A hole as it is written."""

    def placed(mm: float) -> str:
        return ("-" if mm < 0 else "") + exact(abs(mm)).text(habit)

    return f"{exact(hole.diameter_mm).text(habit)} at {placed(hole.x_mm)}, {placed(hole.y_mm)}"


def sum_materials(job: Job) -> tuple[Total, ...]:
    """What all pieces of a job need of each stuff."""
    found: dict[str, Total] = {}
    for part in job.about.values():
        for cut in part.cuts:
            count, before = (
                cut.count * job.quantity,
                found.get(cut.what, Total(cut.what, 0, 0.0, 0.0)),
            )
            area = cut.length_mm * cut.width_mm if cut.width_mm else 0.0
            found[cut.what] = Total(
                cut.what,
                before.count + count,
                before.length_mm + count * cut.length_mm,
                before.area_mm2 + count * area,
            )
    return tuple(found.values())


def count_holes(job: Job) -> list[tuple[float, int]]:
    """How many holes of each width, mm, all pieces of a job have."""
    found = Counter(hole.diameter_mm for part in job.about.values() for hole in part.holes)
    return sorted((d, count * job.quantity) for d, count in found.items())
