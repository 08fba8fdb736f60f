"""The card in a picture: its markers, the places of their corners, and how sharp they are."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from ..core.errors import InputError
from ..core.photograph.card import CELLS, MARKER_CELLS, Card, load_cards
from .colour import LINEAR
from .picture import FIELD, Picture

# The markers are found in a reduced picture, with this longest side, px.
_SEARCH_PX = 1600
# Each side of a marker is read at this many places, away from its corners.
_PROFILES, _FROM, _TO = 28, 0.12, 0.88
_STEP_PX = 0.25
# Markers that cannot be read are blurred from this part of their side. Estimate.
MAX_BLURRED_PART = 0.012
BLURRED = (
    "The picture is blurred. Tap the card to focus, rest the phone on something, and photograph it "
    "again."
)


class CardInPicture(Struct, frozen=True):
    """A card in a picture.

    Attributes:
        layout: Its layout.
        printed_mm: The corners of its markers on the card, (16, 2).
        seen_px: The same corners in the picture, (16, 2).
        blur_px: Width of an edge as the deviation of a normal curve, in the worse direction.
    """

    layout: Card
    printed_mm: npt.NDArray[np.float64]
    seen_px: npt.NDArray[np.float64]
    blur_px: float


def find_card(picture: Picture) -> CardInPicture:
    """Return the card in a picture.

    Args:
        picture: The picture, (rows, columns, 3).

    Raises:
        InputError: There is no complete card, or there are two, or the picture is mirrored.
    """
    import cv2

    grey = np.asarray(cv2.cvtColor(picture, cv2.COLOR_RGB2GRAY), np.uint8)
    side_px = max(grey.shape)
    share = min(1.0, _SEARCH_PX / side_px)
    shrunk = cv2.resize(grey, None, fx=share, fy=share, interpolation=cv2.INTER_AREA)
    small = np.asarray(shrunk, np.uint8)
    markers = _detect(small)
    if not markers:
        if len(_detect(np.ascontiguousarray(small[:, ::-1]))) >= 2:
            raise _refuse("The picture is mirrored. Use the main camera, without mirroring.")
        raise _refuse(
            "No card was found. Lay the card beside the seam, with all four of its "
            "markers in the picture."
        )
    numbers = [number for number, _ in markers]
    cards = [c for c in load_cards().values() if {m.number for m in c.markers} & set(numbers)]
    if len(set(numbers)) < len(numbers) or len(cards) > 1:
        raise _refuse("There are two cards in the picture. Leave one of them beside the seam.")
    card = cards[0]
    places = {n: (place + 0.5) / share - 0.5 for n, place in markers}
    sides = {n: _read_sides(grey, place) for n, place in places.items()}
    blur_px = float(np.max(np.median([blur for _, blur in sides.values()], 0)))
    if len(numbers) < len(card.markers):
        side = np.median([np.linalg.norm(place[1] - place[0]) for place in places.values()])
        if not blur_px < MAX_BLURRED_PART * side:
            raise _refuse(BLURRED)
        raise _refuse(
            f"Only {len(numbers)} of the {len(card.markers)} markers of the card can be seen. "
            "Show the whole card, without glare and without a finger on it."
        )
    return CardInPicture(
        card,
        np.array([corner for m in card.markers for corner in m.list_corners()]),
        np.concatenate([sides[m.number][0] for m in card.markers]),
        blur_px,
    )


def _refuse(sentence: str) -> InputError:
    return InputError(FIELD, None, sentence)


def _detect(grey: npt.NDArray[np.uint8]) -> list[tuple[int, npt.NDArray[np.float64]]]:
    import cv2

    dictionary = cv2.aruco.getPredefinedDictionary(cv2.aruco.DICT_5X5_50)
    parameters = cv2.aruco.DetectorParameters()
    parameters.minMarkerPerimeterRate = 0.03
    parameters.adaptiveThreshWinSizeMin = 7
    parameters.adaptiveThreshWinSizeMax = 71
    parameters.adaptiveThreshWinSizeStep = 16
    parameters.polygonalApproxAccuracyRate = 0.05
    parameters.perspectiveRemovePixelPerCell = 8
    parameters.cornerRefinementMethod = cv2.aruco.CORNER_REFINE_SUBPIX
    corners, numbers, _ = cv2.aruco.ArucoDetector(dictionary, parameters).detectMarkers(grey)
    if numbers is None:
        return []
    return [
        (int(number), np.asarray(place, np.float64).reshape(4, 2))
        for number, place in zip(numbers.ravel(), corners, strict=True)
        if number < len(CELLS)
    ]


def _read_sides(
    grey: npt.NDArray[np.uint8], corners: npt.NDArray[np.float64]
) -> tuple[npt.NDArray[np.float64], tuple[float, float]]:
    """The corners where the lines of the four sides cross, and the blur of both pairs of sides."""
    import cv2

    cell = np.min(np.linalg.norm(np.roll(corners, -1, 0) - corners, axis=1)) / MARKER_CELLS
    reach = float(np.clip(0.55 * cell, 2.5, 14.0))
    low = np.floor(corners.min(0) - reach - 2).astype(int)
    high = np.ceil(corners.max(0) + reach + 3).astype(int)
    low, high = np.maximum(low, 0), np.minimum(high, grey.shape[::-1])
    light = LINEAR[grey[low[1] : high[1], low[0] : high[0]]]
    inside = corners.mean(0)
    offsets = np.arange(-reach, reach + _STEP_PX / 2, _STEP_PX)
    shares = np.linspace(_FROM, _TO, _PROFILES)
    lines, blurs = [], []
    for side in range(4):
        start, end = corners[side], corners[(side + 1) % 4]
        along = (end - start) / np.linalg.norm(end - start)
        outward = np.array([along[1], -along[0]])
        if outward @ (start - inside) < 0:
            outward = -outward
        base = start + shares[:, None] * (end - start)
        points = base[:, None, :] + offsets[None, :, None] * outward - low
        values = cv2.remap(
            light,
            points[..., 0].astype(np.float32),
            points[..., 1].astype(np.float32),
            cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_REPLICATE,
        )
        crossing, blur = _find_edge(np.asarray(values, np.float32), offsets)
        keep = np.isfinite(crossing)
        if keep.sum() < _PROFILES // 3:
            crossing, keep = np.zeros(_PROFILES), np.ones(_PROFILES, bool)
        edge = base[keep] + crossing[keep, None] * outward
        lines.append(_fit_line(edge))
        blurs.append(blur)
    placed = np.array([_cross(lines[side - 1], lines[side]) for side in range(4)])
    return placed, (max(blurs[0], blurs[2]), max(blurs[1], blurs[3]))


def _find_edge(
    values: npt.NDArray[np.float32], offsets: npt.NDArray[np.float64]
) -> tuple[npt.NDArray[np.float64], float]:
    """Where each profile crosses half its step, and the blur from 20 to 80 % of the step."""
    ends = max(2, len(offsets) // 6)
    dark = np.median(values[:, :ends], 1)[:, None]
    bright = np.median(values[:, -ends:], 1)[:, None]
    step = np.maximum(bright - dark, 1e-3)
    share = (values - dark) / step
    crossing = _first_crossing(share, offsets, 0.5)
    crossing[(step < 0.25 * np.median(step)).ravel()] = np.nan
    width = _first_crossing(share, offsets, 0.8) - _first_crossing(share, offsets, 0.2)
    # A normal curve rises from 20 to 80 % within 1.683 deviations.
    blur = float(np.nanmedian(width)) / 1.683 if np.isfinite(width).any() else np.inf
    return crossing, blur


def _first_crossing(
    share: npt.NDArray[np.float64], offsets: npt.NDArray[np.float64], level: float
) -> npt.NDArray[np.float64]:
    above = share >= level
    above[:, 0] = False
    at = above.argmax(1)
    rows = np.arange(len(share))
    before, after = share[rows, at - 1], share[rows, at]
    part = (level - before) / np.where(after == before, 1, after - before)
    crossing = offsets[at - 1] + part * (offsets[1] - offsets[0])
    return np.where(above.any(1), crossing, np.nan)


def _fit_line(points: npt.NDArray[np.float64]) -> tuple[npt.NDArray[np.float64], ...]:
    """A point and the direction of the line through points, without the worst of them."""
    for _ in range(3):
        middle = points.mean(0)
        _, _, axes = np.linalg.svd(points - middle)
        off = np.abs((points - middle) @ axes[1])
        limit = 2.5 * np.median(off) + 0.02
        if (off <= limit).all() or (off <= limit).sum() < 6:
            break
        points = points[off <= limit]
    return middle, axes[0]


def _cross(
    first: tuple[npt.NDArray[np.float64], ...], second: tuple[npt.NDArray[np.float64], ...]
) -> npt.NDArray[np.float64]:
    (p, d), (q, e) = first, second
    t = np.linalg.solve(np.column_stack([d, -e]), q - p)[0]
    crossed: npt.NDArray[np.float64] = p + t * d
    return crossed
