"""The reference tables as rows of text, in both unit systems."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from ..core import catalogue
from ..core.physics.chemistry import calculate_cr_eq, calculate_ni_eq, calculate_pren, ferrite_pct
from ..core.physics.gas import flow_l_min
from ..core.plan.shielding.gas import REYNOLDS
from ..core.plan.torch.front_end import bore_mm
from ..core.quantities import MM_PER_INCH, Quantity, flow, format_plain, length
from ..core.sources import format_short_mark, format_source

_ELEMENTS = ("C", "Mn", "Si", "Cr", "Ni", "Mo", "N")
_NONE = "–"
_PRACTICE = "common practice, no source"


class Table(Struct, frozen=True):
    """A table: key, title, headings, rows, evidence level and source."""

    key: str
    title: str
    heads: list[str]
    rows: list[list[str]]
    mark: str
    source: str


def build_reference_tables(units: str = "mm") -> list[Table]:
    """Return every table, in the order of the work."""
    return [
        _build_gauges(units),
        _build_metals(),
        _build_rods(),
        _build_pairs(),
        _build_tungsten(units),
        _build_cups(units),
        _build_joints(),
        _build_pulses(),
        _build_tints(units),
        _build_causes(),
    ]


def _describe_origin(*works: str) -> str:
    return "; ".join(format_source(key, "published") for key in works)


def _build_gauges(units: str) -> Table:
    scales = catalogue.load_gauge_scales().values()

    def cell(inches: dict[str, float], number: int) -> str:
        return (
            length(inches[str(number)] * MM_PER_INCH).text(units)
            if str(number) in inches
            else _NONE
        )

    numbers = sorted({int(n) for s in scales for n in s.inches})
    rows = [[f"{n} ga", *(cell(s.inches, n) for s in scales)] for n in numbers]
    sources = "; ".join(format_source(s.source, s.mark) for s in scales)
    return Table(
        "gauges",
        "Gauges: four scales",
        ["Gauge", *(s.label for s in scales)],
        rows,
        "published",
        sources,
    )


def _format_analysis(analysis: dict[str, float]) -> list[str]:
    cells = [format_plain(analysis[e], 3) if e in analysis else _NONE for e in _ELEMENTS]
    rest = ", ".join(f"{e} {format_plain(v, 2)}" for e, v in analysis.items() if e not in _ELEMENTS)
    return [*cells, rest or _NONE]


def _build_metals() -> Table:
    rows = [
        [
            m.name,
            *_format_analysis(m.analysis),
            format_plain(calculate_pren(m.analysis), 1) if m.stainless else _NONE,
            m.note,
        ]
        for m in catalogue.load_metals().values()
    ]
    heads = ["Metal", *_ELEMENTS, "other", "pitting number", "use"]
    return Table(
        "metals",
        "Metals: typical analysis, %",
        heads,
        rows,
        "published",
        _describe_origin("astm-a240"),
    )


def _build_rods() -> Table:
    rows = []
    for rod in catalogue.load_rods().values():
        stainless = rod.kind == "stainless"
        is_calculated = stainless and rod.group in (
            "austenitic",
            "fully-austenitic",
            "high-ferrite",
        )
        ferrite = f"{ferrite_pct(rod.analysis):.0f} %" if is_calculated else _NONE
        equivalents = (
            f"{calculate_cr_eq(rod.analysis):.1f} / {calculate_ni_eq(rod.analysis):.1f}"
            if stainless
            else _NONE
        )
        price = f"{format_plain(rod.relative_cost, 1)} ×"
        rows.append(
            [rod.key, *_format_analysis(rod.analysis), equivalents, ferrite, price, rod.note]
        )
    heads = [
        "Rod",
        *_ELEMENTS,
        "other",
        "Creq / Nieq",
        "undiluted ferrite",
        "price (estimate)",
        "use",
    ]
    return Table(
        "rods", "Rods: typical analysis, %", heads, rows, "published", _describe_origin("aws-a5.9")
    )


def _name_metals(keys: Sequence[str]) -> str:
    metals = catalogue.load_metals()
    return " or ".join(metals[key].name if key in metals else key for key in keys)


def _build_pairs() -> Table:
    rows = [
        [
            f"{_name_metals(p.a)} to {_name_metals(p.b)}",
            p.first,
            ", ".join(p.sound) or _NONE,
            p.why,
            format_short_mark(p.mark),
        ]
        for p in catalogue.load_filler_pairs()
    ]
    heads = ["Pair", "first choice", "also suitable", "why", "mark"]
    return Table(
        "pairs", "Choice of rod", heads, rows, "published", _describe_origin("filler-charts")
    )


def _build_tungsten(units: str) -> Table:
    def span(amps: tuple[float, float]) -> str:
        return f"{format_plain(amps[0])}–{format_plain(amps[1])} A"

    rows = [
        [
            length(t.diameter_mm).text(units),
            f"{format_plain(t.included_angle_deg)}°",
            length(t.tip_flat_mm).text(units),
            span(t.steady_a),
            span(t.pulsed_a),
        ]
        for t in catalogue.load_tips()
    ]
    rows += [
        [t.name, t.colour, _NONE, _NONE, t.note] for t in catalogue.load_tungsten_types().values()
    ]
    heads = ["Diameter or type", "angle or colour", "flat", "steady", "in peaks, or note"]
    return Table(
        "tungsten",
        "Tungsten: tip and current; types",
        heads,
        rows,
        "published",
        _describe_origin("aws-c5.5", "iso-6848"),
    )


def _build_cups(units: str) -> Table:
    rows = []
    for number, note in catalogue.load_cups().items():
        bore = bore_mm(number)
        flows = (
            flow(flow_l_min(re, bore)).text(units)
            for re in (REYNOLDS["gas-lens", approach] for approach in ("full", "frugal"))
        )
        rows.append([f"no. {number}", length(bore).text(units), *flows, note])
    heads = ["Cup", "bore", "full flow with a gas lens", "frugal", "use"]
    source = f"{format_source('jet-reynolds', 'estimate')} (flows); {_PRACTICE} (the rest)"
    return Table("cups", "Cups: bore and flow", heads, rows, "practice", source)


def _build_joints() -> Table:
    rows = [
        [
            k.name,
            f"× {format_plain(k.current_factor)}",
            f"{k.dilution * 100:.0f} %",
            f"{k.least_dilution * 100:.0f} %",
            "yes" if k.bare_fit else "no",
            k.note,
        ]
        for k in catalogue.load_joint_kinds().values()
    ]
    rows += [
        [
            f"{p.name} ({', '.join(p.codes)})",
            f"× {format_plain(p.current_factor)}",
            _NONE,
            _NONE,
            _NONE,
            f"travel speed × {format_plain(p.speed_factor)}. {p.note}",
        ]
        for p in catalogue.load_positions().values()
    ]
    heads = [
        "Joint or position",
        "current",
        "dilution with rod",
        "minimum by feeding",
        "bare-fit",
        "note",
    ]
    return Table(
        "joints",
        "Joints and positions",
        heads,
        rows,
        "practice",
        f"{_PRACTICE}; dilution: estimates",
    )


def _build_pulses() -> Table:
    rows = []
    for s in catalogue.load_pulse_patterns().values():
        peak = "mean-matched" if s.peak_rule == "mean" else f"× {format_plain(s.peak_factor or 1)}"
        shares = (
            f"{format_plain(share)} %" if share else _NONE for share in (s.on_pct, s.background_pct)
        )
        rows.append(
            [s.name, format_plain(s.rate_pps, 1) if s.rate_pps else _NONE, *shares, peak, s.use]
        )
    heads = ["Pulse pattern", "per second", "on", "background", "peak from unpulsed", "use"]
    return Table("pulses", "Pulse patterns", heads, rows, "practice", _PRACTICE)


def _build_tints(units: str) -> Table:
    rows = [
        [
            tint.name,
            (
                Quantity(tint.from_c, "temperature").text(units)
                if tint.from_c
                else "beyond"
                if tint.above
                else _NONE
            ),
            tint.colour,
        ]
        for tint in catalogue.load_tints().values()
    ]
    return Table(
        "tints",
        "Heat tints of 304-type sheet in air",
        ["Tint", "From", "Recorded as"],
        rows,
        "published",
        _describe_origin("heat-tint-tables"),
    )


def _build_causes() -> Table:
    """Return the weight of each sign for each cause: one point multiplies the odds by e."""
    signs = catalogue.load_signs()

    def told(key: str, weight: float) -> str:
        text = (
            signs[key]
            .words.removesuffix(", {seen}, {planned} planned")
            .format(seen="…", planned="…")
        )
        return f"{text} {weight:+.1f}".replace("-", "−")

    rows = []
    for cause in catalogue.load_causes().values():
        by = {
            is_for: [
                told(k, w[0]) for k, w in cause.evidence.items() if (w[0] > 0) == is_for and w[0]
            ]
            for is_for in (True, False)
        }
        missed = [told(k, w[1]) for k, w in cause.evidence.items() if w[1]]
        rows.append(
            [cause.name, *("; ".join(texts) or _NONE for texts in (by[True], by[False], missed))]
        )
    heads = [
        "Likely cause",
        "supporting signs",
        "contrary signs",
        "missing signs",
    ]
    return Table(
        "causes",
        "Signs and causes",
        heads,
        rows,
        "estimate",
        format_source("reading-weights", "estimate"),
    )
