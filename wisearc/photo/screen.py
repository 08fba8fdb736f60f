"""Pictures of a screen: the white of the card has the pattern of the screen's dots."""

from __future__ import annotations

import numpy as np

from .markers import CardInPicture
from .picture import Picture
from .plane import Plane

_SIDE_PX, _MAX_WINDOWS = 64, 10
# A regular pattern stands out from the noise of white paper by this factor. Estimate.
_MIN_PEAK = 60.0
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
    rows, columns = picture.shape[:2]
    used = 0
    for box in card.layout.white[:_MAX_WINDOWS]:
        middle = np.array([box.x_mm + box.width_mm / 2, box.y_mm + box.height_mm / 2])
        x, y = np.round(plane.project(middle * plane.scale)).astype(int) - _SIDE_PX // 2
        if x < 0 or y < 0 or x + _SIDE_PX > columns or y + _SIDE_PX > rows:
            continue
        for channel in range(3):
            part = picture[y : y + _SIDE_PX, x : x + _SIDE_PX, channel].astype(np.float64)
            if part.std() > 40:
                continue
            total += np.abs(np.fft.fft2((part - part.mean()) * window)) ** 2
            used += 1
    if not used:
        return 0.0
    frequency = np.fft.fftfreq(_SIDE_PX)
    # The blocks of a JPEG repeat every 8 pixels.
    blocks = np.isin(np.round(np.abs(frequency) * 64) % 8, (0, 1, 7))
    fast = np.hypot(frequency[:, None], frequency[None]) > _MIN_FREQUENCY
    free = fast & ~(blocks[:, None] | blocks[None])
    energy = total[free] / used
    # Less than the rounding of the codes is no pattern.
    floor = 0.1 * (window**2).sum()
    return float(energy.max() / max(np.median(energy), floor))
