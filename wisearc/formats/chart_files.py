"""The starting chart as CSV and as a PDF for the wall."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence

from .templates.template_pdf import FONT, PT_MM, get_paper_mm, register_font

MARGIN_MM, TITLE_PT, HEAD_PT, AMPS_PT, FOOT_PT = 10.0, 18, 11, 15, 8
SPACE_MM = 2.0
# The largest text size with which the chart is one page.
TEXT_PTS = (8.5, 8.0, 7.5, 7.0, 6.5, 6.0)
HEADINGS = (
    "thickness",
    "joint",
    "setting",
    "arc",
    "pulse",
    "rod",
    "tungsten",
    "cup",
    "argon",
    "post_flow",
    "note",
)

# A row of a chart: its size, and the lines of each cell, the setting first.
Rows = Sequence[tuple[str, Sequence[tuple[str, ...]]]]


def chart_csv(lines: Sequence[Sequence[str]]) -> str:
    """Return the chart as CSV, one line for each joint and thickness.

    Args:
        lines: Cells of each line, in the order of HEADINGS.
    """
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(HEADINGS)
    writer.writerows(lines)
    return out.getvalue()


def chart_pdf(title: str, joints: Sequence[str], rows: Rows, foot: str, paper: str = "a4") -> bytes:
    """Return the chart as one landscape page.

    Args:
        title: Its title.
        joints: Names of the columns.
        rows: The rows.
        foot: Text at the foot.
        paper: The paper.

    Raises:
        UnknownName: The paper is unknown.
    """
    short_mm, long_mm = sorted(get_paper_mm(paper))
    page_mm = (long_mm, short_mm)
    chart, pages = b"", 0
    for text_pt in TEXT_PTS:
        chart, pages = _lay_out_chart(title, joints, rows, foot, page_mm, text_pt)
        if pages == 1:
            break
    return chart


def _lay_out_chart(
    title: str,
    joints: Sequence[str],
    rows: Rows,
    foot: str,
    page_mm: tuple[float, float],
    text_pt: float,
) -> tuple[bytes, int]:
    """Return the chart and its number of pages, with its text in a size."""
    from reportlab.lib import colors
    from reportlab.lib.styles import ParagraphStyle
    from reportlab.platypus import Paragraph, SimpleDocTemplate, Spacer, Table

    register_font()
    width_mm, height_mm = page_mm
    out = io.BytesIO()
    page = SimpleDocTemplate(
        out,
        pagesize=(width_mm * PT_MM, height_mm * PT_MM),
        leftMargin=MARGIN_MM * PT_MM,
        rightMargin=MARGIN_MM * PT_MM,
        topMargin=MARGIN_MM * PT_MM,
        bottomMargin=MARGIN_MM * PT_MM,
        title=title,
        creator="Wise Arc",
        invariant=True,
    )
    styles = {
        name: ParagraphStyle(name, fontName=FONT, fontSize=size, leading=size * 1.22)
        for name, size in (
            ("title", TITLE_PT),
            ("head", HEAD_PT),
            ("text", text_pt),
            ("amps", AMPS_PT),
            ("foot", FOOT_PT),
        )
    }

    def _write(text: str, style: str) -> Paragraph:
        return Paragraph(text.replace("&", "&amp;").replace("<", "&lt;"), styles[style])

    body = [[_write("", "head"), *(_write(name, "head") for name in joints)]]
    for size, cells in rows:
        written = [
            [_write(first, "amps" if rest else "text"), *(_write(line, "text") for line in rest)]
            for first, *rest in cells
        ]
        body.append([_write(size, "head"), *written])
    width = (width_mm - 2 * MARGIN_MM) * PT_MM
    first = 22 * PT_MM
    widths = [first, *([(width - first) / len(joints)] * len(joints))]
    table = Table(body, colWidths=widths, repeatRows=1)
    table.setStyle(
        [
            ("GRID", (0, 0), (-1, -1), 0.5, colors.Color(0.4, 0.4, 0.4)),
            ("BACKGROUND", (0, 0), (-1, 0), colors.Color(0.92, 0.92, 0.92)),
            ("BACKGROUND", (0, 0), (0, -1), colors.Color(0.92, 0.92, 0.92)),
            ("VALIGN", (0, 0), (-1, -1), "TOP"),
            ("TOPPADDING", (0, 0), (-1, -1), 2),
            ("BOTTOMPADDING", (0, 0), (-1, -1), 3),
        ]
    )
    space = Spacer(1, SPACE_MM * PT_MM)
    page.build([_write(title, "title"), space, table, space, _write(foot, "foot")])
    return out.getvalue(), page.page
