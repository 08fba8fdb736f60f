"""The form of a marking: plate, pattern, holes or studs."""

from __future__ import annotations

import re
from collections.abc import Mapping

from ..core.errors import InputError
from ..core.quantities import get_typed_unit
from ..core.schema import checks
from ..core.templates.marking import (
    CIRCLE,
    GRID,
    KINDS,
    LIST,
    MAX_CENTRES,
    PATTERNS,
    ROW,
    Marking,
    check_marking,
    place_circle,
    place_grid,
    place_row,
)
from ..core.typed_quantities import parse_length, parse_quantity

LABELS = {
    "width": "Plate width",
    "height": "Plate height",
    "diameter": "Diameter",
    "count": "Number across",
    "rows": "Number up",
    "pitch": "Centre distance across",
    "pitch_up": "Centre distance up",
    "circle": "Circle diameter",
    "start": "First angle, °",
    "centres": "Centres from the lower left corner",
}
# The fields of each pattern after plate and diameter.
FIELDS: Mapping[str, tuple[str, ...]] = {
    ROW: ("count", "pitch"),
    GRID: ("count", "rows", "pitch", "pitch_up"),
    CIRCLE: ("count", "circle", "start"),
    LIST: ("centres",),
}
START = {
    "kind": "hole",
    "pattern": GRID,
    "width": "120 mm",
    "height": "80 mm",
    "diameter": "6.5 mm",
    "count": "2",
    "rows": "2",
    "pitch": "80 mm",
    "pitch_up": "50 mm",
    "circle": "60 mm",
    "start": "0",
    "centres": "20, 20; 60, 40",
}


def read_marking(values: Mapping[str, str], units: str) -> Marking:
    """Parse the fields of a marking.

    Args:
        values: The typed fields.
        units: Unit system of numbers without unit.

    Raises:
        InputError: A field is wrong. The error names it.
    """
    kind = checks.name("kind", values.get("kind", ""), KINDS)
    pattern = checks.name("pattern", values.get("pattern", ""), PATTERNS)

    def _parse_size(key: str) -> float:
        text = values.get(key, "").strip()
        if not text:
            raise InputError(key, "", "is missing. Type a length such as 25 mm or 1 in")
        return parse_quantity(text, "length", key, units)

    def _parse_count(key: str) -> int:
        number = parse_quantity(values.get(key, "").strip() or "1", "plain", key)
        if number != int(number) or not 1 <= number <= MAX_CENTRES:
            rule = f"must be a whole number from 1 to {MAX_CENTRES}"
            raise InputError(key, values.get(key, ""), rule)
        return int(number)

    plate = (_parse_size("width"), _parse_size("height"))
    if pattern == ROW:
        centres = place_row(plate, _parse_count("count"), _parse_size("pitch"))
    elif pattern == GRID:
        counts = (_parse_count("count"), _parse_count("rows"))
        if counts[0] * counts[1] > MAX_CENTRES:
            raise InputError(
                "count", counts[0] * counts[1], f"must be at most {MAX_CENTRES} in all"
            )
        centres = place_grid(plate, counts, (_parse_size("pitch"), _parse_size("pitch_up")))
    elif pattern == CIRCLE:
        start = parse_quantity(values.get("start", "").strip() or "0", "plain", "start")
        centres = place_circle(plate, _parse_count("count"), _parse_size("circle"), start)
    else:
        centres = _read_centres(values.get("centres", ""), units)
    return check_marking(Marking(kind, *plate, _parse_size("diameter"), centres))


def _read_centres(text: str, units: str) -> tuple[tuple[float, float], ...]:
    """Parse "20, 15; 60, 15"."""
    bare = get_typed_unit("length", units)
    centres = []
    for pair in (part.strip() for part in re.split(r"[;\n]", text) if part.strip()):
        x, _, y = pair.partition(", ") if ", " in pair else pair.partition(" ")
        if not y.strip():
            raise InputError("centres", pair, "must be two lengths, such as 20, 15")
        sizes = [parse_length(part.strip(), "centres", bare_unit=bare).mm for part in (x, y)]
        centres.append((sizes[0], sizes[1]))
    if not centres:
        raise InputError("centres", "", "are missing. Type pairs such as 20, 15; 60, 15")
    return tuple(centres)
