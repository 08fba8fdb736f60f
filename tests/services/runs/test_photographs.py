"""Photograph import.

Rotated, reduced, without place; other files are refused before they are unpacked.
"""

import io
import struct
import unittest
import zlib
from unittest import mock

from PIL import Image

from wisearc.core.errors import InputError
from wisearc.services.runs import photographs
from wisearc.services.runs.photographs import convert_photograph


def picture(kind: str = "JPEG", size: tuple[int, int] = (400, 200), **more: object) -> bytes:
    image = Image.new("RGB", size, "white")
    image.paste((200, 0, 0), (0, 0, size[0] // 4, size[1]))
    out = io.BytesIO()
    image.save(out, kind, **more)
    return out.getvalue()


def build_png_header(width: int, height: int) -> bytes:
    def chunk(name: bytes, data: bytes) -> bytes:
        return (
            struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))
        )

    return (
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0))
        + chunk(b"IDAT", zlib.compress(b"\0" * 100))
        + chunk(b"IEND", b"")
    )


class TakenIn(unittest.TestCase):
    def test_error_names_the_file(self) -> None:
        for name, called in (("front face.jpg", "front face.jpg"), ("", "photograph")):
            with self.subTest(name=name), self.assertRaises(InputError) as refused:
                convert_photograph(name, b"no picture")
            self.assertEqual(refused.exception.value, called)

    def refused(self, data: bytes, words: str) -> None:
        with self.assertRaisesRegex(InputError, words):
            convert_photograph("weld.jpg", data)

    def test_each_kind_is_converted_to_jpeg(self) -> None:
        for kind in ("JPEG", "PNG", "WEBP"):
            found = Image.open(io.BytesIO(convert_photograph("a", picture(kind))))
            self.assertEqual((found.format, found.size), ("JPEG", (400, 200)))

    def test_upright_and_without_place(self) -> None:
        exif = Image.Exif()
        exif[0x0112] = 6
        exif[0x010F] = "a camera"
        gps = exif.get_ifd(0x8825)
        gps[1], gps[2] = "N", (53.0, 1.0, 2.0)
        data = picture(exif=exif)
        self.assertIn(b"a camera", data)
        found = convert_photograph("a", data)
        image = Image.open(io.BytesIO(found))
        # Rotated by a quarter: the left side is on top.
        self.assertEqual(image.size, (200, 400))
        self.assertGreater(image.getpixel((100, 20))[0] - image.getpixel((100, 20))[1], 100)
        self.assertEqual(len(image.getexif()), 0)
        self.assertNotIn(b"camera", found)
        self.assertNotIn(b"Exif", found)

    def test_smaller(self) -> None:
        self.assertEqual(
            max(Image.open(io.BytesIO(convert_photograph("a", picture(size=(5000, 2500))))).size),
            2000,
        )

    def test_invalid_photographs(self) -> None:
        self.refused(b"<script>alert(1)</script>", "is not a readable photo")
        self.refused(
            b'<svg xmlns="http://www.w3.org/2000/svg"><script/></svg>', "is not a readable photo"
        )
        self.refused(b"GIF89a" + b"\0" * 50, "is not a readable photo")
        self.refused(b"", "is not a readable photo")
        self.refused(picture()[:300], "damaged or incomplete")

    def test_too_large_before_it_is_unpacked(self) -> None:
        with mock.patch("PIL.Image.Image.load", side_effect=AssertionError("unpacked")):
            self.refused(build_png_header(12_000, 6_000), "72 megapixels.*exceeds 60 megapixels")
            self.refused(build_png_header(20_000, 10_000), "exceeds 60 megapixels")
            self.refused(build_png_header(60_000, 60_000), "exceeds 60 megapixels")
        self.refused(b"\xff\xd8" + b"0" * photographs.MAX_BYTES, "exceeds 25 MB")
