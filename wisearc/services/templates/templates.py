"""Templates: a cut in every format, and the address of the cut for a plan."""

from __future__ import annotations

from urllib.parse import urlencode

from ...core.errors import UnknownName
from ...core.plan.plan import Plan
from ...core.schema import checks
from ...core.templates.cut import Cut
from ...core.templates.marking import Marking, lay_marking
from ...core.templates.template import PARTS, Flat, lay_flat
from ...drawings.templates.template_sheet import draw_template_sheet
from ...formats.templates.cut_csv import centres_csv, cut_csv
from ...formats.templates.template_dxf import is_loaded, load_library, template_dxf
from ...formats.templates.template_pdf import PAPERS, template_pdf
from ..background import Background

FORMATS = {
    "svg": "image/svg+xml",
    "dxf": "image/vnd.dxf",
    "pdf": "application/pdf",
    "csv": "text/csv; charset=utf-8",
}


def load_libraries(background: Background) -> None:
    """Import the DXF library in the background, so that the first file is quick.

    Args:
        background: Starts the thread.
    """
    if not is_loaded():
        background.start(load_library)


def write_template(
    cut: Cut, kind: str, part: str = "branch", units: str = "mm", paper: str = "a4"
) -> bytes:
    """Return a template in a format (svg, dxf, pdf, csv).

    Args:
        cut: The cut.
        kind: The format.
        part: "branch" or "hole".
        units: Unit system.
        paper: The paper.

    Raises:
        UnknownName: The format is unknown.
        InputError: The cut has no hole, or needs too many pages.
    """
    if kind not in FORMATS:
        raise UnknownName("format", kind, list(FORMATS))
    checks.name("part", part, PARTS)
    if kind == "csv":
        return cut_csv(cut, part).encode()
    return _write_layout(lay_flat(cut, part, units), kind, units, paper)


def write_marking(marking: Marking, kind: str, units: str = "mm", paper: str = "a4") -> bytes:
    """Return holes or studs in a format (svg, dxf, pdf, csv).

    Args:
        marking: The marking.
        kind: The format.
        units: Unit system.
        paper: The paper.

    Raises:
        UnknownName: The format or the paper is unknown.
        InputError: The plate needs too many pages.
    """
    checks.name("format", kind, FORMATS)
    if kind == "csv":
        return centres_csv(marking.centres).encode()
    return _write_layout(lay_marking(marking, units), kind, units, paper)


def _write_layout(laid: Flat, kind: str, units: str, paper: str) -> bytes:
    """Return a layout as PDF, DXF or SVG."""
    if kind == "pdf":
        return template_pdf(laid, paper, units)
    return (template_dxf(laid) if kind == "dxf" else draw_template_sheet(laid).svg).encode()


def list_papers() -> tuple[str, ...]:
    """Return the papers for templates."""
    return tuple(PAPERS)


def cut_link(plan: Plan) -> str:
    """Return the address query of the cut for the first tube of a plan, or "" for a square end."""
    first, second = plan.section.sides[0], plan.section.sides[1]
    if not plan.section.all_round or first.diameter_mm is None:
        return ""
    values = {
        "branch": f"{first.diameter_mm:g} mm",
        "wall": f"{first.thickness_mm:g} mm",
        "angle": f"{plan.section.angle_deg:g}",
    }
    if plan.section.coped and second.diameter_mm is not None:
        return urlencode({"kind": "cope", **values, "run": f"{second.diameter_mm:g} mm"})
    return "" if second.diameter_mm is not None else urlencode({"kind": "plate", **values})
