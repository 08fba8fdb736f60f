"""An SVG in progress: points in user units mapped to pixels, colours by meaning, escaped text."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from xml.etree import ElementTree as ET

from msgspec import Struct

Point = tuple[float, float]

# Colours by meaning: the variables of the page on screen, plain inks on paper.
_SCREEN = (
    "ink",
    "ink-2",
    "line",
    "surface",
    "ground",
    "steel",
    "steel-2",
    "carbon",
    "pool",
    "gas",
    "copper",
    "aluminium",
    "ceramic",
    "rod",
    "straw",
    "bronze",
    "plum",
    "violet",
    "blue",
    "scale-grey",
    "act",
    "stop",
    "good",
)
_PAPER = {
    "ink": "#000000",
    "ink-2": "#333333",
    "line": "#999999",
    "surface": "#ffffff",
    "ground": "#ffffff",
    "steel": "#dddddd",
    "steel-2": "#c4c4c4",
    "carbon": "#aaaaaa",
    "pool": "#777777",
    "gas": "#eeeeee",
    "copper": "#bbbbbb",
    "aluminium": "#e4e4e4",
    "ceramic": "#f0f0f0",
    "rod": "#999999",
    "straw": "#eeeeee",
    "bronze": "#555555",
    "plum": "#555555",
    "violet": "#777777",
    "blue": "#333333",
    "scale-grey": "#999999",
    "act": "#000000",
    "stop": "#000000",
    "good": "#000000",
}
PALETTES = {"screen": {name: f"var(--{name})" for name in _SCREEN}, "paper": _PAPER}


class Drawing(Struct, frozen=True):
    """A finished drawing: SVG, and a description."""

    svg: str
    words: str


class Canvas:
    """A drawing of width × height pixels.

    `scale` is px per unit, the origin is at (ox, oy) px, y down.
    """

    def __init__(
        self, width: float, height: float, title: str, text: str, palette: str = "screen"
    ) -> None:
        """Start a drawing.

        Args:
            width: Width, px.
            height: Height, px.
            title: Its title.
            text: Its description.
            palette: Colours.
        """
        self.colours = PALETTES[palette]
        self.scale, self.ox, self.oy = 1.0, 0.0, 0.0
        self.root = ET.Element(
            "svg",
            {
                "xmlns": "http://www.w3.org/2000/svg",
                "viewBox": f"0 0 {width:g} {height:g}",
                "role": "img",
                "aria-label": f"{title}. {text}",
                "class": "figure-svg",
            },
        )
        ET.SubElement(self.root, "title").text = title
        ET.SubElement(self.root, "desc").text = text
        self._into = self.root

    @contextmanager
    def within(self, tag: str, **attributes: str) -> Iterator[None]:
        """Draw inside an element, such as a link (a) or a group (g).

        In attribute names, _ is -.

        Args:
            tag: The element.
            attributes: Its attributes.
        """
        outer = self._into
        self._into = ET.SubElement(
            outer,
            tag,
            {name.rstrip("_").replace("_", "-"): text for name, text in attributes.items()},
        )
        try:
            yield
        finally:
            self._into = outer

    def frame(self, scale: float, ox: float, oy: float) -> None:
        """Set the mapping from user units to pixels.

        Args:
            scale: Pixels per unit.
            ox: Origin, px from the left.
            oy: Origin, px from the top.
        """
        self.scale, self.ox, self.oy = scale, ox, oy

    def px(self, point: Point) -> Point:
        """Return a point in pixels."""
        return self.ox + point[0] * self.scale, self.oy + point[1] * self.scale

    def paint(
        self,
        fill: str | None,
        stroke: str | None,
        width: float,
        dash: str | None,
        opacity: float | None,
    ) -> dict[str, str]:
        """Return presentation attributes.

        Args:
            fill: Colour by meaning, or None.
            stroke: Colour by meaning, or None.
            width: Line width, px.
            dash: Dash pattern, or None.
            opacity: Opacity, or None.
        """
        attributes = {"fill": self.colours.get(fill, self.colours["line"]) if fill else "none"}
        if stroke:
            attributes |= {
                "stroke": self.colours[stroke],
                "stroke-width": f"{width:g}",
                "stroke-linejoin": "round",
            }
        if dash:
            attributes["stroke-dasharray"] = dash
        if opacity is not None:
            attributes["opacity"] = f"{opacity:g}"
        return attributes

    def polygon(
        self,
        points: Sequence[Point],
        fill: str | None,
        stroke: str | None = "ink",
        width: float = 1,
        dash: str | None = None,
        opacity: float | None = None,
    ) -> None:
        """Draw a polygon.

        Args:
            points: Points in user units.
            fill: Colour by meaning, or None.
            stroke: Colour by meaning, or None.
            width: Line width, px.
            dash: Dash pattern, or None.
            opacity: Opacity, or None.
        """
        text = " ".join(f"{x:.2f},{y:.2f}" for x, y in map(self.px, points))
        ET.SubElement(
            self._into,
            "polygon",
            {"points": text, **self.paint(fill, stroke, width, dash, opacity)},
        )

    def polyline(
        self,
        points: Sequence[Point],
        stroke: str = "ink",
        width: float = 1.5,
        dash: str | None = None,
        opacity: float | None = None,
    ) -> None:
        """Draw an open line.

        Args:
            points: Points in user units.
            stroke: Colour by meaning.
            width: Line width, px.
            dash: Dash pattern, or None.
            opacity: Opacity, or None.
        """
        text = " ".join(f"{x:.2f},{y:.2f}" for x, y in map(self.px, points))
        ET.SubElement(
            self._into,
            "polyline",
            {"points": text, **self.paint(None, stroke, width, dash, opacity)},
        )

    def circle(
        self,
        centre: Point,
        radius: float,
        fill: str | None,
        stroke: str | None = "ink",
        width: float = 1,
        opacity: float | None = None,
    ) -> None:
        """Draw a circle.

        Args:
            centre: Centre in user units.
            radius: Radius in user units.
            fill: Colour by meaning, or None.
            stroke: Colour by meaning, or None.
            width: Line width, px.
            opacity: Opacity, or None.
        """
        x, y = self.px(centre)
        ET.SubElement(
            self._into,
            "circle",
            {
                "cx": f"{x:.2f}",
                "cy": f"{y:.2f}",
                "r": f"{radius * self.scale:.2f}",
                **self.paint(fill, stroke, width, None, opacity),
            },
        )

    def ellipse(
        self,
        centre: Point,
        rx: float,
        ry: float,
        turn_deg: float,
        fill: str | None,
        stroke: str | None = "ink",
        opacity: float | None = None,
    ) -> None:
        """Draw an ellipse.

        Args:
            centre: Centre in user units.
            rx: Horizontal radius in user units.
            ry: Vertical radius in user units.
            turn_deg: Clockwise rotation, °.
            fill: Colour by meaning, or None.
            stroke: Colour by meaning, or None.
            opacity: Opacity, or None.
        """
        x, y = self.px(centre)
        ET.SubElement(
            self._into,
            "ellipse",
            {
                "cx": f"{x:.2f}",
                "cy": f"{y:.2f}",
                "rx": f"{rx * self.scale:.2f}",
                "ry": f"{ry * self.scale:.2f}",
                "transform": f"rotate({turn_deg:g} {x:.2f} {y:.2f})",
                **self.paint(fill, stroke, 1, None, opacity),
            },
        )

    def text(
        self,
        point: Point,
        text: str,
        anchor: str = "start",
        colour: str = "ink-2",
        size: float = 13,
        weight: int = 400,
        pixels: bool = False,
        kind: str = "figure-text",
    ) -> None:
        """Draw a text.

        Args:
            point: Position in user units or pixels.
            text: The text.
            anchor: "start", "middle" or "end".
            colour: Colour by meaning.
            size: Text size, px.
            weight: Font weight.
            pixels: Whether the position is in pixels.
            kind: Class of the element.
        """
        x, y = point if pixels else self.px(point)
        element = ET.SubElement(
            self._into,
            "text",
            {
                "x": f"{x:.1f}",
                "y": f"{y:.1f}",
                "text-anchor": anchor,
                "fill": self.colours[colour],
                "font-size": f"{size:g}",
                "font-weight": str(weight),
                "class": kind,
            },
        )
        element.text = text

    def path_px(
        self, d: str, stroke: str = "ink-2", width: float = 1, fill: str | None = None
    ) -> None:
        """Draw a path in pixels.

        Args:
            d: Path data.
            stroke: Colour by meaning.
            width: Line width, px.
            fill: Colour by meaning, or None.
        """
        ET.SubElement(self._into, "path", {"d": d, **self.paint(fill, stroke, width, None, None)})

    def scale_bar(self, units: float, text: str, x: float, y: float) -> None:
        """Draw a scale bar with its text.

        Args:
            units: Length in user units.
            text: The text.
            x: Position, px.
            y: Position, px.
        """
        long = units * self.scale
        self.path_px(f"M{x:g} {y - 6:g}V{y:g}H{x + long:.2f}V{y - 6:g}")
        self.text((x + long + 8, y + 1), text, pixels=True, kind="figure-scale")

    def drawing(self) -> Drawing:
        """Return the finished drawing."""
        return Drawing(self.svg(), self.root.findtext("desc") or "")

    def svg(self) -> str:
        """Return the drawing as text."""
        return ET.tostring(self.root, encoding="unicode", short_empty_elements=True)


def turn_point(point: Point, degrees: float) -> Point:
    """Return a point rotated clockwise (y down) about the origin.

    Args:
        point: The point.
        degrees: Angle, °.

    >>> [round(v, 6) + 0.0 for v in turn_point((0.0, -1.0), 90)]
    [1.0, 0.0]
    """
    a = math.radians(degrees)
    return point[0] * math.cos(a) - point[1] * math.sin(a), point[0] * math.sin(a) + point[
        1
    ] * math.cos(a)


def move_along(start: Point, direction: Point, length: float) -> Point:
    """Return the point at a distance along a direction.

    Args:
        start: Start.
        direction: Unit vector.
        length: Distance.
    """
    return start[0] + direction[0] * length, start[1] + direction[1] * length
