"""Templates read back from their files and measured.

DXF by its library, PDF by a PDF library, SVG as XML. Paper sizes: ISO 216 (A4), ANSI/ASME Y14.1
(Letter), from memory. A PDF point is 1/72 in (ISO 32000, from memory).
"""

import io
import math
import re
from itertools import pairwise
from xml.etree import ElementTree as ET

import ezdxf
from pypdf import PdfReader
from pypdf.generic import ContentStream

from tests.untraced import Untraced
from wisearc.core.templates.cut import calculate_curve, make_cut
from wisearc.core.templates.template import lay_flat
from wisearc.drawings.templates.template_sheet import draw_template_sheet
from wisearc.formats.templates.template_dxf import template_dxf
from wisearc.formats.templates.template_pdf import choose_tiling, template_pdf

STAY = {"branch_mm": 25, "wall_mm": 1.2, "run_mm": 51, "angle_deg": 45, "name": "Stay <1>"}
LEG = {"branch_mm": 114, "wall_mm": 2, "run_mm": 168, "angle_deg": 30, "name": "Leg"}
PT_MM = 25.4 / 72


def read_lines(page) -> list[list[tuple[float, float]]]:
    """Return every open line of a PDF page, in mm of the page."""
    at, stack, lines, line = (1.0, 0.0, 0.0, 1.0, 0.0, 0.0), [], [], []

    def placed(x: float, y: float) -> tuple[float, float]:
        a, b, c, d, e, f = at
        return (a * x + c * y + e) * PT_MM, (b * x + d * y + f) * PT_MM

    for operands, operator in ContentStream(page.get_contents(), page.pdf).operations:
        given = [float(v) for v in operands] if operator in (b"cm", b"m", b"l") else []
        if operator == b"q":
            stack.append(at)
        elif operator == b"Q":
            at = stack.pop()
        elif operator == b"cm":
            a, b, c, d, e, f = given
            p, q, r, s, u, v = at
            at = (
                a * p + b * r,
                a * q + b * s,
                c * p + d * r,
                c * q + d * s,
                e * p + f * r + u,
                e * q + f * s + v,
            )
        elif operator == b"m":
            line = [placed(*given)]
        elif operator == b"l":
            line.append(placed(*given))
        elif operator == b"S":
            lines.append(line)
    return lines


def level(lines: list, long: float) -> list:
    """Return the horizontal lines of two points with a length, mm."""
    return [
        one
        for one in lines
        if len(one) == 2
        and abs(one[0][1] - one[1][1]) < 1e-3
        and abs(abs(one[1][0] - one[0][0]) - long) < 0.01
    ]


class Dxf(Untraced):
    def test_read_back_and_measured(self) -> None:
        cut = make_cut(STAY)
        document = ezdxf.read(io.StringIO(template_dxf(lay_flat(cut))))
        self.assertEqual((document.dxfversion, document.units), ("AC1024", ezdxf.units.MM))
        self.assertEqual(len(document.audit().errors), 0)
        lines = list(document.modelspace().query('LWPOLYLINE[layer=="cut"]'))
        self.assertEqual(len(lines), 1)
        points = [(x, y) for x, y, *_ in lines[0].get_points()]
        self.assertAlmostEqual(points[-1][0] - points[0][0], math.pi * (25 + 0.1), places=6)
        for (x, z), row in zip(points, calculate_curve(cut), strict=True):
            self.assertAlmostEqual(x, row.x_mm, places=6)
            self.assertAlmostEqual(z, row.z_mm, places=6)
        long = max(
            math.dist(a[:2], b[:2])
            for line in document.modelspace().query('LWPOLYLINE[layer=="ruler"]')
            for a, b in pairwise(line.get_points())
        )
        self.assertAlmostEqual(long, 100, places=6)
        self.assertTrue(
            any("Stay <1>" in text.dxf.text for text in document.modelspace().query("TEXT"))
        )


class Pdf(Untraced):
    def test_ruler_is_100_mm_and_the_curve_true(self) -> None:
        cut = make_cut(STAY)
        for paper, size in (("a4", (210, 297)), ("letter", (215.9, 279.4))):
            reader = PdfReader(io.BytesIO(template_pdf(lay_flat(cut), paper)))
            page = reader.pages[0]
            with self.subTest(paper=paper):
                self.assertEqual(len(reader.pages), 1)
                box = sorted(
                    (float(page.mediabox.width) * PT_MM, float(page.mediabox.height) * PT_MM)
                )
                for got, wanted in zip(box, sorted(size), strict=True):
                    self.assertAlmostEqual(got, wanted, places=2)
                lines = read_lines(page)
                self.assertEqual(len(level(lines, 100.0)), 1)
                line = max(lines, key=len)
                self.assertAlmostEqual(line[-1][0] - line[0][0], math.pi * 25.1, delta=0.01)
                rows = calculate_curve(cut)
                for (_, y), row in zip(line, rows, strict=True):
                    self.assertAlmostEqual(y - line[0][1], row.z_mm - rows[0].z_mm, delta=0.01)
                self.assertIn("100 mm exactly", page.extract_text())
                self.assertIn("Stay <1>", page.extract_text())

    def test_ruler_of_inches(self) -> None:
        reader = PdfReader(
            io.BytesIO(template_pdf(lay_flat(make_cut(STAY), units="in"), "letter", "in"))
        )
        self.assertEqual(len(level(read_lines(reader.pages[0]), 101.6)), 1)

    def test_tiles_overlap_exactly(self) -> None:
        """A cross is one point of the template on both pages.

        The overlapping part of the curve is on both, at the same distance from it.
        """
        laid = lay_flat(make_cut(LEG))
        for paper in ("a4", "letter"):
            tiles = choose_tiling(laid, paper)
            reader = PdfReader(io.BytesIO(template_pdf(laid, paper)))
            self.assertEqual(len(reader.pages), len(tiles.tiles))
            self.assertGreater(len(tiles.tiles), 1)
            pages = [read_lines(page) for page in reader.pages]
            both = list(zip(tiles.tiles, pages, strict=True))
            beside = [
                (a, b)
                for a in both
                for b in both
                if (b[0].column - a[0].column, b[0].row - a[0].row) in ((1, 0), (0, 1))
            ]
            self.assertGreaterEqual(len(beside), len(both) - 1)
            for (left, one), (right, other) in beside:
                shared = [
                    m
                    for m in tiles.marks
                    if all(
                        t.window[0] <= m[0] <= t.window[2] and t.window[1] <= m[1] <= t.window[3]
                        for t in (left, right)
                    )
                ]
                self.assertGreaterEqual(len(shared), 2)
                for mark in shared:
                    for tile, lines in ((left, one), (right, other)):
                        x, y = tile.on_page(mark)
                        arms = [
                            n
                            for n in lines
                            if len(n) == 2
                            and math.dist(
                                ((n[0][0] + n[1][0]) / 2, (n[0][1] + n[1][1]) / 2), (x, y)
                            )
                            < 0.01
                        ]
                        self.assertEqual(len(arms), 2)
                shift = [right.window[k] - left.window[k] for k in (0, 1)]
                a, b = (max(lines, key=len) for lines in (one, other))
                for (x, y), (u, v) in zip(a, b, strict=True):
                    self.assertAlmostEqual(x - u, shift[0], delta=0.01)
                    self.assertAlmostEqual(y - v, shift[1], delta=0.01)
            for page in pages:
                self.assertGreaterEqual(len(level(page, 100.0)), 1)

    def test_all_of_it_is_on_some_page(self) -> None:
        for given in (LEG, {**LEG, "branch_mm": 400, "run_mm": 500}):
            laid = lay_flat(make_cut(given))
            tiles = choose_tiling(laid, "a4").tiles
            for stroke in laid.strokes:
                for x, y in stroke.points:
                    held = [
                        t
                        for t in tiles
                        if t.window[0] - 1e-9 <= x <= t.window[2] + 1e-9
                        and t.window[1] - 1e-9 <= y <= t.window[3] + 1e-9
                    ]
                    self.assertTrue(held, (x, y))


class Svg(Untraced):
    def test_true_scale(self) -> None:
        root = ET.fromstring(draw_template_sheet(lay_flat(make_cut(STAY))).svg)
        box = [float(v) for v in root.get("viewBox").split()]
        self.assertEqual(
            (
                float(root.get("width").removesuffix("mm")),
                float(root.get("height").removesuffix("mm")),
            ),
            (box[2], box[3]),
        )
        line = next(e for e in root.iter() if e.get("class") == "layer-cut").get("points").split()
        self.assertAlmostEqual(
            float(line[-1].split(",")[0]) - float(line[0].split(",")[0]),
            math.pi * 25.1,
            delta=0.001,
        )
        rulers = [
            [tuple(map(float, p.split(","))) for p in e.get("points").split()]
            for e in root.iter()
            if e.get("class") == "layer-ruler"
        ]
        self.assertAlmostEqual(max(abs(a[0] - b[0]) for a, b in rulers), 100, places=3)
        self.assertTrue(
            re.search("Stay &lt;1&gt;", draw_template_sheet(lay_flat(make_cut(STAY))).svg)
        )
