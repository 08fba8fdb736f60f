"""The plane of the card: from millimetres on the card to the picture, and the straightened view."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from .markers import CardInPicture
from .picture import Picture

Floats = npt.NDArray[np.float64]

# Lens distortion grows the radius by k r², r = 1 at the corner of the picture. Estimate: cameras
# of phones are corrected to a few per cent.
_K_RANGE, _K_STEP, _K_USUAL = 0.12, 0.004, 0.04
# Usual error of a corner, px. An estimate from rendered pictures.
_CORNER_PX = 0.12
# The map of the view is calculated at this many pixels, and interpolated between them.
_MAP_STEP = 16


class Plane(Struct, frozen=True):
    """The plane of a card.

    Attributes:
        to_px: Homography from mm on the card to pixels without distortion.
        k: Lens distortion.
        centre_px: Centre of the picture.
        reach_px: Half its diagonal.
        error_mm: Root mean square distance of the corners from their places.
        scale: Length of a printed millimetre, mm.
    """

    to_px: Floats
    k: float
    centre_px: Floats
    reach_px: float
    error_mm: float
    scale: float = 1.0

    def project(self, points_mm: Floats) -> Floats:
        """Return where points of the plane are in the picture, px.

        Args:
            points_mm: True millimetres, (…, 2).
        """
        printed = points_mm / self.scale
        ideal = printed @ self.to_px[:, :2].T + self.to_px[:, 2]
        flat = ideal[..., :2] / ideal[..., 2:]
        offset = (flat - self.centre_px) / self.reach_px
        seen = offset
        for _ in range(6):
            seen = offset / (1 + self.k * (seen**2).sum(-1, keepdims=True))
        placed: Floats = self.centre_px + seen * self.reach_px
        return placed

    def measure_steps(self, point_mm: tuple[float, float]) -> tuple[float, float]:
        """Return the pixels of one mm at a point: in the direction with the most, and the least."""
        x, y = point_mm
        ends = np.array([[x - 0.5, y], [x + 0.5, y], [x, y - 0.5], [x, y + 0.5]])
        seen = self.project(ends)
        step = np.column_stack([seen[1] - seen[0], seen[3] - seen[2]])
        most, least = np.linalg.svd(step, compute_uv=False)
        return float(most), float(least)


def find_plane(card: CardInPicture, size_px: tuple[int, int], scale: float = 1.0) -> Plane:
    """Return the plane of a card, by least squares over the corners of its markers.

    Args:
        card: The card in the picture.
        size_px: Columns and rows of the picture.
        scale: Length of a printed millimetre, mm.

    References:
        Homography and one radial term of lens distortion (Brown, Photogrammetric Engineering 32
        (1966) 444–462), from memory.
    """
    centre = (np.array(size_px) - 1) / 2
    reach = float(np.hypot(*centre))
    tried = np.arange(-_K_RANGE, _K_RANGE + _K_STEP / 2, _K_STEP)
    costs = [_fit(card, k, centre, reach)[1] for k in tried]
    best = int(np.argmin(costs))
    k = float(tried[best])
    if 0 < best < len(tried) - 1:
        before, at, after = costs[best - 1 : best + 2]
        k += _K_STEP * (before - after) / (2 * max(before - 2 * at + after, 1e-12))
    to_px, _ = _fit(card, k, centre, reach)
    plane = Plane(to_px, k, centre, reach, 0.0)
    steps = plane.measure_steps((card.layout.width_mm / 2, card.layout.height_mm / 2))
    off = np.linalg.norm(plane.project(card.printed_mm) - card.seen_px, axis=1)
    error = float(np.sqrt(np.mean(off**2))) / float(np.sqrt(steps[0] * steps[1])) * scale
    return Plane(to_px, k, centre, reach, error, scale)


def _fit(card: CardInPicture, k: float, centre: Floats, reach: float) -> tuple[Floats, float]:
    import cv2

    offset = (card.seen_px - centre) / reach
    ideal = centre + offset * (1 + k * (offset**2).sum(1, keepdims=True)) * reach
    to_px, _ = cv2.findHomography(card.printed_mm, ideal, 0)
    seen = card.printed_mm @ to_px[:, :2].T + to_px[:, 2]
    off = np.sum((seen[:, :2] / seen[:, 2:] - ideal) ** 2)
    return np.asarray(to_px, np.float64), float(off) / _CORNER_PX**2 + (k / _K_USUAL) ** 2


class View(Struct, frozen=True):
    """A straightened view of a part of the plane.

    Attributes:
        origin_mm: The plane's point at the first pixel.
        along: Unit vector of the columns, in the plane.
        down: Unit vector of the rows.
        px_mm: Pixels of one mm.
        rgb: The picture, (rows, columns, 3), sRGB.
        inside: Whether each pixel is in the photograph.
    """

    origin_mm: Floats
    along: Floats
    down: Floats
    px_mm: float
    rgb: Picture
    inside: npt.NDArray[np.bool_]


def straighten(
    picture: Picture,
    plane: Plane,
    origin_mm: Floats,
    direction_deg: float,
    size_mm: tuple[float, float],
    px_mm: float,
) -> View:
    """Return a part of the plane seen square on.

    Args:
        picture: The photograph.
        plane: Its plane.
        origin_mm: The first corner of the part.
        direction_deg: Direction of its columns from the seam edge of the card.
        size_mm: Its length and height.
        px_mm: Pixels of one mm.
    """
    import cv2

    turn = np.radians(direction_deg)
    along, down = np.array([np.cos(turn), np.sin(turn)]), np.array([-np.sin(turn), np.cos(turn)])
    columns, rows = (max(8, round(length * px_mm)) for length in size_mm)
    coarse_x = np.arange(0, columns + _MAP_STEP, _MAP_STEP)
    coarse_y = np.arange(0, rows + _MAP_STEP, _MAP_STEP)
    points = (
        origin_mm
        + ((coarse_x + 0.5) / px_mm)[None, :, None] * along
        + ((coarse_y + 0.5) / px_mm)[:, None, None] * down
    )
    seen = plane.project(points).astype(np.float32)
    at_x = (np.arange(columns, dtype=np.float32) / _MAP_STEP)[None, :].repeat(rows, 0)
    at_y = (np.arange(rows, dtype=np.float32) / _MAP_STEP)[:, None].repeat(columns, 1)
    map_x = cv2.remap(seen[..., 0], at_x, at_y, cv2.INTER_LINEAR)
    map_y = cv2.remap(seen[..., 1], at_x, at_y, cv2.INTER_LINEAR)
    height, width = picture.shape[:2]
    inside = (map_x >= 0) & (map_y >= 0) & (map_x <= width - 1) & (map_y <= height - 1)
    rgb = cv2.remap(picture, map_x, map_y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return View(origin_mm, along, down, px_mm, np.asarray(rgb, np.uint8), inside)
