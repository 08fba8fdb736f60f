"""The commands for photographs, as a user runs them."""

import json
import subprocess
import tempfile
import unittest
from pathlib import Path

import pypdfium2
from jsonschema import Draft202012Validator
from PIL import Image

from tests.command import wisearc
from tests.rendered_photograph import Scene, place_camera
from wisearc.core.photograph.card import load_cards
from wisearc.formats.schema import load_schema
from wisearc.photo.markers import find_card
from wisearc.photo.plane import find_plane

ROOT = Path(__file__).resolve().parents[1]
PX_MM = 16
BEAD = str(ROOT / "examples" / "bead.jpg")


def run(*arguments: str) -> subprocess.CompletedProcess[str]:
    """Run a command, with its output as text."""
    result = wisearc(*arguments)
    out, err = result.stdout.decode(), result.stderr.decode()
    return subprocess.CompletedProcess(result.args, result.returncode, out, err)


class Measure(unittest.TestCase):
    def test_measures_the_example_and_draws_it(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            overlay = Path(folder) / "bead.png"
            result = run("measure", BEAD, "--overlay", str(overlay))
            self.assertEqual((result.returncode, result.stderr), (0, ""))
            with Image.open(overlay) as picture:
                self.assertEqual(picture.format, "PNG")
                self.assertGreater(picture.width, 3 * picture.height)
        data = json.loads(result.stdout)
        Draft202012Validator(load_schema("measure")).validate(data)
        # Painted: 3.6 mm wide, ripples of 1.1 mm, a film up to purple-brown.
        self.assertAlmostEqual(data["bead"]["width_mm"], 3.6, delta=0.18)
        self.assertAlmostEqual(data["bead"]["pitch_mm"], 1.1, delta=0.055)
        self.assertEqual(data["tint"], "purple-brown")
        self.assertEqual(data["refused"], [])

    def test_check_length_scales_every_length(self) -> None:
        plain, scaled = (
            json.loads(run("measure", BEAD, *more).stdout)
            for more in ((), ("--check-length-mm", "97"))
        )
        share = scaled["bead"]["width_mm"] / plain["bead"]["width_mm"]
        self.assertAlmostEqual(share, 0.97, delta=0.01)
        self.assertEqual(scaled["card"]["check_length_mm"], 97)

    def test_joint_out_of_one_plane_is_refused(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            for joint, allowed in (("butt", True), ("edge", True), ("tee", False)):
                path = Path(folder) / "joint.json"
                sheet = {"metal": "304L", "form": "sheet", "thickness": "1.2 mm"}
                head = {"format": "wisearc/joint", "version": 1, "joint": joint}
                path.write_text(json.dumps(head | {"members": [sheet, sheet]}))
                result = run("measure", BEAD, "--joint", str(path))
                with self.subTest(joint):
                    self.assertEqual(result.returncode, 0 if allowed else 2, result.stderr)
                    if not allowed:
                        self.assertIn("“tee” cannot be measured in a photograph", result.stderr)

    def test_bad_input_gets_one_line(self) -> None:
        for arguments, reason in (
            (["no-such.jpg"], "cannot be read"),
            ([str(ROOT / "README.md")], "not a picture"),
            ([BEAD, "--check-length-mm", "wide"], "must be a number"),
            ([BEAD, "--check-length-mm", "50"], "must be from 80 to 120 mm"),
            ([BEAD, "--overlay", "x.gif"], "must end with .png"),
        ):
            result = run("measure", *arguments)
            with self.subTest(reason):
                self.assertEqual((result.returncode, result.stdout), (2, ""))
                self.assertIn(reason, result.stderr)
                self.assertEqual(len(result.stderr.splitlines()), 1)


class Card(unittest.TestCase):
    def test_pdf_at_true_scale_is_found_and_measured(self) -> None:
        """The printed page, rendered by a general library, has its markers at their places."""
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "card.pdf"
            self.assertEqual(run("card", "--out", str(path)).returncode, 0)
            page = pypdfium2.PdfDocument(path.read_bytes())[0]
            width, height = (points / 72 * 25.4 for points in page.get_size())
            self.assertAlmostEqual(width, 148, delta=0.1)
            self.assertAlmostEqual(height, 105, delta=0.1)
            picture = page.render(scale=PX_MM * 25.4 / 72).to_numpy()[..., 2::-1].copy()
        card = find_card(picture)
        self.assertEqual(card.layout.key, "card")
        # The middle of the first pixel is at half a pixel. The library moves edges to whole pixels.
        off = card.seen_px - (card.printed_mm * PX_MM - 0.5)
        self.assertLess(abs(off).max(), 1.2)
        plane = find_plane(card, (picture.shape[1], picture.shape[0]))
        self.assertLess(plane.error_mm, 0.05)
        self.assertAlmostEqual(plane.measure_steps((74, 50))[0], PX_MM, delta=0.03)

    def test_svg_and_wrong_ending(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "card.svg"
            self.assertEqual(run("card", "--out", str(path)).returncode, 0)
            self.assertIn('width="148mm"', path.read_text(encoding="utf-8"))
        result = run("card", "--out", "card.gif")
        self.assertEqual(result.returncode, 2)
        self.assertIn("must end with .pdf or .svg", result.stderr)

    def test_rendered_camera_shows_the_complete_card(self) -> None:
        camera = place_camera(Scene(tilt_deg=40.0))
        card = load_cards()["card"]
        corner = camera.homography @ [card.width_mm, card.height_mm, 1.0]
        self.assertTrue((corner[:2] / corner[2] > 0).all())


if __name__ == "__main__":
    unittest.main()
