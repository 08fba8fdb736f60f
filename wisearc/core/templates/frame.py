"""A simple frame of tubes.

Cut lengths from centre lines, and shims that bring different tubes to one centre plane. Geometry,
exact. The width of a saw cut is an estimate.
"""

import re
from collections.abc import Iterable, Sequence
from typing import Annotated

from msgspec import Struct
from msgspec.structs import replace

from ..errors import InputError
from ..quantities import exact, get_typed_unit
from ..schema import checks
from ..schema.documents import read_value
from ..schema.entries import Entry, read_defaults, read_entries
from ..schema.json_types import Json, JsonObject
from ..typed_quantities import parse_length, parse_quantity, split_sizes
from .cut import KINDS, Cut, ends_mm, make_cut

# Loss of each saw cut, mm: estimate (the blade of a cold saw).
KERF_MM = 2.0
MAX_MEMBERS, MAX_COUNT = 60, 1000
MAX_CENTRE_MM = 20_000.0
HOW = "Use square, cope 51 at 45, cope 51 at 45 offset 3, mitre 90 or plate 60"
_END = re.compile(
    r"(?P<kind>cope|mitre|plate)(?:\s+(?P<run>[^@]*?))?(?:\s*(?:\bat\b|@)\s*(?P<angle>[0-9.,]+)\s*(?:°|deg)?)?(?:\s+off(?:set)?\s+(?P<off>.+))?"
)


def _declare_size(low: float, high: float) -> Entry:
    return Entry("number", required=True, low=low, high=high, unit="mm")


class Member(Struct, frozen=True):
    """A tube of the frame.

    Name, count, outside diameter and wall, centre-line length, mm, and the cut of each end (None:
    square).
    """

    name: Annotated[str, Entry("text", high=60)] = ""
    count: Annotated[int, Entry("count", low=1, high=MAX_COUNT)] = 1
    diameter_mm: Annotated[float, _declare_size(3, 1000)] = 0.0
    wall_mm: Annotated[float, _declare_size(0.2, 100)] = 0.0
    centre_mm: Annotated[float, _declare_size(1, MAX_CENTRE_MM)] = 0.0
    start: Cut | None = None
    end: Cut | None = None

    @property
    def blank_mm(self) -> float:
        """Return the square length before the ends are cut, from long point to long point, mm.

        Geometry.
        """
        return self.centre_mm - sum(_measure_ends(cut)[0] for cut in (self.start, self.end))

    @property
    def short_mm(self) -> float:
        """Return the length between the deepest points of the cuts, mm.

        Geometry.
        """
        return self.centre_mm - sum(_measure_ends(cut)[1] for cut in (self.start, self.end))


def _measure_ends(cut: Cut | None) -> tuple[float, float]:
    return (0.0, 0.0) if cut is None else ends_mm(cut)


def read_end(
    text: str, diameter_mm: float, wall_mm: float, field: str = "end", units: str = "mm"
) -> Cut | None:
    """Parse an end.

    "square", "cope 51 at 45", "cope 2 in at 45 offset 3", "mitre 90" or "plate 60". None: square.

    Args:
        text: The text.
        diameter_mm: Outside diameter, mm.
        wall_mm: Wall, mm.
        field: Field name for the error.
        units: Unit system of numbers without unit.

    Raises:
        InputError: The text is wrong or the cut is impossible.

    >>> cut = read_end("cope 51 at 45", 25, 1.2)
    >>> cut.run_mm, cut.angle_deg, read_end("", 25, 1.2)
    (51.0, 45.0, None)
    """
    plain = " ".join(text.lower().split())
    if plain in ("", "square", "open"):
        return None
    match = _END.fullmatch(plain)
    if match is None or len(plain) > 80:
        raise InputError(field, text, f"is not a kind of end cut. {HOW}")
    kind, run, angle = match["kind"], (match["run"] or "").strip(), match["angle"]
    if kind != "cope" and run:
        angle, run = angle or run, ""
    data: dict[str, Json] = {"kind": kind, "branch_mm": diameter_mm, "wall_mm": wall_mm}
    try:
        if run:
            data["run_mm"] = parse_length(run, field, bare_unit=get_typed_unit("length", units)).mm
        if angle:
            data["angle_deg"] = parse_quantity(angle.rstrip("°"), "degrees", field)
        if match["off"]:
            off, sign = match["off"].strip(), 1
            if off.startswith(("-", "−")):
                off, sign = off[1:], -1
            data["offset_mm"] = (
                sign * parse_length(off, field, bare_unit=get_typed_unit("length", units)).mm
            )
        return make_cut(data)
    except InputError as error:
        wording = (
            error.rule
            if error.field == field
            else (
                f"cannot be cut: {error.field.removesuffix('_mm').removesuffix('_deg')} "
                f"{error.rule}"
            )
        )
        raise InputError(field, text, wording) from error


def end_text(cut: Cut | None) -> str:
    """Return an end as `read_end` parses it, in mm.

    >>> end_text(read_end("cope 51 at 45 offset -3", 25, 1.2))
    'cope 51 mm at 45 offset -3 mm'
    """
    if cut is None:
        return "square"
    run = f" {cut.run_mm:g} mm" if cut.of.on_run else ""
    off = f" offset {cut.offset_mm:g} mm" if cut.offset_mm else ""
    return f"{cut.kind}{run} at {cut.angle_deg:g}{off}"


def format_end(cut: Cut | None, units: str) -> str:
    """Return the description of an end.

    Args:
        cut: The cut, or None.
        units: Unit system.
    """
    if cut is None:
        return "square"
    on = f" on {exact(cut.run_mm).text(units)}" if cut.run_mm is not None and cut.of.on_run else ""
    off = f", {exact(abs(cut.offset_mm)).text(units)} off centre" if cut.offset_mm else ""
    return f"{KINDS[cut.kind].label}{on} at {cut.angle_deg:g}°{off}"


def make_member(data: JsonObject, where: str = "", units: str = "mm") -> Member:
    """Build a member from name, count, diameter_mm, wall_mm, centre_mm and its typed ends.

    Args:
        data: The data.
        where: Key for errors.
        units: Unit system of numbers without unit.

    Raises:
        InputError: A value is wrong. The error names the field.
    """
    member = Member(
        **{
            key: read_value(declared, data.get(key, read_defaults(Member)[key]), f"{where}{key}")
            for key, declared in read_entries(Member).items()
        }
    )
    if member.wall_mm > member.diameter_mm / 2:
        rule = "exceeds the radius. Enter the wall thickness, not the bore"
        raise InputError(f"{where}wall_mm", member.wall_mm, rule)
    start, end = (
        read_end(str(data.get(key) or ""), member.diameter_mm, member.wall_mm, where + key, units)
        for key in ("start", "end")
    )
    member = replace(member, start=start, end=end)
    if member.short_mm <= 0:
        rule = (
            "is too short: the cuts at its ends would meet. Measure the centre line from "
            "axis to axis"
        )
        raise InputError(f"{where}centre_mm", member.centre_mm, rule)
    return member


class Stock(Struct, frozen=True):
    """A tube size of a frame.

    Outside diameter, wall, total length with saw cuts, number of tubes. mm.
    """

    diameter_mm: float
    wall_mm: float
    length_mm: float
    count: int


def sum_stock(members: Iterable[Member]) -> list[Stock]:
    """Return the tube stock for a frame by size, the thickest first, with 2 mm for each saw cut.

    Estimate.
    """
    totals: dict[tuple[float, float], list[float]] = {}
    for member in members:
        totals.setdefault((member.diameter_mm, member.wall_mm), []).extend(
            [member.blank_mm + KERF_MM] * member.count
        )
    return [
        Stock(d, w, sum(lengths), len(lengths))
        for (d, w), lengths in sorted(totals.items(), reverse=True)
    ]


def shims_mm(diameters_mm: Sequence[float]) -> list[float]:
    """Return the shim under each tube on a flat table for one centre plane, mm.

    (largest − this) / 2. Geometry, exact.

    >>> shims_mm([51, 25, 51])
    [0.0, 13.0, 0.0]
    """
    maximum = max(diameters_mm, default=0.0)
    return [(maximum - d) / 2 for d in diameters_mm]


def read_diameters(text: str, units: str = "mm") -> list[float]:
    """Parse diameters, separated by semicolons or by commas with spaces: "51, 25, 1 1/2 in".

    Args:
        text: The text.
        units: Unit system of numbers without unit.

    Raises:
        InputError: A diameter is wrong.
    """
    parts = split_sizes(text)
    if len(parts) > MAX_MEMBERS:
        raise InputError("diameters", f"{len(parts)} of them", f"are more than {MAX_MEMBERS}")
    diameters = []
    for part in parts:
        mm = parse_length(part, "diameters", bare_unit=get_typed_unit("length", units)).mm
        diameters.append(checks.check_number("diameters", mm, 1, 3000, "mm"))
    return diameters
