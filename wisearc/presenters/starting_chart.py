"""The starting chart in words: for the page, as CSV and as PDF."""

from __future__ import annotations

from msgspec import Struct

from ..core import catalogue
from ..core.joint.joint import Joint
from ..core.quantities import Quantity
from ..formats.chart_files import chart_csv, chart_pdf
from ..formats.plan_dial import DialFigure, build_dial
from ..services.planning.starting_chart import LENGTHS, ChartCell, ChartRow, StartingChart

DEFERS = (
    "Starting values for clean, close-fitting sheet, flat, {long} long. Weld a coupon and judge "
    "the bead. Codes and qualified procedures come first."
)
SETTINGS = (
    "The large figure is the setting. Below it is the current of the arc, if a pedal holds back "
    "the rest, or the pulse frequency, peak time and background of a peak."
)
STOP = "Stop: open the plan"


class CellText(Struct, frozen=True):
    """A cell in words.

    Attributes:
        joint: The joint, or None if it cannot be planned.
        amps: The setting, with "peak" for a pulse.
        arc: The current of the arc, if a pedal or slide holds back the rest, or "".
        pulse: Frequency, peak time and background of the pulse, or "".
        rod: The rod, or "no rod".
        torch: Tungsten, and cup with its front end.
        gas: Argon flow and post-flow.
        stop: The text of a stop, or "".
    """

    joint: Joint | None
    amps: str = ""
    arc: str = ""
    pulse: str = ""
    rod: str = ""
    torch: tuple[str, str] = ("", "")
    gas: tuple[str, str] = ("", "")
    stop: str = ""

    @property
    def currents(self) -> tuple[str, str, str]:
        """Return the setting, the current of the arc and the pulse."""
        return self.amps, self.arc, self.pulse

    @property
    def lines(self) -> tuple[str, ...]:
        """Return its lines, the setting first."""
        if self.stop:
            return (self.stop,)
        (tungsten, cup), (flow, after) = self.torch, self.gas
        below = [text for text in (self.arc, self.pulse) if text]
        return (self.amps, *below, self.rod, f"{tungsten}, cup {cup}", f"{flow}, post-flow {after}")


class ChartText(Struct, frozen=True):
    """The chart in words: title, names of the joints, rows of a size with its cells, and limits."""

    title: str
    joints: tuple[str, ...]
    rows: tuple[tuple[str, tuple[CellText, ...]], ...]
    limits: str


def describe_chart(chart: StartingChart) -> ChartText:
    """Return the chart in words.

    Args:
        chart: The chart.
    """
    kinds = catalogue.load_joint_kinds()
    scale = f", {catalogue.load_gauge_scales()[chart.scale].label} gauge" if chart.scale else ""
    return ChartText(
        f"Starting chart: {catalogue.load_metals()[chart.metal].name}{scale}",
        tuple(kinds[key].name for key in chart.joints),
        tuple(
            (
                _describe_size(row, chart.units),
                tuple(_describe_cell(cell, chart.units) for cell in row.cells),
            )
            for row in chart.rows
        ),
        DEFERS.format(long=LENGTHS[chart.units]),
    )


def _describe_size(row: ChartRow, units: str) -> str:
    size = Quantity(row.thickness_mm, "length").text(units)
    return f"{row.gauge} ga, {size}" if row.gauge else size


def _describe_cell(cell: ChartCell, units: str) -> CellText:
    if cell.plan is None:
        return CellText(None, stop=cell.error)
    if cell.plan.stopped:
        return CellText(cell.joint, stop=STOP)
    figures = {figure.key: figure for figure in build_dial(cell.plan, units).figures}
    rod, cup, setting = figures["rod"], figures["cup"], figures["set"]
    return CellText(
        cell.joint,
        f"{setting.text} peak" if cell.plan.slopes.at_peak else setting.text,
        "" if cell.plan.slopes.at_peak else setting.beside,
        _describe_pulse(figures),
        f"{rod.text} {rod.beside}" if cell.plan.filler.rod else "no rod",
        (figures["tungsten"].text, f"{cup.text} {cup.beside.partition(',')[0]}"),
        (figures["gas"].text, figures["after"].text),
    )


def _describe_pulse(figures: dict[str, DialFigure]) -> str:
    """Return the pulse, without which the setting would burn through, or ""."""
    if "pulse" in figures:
        return figures["pulse"].beside
    rate, peak, background = (figures[key].text for key in ("rate", "on", "background"))
    return f"{rate}, {peak}, {background}"


def write_chart_csv(text: ChartText) -> str:
    """Return the chart as CSV.

    Args:
        text: The chart in words.
    """
    return chart_csv(
        [
            (
                size,
                joint,
                *cell.currents,
                cell.rod,
                *cell.torch,
                *cell.gas,
                cell.stop,
            )
            for size, cells in text.rows
            for joint, cell in zip(text.joints, cells, strict=True)
        ]
    )


def write_chart_pdf(text: ChartText, paper: str) -> bytes:
    """Return the chart as PDF.

    Args:
        text: The chart in words.
        paper: The paper.

    Raises:
        UnknownName: The paper is unknown.
    """
    rows = [(size, [cell.lines for cell in cells]) for size, cells in text.rows]
    return chart_pdf(text.title, text.joints, rows, f"{SETTINGS} {text.limits}", paper)
