"""Documents as PDF, read back by pypdf and pdfplumber.

The headings of a procedure specification are those of ISO 15609-1 (published; from memory). The
basics of an accessible PDF are those of PDF/UA-1, ISO 14289-1 (published; from memory).
"""

import io
import unittest
from unittest import mock

import pdfplumber
import pypdfium2
from pypdf import PdfReader
from pypdf.generic import ContentStream

from tests.samples import CORNER, run, typed
from tests.store_case import StoreCase
from wisearc.core.errors import InputError, UnknownName
from wisearc.core.joint.data import make_joint
from wisearc.core.run.run import Photograph, StoredFile
from wisearc.core.shop.shop import ASSUMED
from wisearc.documents import make, pdf
from wisearc.documents.make import DocumentRequest, make_document
from wisearc.photo.markers import find_card
from wisearc.photo.plane import find_plane
from wisearc.services.errors import Cancelled, Missing, NotAllowed
from wisearc.services.jobs import jobs
from wisearc.services.people.people import Person
from wisearc.services.procedures import procedures
from wisearc.services.procedures.signatures import add_signature
from wisearc.services.runs import runs
from wisearc.store import queries
from wisearc.store.models import RunRow

# ISO 15609-1, in its order: manufacturer, parent material, common to all, process.
HEADINGS = (
    "Manufacturer",
    "Procedure specification",
    "Procedure qualification record",
    "Parent materials",
    "Dimensions",
    "Welding process",
    "Joint design",
    "Welding position",
    "Joint preparation",
    "Welding technique",
    "Back gouging",
    "Backing",
    "Welding consumables",
    "Electrical parameters",
    "Mechanised welding",
    "Travel speed",
    "Preheating temperature",
    "Interpass temperature",
    "Preheat maintenance",
    "Post-heating for hydrogen",
    "Post-weld heat treatment",
    "Shielding gas",
    "Heat input",
    "Tungsten electrode",
    "Gas nozzle",
)
HOSTILE = "<script>alert(1)</script> <img src=http://example.invalid/x> {{ 7*7 }} \u202e Ä"
BUTT = {
    "joint": "butt",
    "members": [{"metal": "304L", "form": "sheet", "thickness": "1.5 mm"}] * 2,
    "length": "100 mm",
}


class DocumentCase(StoreCase):
    def setUp(self) -> None:
        super().setUp()
        procedures.keep_draft(make_joint(CORNER), ASSUMED)
        self.made, _ = runs.record_run("P-0001", "A", typed(run(notes=HOSTILE)))

    def sign(self) -> None:
        person = Person(0, "K.S.", "Kim", "lead", True)
        add_signature("P-0001", "A", "checker", person, "K.S.")

    def read(self, kind: str = "sheet", *names: str, **more: object) -> PdfReader:
        request = DocumentRequest(kind, names or ("P-0001",), **more)
        self.data = make_document(request, self.folder, lambda _done, _of: True)
        return PdfReader(io.BytesIO(self.data))

    @staticmethod
    def words(reader: PdfReader) -> str:
        return " ".join(" ".join(page.extract_text() for page in reader.pages).split())


class Sheet(DocumentCase):
    def test_every_heading_of_the_standard_in_its_order(self) -> None:
        self.sign()
        reader = self.read()
        text = self.words(reader)
        places, start = [], text.index("Procedure specification")
        for heading in HEADINGS:
            start = text.index(heading, start)
            places.append(start)
        self.assertEqual(places, sorted(places))
        for words in (
            "P-0001 A",
            "verified",
            "Allowed range",
            "The content matches its signature.",
            "checker K.S., Kim",
            "I inspected the run",
            "none; the metal is dry",
            "142, TIG without a rod",
            "PA, flat",
            "I1, argon",
            "This is a shop record, not a qualified procedure.",
            "page 1 of",
        ):
            self.assertIn(words, text)

    def test_accessible_with_embedded_fonts_and_no_outside_address(self) -> None:
        reader = self.read()
        root = reader.trailer["/Root"]
        self.assertTrue(root["/MarkInfo"]["/Marked"])
        self.assertEqual(root["/Lang"], "en")
        self.assertIn("/StructTreeRoot", root)
        self.assertTrue(root["/ViewerPreferences"]["/DisplayDocTitle"])
        self.assertIn("P-0001 A, sheet", reader.metadata.title)
        self.assertIn(b"pdfuaid", root["/Metadata"].get_data())
        fonts = 0
        for page in reader.pages:
            for font in page["/Resources"].get("/Font", {}).values():
                descriptor = font.get_object()["/DescendantFonts"][0].get_object()[
                    "/FontDescriptor"
                ]
                self.assertTrue({"/FontFile2", "/FontFile3"} & set(descriptor.get_object()))
                fonts += 1
        self.assertGreater(fonts, 0)
        self.assertIn("/Alt", self._list_structure_keys(root["/StructTreeRoot"]))

    def _list_structure_keys(self, node: object, depth: int = 0) -> set[str]:
        node = node.get_object() if hasattr(node, "get_object") else node
        if isinstance(node, list):
            return set().union(*(self._list_structure_keys(item, depth) for item in node))
        if not isinstance(node, dict) or depth > 30:
            return set()
        return set(node) | self._list_structure_keys(node.get("/K", []), depth + 1)

    def test_paper_sizes(self) -> None:
        for paper, width, height in (("a4", 595.3, 841.9), ("letter", 612, 792)):
            box = self.read(paper=paper).pages[0].mediabox
            self.assertAlmostEqual(float(box.width), width, delta=0.1)
            self.assertAlmostEqual(float(box.height), height, delta=0.1)

    def test_drawing_is_to_its_scale_bar_and_in_vectors(self) -> None:
        procedures.keep_draft(make_joint(BUTT), ASSUMED)
        self.read("sheet", "P-0002")
        with pdfplumber.open(io.BytesIO(self.data)) as opened:
            shapes = [*opened.pages[0].rects, *opened.pages[0].curves]
        plates = [
            shape
            for shape in shapes
            if shape["fill"]
            and [round(value, 2) for value in shape["non_stroking_color"]]
            in ([0.87] * 3, [0.77] * 3)
        ]
        # The scale bar is the open bracket below the section: 5 mm.
        (bar, *_) = sorted(
            (shape for shape in shapes if not shape["fill"] and shape["height"] < 3),
            key=lambda shape: shape["x0"],
        )
        thickness = min(shape["height"] for shape in plates)
        self.assertAlmostEqual(thickness / bar["width"], 1.5 / 5, delta=0.01)

    def test_strings_of_a_drawing_are_drawn_at_once_in_their_place(self) -> None:
        """A label is one string in the file, as wide as in HTML, and about its anchor."""
        label = "gas lens AV"
        spread = '<text x="20" y="80" letter-spacing="9" font-size="20">AV</text>'
        html = (
            "<style>@page { size: 600px 400px; margin: 0 } * { font: 20px 'Atkinson Hyperlegible"
            " Next'; margin: 0 }</style>"
            f"<p>{label}</p><svg width='600' height='200' viewBox='0 0 600 200'>"
            f"<text x='300' y='40' text-anchor='middle' font-size='20'"
            f" font-family='Atkinson Hyperlegible Next'>{label}</text>{spread}</svg>"
        )
        with pdfplumber.open(io.BytesIO(pdf.write_pdf(html))) as opened:
            (page,) = opened.pages
            lines = page.extract_text_lines(x_tolerance=8)
            typed, drawn, spread_out, _ = ((line["x0"], line["x1"]) for line in lines)
        px = 0.75
        self.assertAlmostEqual((drawn[0] + drawn[1]) / 2, 300 * px, delta=0.5)
        self.assertAlmostEqual(drawn[1] - drawn[0], typed[1] - typed[0], delta=0.1)
        self.assertGreater(spread_out[1] - spread_out[0], (9 + 20) * px)
        reader = PdfReader(io.BytesIO(pdf.write_pdf(html)))
        (group,) = reader.pages[0]["/Resources"]["/XObject"].values()
        shown = [
            operator
            for content in (reader.pages[0].get_contents(), ContentStream(group, reader))
            for _, operator in content.operations
            if operator in (b"Tj", b"TJ")
        ]
        self.assertEqual(len(shown), 1 + 1 + len("AV") + 1, "of the page, drawn, spread, foot")

    def test_drawing_that_fails_is_not_left_out(self) -> None:
        html = "<svg width='9' height='9'><rect width='5' height='5'/></svg>"
        pdf.write_pdf(html)
        svg = pdf.load_library().svg
        for error in (ZeroDivisionError, KeyboardInterrupt):
            stopped = mock.Mock(side_effect=error)
            with mock.patch.dict(svg.TAGS, {"rect": stopped}), self.assertRaises(error):
                pdf.write_pdf(html)

    def test_hostile_note_is_only_text(self) -> None:
        reader = self.read("record")
        text = self.words(reader)
        self.assertIn("<script>alert(1)</script>", text)
        self.assertIn("{{ 7*7 }}", text)
        links = [note for page in reader.pages for note in page.get("/Annots", [])]
        self.assertEqual(links, [])


class Record(DocumentCase):
    def test_runs_that_verified_with_their_ranges(self) -> None:
        for day in ("2026-03-07", "2026-03-08", "2026-03-09", "2026-03-10"):
            runs.record_run("P-0001", "A", typed(run(when=day)))
        text = self.words(self.read("record"))
        self.assertIn("Run of 2026-03-04, R.T.: verified this revision", text)
        self.assertIn("Run of 2026-03-10", text)
        self.assertNotIn("Run of 2026-03-07", text)
        self.assertRegex(text, r"Travel speed [0-9.]+ mm/s to [0-9.]+ mm/s kept")
        # The sheet has few runs, and always the one that verified.
        self.assertIn("record run of 2026-03-04, R.T.; run of 2026-03-09", self.words(self.read()))

    def test_sheet_has_the_strip_for_photographs_at_true_scale(self) -> None:
        """The page, rendered by a general library, is a picture in which the strip is found."""
        self.read()
        document = pypdfium2.PdfDocument(self.data)
        px_mm = 14
        page = document[len(document) - 1].render(scale=px_mm * 25.4 / 72)
        picture = page.to_numpy()[..., 2::-1].copy()
        card = find_card(picture)
        self.assertEqual(card.layout.key, "strip")
        plane = find_plane(card, (picture.shape[1], picture.shape[0]))
        self.assertLess(plane.error_mm, 0.06)
        for step in plane.measure_steps((85, 13)):
            self.assertAlmostEqual(step, px_mm, delta=0.1)

    def test_missing_photograph_and_arc_log_are_named(self) -> None:
        photograph, log = Photograph("bead.jpg", "1" * 64), StoredFile("arc.csv", "2" * 64)
        RunRow.update(
            record={
                **self.made.record,
                "photographs": [{"file": photograph.file, "sha256": photograph.sha256}],
                "arc_log": {"file": log.file, "sha256": log.sha256},
            },
            good=True,
            corrections=[{"when": "2026-03-05T10:00:00Z", "who": "R.T.", "was": {"notes": "x"}}],
        ).execute()
        text = self.words(self.read("record"))
        self.assertIn(
            "This photograph is missing from the library. Restore it from a backup.", text
        )
        self.assertIn("The arc log of this run cannot be drawn", text)

    def test_changed_content_is_on_the_document(self) -> None:
        self.sign()
        corrected = typed({**self.made.record, "notes": "another"})
        runs.correct("P-0001", "A", self.made.id, corrected, "R.T.")
        for kind in ("sheet", "record"):
            text = self.words(self.read(kind))
            self.assertIn("The content does not match its signatures.", text)
            self.assertIn("The content changed since it was signed.", text)

    def test_draft_without_runs(self) -> None:
        procedures.keep_draft(make_joint(BUTT), ASSUMED)
        text = self.words(self.read("record", "P-0002"))
        self.assertIn("No good run yet. This revision is not verified.", text)


class Card(DocumentCase):
    def test_a6_with_every_stop_and_caution(self) -> None:
        pins = {"flow_l_min": 30, "cup": 4, "stickout_mm": 25}
        worst = make_joint({**BUTT, "filler": "ER70S-2", "pins": pins})
        procedures.keep_draft(worst, ASSUMED)
        plan = procedures.get_plan(queries.get_revision("P-0002"))
        serious = [c for c in plan.cautions if c.level != "note"]
        self.assertGreater(len(serious), 4)
        reader = self.read("card", "P-0002")
        text = self.words(reader)
        for caution in serious:
            self.assertIn(" ".join(caution.sentence.text("mm").split())[:40], text)
        self.assertIn("Stop", text)
        self.assertGreater(len(reader.pages), 1)
        self.assertIn("side 2 of", text)
        box = reader.pages[0].mediabox
        self.assertAlmostEqual(float(box.width), 148 / 25.4 * 72, delta=0.5)
        self.assertAlmostEqual(float(box.height), 105 / 25.4 * 72, delta=0.5)


class Booklet(DocumentCase):
    def test_contents_with_true_page_numbers(self) -> None:
        procedures.keep_draft(make_joint(BUTT), ASSUMED)
        reader = self.read("booklet", "P-0001/A", "P-0002", "P-0009")
        with pdfplumber.open(io.BytesIO(self.data)) as opened:
            contents = opened.pages[0].extract_text()
        self.assertIn("2 procedures", contents)
        self.assertIn("There is no procedure P-0009", contents)
        for label in ("P-0001 A", "P-0002 A"):
            page = next(
                i + 1
                for i, page in enumerate(reader.pages)
                if i and page.extract_text().lstrip().startswith(label)
            )
            self.assertRegex(contents, rf"{label} .*\) {page}\n", label)

    def test_progress_and_stop(self) -> None:
        seen = []

        def watch(done: int, of: int) -> bool:
            seen.append((done, of))
            return done < stop_at

        request = DocumentRequest("booklet", ("P-0001", "P-0001"))
        # While the pages are written, laid out and drawn.
        for stop_at in (5, 20, 80):
            seen.clear()
            with self.subTest(stop_at), self.assertRaises(Cancelled):
                make_document(request, self.folder, watch)
            self.assertEqual(
                [done < stop_at for done, _ in seen], [True] * (len(seen) - 1) + [False]
            )
            self.assertEqual(sorted(seen), seen)
            self.assertEqual({of for _, of in seen}, {100})


class Traveller(DocumentCase):
    def test_steps_with_boxes_in_the_given_order(self) -> None:
        row = jobs.begin("Frame <b>")
        with self.assertRaisesRegex(NotAllowed, "no seams yet"):
            self.read("traveller", str(row.id))
        self.assertRaises(Missing, self.read, "traveller", "77")
        for label in ("P-0001", "one"):
            self.assertRaises(InputError, self.read, "traveller", label)


class Requests(DocumentCase):
    def test_wrong_requests(self) -> None:
        for more, error in (
            ({"kind": "poster"}, UnknownName),
            ({"paper": "a3"}, UnknownName),
            ({"units": "ft"}, UnknownName),
            ({"names": ()}, InputError),
            ({"names": ("P-0001", "P-0002")}, InputError),
            ({"kind": "booklet", "names": ("P-0001",) * 201}, InputError),
            ({"names": ("P-0009",)}, Missing),
            ({"names": ("P-0001/Z",)}, Missing),
            ({"kind": "booklet", "names": ("P-0009",)}, InputError),
        ):
            fields = {"kind": "sheet", "names": ("P-0001",), **more}
            with self.subTest(more), self.assertRaises(error):
                make_document(DocumentRequest(**fields), self.folder, lambda _d, _o: True)

    def test_machine_without_the_libraries(self) -> None:
        with (
            mock.patch.dict("sys.modules", {"weasyprint": None}),
            self.assertRaisesRegex(pdf.NoPdf, "apt-get install libpango"),
        ):
            make_document(DocumentRequest("sheet", ("P-0001",)), self.folder, lambda _d, _o: True)

    def test_file_names(self) -> None:
        for kind, names, name in (
            ("sheet", ("P-0001",), "P-0001-A-sheet.pdf"),
            ("booklet", ("P-0001",), "booklet.pdf"),
            ("traveller", ("3",), "job-3-traveller.pdf"),
        ):
            self.assertEqual(make.name_file(DocumentRequest(kind, names)), name)

    def test_document_fetches_nothing_outside(self) -> None:
        outside = self.folder.parent / "outside.css"
        outside.write_text("p { color: red }")
        self.addCleanup(outside.unlink)
        for address in ("http://example.invalid/x.png", outside.as_uri(), "file:///etc/hostname"):
            html = f'<html lang="en"><title>x</title><p>text<img alt="" src="{address}"></p></html>'
            with self.subTest(address), self.assertLogs("weasyprint", "ERROR"):
                reader = PdfReader(io.BytesIO(pdf.write_pdf(html, self.folder)))
                self.assertEqual(reader.pages[0].get("/Resources", {}).get("/XObject", {}), {})


if __name__ == "__main__":
    unittest.main()
