"""Cutting in words: a cut with what comes of it and its drawings, a frame's cut list, shims."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from urllib.parse import urlencode

from msgspec import Struct

from ..core.errors import InputError
from ..core.quantities import (
    MM_PER_INCH,
    add_typed_unit,
    exact,
    format_count,
    format_plain,
    length,
    parse_quantity,
)
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
from ..core.templates.template import PARTS, lay_flat
from ..drawings.canvas import Drawing
from ..drawings.templates.space import Eye as Eye
from ..drawings.templates.space import build_eye as build_eye
from ..drawings.templates.space import draw_space
from ..drawings.templates.template_sheet import draw_template_sheet
from ..formats.templates.cut_csv import frame_csv, read_frame_csv
from ..forms.cut import START, add_units, cut_fields, format_sentence, link_of, read_cut
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
    """All that a page of a cut shows: the cut, its fields, its link, what comes of it (label,
    figure, more), the drawings, and whether a hole goes with it.
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
        """Whether a field was refused."""
        return any(f.error for f in self.fields)


def cut_view(
    before: Mapping[str, str], given: Mapping[str, str], habit: str, eye: Eye, apart: bool
) -> CutView:
    """What a page shows of an address. Parameters: before, its keys as they stood before the change
    in it; given, with the change.

    What cannot be of it is said beside its field, and what stood before is drawn.
    """
    taken, fault = add_units(given, habit), None
    try:
        cut = read_cut(taken, habit)
    except InputError as error:
        fault = error
        try:
            cut = read_cut(add_units(before, habit), habit)
            taken = add_units(before, habit)
        except InputError:
            cut, taken = read_cut(START, habit), dict(START)
    part = given.get("part", "branch") if cut.of.hole and given.get("part") in PARTS else "branch"
    link = urlencode(link_of(cut, taken))
    return CutView(
        cut,
        cut_fields(cut, dict(given) if fault else {}, taken, fault, habit),
        link,
        _list_facts(cut, habit),
        draw_template_sheet(lay_flat(cut, part, habit), "screen"),
        draw_space(cut, eye, apart, habit),
        part,
        (("branch", "Tube end"), ("hole", cut.of.hole)) if cut.of.hole else (),
        _plan_link(cut),
    )


def draw_space_view(given: Mapping[str, str], habit: str, eye: Eye, apart: bool) -> Drawing:
    """The cut of an address in space alone. Raises InputError."""
    return draw_space(read_cut(add_units(given, habit), habit), eye, apart, habit)


def _list_facts(cut: Cut, habit: str) -> tuple[tuple[str, str, str], ...]:
    """What comes of a cut, in words."""
    low, high = ends_mm(cut)
    facts = [
        (
            "Long point",
            _format_fine(low, habit),
            f"from {cut.of.origin}. The blank is the centre line less this length",
        ),
        (
            "Deepest point",
            _format_fine(high, habit),
            f"the cut is {_format_fine(high - low, habit)} deep",
        ),
        ("Seam", length(seam_mm(cut)).text(habit), "round the outside"),
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
    """The query of a plan of the joint that a cut is for, "" where it is none."""
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
    """A tube of a frame in words: its name, how many, what its blank is sawn to, from deepest to
    deepest, and its ends.
    """

    name: str
    count: int
    blank: str
    short: str
    ends: str


class FrameView(Struct, frozen=True):
    """A frame as a page shows it: what was typed by row, the members that could be read and each in
    words; faults by row and key; what tube it takes, in words.
    """

    rows: list[dict[str, str]]
    members: list[Member]
    shown: list[FrameRow]
    faults: dict[tuple[int, str], str]
    stock: list[str]
    left_out: str = ""

    @property
    def csv(self) -> str:
        """The cut list of what could be read, as CSV."""
        return frame_csv(self.members)


def build_frame_view(rows: Sequence[Mapping[str, str]], habit: str) -> FrameView:
    """The cut list of a frame as it was typed, each row on its own. Rows of nothing are left
    out.
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
            key: add_typed_unit(row[key], "length", habit)
            for key in ("diameter", "wall", "centre")
            if row[key].strip()
        }
        try:
            members.append(make_member(_member_data(row, habit), "", habit))
        except InputError as error:
            key = error.field.removesuffix("_mm")
            faults[i, key if key in MEMBER_KEYS else "name"] = format_sentence(error, habit)
    return FrameView(
        kept,
        members,
        [_build_frame_row(one, habit) for one in members],
        faults,
        [_format_stock(one, habit) for one in sum_stock(members)],
        left_out,
    )


def _build_frame_row(one: Member, habit: str) -> FrameRow:
    ends = "; ".join(format_end(cut, habit) for cut in (one.start, one.end))
    return FrameRow(
        one.name or "tube",
        one.count,
        _format_fine(one.blank_mm, habit),
        _format_fine(one.short_mm, habit),
        ends,
    )


def _format_stock(one: Stock, habit: str) -> str:
    size = f"{exact(one.diameter_mm).number(habit)} × {exact(one.wall_mm).text(habit)}"
    return (
        f"Size {size}: {length(one.length_mm).text(habit)} for {format_count(one.count, 'tube')}, "
        f"with {exact(KERF_MM).text(habit)} per saw cut."
    )


def _format_fine(mm: float, habit: str) -> str:
    """A length as it is sawn by: to a tenth of a millimetre or five thou."""
    return (
        f"{format_plain(mm, 1)} mm" if habit == "mm" else f"{format_plain(mm / MM_PER_INCH, 3)} in"
    )


def _member_data(row: Mapping[str, str], habit: str) -> dict[str, Json]:
    data: dict[str, Json] = {"name": row["name"].strip(), "start": row["start"], "end": row["end"]}
    for key in ("diameter", "wall", "centre"):
        if not row[key].strip():
            raise InputError(key, "", "is missing. Type a length such as 25 mm or 1 in")
        data[f"{key}_mm"] = parse_quantity(row[key], "length", key, habit)
    data["count"] = parse_quantity(row["count"] or "1", "plain", "count")
    return data


def read_frame_file(raw: bytes) -> list[dict[str, str]]:
    """The rows of a cut list's CSV as they are typed. Raises InputError."""
    try:
        members = read_frame_csv(raw.decode("utf-8-sig"))
    except UnicodeDecodeError as error:
        raise InputError("file", "it", "is not UTF-8 text. Save the list as CSV, UTF-8") from error
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


def calculate_shims(text: str, habit: str) -> list[tuple[str, str]]:
    """Each diameter and the shim under it, in words. Raises InputError."""
    found = read_diameters(text, habit)
    return [
        (exact(d).text(habit), exact(s).text(habit) if s else "none")
        for d, s in zip(found, shims_mm(found), strict=True)
    ]
