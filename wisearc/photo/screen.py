"""Pictures of a screen: the white of the card has the pattern of the screen's dots."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from .markers import CardInPicture
from .picture import Picture
from .plane import Plane

SCREEN = "The picture is of a screen or a print. Photograph the metal itself, with the card."
# Squares of this side inside the white are read. The blocks of a JPEG repeat in their spectrum.
_SIDE_PX = 40
_BLOCK = _SIDE_PX // 8
# A regular pattern stands out from the noise of white paper by this factor. Estimate.
_MIN_PEAK = 7.0
# The quarters of a square differ by less than this code.
_MAX_UNEVEN = 25.0
# A ring of frequencies with fewer values has no usual level.
_MIN_IN_RING = 12
# Slower changes are light, cycles per pixel.
_MIN_FREQUENCY = 0.12


def shows_screen(picture: Picture, card: CardInPicture, plane: Plane) -> bool:
    """Return whether the white of a card has a regular pattern of dots.

    Args:
        picture: The photograph.
        card: Its card.
        plane: Its plane.
    """
    return measure_pattern(picture, card, plane) > _MIN_PEAK


def measure_pattern(picture: Picture, card: CardInPicture, plane: Plane) -> float:
    """Return the strongest regular pattern in the white of a card, relative to its noise.

    Args:
        picture: The photograph.
        card: Its card.
        plane: Its plane.
    """
    window = np.outer(np.hanning(_SIDE_PX), np.hanning(_SIDE_PX))
    total = np.zeros((_SIDE_PX, _SIDE_PX))
    used = 0
    for part in _list_parts(picture, card, plane):
        for channel in range(3):
            codes = part[..., channel].astype(np.float64)
            total += np.abs(np.fft.fft2((codes - codes.mean()) * window)) ** 2
            used += 1
    if not used:
        return 0.0
    frequency = np.fft.fftfreq(_SIDE_PX)
    blocks = np.isin(np.round(np.abs(frequency) * _SIDE_PX) % _BLOCK, (0, 1, _BLOCK - 1))
    radius = np.hypot(frequency[:, None], frequency[None])
    free = (radius > _MIN_FREQUENCY) & (radius < 0.5) & ~(blocks[:, None] | blocks[None])
    rings = np.round(radius * _SIDE_PX / 2).astype(int)
    # Less than the rounding of the codes is no pattern.
    floor = 0.1 * (window**2).sum()
    strongest = 0.0
    for ring in np.unique(rings[free]):
        # Blurred noise is weaker at high frequencies, so each ring has its own level.
        energy = total[free & (rings == ring)] / used
        if len(energy) >= _MIN_IN_RING:
            strongest = max(strongest, float(energy.max() / max(np.median(energy), floor)))
    return strongest


def _list_parts(picture: Picture, card: CardInPicture, plane: Plane) -> Iterator[Picture]:
    """Yield squares of the picture that lie inside the white of a card."""
    rows, columns = picture.shape[:2]
    for box in card.layout.white:
        x, y = box.x_mm, box.y_mm
        corners = np.array(
            [
                [x, y],
                [x + box.width_mm, y],
                [x + box.width_mm, y + box.height_mm],
                [x, y + box.height_mm],
            ]
        )
        middle = plane.project(corners.mean(0) * plane.scale)
        # The distance from the middle to the nearest side, in pixels.
        seen = plane.project(corners * plane.scale)
        along = np.roll(seen, -1, 0) - seen
        to_middle = middle - seen
        cross = along[:, 0] * to_middle[:, 1] - along[:, 1] * to_middle[:, 0]
        room = float((np.abs(cross) / np.linalg.norm(along, axis=1)).min())
        # In a turned picture a square needs more room.
        if room < _SIDE_PX * 0.6:
            continue
        left, top = np.round(middle).astype(int) - _SIDE_PX // 2
        if left >= 0 and top >= 0 and left + _SIDE_PX <= columns and top + _SIDE_PX <= rows:
            part = picture[top : top + _SIDE_PX, left : left + _SIDE_PX]
            if _is_even(part):
                yield part


def _is_even(part: Picture) -> bool:
    """Whether a square has one brightness: without the edge of a shadow, of glare or of print."""
    half = _SIDE_PX // 2
    quarters = [part[y : y + half, x : x + half].mean() for y in (0, half) for x in (0, half)]
    return bool(np.ptp(quarters) < _MAX_UNEVEN)
