"""Holes and studs on a plate: centres, distances, and the files to scale."""

import csv
import io
import math
import unittest
from typing import Any

import ezdxf
import pypdf

from wisearc.core.errors import InputError, UnknownName
from wisearc.core.templates.marking import (
    Marking,
    check_marking,
    find_edge_distance,
    find_nearest,
    lay_marking,
    list_checks,
)
from wisearc.forms.marking import START, read_marking
from wisearc.presenters.marking import build_marking_view
from wisearc.services.templates.templates import write_marking


def read(units: str = "mm", **changes: str) -> Marking:
    return read_marking({**START, **changes}, units)


class Centres(unittest.TestCase):
    def test_rectangle_in_the_middle_of_the_plate(self) -> None:
        marking = read()
        self.assertEqual(marking.centres, ((20, 15), (100, 15), (20, 65), (100, 65)))
        # Diagonal of 80 by 50.
        diagonal = max(d.mm for d in list_checks(marking.centres))
        self.assertAlmostEqual(diagonal, math.hypot(80, 50))
        self.assertAlmostEqual(find_edge_distance(marking), 15 - 6.5 / 2)

    def test_circle(self) -> None:
        """Neighbours on a circle of n centres are d·sin(180°/n) apart: geometry."""
        marking = read(pattern="circle", count="6", circle="60 mm")
        near = find_nearest(marking.centres)
        assert near is not None
        self.assertAlmostEqual(near.mm, 60 * math.sin(math.pi / 6))
        for x, y in marking.centres:
            self.assertAlmostEqual(math.hypot(x - 60, y - 40), 30)
        turned = read(pattern="circle", count="4", circle="60 mm", start="90").centres[0]
        self.assertAlmostEqual(turned[0], 60)
        self.assertAlmostEqual(turned[1], 70)

    def test_row_and_typed_centres(self) -> None:
        row = read(pattern="row", count="3", pitch="1 1/2 in")
        self.assertAlmostEqual(row.centres[1][0] - row.centres[0][0], 38.1)
        self.assertEqual({y for _, y in row.centres}, {40.0})
        typed = read(pattern="list", centres="20, 20; 60 mm, 1 in\n30 30")
        self.assertEqual(typed.centres, ((20, 20), (60, 25.4), (30, 30)))
        inch = read("in", pattern="list", centres="1, 1; 2, 1")
        self.assertEqual(inch.centres, ((25.4, 25.4), (50.8, 25.4)))

    def test_wrong_fields_are_named(self) -> None:
        for changes, field in (
            ({"width": ""}, "width"),
            ({"width": "wide"}, "width"),
            ({"count": "1.5"}, "count"),
            ({"count": "20", "rows": "20"}, "count"),
            ({"pitch": "130 mm"}, "centres"),
            ({"pitch": "3 mm"}, "centres"),
            ({"pattern": "list", "centres": "20"}, "centres"),
            ({"pattern": "list", "centres": ""}, "centres"),
            ({"diameter": "0.1 mm"}, "diameter"),
        ):
            with self.subTest(changes), self.assertRaises(InputError) as caught:
                read(**changes)
            self.assertEqual(caught.exception.field, field)
        for changes in ({"pattern": "spiral"}, {"kind": "slot"}):
            with self.assertRaises(UnknownName):
                read(**changes)


class Limits(unittest.TestCase):
    def make(self, diameter_mm: float, *centres: tuple[float, float], side_mm: float = 100.0):
        return check_marking(Marking("hole", side_mm, side_mm, diameter_mm, centres))

    def refuse(self, field: str, words: str, *what: Any, **more: float) -> None:
        with self.assertRaises(InputError) as caught:
            self.make(*what, **more)
        self.assertEqual(caught.exception.field, field)
        self.assertIn(words, caught.exception.sentence)

    def test_holes_can_touch_and_not_overlap(self) -> None:
        for apart in (10.0, 10.5, 11.0):
            self.make(10.0, (20, 20), (20 + apart, 20))
        self.refuse(
            "centres", "overlap: 1 and 3 are 9.8 mm apart", 10.0, (20, 20), (60, 60), (29.75, 20)
        )

    def test_holes_can_reach_the_edge_and_not_cross_it(self) -> None:
        self.make(10.0, (5, 5), (95, 95))
        self.refuse("centres", "Hole", 10.0, (4.75, 50))
        self.refuse("centres", "by 0.3 mm", 10.0, (50, 95.25))

    def test_sizes_and_counts(self) -> None:
        self.make(500.0, (1000, 1000), side_mm=2000.0)
        self.make(1.0, (1, 1))
        for field, diameter_mm, side_mm in (
            ("width", 10.0, 2001.0),
            ("width", 0.5, 0.9),
            ("diameter", 501.0, 2000.0),
            ("diameter", 0.99, 100.0),
        ):
            self.refuse(field, "must be from 1 to", diameter_mm, (50, 50), side_mm=side_mm)
        many = [(2.0 * i, 2.0 * j) for i in range(1, 11) for j in range(1, 11)]
        self.make(1.0, *many)
        self.refuse("count", "from 1 to 100", 1.0, *many, (50.0, 50.0))
        self.refuse("count", "from 1 to 100", 1.0)

    def test_distances_to_measure(self) -> None:
        """A triangle of 3, 4 and 5: geometry."""
        triangle = [(0.0, 0.0), (30.0, 0.0), (30.0, 40.0)]
        self.assertEqual(
            [(d.first, d.second, d.mm) for d in list_checks(triangle)],
            [(1, 2, 30), (2, 3, 40), (1, 3, 50)],
        )
        self.assertEqual(len(list_checks(triangle[:2])), 1)
        self.assertEqual(list_checks(triangle[:1]), ())
        self.assertIsNone(find_nearest(triangle[:1]))


class Drawing(unittest.TestCase):
    def setUp(self) -> None:
        self.marking = read()
        self.flat = lay_marking(self.marking, "mm")

    def test_rings_and_crosses(self) -> None:
        rings = [stroke.points for stroke in self.flat.strokes if stroke.layer == "cut"]
        crosses = [stroke.points for stroke in self.flat.strokes if stroke.layer == "quarter"]
        self.assertEqual((len(rings), len(crosses)), (4, 8))
        for (x, y), ring in zip(self.marking.centres, rings, strict=True):
            for point in ring:
                self.assertAlmostEqual(math.dist(point, (x, y)), 3.25)
            self.assertAlmostEqual(math.dist(ring[0], ring[-1]), 0)
            self.assertEqual(len({(round(a, 6), round(b, 6)) for a, b in ring}), len(ring) - 1)
            # A cross that ends at the rim is cut away with it.
            across = [line for line in crosses if math.dist(line[0], (x, y)) < 20]
            self.assertTrue(all(math.dist(end, (x, y)) > 3.25 + 1 for c in across for end in c))

    def test_chains_of_distances_at_the_centres(self) -> None:
        lines = [stroke.points for stroke in self.flat.strokes if stroke.layer == "ruler"]
        ticks = [line for line in lines if 2.9 < math.dist(*line[:2]) < 3.1]
        below = sorted(
            {line[0][0] for line in ticks if line[0][0] == line[1][0]} & {0, 20, 100, 120}
        )
        left = sorted({line[0][1] for line in ticks if line[0][1] == line[1][1]} & {0, 15, 65, 80})
        self.assertEqual((below, left), ([0, 20, 100, 120], [0, 15, 65, 80]))
        for text, along, axis in (("80", 60.0, 0), ("50", 40.0, 1)):
            (label,) = [label for label in self.flat.labels if label.text == text]
            self.assertAlmostEqual(label.at[axis], along, delta=1.5)
            self.assertLess(label.at[1 - axis], -2)

    def test_numbers_are_outside_their_rings(self) -> None:
        for number, (x, y) in enumerate(self.marking.centres, 1):
            places = [label.at for label in self.flat.labels if label.text == str(number)]
            self.assertTrue(any(3.25 < math.dist(at, (x, y)) < 8 for at in places))

    def test_centres_in_line_share_a_distance(self) -> None:
        """Two centres within 0.005 mm are in line."""
        for apart, stations in ((0.004, 3), (0.006, 4)):
            marking = Marking("hole", 100, 100, 10, ((20, 20), (20 + apart, 60)))
            labels = [label for label in lay_marking(marking, "mm").labels if label.at[1] < 0]
            chain = [label for label in labels if -8 < label.at[1] < -6]
            self.assertEqual(len(chain), stations - 1)


class Files(unittest.TestCase):
    def test_dxf_has_the_holes_at_their_centres_in_mm(self) -> None:
        marking = read()
        document = ezdxf.read(io.StringIO(write_marking(marking, "dxf").decode()))
        rings = [
            entity
            for entity in document.modelspace().query("LWPOLYLINE")
            if entity.dxf.layer == "cut"
        ]
        centres = set()
        for ring in rings:
            points = [point[:2] for point in ring.get_points()]
            xs, ys = zip(*points, strict=True)
            self.assertAlmostEqual(max(xs) - min(xs), 6.5)
            centres.add((round((max(xs) + min(xs)) / 2, 6), round((max(ys) + min(ys)) / 2, 6)))
        self.assertEqual(centres, set(marking.centres))

    def test_chain_of_distances_closes_on_the_plate(self) -> None:
        labels = [label.text for label in lay_marking(read(), "mm").labels]
        for text in ("20", "80", "15", "50"):
            self.assertIn(text, labels)
        self.assertIn("100 mm exactly. Measure it before you cut", labels)
        inch = [label.text for label in lay_marking(read(), "in").labels]
        self.assertIn("3.15", inch)

    def test_pdf_and_csv(self) -> None:
        page = pypdf.PdfReader(io.BytesIO(write_marking(read(), "pdf", "mm", "letter"))).pages[0]
        self.assertIn("Punch each centre", page.extract_text())
        rows = list(csv.DictReader(io.StringIO(write_marking(read(), "csv").decode())))
        self.assertEqual(rows[3], {"centre": "4", "x_mm": "100.0000", "y_mm": "65.0000"})
        with self.assertRaises(UnknownName):
            write_marking(read(), "step")

    def test_studs_are_dashed_and_the_page_lists_distances(self) -> None:
        studs = [s for s in lay_marking(read(kind="stud"), "mm").strokes if s.layer == "cut"]
        self.assertTrue(studs and all(stroke.dashed for stroke in studs))
        view = build_marking_view(read(), "mm")
        self.assertIn(("1 to 4", "94.3 mm"), view.distances)
        self.assertIn(("Metal between two rims", "43.5 mm"), view.facts)
