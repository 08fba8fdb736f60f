"""Holes and studs on a plate: centres, distances, and the files to scale."""

import csv
import io
import math
import unittest

import ezdxf
import pypdf

from wisearc.core.errors import InputError, UnknownName
from wisearc.core.templates.marking import (
    Marking,
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
