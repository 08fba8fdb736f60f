"""Files of photographs: upright, or refused with one sentence."""

import io
import unittest
from pathlib import Path
from unittest.mock import patch

import numpy as np
from PIL import Image, ImageFile

from tests.rendered_photograph import encode
from wisearc.core.errors import InputError
from wisearc.photo.measure import measure_photograph
from wisearc.photo.picture import MAX_MEGAPIXELS, WORKING_MEGAPIXELS, read_picture

# A rendered photograph, saved by a general library for this format.
HEIC = Path(__file__).with_name("photograph.heic")


def paint(width: int = 900, height: int = 800) -> np.ndarray:
    """Return a picture whose first corner is red and whose others are grey."""
    picture = np.full((height, width, 3), 120, np.uint8)
    picture[: height // 3, : width // 3] = (220, 30, 30)
    return picture


def save(image: Image.Image, kind: str, **options: object) -> bytes:
    """Return the bytes of an image file."""
    out = io.BytesIO()
    image.save(out, kind, **options)
    return out.getvalue()


class Files(unittest.TestCase):
    def test_turned_upright_by_its_camera_data(self) -> None:
        for value, red in ((1, (0, 0)), (3, (1, 1)), (6, (0, 1)), (8, (1, 0))):
            exif = Image.Exif()
            exif[0x0112] = value
            data = save(Image.fromarray(paint()), "JPEG", exif=exif, quality=95)
            picture = read_picture("x.jpg", data)
            rows, columns = picture.shape[:2]
            corner = picture[20 if red[0] == 0 else rows - 20, 20 if red[1] == 0 else columns - 20]
            with self.subTest(value=value):
                self.assertGreater(int(corner[0]), 180)
                self.assertLess(int(corner[2]), 80)

    def test_png_webp_and_transparency(self) -> None:
        image = Image.fromarray(paint())
        for data in (save(image, "PNG"), save(image, "WEBP"), save(image.convert("RGBA"), "PNG")):
            self.assertEqual(read_picture("x", data).shape, (800, 900, 3))

    def test_large_picture_is_reduced(self) -> None:
        data = encode(paint(6000, 4000), 60)
        rows, columns = read_picture("x.jpg", data).shape[:2]
        self.assertLessEqual(rows * columns, WORKING_MEGAPIXELS * 1e6)
        self.assertAlmostEqual(columns / rows, 1.5, places=2)

    def test_refused_with_one_sentence(self) -> None:
        grey = Image.fromarray(paint())
        frames = [grey, grey.rotate(180)]
        deep = Image.fromarray(np.full((800, 900), 30000, np.uint16))
        for data, reason in (
            (b"no picture at all", "not a picture that can be read"),
            (save(grey, "JPEG")[:3000], "damaged or incomplete"),
            (save(grey.convert("CMYK"), "JPEG"), "CMYK"),
            (save(deep, "PNG"), "16 bits"),
            (save(grey.convert("L"), "JPEG"), "black and white"),
            (save(frames[0], "PNG", save_all=True, append_images=frames[1:]), "animated"),
            (save(frames[0], "WEBP", save_all=True, append_images=frames[1:]), "animated"),
            (save(Image.new("RGB", (900, 800), (3, 3, 3)), "JPEG"), "black"),
            (save(Image.new("RGB", (400, 300), (90, 90, 90)), "JPEG"), "too few"),
            (save(Image.new("RGB", (14000, 14400)), "PNG"), "too many pixels"),
            (save(Image.new("RGB", (13000, 12000)), "PNG"), "156 megapixels"),
            (b"\xff" * 40_000_001, "40 MB"),
        ):
            with self.subTest(reason), self.assertRaises(InputError) as caught:
                read_picture("IMG_1.jpg", data)
            sentence = caught.exception.sentence
            self.assertIn(reason, sentence)
            self.assertLess(len(sentence), 200)
        self.assertLess(MAX_MEGAPIXELS, 200)

    def test_incomplete_file_is_refused_after_the_pdf_library_was_loaded(self) -> None:
        data = save(Image.fromarray(paint()), "JPEG")[:3000]
        with (
            patch.object(ImageFile, "LOAD_TRUNCATED_IMAGES", True),
            self.assertRaisesRegex(InputError, "incomplete"),
        ):
            read_picture("x.jpg", data)

    def test_heic_of_a_phone(self) -> None:
        picture = read_picture("x.heic", HEIC.read_bytes())
        self.assertEqual(picture.shape, (1500, 2000, 3))
        bead = measure_photograph(picture).measurement.bead
        assert bead is not None
        # Painted with a width of 3.6 mm and a pitch of 1.1 mm.
        self.assertAlmostEqual(bead.width_mm, 3.6, delta=0.15)
        self.assertAlmostEqual(bead.pitch_mm or 0, 1.1, delta=0.055)


if __name__ == "__main__":
    unittest.main()
