"""A photograph of a run is sent, measured in a separate process, and saved with the run."""

import io
import json
import re
import time
from pathlib import Path
from typing import Any
from unittest import mock

from tests.rendered_photograph import Scene, encode, render
from tests.samples import member, run
from tests.schemas import follows
from tests.web.case import WebCase
from wisearc.services.background import Background
from wisearc.store.models import RunRow
from wisearc.web.context import get_context

BEAD = (Path(__file__).resolve().parents[2] / "examples" / "bead.jpg").read_bytes()
LINK = "joint=butt&a.thickness=1.5+mm&length=100+mm&control=none&pulse=none"


def render_side() -> bytes:
    """Return a side view of a bowed sheet as a JPEG file."""
    scene = Scene(seed=3, edge_mm=1.5, bow_mm=3.0, seam_y_mm=-6.0, seam_deg=0.5)
    return encode(render(scene)[0])


class PhotographPages(WebCase):
    def setUp(self) -> None:
        super().setUp()
        self.at = self.keep(LINK)
        self.page = self.write()

    def write(self) -> str:
        """Record a run, and return its inspection page."""
        joint = {"joint": "butt", "members": [member(thickness="1.5 mm")] * 2, "length": "100 mm"}
        joint |= {"control": "none", "pulse": "none"}
        made = run(joint)
        told = {
            f"{part}.{key}": str(value)
            for part in ("set", "used", "measured")
            for key, value in made[part].items()
        }
        form = self.run_form(outcome="not-good", **told)
        done = self.post(f"{self.at}/runs", form, self.at + "/runs")
        self.assertEqual(done.status_code, 303)
        number = RunRow.select().order_by(RunRow.id.desc()).first().id
        return f"/inspect/P-0001/A/{number}"

    def send(self, data: bytes = BEAD, name: str = "bead.jpg", **more: str) -> Any:
        """Send a photograph as the form does."""
        fields = {"number": "P-0001", "letter": "A", "run": self.page.rsplit("/", 1)[1], **more}
        fields |= {"photograph": (io.BytesIO(data), name)} if name else {}
        return self.post("/inspect/photograph", fields)

    def finish(self, answer: Any) -> str:
        """Wait until a photograph is measured, and return its page."""
        self.assertEqual(answer.status_code, 303)
        at = answer.headers["Location"]
        end = time.monotonic() + 60
        accept = {"Accept": "application/json"}
        while self.client.get(at, headers=accept).get_json()["state"] in ("waits", "measures"):
            self.assertLess(time.monotonic(), end)
            time.sleep(0.1)
        return str(at)

    def text(self, address: str, code: int = 200) -> str:
        """Return a page."""
        answer = self.client.get(address)
        self.assertEqual(answer.status_code, code)
        return str(answer.get_data(as_text=True))

    def saved(self) -> Any:
        """Return the photographs of the run's file."""
        data = json.loads(self.text(f"{self.page}.json"))
        self.assertTrue(follows("run", data))
        return data.get("photographs", [])

    def test_measured_saved_and_undone(self) -> None:
        form = self.text(f"{self.page}/photograph")
        self.assertLess(form.index("cool enough to touch"), form.index("Print the"))
        self.assertIn("Tested on rendered photographs only", form)
        at = self.finish(self.send(check_length="98", face="back"))
        page = self.text(at)
        for words in ("Bead width", "Ripple pitch", "purple-brown", "Tested on rendered"):
            self.assertIn(words, page)
        picture = self.client.get(f"{at}/straightened.jpg")
        self.assertEqual((picture.status_code, picture.data[:3]), (200, b"\xff\xd8\xff"))
        for _ in range(2):
            # A second click saves nothing more.
            self.assertEqual(self.post(f"{at}/save", {}).status_code, 303)
        (photograph,) = self.saved()
        measured = photograph["measured"]
        # Painted with 3.6 mm, and the entered check length is 98 mm.
        self.assertAlmostEqual(measured["bead"]["width_mm"], 3.6 * 0.98, delta=0.18)
        self.assertEqual((photograph["face"], photograph["file"]), ("back", "bead.jpg"))
        inspect = self.text(self.page)
        self.assertIn("Measured in a photograph: root", inspect)
        # The root was in the picture: its tint is beside the welder's own colour.
        self.assertIn("Measured in a photograph: purple-brown", inspect)
        address = f"/weld/photograph/{photograph['straightened']}.jpg"
        self.assertEqual(self.client.get(address).status_code, 200)
        # The next form knows the card.
        self.assertIn('value="98"', self.text(f"{self.page}/photograph"))
        files = self.folder / "files"
        self.assertEqual(len(list(files.glob("*.jpg"))), 2)

    def test_figures_of_the_face_fill_the_inspection(self) -> None:
        at = self.finish(self.send())
        self.post(f"{at}/save", {})
        measured = self.saved()[0]["measured"]
        across = measured["bead"]["width_mm"] + 2 * measured["band_mm"]
        page = self.text(self.page)
        self.assertRegex(page, r'name="ripple" value="even" checked')
        (band,) = re.findall(r'id="band"[^>]*value="([^"]+)"', page)
        self.assertAlmostEqual(float(band.split()[0]), across, delta=0.06)
        # An entered value comes first, and the measured one stays beside it.
        own = self.text(f"{self.page}?seen=1&ripple=tails&band=20")
        self.assertRegex(own, r'name="ripple" value="tails" checked')
        self.assertIn("Measured in a photograph: even</p>", own)

    def test_two_runs_are_compared_at_one_scale(self) -> None:
        from PIL import Image

        pages, sizes = [self.page, self.write()], []
        for self.page in pages:
            at = self.finish(self.send())
            with Image.open(io.BytesIO(self.client.get(f"{at}/straightened.jpg").data)) as picture:
                sizes.append(picture.size)
            self.post(f"{at}/save", {})
        # Ten pixels a millimetre, 16 mm on each side of the bead, and the scale below.
        self.assertEqual(sizes[0][1], 2 * 16 * 10 + 34)
        self.assertEqual(sizes[0], sizes[1])
        left, right = (page.rsplit("/", 1)[1] for page in pages)
        page = self.text(f"/weld/compare/P-0001/A?left={left}&right={right}")
        self.assertIn("Photographs of the face, at one scale", page)
        self.assertEqual(page.count(": straightened picture"), 2)

    def test_callipers_give_the_shop_its_correction(self) -> None:
        self.assertIn("No bead has both widths yet", self.text("/inspect/callipers"))
        at = self.finish(self.send())
        self.post(f"{at}/save", {})
        (photograph,) = self.saved()
        raw_mm = photograph["measured"]["bead"]["width_mm"]
        row = RunRow.get_by_id(int(self.page.rsplit("/", 1)[1]))
        record = {**row.record, "measured": {**row.record["measured"], "bead_mm": raw_mm + 0.2}}
        for n in range(5):
            new = RunRow.create(
                revision=row.revision,
                made_on=row.made_on,
                record=record,
                good=row.good,
                kept_at=row.kept_at,
                once=f"pair-{n}",
            )
            page = self.text("/inspect/callipers")
            self.assertEqual("Correction in use</dt><dd>0.2 mm" in page, n == 4, n)
        self.assertIn(f"/inspect/P-0001/A/{new.id}", page)
        measured = self.text(self.finish(self.send()))
        self.assertIn("corrected by 0.2 mm", measured)

    def test_refused_photograph_can_be_saved_without_figures(self) -> None:
        from PIL import Image

        out = io.BytesIO()
        Image.new("RGB", (1200, 900), (140, 140, 140)).save(out, "JPEG")
        at = self.finish(self.send(out.getvalue(), "IMG 7.jpg"))
        page = self.text(at)
        self.assertIn("No card was found", page)
        self.assertEqual(self.post(f"{at}/save", {}).status_code, 303)
        (photograph,) = self.saved()
        self.assertNotIn("measured", photograph)
        self.assertNotIn("Measured in a photograph:", self.text(self.page))

    def test_wrong_input_is_named_at_its_field(self) -> None:
        for answer, reason in (
            (self.send(name=""), "Choose a photograph"),
            (self.send(check_length="wide"), "check length"),
            (self.send(check_length="70"), "must be from 80 to 120 mm"),
        ):
            with self.subTest(reason):
                self.assertEqual(answer.status_code, 422)
                page = answer.get_data(as_text=True)
                self.assertIn(reason.lower(), page.lower())
                self.assertIn("field-error", page)
        self.assertEqual(list(self.folder.glob("*.part")), [])

    def test_no_picture_gets_its_sentence(self) -> None:
        at = self.finish(self.send(b"text", "notes.txt"))
        self.assertIn("is not a picture that can be read", self.text(at))

    def test_ended_process_is_named(self) -> None:
        def start(self: Background, *arguments: str, reports_progress: bool = False) -> Any:
            return original(self, "schema", "joint", reports_progress=reports_progress)

        original = Background.command
        with mock.patch.object(Background, "command", start):
            at = self.finish(self.send())
        self.assertIn("ended unexpectedly", self.text(at))

    def test_cancelled(self) -> None:
        answer = self.send()
        at = answer.headers["Location"]
        self.assertEqual(self.post(f"{at}/stop", {}).status_code, 303)
        self.finish(answer)
        page = self.text(at)
        self.assertTrue("Cancelled" in page or "Save with the run" in page)

    def test_photograph_of_another_run_or_key_is_missing(self) -> None:
        at = self.finish(self.send())
        other = self.write()
        key = at.rsplit("/", 1)[1]
        self.assertEqual(self.client.get(f"{other}/photograph/{key}").status_code, 404)
        self.assertEqual(self.client.get(f"{self.page}/photograph/unknown").status_code, 404)

    def test_fillet_is_refused_by_name(self) -> None:
        self.at = self.keep("joint=tee&a.thickness=1.5+mm&length=100+mm&control=none&pulse=none")
        number = self.at.split("/")[2]
        form = self.run_form(outcome="not-good")
        self.post(f"{self.at}/runs", form, self.at + "/runs")
        run_number = RunRow.select().order_by(RunRow.id.desc()).first().id
        page = self.text(f"/inspect/{number}/A/{run_number}/photograph")
        self.assertIn("“tee” cannot be measured in a photograph", page)
        # A side view for the bow is possible, and no face is offered.
        self.assertNotIn('value="front"', page)
        self.assertRegex(page, r'value="side" checked')
        self.page = f"/inspect/{number}/A/{run_number}"
        sent = {"number": number, "letter": "A", "run": run_number}
        self.assertIn("tee", self.send(**sent, face="front").get_data(as_text=True))
        at = self.finish(self.send(render_side(), **sent, face="side"))
        self.assertIn("<dt>Bow</dt>", self.text(at))
        self.post(f"{at}/save", {})
        page = self.text(self.page)
        self.assertIn("Measured in a photograph: side view", page)

    def test_card(self) -> None:
        answer = self.client.get("/inspect/card.pdf")
        self.assertEqual((answer.status_code, answer.mimetype), (200, "application/pdf"))
        self.assertEqual(answer.data[:4], b"%PDF")

    def test_closing_ends_its_work(self) -> None:
        self.send()
        get_context(self.app).close()
        self.assertEqual(list(self.folder.glob("*.part")), [])
