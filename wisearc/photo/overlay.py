"""The straightened picture of a bead with its toes, tint bands and a scale."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from ..core import catalogue
from .bead import Toes
from .colour import encode_srgb, read_hex
from .light import Metal
from .measure import Photograph
from .picture import Picture
from .plane import View

# Colours of the marks: toes, and marks that cannot be used.
_TOE, _CHORD, _UNCLEAR, _INK = (255, 0, 160), (0, 120, 255), (150, 150, 150), (0, 0, 0)
_SCALE_MM, _MARGIN_PX, _TICK_MM = 10, 34, 10
_BAND_SHOWN_MM = 4.0
# The scale of every saved picture, and its height on each side of the bead's middle.
SHOWN_PX_MM, SHOWN_HALF_MM = 10, 16


def draw_strip(strip: Metal) -> Picture:
    """Return the straightened picture in the light of the card, (rows, columns, 3).

    Args:
        strip: The straightened view.
    """
    level = np.median(strip.reflectance[strip.valid]) if strip.valid.any() else 0.3
    drawn = encode_srgb(strip.reflectance * (0.35 / max(float(level), 0.05)))
    drawn[~strip.view.inside] = 255
    return drawn


def _mark_toes(picture: Picture, strip: Metal, toes: Toes) -> Picture:
    import cv2

    px = strip.view.px_mm
    middle = (picture.shape[0] - 1) / 2
    drawn = picture.copy()
    for side in (toes.upper_mm, toes.lower_mm):
        points = np.column_stack([toes.at_mm * px, middle + side * px])
        for n in range(len(points) - 1):
            colour = _TOE if toes.valid[n] and toes.valid[n + 1] else _UNCLEAR
            start, end = (tuple(int(8 * v) for v in points[m]) for m in (n, n + 1))
            cv2.line(drawn, start, end, colour, 1, cv2.LINE_AA, 3)
    return drawn


def draw_tints(photograph: Photograph, picture: Picture) -> Picture:
    """Return a picture with the measured tint bands at its right end.

    Args:
        photograph: The measured photograph.
        picture: Its straightened picture.
    """
    px = photograph.strip.view.px_mm
    toes, rows = photograph.toes, picture.shape[0]
    middle = (rows - 1) / 2
    column = np.full((rows, int(_BAND_SHOWN_MM * px), 3), 255, np.uint8)
    tints = catalogue.load_tints()
    for band in photograph.measurement.tints:
        outward = -1 if band.side == "left" else 1
        side = toes.upper_mm if outward < 0 else toes.lower_mm
        toe = float(np.median(side[toes.valid]))
        ends = sorted(middle + (toe + outward * d) * px for d in (band.from_mm, band.to_mm))
        first, last = (int(np.clip(round(end), 0, rows)) for end in ends)
        column[first:last] = encode_srgb(read_hex(tints[band.tint].film))
    return np.hstack([picture, np.full((rows, 3, 3), 255, np.uint8), column])


def _add_scale(picture: Picture, px_mm: float) -> Picture:
    import cv2

    _rows, columns = picture.shape[:2]
    margin = np.full((_MARGIN_PX, columns, 3), 255, np.uint8)
    for n in range(int(columns / px_mm / _SCALE_MM) + 1):
        x = round(n * _SCALE_MM * px_mm)
        cv2.line(margin, (x, 0), (x, 8), _INK, 1)
        if n % 2 == 0 and x < columns - 60:
            cv2.putText(
                margin, f"{n * _SCALE_MM} mm", (x + 3, 24), cv2.FONT_HERSHEY_SIMPLEX, 0.5, _INK, 1
            )
    return np.vstack([picture, margin])


def draw_complete(photograph: Photograph) -> Picture:
    """Return the overlay with tint bands and scale: the picture for a file or a record.

    Every such picture has the same scale and height, with the bead in the middle, so that two of
    them can be compared.

    Args:
        photograph: The measured photograph.
    """
    strip = photograph.strip
    drawn = draw_tints(photograph, _mark_toes(draw_strip(strip), strip, photograph.toes))
    return _fit(drawn, strip.view.px_mm)


def draw_bow(view: View, edge_px: npt.NDArray[np.float64]) -> Picture:
    """Return a straightened side view with the edge of the sheet and its chord.

    Args:
        view: The straightened view.
        edge_px: The edge, (n, 2).
    """
    import cv2

    drawn = view.rgb.copy()
    drawn[~view.inside] = 255
    points = np.round(edge_px * 8).astype(np.int32)
    cv2.polylines(drawn, [points], False, _TOE, 1, cv2.LINE_AA, 3)
    ends = [tuple(int(v) for v in points[n]) for n in (0, -1)]
    cv2.line(drawn, ends[0], ends[1], _CHORD, 1, cv2.LINE_AA, 3)
    return _fit(drawn, view.px_mm)


def _fit(drawn: Picture, px_mm: float) -> Picture:
    """A picture at the scale and height of all saved pictures, with its scale below."""
    import cv2

    share = SHOWN_PX_MM / px_mm
    scaled = cv2.resize(drawn, None, fx=share, fy=share, interpolation=cv2.INTER_AREA)
    rows = 2 * SHOWN_HALF_MM * SHOWN_PX_MM
    spare = rows - scaled.shape[0]
    if spare < 0:
        first = -spare // 2
        scaled = scaled[first : first + rows]
    else:
        edges = ((spare // 2, spare - spare // 2), (0, 0), (0, 0))
        scaled = np.pad(scaled, edges, constant_values=255)
    return _add_scale(np.ascontiguousarray(scaled, np.uint8), SHOWN_PX_MM)
