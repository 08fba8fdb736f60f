"""The reference tables as rows of words, in either unit habit."""

from __future__ import annotations

from dataclasses import dataclass

from ..core import catalogue
from ..core.chemistry import cr_eq, ferrite_pct, ni_eq, pren
from ..core.gas import bore_mm, flow_l_min
from ..core.quantities import MM_PER_INCH, flow, length, plain
from ..core.sources import short_mark, title

_ELEMENTS = ("C", "Mn", "Si", "Cr", "Ni", "Mo", "N")


@dataclass(frozen=True)
class Table:
    """A table: key, title, heads, rows of words, mark and source in words."""

    key: str
    title: str
    heads: list[str]
    rows: list[list[str]]
    mark: str
    source: str


def reference_tables(habit: str = "mm") -> list[Table]:
    """Every table, in the order of the work."""
    return [_gauges(habit), _metals(), _rods(), _pairs(), _tungsten(habit), _cups(habit), _joints(), _pulses()]


def _gauges(habit: str) -> Table:
    scales = catalogue.gauge_scales()
    numbers = sorted({int(n) for s in scales.values() for n in s.inches})
    rows = [
        [
            f"{n} ga",
            *(
                length(s.inches[str(n)] * MM_PER_INCH).text(habit) if str(n) in s.inches else "–"
                for s in scales.values()
            ),
        ]
        for n in numbers
    ]
    sources = "; ".join(title(s.source, s.mark) for s in scales.values())
    return Table(
        "gauges", "Gauges: four scales", ["Gauge", *(s.label for s in scales.values())], rows, "published", sources
    )


def _analysis(analysis: dict[str, float]) -> list[str]:
    cells = [plain(analysis[e], 3) if e in analysis else "–" for e in _ELEMENTS]
    rest = ", ".join(f"{e} {plain(v, 2)}" for e, v in analysis.items() if e not in _ELEMENTS)
    return [*cells, rest or "–"]


def _metals() -> Table:
    rows = [
        [m.name, *_analysis(m.analysis), plain(pren(m.analysis), 1) if m.stainless else "–", m.note]
        for m in catalogue.metals().values()
    ]
    return Table(
        "metals",
        "Metals: typical analysis, %",
        ["Metal", *_ELEMENTS, "other", "pitting no.", "what for"],
        rows,
        "published",
        title("astm-a240", "published"),
    )


def _rods() -> Table:
    rows = []
    for rod in catalogue.rods().values():
        stainless = rod.kind == "stainless"
        ferrite = (
            f"{ferrite_pct(rod.analysis):.0f} %"
            if stainless and rod.group in ("austenitic", "fully-austenitic", "high-ferrite")
            else "–"
        )
        equivalents = f"{cr_eq(rod.analysis):.1f} / {ni_eq(rod.analysis):.1f}" if stainless else "–"
        rows.append(
            [rod.key, *_analysis(rod.analysis), equivalents, ferrite, f"{plain(rod.relative_cost, 1)} ×", rod.note]
        )
    return Table(
        "rods",
        "Rods: typical analysis, %",
        ["Rod", *_ELEMENTS, "other", "Creq / Nieq", "ferrite undiluted", "price (estimate)", "what for"],
        rows,
        "published",
        title("aws-a5.9", "published"),
    )


def _pairs() -> Table:
    rows = [
        [f"{' or '.join(p.a)} to {' or '.join(p.b)}", p.first, ", ".join(p.sound) or "–", p.why, short_mark(p.mark)]
        for p in catalogue.filler_pairs()
    ]
    return Table(
        "pairs",
        "Which rod",
        ["Pair", "first choice", "also sound", "why", "mark"],
        rows,
        "published",
        title("filler-charts", "published"),
    )


def _tungsten(habit: str) -> Table:
    rows = [
        [
            length(t.diameter_mm).text(habit),
            f"{plain(t.included_angle_deg)}°",
            length(t.tip_flat_mm).text(habit),
            f"{plain(t.steady_a[0])}–{plain(t.steady_a[1])} A",
            f"{plain(t.pulsed_a[0])}–{plain(t.pulsed_a[1])} A",
        ]
        for t in catalogue.tips()
    ]
    rows += [[t.name, t.colour, "–", "–", t.note] for t in catalogue.tungsten_types().values()]
    return Table(
        "tungsten",
        "Tungsten: tip and current; types",
        ["Diameter or type", "angle or colour", "flat", "steady", "pulsed, or note"],
        rows,
        "published",
        title("aws-c5.5", "published") + "; " + title("iso-6848", "published"),
    )


def _cups(habit: str) -> Table:
    rows = []
    for number, note in catalogue.cups().items():
        bore = bore_mm(number)
        rows.append(
            [
                f"no. {number}",
                length(bore).text(habit),
                flow(flow_l_min(1200, bore)).text(habit),
                flow(flow_l_min(800, bore)).text(habit),
                note,
            ]
        )
    return Table(
        "cups",
        "Cups: bore and flow",
        ["Cup", "bore", "full flow with a lens", "frugal", "what for"],
        rows,
        "practice",
        title("jet-reynolds", "estimate") + " (flows); common practice, no source (the rest)",
    )


def _joints() -> Table:
    rows = [
        [
            k.name,
            f"× {plain(k.current_factor)}",
            f"{k.dilution * 100:.0f} %",
            f"× {plain(k.speed_factor)}",
            "yes" if k.bare_fit else "no",
            k.note,
        ]
        for k in catalogue.joint_kinds().values()
    ]
    rows += [
        [p.name, f"× {plain(p.current_factor)}", "–", f"× {plain(p.speed_factor)}", "–", p.note]
        for p in catalogue.positions().values()
    ]
    return Table(
        "joints",
        "Joints and positions",
        ["Joint or position", "current", "dilution with rod", "travel", "bare-fit", "note"],
        rows,
        "practice",
        "common practice, no source; dilution and travel: estimates",
    )


def _pulses() -> Table:
    rows = []
    for s in catalogue.pulse_patterns().values():
        peak = "mean-matched" if s.peak_rule == "mean" else f"× {plain(s.peak_factor or 1)}"
        rows.append(
            [
                s.name,
                plain(s.rate_pps, 1) if s.rate_pps else "–",
                f"{plain(s.on_pct)} %" if s.on_pct else "–",
                f"{plain(s.background_pct)} %" if s.background_pct else "–",
                peak,
                s.use,
            ]
        )
    return Table(
        "pulses",
        "Patterns of the pulse",
        ["Pattern", "a second", "on", "background", "peak from steady", "what for"],
        rows,
        "practice",
        "common practice, no source",
    )
