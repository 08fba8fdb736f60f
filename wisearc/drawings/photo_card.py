"""The printed card beside a seam, at true scale."""

from __future__ import annotations

from xml.etree import ElementTree as ET

from ..core.photograph.card import CHECK_LENGTH_MM, RAMP, Box, Card
from .canvas import Drawing

_BLACK, _WHITE = "#000000", "#ffffff"
# Width of a division of the ruler and of the check length, mm.
_LINE_MM = 0.2


def draw_card(card: Card) -> Drawing:
    """Return a card as a drawing in millimetres.

    Args:
        card: The card.
    """
    words = (
        "Card for photographs: lay the edge with the ruler along the seam. It has four markers, a "
        "ramp of greys, a ruler, and a line of 100 mm."
    )
    root = ET.Element(
        "svg",
        {
            "xmlns": "http://www.w3.org/2000/svg",
            "width": f"{card.width_mm:g}mm",
            "height": f"{card.height_mm:g}mm",
            "viewBox": f"0 0 {card.width_mm:g} {card.height_mm:g}",
            "role": "img",
            "aria-label": words,
        },
    )
    ET.SubElement(root, "title").text = "Card for photographs"
    _fill(root, Box(0, 0, card.width_mm, card.height_mm), _WHITE)
    for marker in card.markers:
        _fill(root, marker.box, _BLACK)
        for box in marker.list_white_boxes():
            _fill(root, box, _WHITE)
    for box, grey in zip(card.ramp, RAMP, strict=True):
        _fill(root, box, f"#{grey:02x}{grey:02x}{grey:02x}")
    _draw_ruler(root, card)
    _draw_check_length(root, card)
    if card.key == "card":
        _write(
            root, card.width_mm / 2, 46, 5.2, "Lay the edge with the ruler along the seam", "700"
        )
        lines = (
            "5 to 40 mm beside the bead, flat on the same metal, when it is cool enough to touch.",
            "Hold the phone square above the seam. The whole card must be in the picture.",
            "Print at 100 %. Glue the card to a flat plate, or hold it down with a magnet.",
        )
        for n, line in enumerate(lines):
            _write(root, card.width_mm / 2, 53 + 5 * n, 3.1, line)
        _write(root, card.width_mm / 2, 97.5, 3.1, "Wise Arc card for photographs")
    return Drawing(ET.tostring(root, encoding="unicode"), words)


def _fill(root: ET.Element, box: Box, colour: str) -> None:
    ET.SubElement(
        root,
        "rect",
        {
            "x": f"{box.x_mm:.4f}",
            "y": f"{box.y_mm:.4f}",
            "width": f"{box.width_mm:.4f}",
            "height": f"{box.height_mm:.4f}",
            "fill": colour,
        },
    )


def _draw_ruler(root: ET.Element, card: Card) -> None:
    box = card.ruler
    for n in range(int(box.width_mm) + 1):
        part = 1.0 if n % 10 == 0 else 0.7 if n % 5 == 0 else 0.45
        x = box.x_mm + n - _LINE_MM / 2
        _fill(root, Box(x, box.y_mm, _LINE_MM, box.height_mm * part), _BLACK)
        if n % 10 == 0 and card.key == "card" and n < box.width_mm:
            _write(root, box.x_mm + n + 0.6, box.y_mm + box.height_mm, 2.6, str(n), anchor="start")


def _draw_check_length(root: ET.Element, card: Card) -> None:
    x, y = card.check_start_mm
    _fill(root, Box(x, y - _LINE_MM / 2, CHECK_LENGTH_MM, _LINE_MM), _BLACK)
    for end in (x, x + CHECK_LENGTH_MM):
        _fill(root, Box(end - _LINE_MM / 2, y - 1.5, _LINE_MM, 3.0), _BLACK)
    text = "Between these marks: 100 mm. If your ruler shows another length, enter it."
    size = 3.1 if card.key == "card" else 2.2
    _write(root, x + CHECK_LENGTH_MM / 2, y - 1.4 if card.key == "card" else y - 0.8, size, text)


def _write(
    root: ET.Element,
    x: float,
    y: float,
    size: float,
    text: str,
    weight: str = "400",
    anchor: str = "middle",
) -> None:
    place = {
        "x": f"{x:g}",
        "y": f"{y:g}",
        "font-size": f"{size:g}",
        "font-weight": weight,
        "text-anchor": anchor,
        "fill": _BLACK,
    }
    ET.SubElement(root, "text", place).text = text
