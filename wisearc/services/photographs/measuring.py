"""A photograph's file is measured for a joint."""

from __future__ import annotations

import io
from collections.abc import Callable
from typing import TYPE_CHECKING

from ...core.errors import InputError
from ...core.joint.joint import Joint
from ...core.photograph.card import MAX_CHECK_MM, MIN_CHECK_MM
from ...core.photograph.measurement import Measurement
from ...core.photograph.suitability import check_suitable, find_half_length_mm
from ...core.schema.json_types import Json
from ...formats.measure_json import write_measurement

if TYPE_CHECKING:
    from ...photo.picture import Picture

# Quality of the straightened picture as a JPEG.
_QUALITY = 88


def measure_picture(
    picture: Picture,
    half_length_mm: float | None = None,
    check_length_mm: float | None = None,
    correction_mm: float = 0.0,
    kind: str = "JPEG",
    watch: Callable[[str, float], None] | None = None,
    is_side: bool = False,
) -> tuple[Measurement, bytes]:
    """Return the measurements of a photograph, and its straightened picture with the marks.

    Args:
        picture: The photograph, (rows, columns, 3).
        half_length_mm: The measured length on each side of the card's middle, or None.
        check_length_mm: The printed check length as measured, or None.
        correction_mm: The correction of the shop for a width.
        kind: "JPEG" or "PNG" for the straightened picture.
        watch: Called with the step and its progress, 0 to 1.
        is_side: Whether it is a side view, for the bow.

    Raises:
        InputError: It cannot be measured.
    """
    check_length(check_length_mm)
    from PIL import Image

    from ...photo.measure import PhotoFacts, measure_photograph
    from ...photo.overlay import draw_bow, draw_complete

    facts = PhotoFacts(check_length_mm, half_length_mm, correction_mm)
    if is_side:
        from ...photo.bow import measure_bow

        measurement, view, edge_px = measure_bow(picture, facts, watch)
        drawn = draw_bow(view, edge_px)
    else:
        photograph = measure_photograph(picture, facts, watch)
        measurement, drawn = photograph.measurement, draw_complete(photograph)
    out = io.BytesIO()
    Image.fromarray(drawn).save(out, kind, quality=_QUALITY)
    return measurement, out.getvalue()


def measure_to_json(
    name: str,
    data: bytes,
    joint: Joint | None,
    check_length_mm: float | None,
    is_side: bool = False,
) -> tuple[dict[str, Json], bytes]:
    """Return the measurements of a photograph as the data of their file, and its picture as PNG.

    Args:
        name: File name for errors.
        data: The file.
        joint: The joint, or None: a flat bead.
        check_length_mm: The printed check length as measured, or None.
        is_side: Whether it is a side view, for the bow.

    Raises:
        InputError: It cannot be measured.
    """
    from ...photo.picture import read_picture

    check_length(check_length_mm)
    half_mm = None
    if joint is not None and not is_side:
        check_suitable(joint)
        half_mm = find_half_length_mm(joint)
    picture = read_picture(name, data)
    measurement, straightened = measure_picture(
        picture, half_mm, check_length_mm, kind="PNG", is_side=is_side
    )
    return write_measurement(measurement), straightened


def check_length(check_length_mm: float | None) -> None:
    """Check the check length of a printed card.

    Args:
        check_length_mm: The length, or None.

    Raises:
        InputError: No card is printed like this.
    """
    if check_length_mm is not None and not MIN_CHECK_MM <= check_length_mm <= MAX_CHECK_MM:
        rule = (
            f"must be from {MIN_CHECK_MM:g} to {MAX_CHECK_MM:g} mm: the length of the line on your "
            "card that should be 100 mm. Measure it with a ruler"
        )
        raise InputError("check_length", check_length_mm, rule)
