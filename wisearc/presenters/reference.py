"""The reference tables as rows of words, in either unit habit."""

from __future__ import annotations

from msgspec import Struct

from ..core import catalogue
from ..core.physics.chemistry import cr_eq, ferrite_pct, ni_eq, pren
from ..core.physics.gas import flow_l_min
from ..core.plan.shielding.gas import REYNOLDS
from ..core.plan.torch.front_end import bore_mm
from ..core.quantities import MM_PER_INCH, Quantity, flow, length, plain
from ..core.sources import short_mark, title

_ELEMENTS = ("C", "Mn", "Si", "Cr", "Ni", "Mo", "N")
_NONE = "–"
_PRACTICE = "common practice, no source"


class Table(Struct, frozen=True):
    """A table: key, title, heads, rows of words, mark and source in words."""

    key: str
    title: str
    heads: list[str]
    rows: list[list[str]]
    mark: str
    source: str


def reference_tables(habit: str = "mm") -> list[Table]:
    """Every table, in the order of the work."""
    return [
        _gauges(habit),
        _metals(),
        _rods(),
        _pairs(),
        _tungsten(habit),
        _cups(habit),
        _joints(),
        _pulses(),
        _tints(habit),
        _causes(),
    ]


def _from(*works: str) -> str:
    return "; ".join(title(work, "published") for work in works)


def _gauges(habit: str) -> Table:
    scales = catalogue.gauge_scales().values()

    def cell(inches: dict[str, float], number: int) -> str:
        return (
            length(inches[str(number)] * MM_PER_INCH).text(habit)
            if str(number) in inches
            else _NONE
        )

    numbers = sorted({int(n) for s in scales for n in s.inches})
    rows = [[f"{n} ga", *(cell(s.inches, n) for s in scales)] for n in numbers]
    sources = "; ".join(title(s.source, s.mark) for s in scales)
    return Table(
        "gauges",
        "Gauges: four scales",
        ["Gauge", *(s.label for s in scales)],
        rows,
        "published",
        sources,
    )


def _analysis(analysis: dict[str, float]) -> list[str]:
    cells = [plain(analysis[e], 3) if e in analysis else _NONE for e in _ELEMENTS]
    rest = ", ".join(f"{e} {plain(v, 2)}" for e, v in analysis.items() if e not in _ELEMENTS)
    return [*cells, rest or _NONE]


def _metals() -> Table:
    rows = [
        [
            m.name,
            *_analysis(m.analysis),
            plain(pren(m.analysis), 1) if m.stainless else _NONE,
            m.note,
        ]
        for m in catalogue.metals().values()
    ]
    heads = ["Metal", *_ELEMENTS, "other", "pitting number", "use"]
    return Table(
        "metals", "Metals: typical analysis, %", heads, rows, "published", _from("astm-a240")
    )


def _rods() -> Table:
    rows = []
    for rod in catalogue.rods().values():
        stainless = rod.kind == "stainless"
        reckoned = stainless and rod.group in ("austenitic", "fully-austenitic", "high-ferrite")
        ferrite = f"{ferrite_pct(rod.analysis):.0f} %" if reckoned else _NONE
        equivalents = (
            f"{cr_eq(rod.analysis):.1f} / {ni_eq(rod.analysis):.1f}" if stainless else _NONE
        )
        price = f"{plain(rod.relative_cost, 1)} ×"
        rows.append([rod.key, *_analysis(rod.analysis), equivalents, ferrite, price, rod.note])
    heads = [
        "Rod",
        *_ELEMENTS,
        "other",
        "Creq / Nieq",
        "undiluted ferrite",
        "price (estimate)",
        "use",
    ]
    return Table("rods", "Rods: typical analysis, %", heads, rows, "published", _from("aws-a5.9"))


def _pairs() -> Table:
    rows = [
        [
            f"{' or '.join(p.a)} to {' or '.join(p.b)}",
            p.first,
            ", ".join(p.sound) or _NONE,
            p.why,
            short_mark(p.mark),
        ]
        for p in catalogue.filler_pairs()
    ]
    heads = ["Pair", "first choice", "also suitable", "why", "mark"]
    return Table("pairs", "Choice of rod", heads, rows, "published", _from("filler-charts"))


def _tungsten(habit: str) -> Table:
    def span(amps: tuple[float, float]) -> str:
        return f"{plain(amps[0])}–{plain(amps[1])} A"

    rows = [
        [
            length(t.diameter_mm).text(habit),
            f"{plain(t.included_angle_deg)}°",
            length(t.tip_flat_mm).text(habit),
            span(t.steady_a),
            span(t.pulsed_a),
        ]
        for t in catalogue.tips()
    ]
    rows += [[t.name, t.colour, _NONE, _NONE, t.note] for t in catalogue.tungsten_types().values()]
    heads = ["Diameter or type", "angle or colour", "flat", "steady", "in peaks, or note"]
    return Table(
        "tungsten",
        "Tungsten: tip and current; types",
        heads,
        rows,
        "published",
        _from("aws-c5.5", "iso-6848"),
    )


def _cups(habit: str) -> Table:
    rows = []
    for number, note in catalogue.cups().items():
        bore = bore_mm(number)
        flows = (
            flow(flow_l_min(re, bore)).text(habit)
            for re in (REYNOLDS["gas-lens", school] for school in ("full", "frugal"))
        )
        rows.append([f"no. {number}", length(bore).text(habit), *flows, note])
    heads = ["Cup", "bore", "full flow with a gas lens", "frugal", "use"]
    source = f"{title('jet-reynolds', 'estimate')} (flows); {_PRACTICE} (the rest)"
    return Table("cups", "Cups: bore and flow", heads, rows, "practice", source)


def _joints() -> Table:
    rows = [
        [
            k.name,
            f"× {plain(k.current_factor)}",
            f"{k.dilution * 100:.0f} %",
            f"{k.least_dilution * 100:.0f} %",
            "yes" if k.bare_fit else "no",
            k.note,
        ]
        for k in catalogue.joint_kinds().values()
    ]
    rows += [
        [
            p.name,
            f"× {plain(p.current_factor)}",
            _NONE,
            _NONE,
            _NONE,
            f"travel speed × {plain(p.speed_factor)}. {p.note}",
        ]
        for p in catalogue.positions().values()
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


def _pulses() -> Table:
    rows = []
    for s in catalogue.pulse_patterns().values():
        peak = "mean-matched" if s.peak_rule == "mean" else f"× {plain(s.peak_factor or 1)}"
        shares = (f"{plain(share)} %" if share else _NONE for share in (s.on_pct, s.background_pct))
        rows.append([s.name, plain(s.rate_pps, 1) if s.rate_pps else _NONE, *shares, peak, s.use])
    heads = ["Pulse pattern", "per second", "on", "background", "peak from unpulsed", "use"]
    return Table("pulses", "Pulse patterns", heads, rows, "practice", _PRACTICE)


def _tints(habit: str) -> Table:
    rows = [
        [
            tint.name,
            (
                Quantity(tint.from_c, "temperature").text(habit)
                if tint.from_c
                else "beyond"
                if tint.above
                else _NONE
            ),
            tint.colour,
        ]
        for tint in catalogue.tints().values()
    ]
    return Table(
        "tints",
        "Heat tints of 304-type sheet in air",
        ["Tint", "From", "Recorded as"],
        rows,
        "published",
        _from("heat-tint-tables"),
    )


def _causes() -> Table:
    """What each sign says of each cause: a point makes it e times as likely."""
    signs = catalogue.signs()

    def told(key: str, weight: float) -> str:
        words = (
            signs[key]
            .words.removesuffix(", {seen}, {planned} planned")
            .format(seen="…", planned="…")
        )
        return f"{words} {weight:+.1f}".replace("-", "−")

    rows = []
    for cause in catalogue.causes().values():
        by = {
            way: [told(k, w[0]) for k, w in cause.evidence.items() if (w[0] > 0) == way and w[0]]
            for way in (True, False)
        }
        missed = [told(k, w[1]) for k, w in cause.evidence.items() if w[1]]
        rows.append(
            [cause.name, *("; ".join(one) or _NONE for one in (by[True], by[False], missed))]
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
        title("reading-weights", "estimate"),
    )
