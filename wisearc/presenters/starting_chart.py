"""The starting chart in words: for the page, as CSV and as PDF."""

from __future__ import annotations

from msgspec import Struct

from ..core import catalogue
from ..core.joint.joint import Joint
from ..core.quantities import Quantity
from ..formats.chart_files import chart_csv, chart_pdf
from ..formats.plan_dial import build_dial
from ..services.planning.starting_chart import ChartCell, ChartRow, StartingChart

DEFERS = (
    "Starting values for clean, close-fitting sheet, flat, 300 mm long. Weld a coupon and judge "
    "the bead. Codes and qualified procedures come first."
)
STOP = "Stop: open the plan"


class CellText(Struct, frozen=True):
    """A cell in words.

    Attributes:
        joint: The joint, or None if it cannot be planned.
        amps: The setting, with "peak" for a pulse.
        rod: The rod, or "no rod".
        torch: Tungsten, and cup with its front end.
        gas: Argon flow and post-flow.
        stop: The text of a stop, or "".
    """

    joint: Joint | None
    amps: str = ""
    rod: str = ""
    torch: tuple[str, str] = ("", "")
    gas: tuple[str, str] = ("", "")
    stop: str = ""

    @property
    def lines(self) -> tuple[str, ...]:
        """Return its lines, the setting first."""
        if self.stop:
            return (self.stop,)
        (tungsten, cup), (flow, after) = self.torch, self.gas
        return (self.amps, self.rod, f"{tungsten}, cup {cup}", f"{flow}, post-flow {after}")


class ChartText(Struct, frozen=True):
    """The chart in words: title, names of the joints, and rows of a size with its cells."""

    title: str
    joints: tuple[str, ...]
    rows: tuple[tuple[str, tuple[CellText, ...]], ...]


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
        f"{setting.text} peak" if cell.plan.pulse.pulsed else setting.text,
        f"{rod.text} {rod.beside}" if cell.plan.filler.rod else "no rod",
        (figures["tungsten"].text, f"{cup.text} {cup.beside.partition(',')[0]}"),
        (figures["gas"].text, figures["after"].text),
    )


def write_chart_csv(text: ChartText) -> str:
    """Return the chart as CSV.

    Args:
        text: The chart in words.
    """
    return chart_csv(
        [
            (size, joint, cell.amps, cell.rod, *cell.torch, *cell.gas, cell.stop)
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
    return chart_pdf(text.title, text.joints, rows, DEFERS, paper)
