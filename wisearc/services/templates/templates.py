"""Cutting: a tube's end as it is asked for on a page, what comes of it, its template in every
format; frames and shims.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlencode

from ...core.errors import BadInput, OutOfRange, UnknownName
from ...core.plan.plan import Plan
from ...core.quantities import (
    MM_PER_INCH,
    counted,
    exact,
    length,
    parse_quantity,
    plain,
    typed_with_unit,
)
from ...core.schema import checks
from ...core.schema.entries import entries
from ...core.templates.cut import KINDS, Cut, ends_mm, knife_edged, make_cut, seam_mm
from ...core.templates.frame import (
    KERF_MM,
    MOST_MEMBERS,
    Member,
    Stock,
    end_text,
    end_words,
    make_member,
    read_diameters,
    shims_mm,
    stock_of,
)
from ...core.templates.template import PARTS, flat
from ...drawings.canvas import Drawing
from ...drawings.templates.space import Eye as Eye
from ...drawings.templates.space import eye_of as eye_of
from ...drawings.templates.space import space
from ...drawings.templates.template_sheet import template_sheet
from ...formats.templates.cut_csv import cut_csv, frame_csv, read_frame_csv
from ...formats.templates.template_dxf import template_dxf
from ...formats.templates.template_pdf import PAPERS, template_pdf

FORMATS = {
    "svg": "image/svg+xml",
    "dxf": "image/vnd.dxf",
    "pdf": "application/pdf",
    "csv": "text/csv; charset=utf-8",
}
# the address's key of each field of a cut
KEYS = {key: key.removesuffix("_mm").removesuffix("_deg") for key in entries(Cut)}
START = {"kind": "cope", "branch": "25 mm", "wall": "1.2 mm", "run": "51 mm", "angle": "45"}
ON_RUN = ("run_mm", "offset_mm")
LONGEST_ROW = 80
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


@dataclass(frozen=True)
class CutField:
    """A field of a cut's form: its key in the address, label, unit, options (value, words, note),
    what stands in it, why that was refused.
    """

    key: str
    label: str
    unit: str
    options: tuple[tuple[str, str, str], ...]
    text: str
    fault: str = ""


@dataclass(frozen=True)
class CutView:
    """All that a page of a cut shows: the cut, its fields, its link, what comes of it (label,
    figure, more), the drawings, and whether a hole goes with it.
    """

    cut: Cut
    fields: tuple[CutField, ...]
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
        return any(f.fault for f in self.fields)


def read_cut(given: Mapping[str, str], habit: str) -> Cut:
    """The cut of an address's keys, figures as people type them. Raises BadInput naming the key of
    `Cut`.
    """
    data: dict[str, Any] = {}
    for key, declared in entries(Cut).items():
        text = given.get(KEYS[key], "").strip()
        if text == "" or (
            key in ON_RUN and not KINDS.get(given.get("kind", "cope"), KINDS["cope"]).on_run
        ):
            continue
        data[key] = (
            _figure(text, declared.quantity, key, habit) if declared.kind == "number" else text
        )
    return make_cut(data)


def _figure(text: str, quantity: str, key: str, habit: str) -> float:
    if quantity == "length" and text[:1] in ("-", "−"):
        return -parse_quantity(text[1:].strip(), quantity, key, habit)
    return parse_quantity(text, quantity, key, habit)


def in_units(given: Mapping[str, str], habit: str) -> dict[str, str]:
    """An address's keys with a unit to each bare length, so that they mean the same in either
    habit.
    """
    table = {KEYS[key]: declared for key, declared in entries(Cut).items()}
    found = {}
    for key, text in given.items():
        declared = table.get(key)
        found[key] = (
            typed_with_unit(text, "length", habit)
            if declared and declared.quantity == "length" and text.strip()
            else text
        )
    return found


def cut_view(
    before: Mapping[str, str], given: Mapping[str, str], habit: str, eye: Eye, apart: bool
) -> CutView:
    """What a page shows of an address. Parameters: before, its keys as they stood before the change
    in it; given, with the change.

    What cannot be of it is said beside its field, and what stood before is drawn.
    """
    taken, fault = in_units(given, habit), None
    try:
        cut = read_cut(taken, habit)
    except BadInput as error:
        fault = error
        try:
            cut = read_cut(in_units(before, habit), habit)
            taken = in_units(before, habit)
        except BadInput:
            cut, taken = read_cut(START, habit), dict(START)
    part = given.get("part", "branch") if cut.of.hole and given.get("part") in PARTS else "branch"
    link = urlencode(link_of(cut, taken))
    return CutView(
        cut,
        _fields(cut, dict(given) if fault else {}, taken, fault, habit),
        link,
        _facts(cut, habit),
        template_sheet(flat(cut, part, habit), "screen"),
        space(cut, eye, apart, habit),
        part,
        (("branch", "the tube's end"), ("hole", cut.of.hole)) if cut.of.hole else (),
        _plan_link(cut),
    )


def space_view(given: Mapping[str, str], habit: str, eye: Eye, apart: bool) -> Drawing:
    """The cut of an address in space alone. Raises BadInput."""
    return space(read_cut(in_units(given, habit), habit), eye, apart, habit)


def link_of(cut: Cut, given: Mapping[str, str]) -> list[tuple[str, str]]:
    """The pairs of a cut's address, as they were typed; what is as usual is left out."""
    return [
        (KEYS[key], given[KEYS[key]])
        for key in entries(Cut)
        if given.get(KEYS[key], "").strip() and not (key in ON_RUN and not cut.of.on_run)
    ]


def _fields(
    cut: Cut, typed: Mapping[str, str], taken: Mapping[str, str], fault: BadInput | None, habit: str
) -> tuple[CutField, ...]:
    found = []
    kind = KINDS.get(typed.get("kind", ""), cut.of)
    for key, declared in entries(Cut).items():
        if key == "kind" or (key in ON_RUN and not kind.on_run):
            continue
        name = KEYS[key]
        options = tuple(
            (value, option.label, option.note) for value, option in declared.allowed().items()
        )
        text = typed.get(name, taken.get(name, "")) if not options else str(getattr(cut, key))
        if not options and name not in typed:
            text = _as_habit(text, getattr(cut, key), declared.quantity, habit)
        label = f"{kind.angle[0].upper()}{kind.angle[1:]}" if key == "angle_deg" else declared.label
        if not kind.on_run and key == "branch_mm":
            label = "Tube, outside"
        wrong = _sentence(fault, habit) if fault is not None and fault.field == key else ""
        found.append(CutField(name, label, "°" if key == "angle_deg" else "", options, text, wrong))
    if fault is not None and not any(f.fault for f in found):
        found[0] = CutField(
            found[0].key,
            found[0].label,
            found[0].unit,
            found[0].options,
            found[0].text,
            fault.sentence,
        )
    return tuple(found)


def _as_habit(text: str, value: Any, quantity: str, habit: str) -> str:
    """A figure as its field shows it: as it was typed, but for a length that was typed in the other
    habit's unit, or not at all.
    """
    if quantity != "length" or value is None:
        return text or (f"{value:g}" if isinstance(value, float) else "")
    others = ("mm", "cm") if habit == "in" else ("in", "inch", "inches", '"', "thou")
    return exact(value).text(habit) if not text or text.endswith(others) else text


def _sentence(fault: BadInput, habit: str) -> str:
    """Why a figure was refused, its limits in a habit."""
    if isinstance(fault, OutOfRange) and fault.field.endswith("_mm"):
        return f"It must be from {exact(fault.low).text(habit)} to {exact(fault.high).text(habit)}."
    return fault.beside(habit)


def _facts(cut: Cut, habit: str) -> tuple[tuple[str, str, str], ...]:
    """What comes of a cut, in words."""
    low, high = ends_mm(cut)
    facts = [
        (
            "Long point",
            _fine(low, habit),
            f"from {cut.of.origin}; the blank is the centre line less this",
        ),
        ("Deepest", _fine(high, habit), f"so the cut is {_fine(high - low, habit)} deep"),
        ("Seam", length(seam_mm(cut)).text(habit), "round the outside"),
    ]
    if knife_edged(cut):
        facts.append(
            (
                "Ears",
                "knife edge",
                "dress them back to the wall before you tack: so thin they go first",
            )
        )
    return tuple(facts)


def template_file(
    cut: Cut, kind: str, part: str = "branch", habit: str = "mm", paper: str = "a4"
) -> bytes:
    """A template in a format (svg, dxf, pdf, csv). Raises UnknownName, BadInput."""
    if kind not in FORMATS:
        raise UnknownName("format", kind, list(FORMATS))
    checks.name("part", part, PARTS)
    if kind == "csv":
        return cut_csv(cut, part).encode()
    laid = flat(cut, part, habit)
    if kind == "pdf":
        return template_pdf(laid, paper, habit)
    return (template_dxf(laid) if kind == "dxf" else template_sheet(laid).svg).encode()


def papers() -> tuple[str, ...]:
    """The papers a template is printed on."""
    return tuple(PAPERS)


def cut_link(plan: Plan) -> str:
    """The address's query of the cut that a plan's first tube takes, "" where its end is square."""
    first, second = plan.section.sides[0], plan.section.sides[1]
    if not plan.section.all_round or first.diameter_mm is None:
        return ""
    given = {
        "branch": f"{first.diameter_mm:g} mm",
        "wall": f"{first.thickness_mm:g} mm",
        "angle": f"{plan.section.angle_deg:g}",
    }
    if plan.section.coped and second.diameter_mm is not None:
        return urlencode({"kind": "cope", **given, "run": f"{second.diameter_mm:g} mm"})
    return "" if second.diameter_mm is not None else urlencode({"kind": "plate", **given})


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


@dataclass(frozen=True)
class FrameRow:
    """A tube of a frame in words: its name, how many, what its blank is sawn to, from deepest to
    deepest, and its ends.
    """

    name: str
    count: int
    blank: str
    short: str
    ends: str


@dataclass(frozen=True)
class FrameView:
    """A frame as a page shows it: what was typed by row, the members that could be read and each in
    words; faults by row and key; what tube it takes, in words.
    """

    rows: list[dict[str, str]]
    members: list[Member]
    shown: list[FrameRow]
    faults: dict[tuple[int, str], str]
    stock: list[str]
    left_out: str = ""


def frame_view(rows: Sequence[Mapping[str, str]], habit: str) -> FrameView:
    """The cut list of a frame as it was typed, each row on its own. Rows of nothing are left
    out.
    """
    kept = [
        {key: str(row.get(key, ""))[:LONGEST_ROW] for key in MEMBER_KEYS}
        for row in rows
        if any(str(v).strip() for v in row.values())
    ]
    left_out = (
        f"A list holds {MOST_MEMBERS} tubes at most; those after them were left out."
        if len(kept) > MOST_MEMBERS
        else ""
    )
    kept = kept[:MOST_MEMBERS]
    members: list[Member] = []
    faults = {}
    for i, row in enumerate(kept):
        row |= {
            key: typed_with_unit(row[key], "length", habit)
            for key in ("diameter", "wall", "centre")
            if row[key].strip()
        }
        try:
            members.append(make_member(_member_data(row, habit), "", habit))
        except BadInput as error:
            key = error.field.removesuffix("_mm")
            faults[i, key if key in MEMBER_KEYS else "name"] = _sentence(error, habit)
    return FrameView(
        kept,
        members,
        [_frame_row(one, habit) for one in members],
        faults,
        [_stock_words(one, habit) for one in stock_of(members)],
        left_out,
    )


def _frame_row(one: Member, habit: str) -> FrameRow:
    ends = "; ".join(end_words(cut, habit) for cut in (one.start, one.end))
    return FrameRow(
        one.name or "tube", one.count, _fine(one.blank_mm, habit), _fine(one.short_mm, habit), ends
    )


def _stock_words(one: Stock, habit: str) -> str:
    size = f"{exact(one.diameter_mm).number(habit)} × {exact(one.wall_mm).text(habit)}"
    return (
        f"Of {size}: {length(one.length_mm).text(habit)} for {counted(one.count, 'tube')}, with"
        f" {exact(KERF_MM).text(habit)} for each saw cut."
    )


def _fine(mm: float, habit: str) -> str:
    """A length as it is sawn by: to a tenth of a millimetre or five thou."""
    return f"{plain(mm, 1)} mm" if habit == "mm" else f"{plain(mm / MM_PER_INCH, 3)} in"


def _member_data(row: Mapping[str, str], habit: str) -> dict[str, Any]:
    data: dict[str, Any] = {"name": row["name"].strip(), "start": row["start"], "end": row["end"]}
    for key in ("diameter", "wall", "centre"):
        if not row[key].strip():
            raise BadInput(key, "", "is missing; type a length such as 25 mm or 1 in")
        data[f"{key}_mm"] = parse_quantity(row[key], "length", key, habit)
    data["count"] = parse_quantity(row["count"] or "1", "plain", "count")
    return data


def frame_file(view: FrameView) -> str:
    """The cut list of what could be read, as CSV."""
    return frame_csv(view.members)


def frame_of_file(raw: bytes) -> list[dict[str, str]]:
    """The rows of a cut list's CSV as they are typed. Raises BadInput."""
    try:
        members = read_frame_csv(raw.decode("utf-8-sig"))
    except UnicodeDecodeError as error:
        raise BadInput("file", "it", "is not UTF-8 text; save the list as CSV, UTF-8") from error
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


def shims(text: str, habit: str) -> list[tuple[str, str]]:
    """Each diameter and the shim under it, in words. Raises BadInput."""
    found = read_diameters(text, habit)
    return [
        (exact(d).text(habit), exact(s).text(habit) if s else "none")
        for d, s in zip(found, shims_mm(found), strict=True)
    ]
