"""The light of a photograph, read from the white and the grey ramp of the card."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from ..core.photograph.card import RAMP, Box
from .colour import LINEAR
from .markers import CardInPicture
from .picture import Picture
from .plane import Plane, View

Floats = npt.NDArray[np.float64]

# Reflectance of white paper: common practice, no source.
PAPER = 0.86
# A pixel with a channel from this sRGB code is glare; so are its neighbours within this distance.
GLARE_CODE, GLARE_REACH_MM = 250, 0.3
# The greys from this code are printed in proportion. Estimate: dark ink is never black.
_MIN_RAMP_CODE = 100
# The greys differ by more than this from neutral, or from their steps: the light cannot be read.
MAX_RAMP_ERROR = 0.22


class Light(Struct, frozen=True):
    """The light over the plane.

    Attributes:
        log_white: The logarithm of white paper's linear light as 1, x, y in dm, (3 terms, 3).
        ramp_error: Error of the ramp relative to neutral greys in their steps, as a fraction.
        is_clipped: Whether the white of the card is brighter than the picture can show.
        gradient: The most to the least light over the card's white.
    """

    log_white: Floats
    ramp_error: float
    is_clipped: bool
    gradient: float

    def measure_white(self, points_mm: Floats) -> Floats:
        """Return the linear light that white paper would have at points, (…, 3)."""
        terms = np.concatenate([np.ones((*points_mm.shape[:-1], 1)), points_mm / 100], -1)
        white: Floats = np.exp(terms @ self.log_white)
        return white


def read_light(picture: Picture, card: CardInPicture, plane: Plane) -> Light:
    """Return the light over the plane of a card.

    Args:
        picture: The photograph.
        card: Its card.
        plane: Its plane.
    """
    places, colours, clipped = [], [], []
    for box in card.layout.white:
        codes = _sample(picture, plane, box.shrink(0.8))
        if len(codes) < 12:
            continue
        clipped.append(float(np.mean(codes.max(1) >= GLARE_CODE)))
        places.append([box.x_mm + box.width_mm / 2, box.y_mm + box.height_mm / 2])
        colours.append(np.median(LINEAR[codes], 0))
    at, white = np.array(places) * plane.scale, np.maximum(np.array(colours), 1e-4)
    # A shadow or glare on one place must not tilt the whole.
    keep = np.array(clipped) < 0.5
    if keep.sum() >= 5:
        at, white = at[keep], white[keep]
    terms = np.column_stack([np.ones(len(at)), at / 100])
    if np.ptp(at[:, 1]) < 20:
        # The strip is too narrow to read the light across it.
        solved = np.linalg.lstsq(terms[:, :2], np.log(white), rcond=None)[0]
        log_white = np.vstack([solved, np.zeros((1, 3))])
    else:
        log_white = np.linalg.lstsq(terms, np.log(white), rcond=None)[0]
    light = Light(log_white, 0.0, bool(np.mean(clipped) > 0.5), 1.0)
    green = white[:, 1]
    return Light(
        log_white,
        _measure_ramp_error(picture, card, plane, light),
        light.is_clipped,
        float(green.max() / green.min()),
    )


def _sample(picture: Picture, plane: Plane, box: Box) -> npt.NDArray[np.uint8]:
    x = np.linspace(box.x_mm, box.x_mm + box.width_mm, 9)
    y = np.linspace(box.y_mm, box.y_mm + box.height_mm, 7)
    printed = np.stack(np.meshgrid(x, y), -1).reshape(-1, 2)
    pixels = np.round(plane.project(printed * plane.scale)).astype(int)
    rows, columns = picture.shape[:2]
    inside = (pixels >= 0).all(1) & (pixels[:, 0] < columns) & (pixels[:, 1] < rows)
    codes: npt.NDArray[np.uint8] = picture[pixels[inside, 1], pixels[inside, 0]]
    return codes


def _measure_ramp_error(picture: Picture, card: CardInPicture, plane: Plane, light: Light) -> float:
    ratios, wanted = [], []
    for box, code in zip(card.layout.ramp, RAMP, strict=True):
        codes = _sample(picture, plane, box.shrink(0.7))
        if code < _MIN_RAMP_CODE or len(codes) < 6:
            continue
        centre = np.array([box.x_mm + box.width_mm / 2, box.y_mm + box.height_mm / 2])
        ratios.append(np.median(LINEAR[codes], 0) / light.measure_white(centre * plane.scale))
        wanted.append(LINEAR[code])
    if len(ratios) < 2:
        return 1.0
    levels = np.log(np.maximum(np.array(ratios), 1e-4))
    colour = float(np.max(np.abs(levels - levels.mean(1, keepdims=True)).mean(0)))
    steps = levels.mean(1) - np.log(np.array(wanted))
    return max(colour, float(np.ptp(steps)) / 2)


class Metal(Struct, frozen=True):
    """A straightened view in the light of the card.

    Attributes:
        view: The view.
        reflectance: Linear reflectance, (rows, columns, 3); white paper is PAPER.
        valid: Whether each pixel can be used: inside the photograph and without glare.
        glare_share: The part of the pixels in the photograph that is glare.
    """

    view: View
    reflectance: npt.NDArray[np.float32]
    valid: npt.NDArray[np.bool_]
    glare_share: float


def correct_light(view: View, light: Light) -> Metal:
    """Return a view without the gradient and the cast of the light.

    Args:
        view: The straightened view.
        light: The light of its photograph.
    """
    import cv2

    rows, columns = view.rgb.shape[:2]
    ends = np.array([[0.0, 0.0], [columns, 0.0], [0.0, rows]]) / view.px_mm
    points = view.origin_mm + ends[:, :1] * view.along + ends[:, 1:] * view.down
    terms = np.column_stack([np.ones(3), points / 100]) @ light.log_white
    right, down = (terms[1] - terms[0]) / columns, (terms[2] - terms[0]) / rows
    column_white = np.exp(np.arange(columns)[:, None] * right).astype(np.float32)
    row_white = np.exp(terms[0] + np.arange(rows)[:, None] * down).astype(np.float32) / PAPER
    reflectance = LINEAR[view.rgb]
    reflectance /= column_white[None]
    reflectance /= row_white[:, None]
    glare = (view.rgb.max(2) >= GLARE_CODE) & view.inside
    reach = 2 * round(GLARE_REACH_MM * view.px_mm) + 1
    near = cv2.dilate(glare.astype(np.uint8), np.ones((reach, reach), np.uint8)) > 0
    inside = max(1, int(view.inside.sum()))
    return Metal(view, reflectance, view.inside & ~near, float(glare.sum()) / inside)
