"""The file of a photograph: checked, upright, as an array of sRGB values."""

from __future__ import annotations

import io
import warnings

import numpy as np
import numpy.typing as npt

from ..core.errors import InputError, shorten

Picture = npt.NDArray[np.uint8]

FIELD = "photograph"
MAX_BYTES = 40_000_000
MAX_MEGAPIXELS = 64.0
# A larger picture is reduced to about this number of pixels at reading.
WORKING_MEGAPIXELS = 16.0
MIN_SIDE_PX = 700
# A picture in which hardly any pixel is brighter than this is dark, as sRGB.
DARK, MIN_LIT_SHARE = 40, 0.02
FORMATS = ("JPEG", "PNG", "WEBP", "HEIF")
_TAKE = "Use a JPEG from the camera of a phone, of about 12 megapixels"


def read_picture(name: str, data: bytes) -> Picture:
    """Return the picture of a file, upright, (rows, columns, 3), RGB.

    Args:
        name: File name for the error.
        data: The file: JPEG, PNG, WebP or HEIC.

    Raises:
        InputError: The file cannot be measured. The error has the reason.
    """
    from PIL import Image, ImageFile, ImageOps, UnidentifiedImageError

    called = shorten(name) or FIELD
    if len(data) > MAX_BYTES:
        raise InputError(FIELD, called, f"exceeds {MAX_BYTES // 1_000_000} MB. {_TAKE}")
    _register_heif()
    # The PDF library accepts incomplete pictures, for the complete process.
    accepts, ImageFile.LOAD_TRUNCATED_IMAGES = ImageFile.LOAD_TRUNCATED_IMAGES, False
    try:
        with warnings.catch_warnings():
            # The size is checked below, before anything is decompressed.
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            image = Image.open(io.BytesIO(data), formats=FORMATS)
        _check(called, image.width, image.height, image.mode, getattr(image, "n_frames", 1))
        # A JPEG is reduced while it is decoded, without the memory of the whole.
        if image.width * image.height > WORKING_MEGAPIXELS * 1e6:
            image.draft("RGB", (image.width // 2, image.height // 2))
        ImageOps.exif_transpose(image, in_place=True)
        rgb = image if image.mode == "RGB" else image.convert("RGB")
        picture = np.asarray(rgb)
    except Image.DecompressionBombError as error:
        raise InputError(FIELD, called, f"has too many pixels. {_TAKE}") from error
    except UnidentifiedImageError as error:
        rule = "is not a picture that can be read. Choose a JPEG, PNG, WebP or HEIC file"
        raise InputError(FIELD, called, rule) from error
    except (
        OSError,
        ValueError,
        SyntaxError,
        MemoryError,
        ArithmeticError,
        LookupError,
        TypeError,
    ) as error:
        if isinstance(error, InputError):
            raise
        rule = "is damaged or incomplete. Send it again, or use another"
        raise InputError(FIELD, called, rule) from error
    finally:
        ImageFile.LOAD_TRUNCATED_IMAGES = accepts
    picture = _reduce(picture)
    _check_light(called, picture)
    return picture


def _register_heif() -> None:
    # HEIC is the format of some phones. Without the library, the file is refused as unreadable.
    import pi_heif

    pi_heif.register_heif_opener()


def _check(called: str, width: int, height: int, mode: str, frames: int) -> None:
    megapixels = width * height / 1e6
    if megapixels > MAX_MEGAPIXELS:
        rule = f"has {megapixels:.0f} megapixels, and the limit is {MAX_MEGAPIXELS:.0f}. {_TAKE}"
        raise InputError(FIELD, called, rule)
    if min(width, height) < MIN_SIDE_PX:
        rule = (
            f"has {width} × {height} pixels, too few to measure a bead. Send the file of the "
            "camera, not a preview"
        )
        raise InputError(FIELD, called, rule)
    if frames > 1:
        raise InputError(FIELD, called, f"is animated or has several pictures. {_TAKE}")
    if mode == "CMYK":
        raise InputError(FIELD, called, f"has the colours of a printing press (CMYK). {_TAKE}")
    if mode.startswith(("I", "F")):
        raise InputError(FIELD, called, f"has 16 bits a colour or more. {_TAKE}")
    if mode in ("1", "L", "LA"):
        raise InputError(FIELD, called, f"is black and white, so tints cannot be measured. {_TAKE}")


def _reduce(picture: Picture) -> Picture:
    rows, columns = picture.shape[:2]
    if rows * columns <= WORKING_MEGAPIXELS * 1e6:
        return picture
    import cv2

    share = (WORKING_MEGAPIXELS * 1e6 / (rows * columns)) ** 0.5
    size = (int(columns * share), int(rows * share))
    return np.asarray(cv2.resize(picture, size, interpolation=cv2.INTER_AREA), np.uint8)


def _check_light(called: str, picture: Picture) -> None:
    sample = picture[::16, ::16].max(2)
    if float(np.mean(sample > DARK)) < MIN_LIT_SHARE:
        raise InputError(
            FIELD, called, "is black or nearly so. Photograph it again with more light"
        )
