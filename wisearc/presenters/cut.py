"""Templates as page contents: a cut with its results and drawings, a cut list, shims."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from urllib.parse import urlencode

from msgspec import Struct

from ..core.errors import InputError
from ..core.quantities import MM_PER_INCH, exact, format_count, format_plain, length
from ..core.schema.json_types import Json
from ..core.templates.cut import Cut, ends_mm, has_knife_edge, seam_mm
from ..core.templates.frame import (
    KERF_MM,
    MAX_MEMBERS,
    Member,
    Stock,
    end_text,
    format_end,
    make_member,
    read_diameters,
    shims_mm,
    sum_stock,
)
from ..core.templates.shims import (
    LEVEL_MM,
    STEP_MM,
    Stack,
    read_shim_stock,
    stack_shims,
)
from ..core.templates.template import PARTS, lay_flat
from ..core.typed_quantities import (
    add_typed_unit,
    is_typed_in_inches,
    parse_quantity,
    split_sizes,
)
from ..drawings.canvas import Drawing
from ..drawings.templates.space import Eye as Eye
from ..drawings.templates.space import build_eye as build_eye
from ..drawings.templates.space import draw_space
from ..drawings.templates.template_sheet import draw_template_sheet
from ..formats.templates.cut_csv import frame_csv, read_frame_csv
from ..forms.cut import START, add_units, build_link, cut_fields, format_sentence, read_cut
from ..forms.fields import Field

MAX_ROW_LENGTH = 80
MEMBER_KEYS = ("name", "count", "diameter", "wall", "centre", "start", "end")
FRAME_START = (
    {
        "name": "stay",
        "count": "2",
        "diameter": "25 mm",
        "wall": "1.2 mm",
        "centre": "620 mm",
        "start": "cope 51 mm at 45",
        "end": "plate 45",
    },
)


class CutView(Struct, frozen=True):
    """The contents of a template page.

    Cut, fields, link, results (label, figure, detail), drawings, and whether it has a hole.
    """

    cut: Cut
    fields: tuple[Field, ...]
    link: str
    facts: tuple[tuple[str, str, str], ...]
    sheet: Drawing
    space: Drawing
    part: str
    parts: tuple[tuple[str, str], ...]
    plan: str

    @property
    def wrong(self) -> bool:
        """Return whether a field has an error."""
        return any(f.error for f in self.fields)


def cut_view(
    before: Mapping[str, str], values: Mapping[str, str], units: str, eye: Eye, apart: bool
) -> CutView:
    """Return the page contents of an address.

    A wrong value has an error at its field, and the drawing keeps the values before.

    Args:
        before: The keys before the change.
        values: The keys with the change.
        units: Unit system.
        eye: The view of the drawing.
        apart: Whether the branch is lifted.
    """
    taken, fault = add_units(values, units), None
    try:
        cut = read_cut(taken, units)
    except InputError as error:
        fault = error
        try:
            cut = read_cut(add_units(before, units), units)
            taken = add_units(before, units)
        except InputError:
            cut, taken = read_cut(START, units), dict(START)
    part = values.get("part", "branch") if cut.of.hole and values.get("part") in PARTS else "branch"
    link = urlencode(build_link(cut, taken))
    return CutView(
        cut,
        cut_fields(cut, dict(values) if fault else {}, taken, fault, units),
        link,
        _list_facts(cut, units),
        draw_template_sheet(lay_flat(cut, part, units), "screen"),
        draw_space(cut, eye, apart, units),
        part,
        (("branch", "Tube end"), ("hole", cut.of.hole)) if cut.of.hole else (),
        _plan_link(cut),
    )


def draw_space_view(values: Mapping[str, str], units: str, eye: Eye, apart: bool) -> Drawing:
    """Return the drawing in space of an address.

    Args:
        values: The keys.
        units: Unit system.
        eye: The view.
        apart: Whether the branch is lifted.

    Raises:
        InputError: A value is wrong.
    """
    return draw_space(read_cut(add_units(values, units), units), eye, apart, units)


def _list_facts(cut: Cut, units: str) -> tuple[tuple[str, str, str], ...]:
    """Return the results of a cut as text."""
    low, high = ends_mm(cut)
    facts = [
        (
            "Long point",
            _format_saw_length(low, units),
            f"from {cut.of.origin}. The blank is the centre line less this length",
        ),
        (
            "Deepest point",
            _format_saw_length(high, units),
            f"the cut is {_format_saw_length(high - low, units)} deep",
        ),
        ("Seam", length(seam_mm(cut)).text(units), "round the outside"),
    ]
    if has_knife_edge(cut):
        facts.append(
            (
                "Ears",
                "knife edge",
                (
                    "dress them back to the wall thickness before tacking, because thin ears "
                    "melt first"
                ),
            )
        )
    return tuple(facts)


def _plan_link(cut: Cut) -> str:
    """Return the query of a plan for the joint of a cut, or ""."""
    tube = {
        "a.form": "tube",
        "a.thickness": f"{cut.wall_mm:g} mm",
        "a.diameter": f"{cut.branch_mm:g} mm",
        "length": "all-round",
    }
    if cut.kind == "cope":
        return urlencode(
            {
                "joint": "tube-cope",
                **tube,
                "b.diameter": f"{cut.run_mm:g} mm",
                "angle_deg": f"{cut.angle_deg:g}",
            }
        )
    return ""


class FrameRow(Struct, frozen=True):
    """A tube of a frame as text.

    Name, count, saw length, length between the deepest points, and ends.
    """

    name: str
    count: int
    blank: str
    short: str
    ends: str


class FrameView(Struct, frozen=True):
    """A frame as page contents.

    Typed text by row, valid members, their rows, errors by row and key, tube stock.
    """

    rows: list[dict[str, str]]
    members: list[Member]
    shown: list[FrameRow]
    faults: dict[tuple[int, str], str]
    stock: list[str]
    left_out: str = ""

    @property
    def csv(self) -> str:
        """Return the cut list of the valid members as CSV."""
        return frame_csv(self.members)


def build_frame_view(rows: Sequence[Mapping[str, str]], units: str) -> FrameView:
    """Return the cut list of typed rows, each parsed separately, without empty rows.

    Args:
        rows: The typed rows.
        units: Unit system.
    """
    kept = [
        {key: str(row.get(key, ""))[:MAX_ROW_LENGTH] for key in MEMBER_KEYS}
        for row in rows
        if any(str(v).strip() for v in row.values())
    ]
    left_out = (
        f"A list can have at most {MAX_MEMBERS} tubes. The rest were ignored."
        if len(kept) > MAX_MEMBERS
        else ""
    )
    kept = kept[:MAX_MEMBERS]
    members: list[Member] = []
    faults = {}
    for i, row in enumerate(kept):
        row |= {
            key: add_typed_unit(row[key], "length", units)
            for key in ("diameter", "wall", "centre")
            if row[key].strip()
        }
        try:
            members.append(make_member(_member_data(row, units), "", units))
        except InputError as error:
            key = error.field.removesuffix("_mm")
            faults[i, key if key in MEMBER_KEYS else "name"] = format_sentence(error, units)
    return FrameView(
        kept,
        members,
        [_build_frame_row(member, units) for member in members],
        faults,
        [_format_stock(stock, units) for stock in sum_stock(members)],
        left_out,
    )


def _build_frame_row(member: Member, units: str) -> FrameRow:
    ends = "; ".join(format_end(cut, units) for cut in (member.start, member.end))
    return FrameRow(
        member.name or "tube",
        member.count,
        _format_saw_length(member.blank_mm, units),
        _format_saw_length(member.short_mm, units),
        ends,
    )


def _format_stock(stock: Stock, units: str) -> str:
    size = f"{exact(stock.diameter_mm).number(units)} × {exact(stock.wall_mm).text(units)}"
    return (
        f"Size {size}: {length(stock.length_mm).text(units)} "
        f"for {format_count(stock.count, 'tube')}, "
        f"with {exact(KERF_MM).text(units)} per saw cut."
    )


def _format_saw_length(mm: float, units: str) -> str:
    """Return a saw length, to a tenth of a millimetre or five thousandths of an inch."""
    return (
        f"{format_plain(mm, 1)} mm" if units == "mm" else f"{format_plain(mm / MM_PER_INCH, 3)} in"
    )


def _member_data(row: Mapping[str, str], units: str) -> dict[str, Json]:
    data: dict[str, Json] = {"name": row["name"].strip(), "start": row["start"], "end": row["end"]}
    for key in ("diameter", "wall", "centre"):
        if not row[key].strip():
            raise InputError(key, "", "is missing. Type a length such as 25 mm or 1 in")
        data[f"{key}_mm"] = parse_quantity(row[key], "length", key, units)
    data["count"] = parse_quantity(row["count"] or "1", "plain", "count")
    return data


def read_frame_file(raw: bytes) -> list[dict[str, str]]:
    """Return the rows of a cut list CSV as typed text.

    Raises:
        InputError: The file is wrong.
    """
    try:
        members = read_frame_csv(raw.decode("utf-8-sig"))
    except UnicodeDecodeError as error:
        raise InputError("file", "", "is not UTF-8 text. Save the list as CSV, UTF-8") from error
    return [
        {
            "name": m.name,
            "count": str(m.count),
            "diameter": f"{m.diameter_mm:g} mm",
            "wall": f"{m.wall_mm:g} mm",
            "centre": f"{m.centre_mm:g} mm",
            "start": end_text(m.start),
            "end": end_text(m.end),
        }
        for m in members
    ]


class ShimRow(Struct, frozen=True):
    """A tube on the table: its diameter, the shim, the stack in words, and what is left over."""

    tube: str
    shim: str
    stack: str
    off: str
    is_level: bool


def calculate_shims(text: str, stock_text: str, units: str) -> list[ShimRow]:
    """Return each diameter with its shim and the stack from the sizes at hand.

    Each figure is in the unit of its typed diameter.

    Args:
        text: The typed diameters.
        stock_text: The typed sizes at hand.
        units: Unit system of numbers without unit.

    Raises:
        InputError: A diameter or a size is wrong.
    """
    diameters = read_diameters(text, units)
    stock = read_shim_stock(stock_text, units)
    shims = shims_mm(diameters)
    stacks = {shim_mm: stack_shims(shim_mm, stock) for shim_mm in set(shims)}
    rows = []
    for diameter, shim_mm, words in zip(diameters, shims, split_sizes(text), strict=True):
        in_units = "in" if is_typed_in_inches(words, units) else "mm"
        stack = stacks[shim_mm]
        rows.append(
            ShimRow(
                length(diameter).text(in_units),
                length(shim_mm).text(in_units) if shim_mm else "none",
                _describe_stack(stack, units),
                "" if abs(stack.off_mm) < STEP_MM else length(stack.off_mm).text(in_units),
                stack.is_level,
            )
        )
    return rows


def format_level(units: str) -> str:
    """Return the height within which a stack is level.

    Args:
        units: Unit system.
    """
    return exact(LEVEL_MM).text(units)


def _describe_stack(stack: Stack, units: str) -> str:
    pieces = [
        (f"{number} × " if number > 1 else "")
        + exact(piece.mm).text("in" if is_typed_in_inches(piece.text, units) else "mm")
        for piece, number in stack.pieces
    ]
    return " + ".join(pieces) or "nothing"
