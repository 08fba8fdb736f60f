"""A flat template as SVG, at true scale for print or scaled for a page."""

from __future__ import annotations

from xml.etree import ElementTree as ET

from ...core.templates.template import Flat
from ..canvas import PALETTES, Drawing

MARGIN_MM = 5.0
_WIDTHS = {"cut": 0.5, "edge": 0.3, "quarter": 0.2, "waste": 0.15, "ruler": 0.3}
_INKS = {"cut": "act", "edge": "ink", "quarter": "ink-2", "waste": "stop", "ruler": "ink"}


def draw_template_sheet(flat: Flat, palette: str = "paper") -> Drawing:
    """Draw a template.

    Args:
        flat: The template.
        palette: "paper" at true scale, or "screen" to fill its place.
    """
    colours = PALETTES[palette]
    wide, tall = (v + 2 * MARGIN_MM for v in flat.size_mm)
    left, _, _, top = flat.box
    size = (
        {"width": f"{wide:.3f}mm", "height": f"{tall:.3f}mm"}
        if palette == "paper"
        else {"class": "figure-svg"}
    )
    wording = (
        f"{flat.title}, to scale, {wide - 2 * MARGIN_MM:.0f} by {tall - 2 * MARGIN_MM:.0f} mm."
    )
    root = ET.Element(
        "svg",
        {
            "xmlns": "http://www.w3.org/2000/svg",
            "viewBox": f"0 0 {wide:.3f} {tall:.3f}",
            "role": "img",
            "aria-label": wording,
            **size,
        },
    )
    ET.SubElement(root, "title").text = flat.title
    ET.SubElement(root, "desc").text = wording

    def at(x: float, y: float) -> tuple[float, float]:
        return x - left + MARGIN_MM, top - y + MARGIN_MM

    for stroke in flat.strokes:
        points = " ".join(f"{x:.4f},{y:.4f}" for x, y in (at(*p) for p in stroke.points))
        attributes = {
            "points": points,
            "fill": "none",
            "stroke": colours[_INKS[stroke.layer]],
            "stroke-width": f"{_WIDTHS[stroke.layer]:g}",
            "stroke-linejoin": "round",
            "class": f"layer-{stroke.layer}",
        }
        ET.SubElement(
            root,
            "polyline",
            attributes | ({"stroke-dasharray": "2.5 1.5"} if stroke.dashed else {}),
        )
    for label in flat.labels:
        x, y = at(*label.at)
        text = ET.SubElement(
            root,
            "text",
            {
                "x": f"{x:.2f}",
                "y": f"{y:.2f}",
                "font-size": f"{label.size_mm:.2f}",
                "text-anchor": label.anchor,
                "fill": colours["ink"],
                "font-family": "sans-serif",
            },
        )
        text.text = label.text
    return Drawing(ET.tostring(root, encoding="unicode"), wording)
