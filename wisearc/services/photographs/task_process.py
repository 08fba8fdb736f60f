"""The process that measures one photograph for a page, with its result in the same folder."""

from __future__ import annotations

import io
import json
from collections.abc import Callable
from pathlib import Path

import msgspec

from ...core.errors import InputError
from ...core.schema.documents import write_document
from ...core.schema.json_types import Json
from .measuring import measure_picture
from .requests import RESULT, SENT, STRAIGHTENED, UPRIGHT, PhotoRequest

# The photograph of the record has at most this side, px, and this quality.
_MAX_SIDE_PX, _QUALITY = 2000, 85


def measure_folder(folder: Path, report: Callable[[str, float], None]) -> None:
    """Measure the photograph of a folder, and write the result there.

    Args:
        folder: The folder with the request and the sent file.
        report: Called with the step and its progress, 0 to 1.
    """
    request = msgspec.json.decode((folder / "request.json").read_bytes(), type=PhotoRequest)
    answer: dict[str, Json]
    try:
        report("file", 0.02)
        answer = {"measured": _measure(folder, request, report)}
    except InputError as error:
        answer = {"why": error.sentence}
    part = folder / f"{RESULT}.part"
    part.write_text(json.dumps(answer), encoding="utf-8")
    part.replace(folder / RESULT)


def _measure(
    folder: Path, request: PhotoRequest, report: Callable[[str, float], None]
) -> dict[str, Json]:
    from PIL import Image

    from ...photo.picture import read_picture

    picture = read_picture(request.name, (folder / SENT).read_bytes())
    upright, out = Image.fromarray(picture), io.BytesIO()
    upright.thumbnail((_MAX_SIDE_PX, _MAX_SIDE_PX))
    upright.save(out, "JPEG", quality=_QUALITY, optimize=True)
    (folder / UPRIGHT).write_bytes(out.getvalue())
    measurement, straightened = measure_picture(
        picture,
        request.half_length_mm,
        request.check_length_mm,
        request.correction_mm,
        watch=report,
        is_side=request.is_side,
    )
    (folder / STRAIGHTENED).write_bytes(straightened)
    return write_document(measurement)
