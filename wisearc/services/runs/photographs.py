"""Photograph import: checked, rotated, reduced, without metadata, as JPEG, by a general library."""

from __future__ import annotations

import io
import warnings

from ...core.errors import InputError, shorten

MAX_BYTES, MAX_PIXELS, MAX_SIDE_PX, QUALITY = 25_000_000, 60_000_000, 2000, 85
MAX_CONCURRENT = 6
FORMATS = ("JPEG", "PNG", "WEBP")


def convert_photograph(name: str, data: bytes) -> bytes:
    """Return a photograph for the record.

    JPEG, upright, at most 2000 px a side, without place, time or camera.

    Args:
        name: File name for the error.
        data: The file.

    Raises:
        InputError: The file is no photograph or too large.
    """
    from PIL import Image, ImageOps, UnidentifiedImageError

    called = shorten(name) or "photograph"
    if len(data) > MAX_BYTES:
        raise InputError(
            "photographs", called, f"exceeds {MAX_BYTES // 1000000} MB. Choose a smaller file"
        )
    try:
        with warnings.catch_warnings():
            # The size is checked below, before anything is decompressed.
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            image = Image.open(io.BytesIO(data), formats=FORMATS)
        if image.width * image.height > MAX_PIXELS:
            size = f"{called} ({image.width * image.height / 1e6:.0f} megapixels)"
            raise InputError(
                "photographs",
                size,
                f"exceeds {MAX_PIXELS // 1000000} megapixels. Choose a smaller photo",
            )
        image.draft("RGB", (MAX_SIDE_PX, MAX_SIDE_PX))
        upright = ImageOps.exif_transpose(image) or image
        upright.thumbnail((MAX_SIDE_PX, MAX_SIDE_PX))
        out = io.BytesIO()
        upright.convert("RGB").save(out, "JPEG", quality=QUALITY, exif=b"", optimize=True)
    except Image.DecompressionBombError as error:
        raise InputError(
            "photographs",
            called,
            f"exceeds {MAX_PIXELS // 1000000} megapixels. Choose a smaller photo",
        ) from error
    except UnidentifiedImageError as error:
        raise InputError(
            "photographs", called, "is not a readable photo. Choose a JPEG, PNG or WebP file"
        ) from error
    except (
        OSError,
        ValueError,
        SyntaxError,
        MemoryError,
        ArithmeticError,
        LookupError,
        TypeError,
    ) as error:
        raise InputError(
            "photographs", called, "is damaged or incomplete. Choose another file"
        ) from error
    return out.getvalue()
