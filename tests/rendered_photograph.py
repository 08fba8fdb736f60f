"""Rendered photographs of a bead beside the card, with the truth.

The sheet with its bead, its tint bands and the card is painted in its plane, then seen by a camera
with perspective and lens distortion, in coloured and uneven light, with glare, blur, noise and
JPEG.
All of it is invented.
"""

from __future__ import annotations

import io
from dataclasses import dataclass, field

import cv2
import numpy as np

from tests import oxide_film
from wisearc.core.photograph.card import RAMP, Box, Card, load_cards

# The painted plane: pixels per mm, and its corner and size in the coordinates of the card, mm.
PLANE_PX_MM = 10.0
X0_MM, Y0_MM, WIDTH_MM, HEIGHT_MM = -60.0, -100.0, 270.0, 240.0


@dataclass
class Scene:
    """The content of a photograph. Lengths mm, angles °."""

    seed: int = 0
    card: str = "card"
    card_scale: float = 1.0
    bead_mm: float = 4.0
    width_noise: float = 0.03
    drift: float = 0.0
    pitch_mm: float = 1.2
    pitch_noise: float = 0.06
    ripple: float = 0.25
    seam_y_mm: float = -20.0
    seam_deg: float = 2.0
    start_mm: float = -200.0
    stop_mm: float = 400.0
    film_nm: float = 55.0
    band_mm: float = 5.0
    index: complex = 2.3 + 0.1j
    grey: bool = False
    metal: tuple[float, float, float] = (1.0, 1.0, 1.0)
    brushed: float = 0.05
    tilt_deg: float = 15.0
    tilt_to_deg: float = 70.0
    roll_deg: float = 0.0
    view_mm: float = 240.0
    k1: float = 0.02
    kelvin: float = 5000.0
    balance: float = 0.85
    gradient: float = 1.5
    gradient_to_deg: float = 30.0
    exposure: float = 0.75
    glare: int = 0
    glare_size: float = 1.0
    blur_px: float = 0.8
    smear_px: float = 0.0
    noise: float = 0.006
    quality: int = 85
    clutter: int = 0
    size_px: tuple[int, int] = (2000, 1500)
    shows_card: bool = True
    two_cards: bool = False
    covers_marker: bool = False
    curl_mm: float = 0.0
    card_lift_mm: float = 0.0
    screen: bool = False
    shows_bead: bool = True
    # A side view: the edge of a sheet of this thickness along the card, with this bow.
    edge_mm: float = 0.0
    bow_mm: float = 0.0
    bow_over_mm: float = 220.0
    lens_to_px: tuple[float, float] = (0.0, 0.0)
    extra: dict[str, float] = field(default_factory=dict)


def _noise(rng: np.random.Generator, n: int, step: float) -> np.ndarray:
    """Smooth noise of deviation 1 over n samples, with a correlation of `step` samples."""
    knots = rng.standard_normal(int(n / step) + 4)
    at = np.linspace(1, len(knots) - 3, n)
    return np.interp(at, np.arange(len(knots)), knots)


class Painted:
    """The plane in linear light: reflectance (rows, columns, 3)."""

    def __init__(self, scene: Scene) -> None:
        """Paint a scene."""
        self.scene, self.rng = scene, np.random.default_rng(scene.seed)
        self.rows, self.columns = int(HEIGHT_MM * PLANE_PX_MM), int(WIDTH_MM * PLANE_PX_MM)
        white = oxide_film.calculate_white(scene.kelvin)
        self.film = (oxide_film.film_colours(scene.kelvin, scene.index) / white).astype(np.float32)
        self.plane = np.empty((self.rows, self.columns, 3), np.float32)
        if scene.edge_mm:
            self._paint_edge()
        else:
            self._paint_sheet()
        if scene.clutter:
            self._paint_clutter()
        if scene.shows_card:
            self._paint_card(load_cards()[scene.card], 0.0, 0.0)
        if scene.two_cards:
            self._paint_card(load_cards()[scene.card], 20.0, -108.0)
        if scene.covers_marker:
            x, y = load_cards()[scene.card].markers[1].list_corners()[0]
            at = (int((x + 6 - X0_MM) * PLANE_PX_MM), int((y - Y0_MM) * PLANE_PX_MM))
            cv2.circle(self.plane, at, int(8 * PLANE_PX_MM), (0.5, 0.32, 0.25), -1)

    def _paint_sheet(self) -> None:
        scene, rng = self.scene, self.rng
        lines = _noise(rng, self.rows, 1.5)[:, None] * scene.brushed
        grain = rng.standard_normal((self.rows // 2, self.columns // 2)).astype(np.float32)
        grain = cv2.resize(grain, (self.columns, self.rows)) * scene.brushed * 0.5
        shade = (1.0 + lines + grain).astype(np.float32)
        clouds = cv2.resize(
            rng.standard_normal((6, 6)).astype(np.float32),
            (self.columns, self.rows),
            interpolation=cv2.INTER_CUBIC,
        )
        shade *= 1 + 0.06 * clouds
        self.plane[:] = shade[..., None] * self.film[0] * np.array(scene.metal, np.float32)
        self._paint_bead(shade)

    def _paint_edge(self) -> None:
        """A sheet seen on its edge, bent to a circle, before a dark background."""
        scene, rng = self.scene, self.rng
        x = X0_MM + (np.arange(self.columns) + 0.5) / PLANE_PX_MM
        y = (Y0_MM + (np.arange(self.rows) + 0.5) / PLANE_PX_MM)[:, None]
        sag = scene.bow_mm * (1 - ((x - 74.0) / (scene.bow_over_mm / 2)) ** 2)
        lower = scene.seam_y_mm - sag + np.tan(np.radians(scene.seam_deg)) * (x - 74.0)
        inside = np.clip((lower - y) * PLANE_PX_MM, 0, 1) * np.clip(
            (y - lower + scene.edge_mm) * PLANE_PX_MM, 0, 1
        )
        grain = 1 + 0.05 * rng.standard_normal((self.rows, self.columns))
        level = (0.06 * (1 - inside) + 0.5 * inside) * grain
        self.plane[:] = level[..., None] * self.film[0]
        self.axis, self.half, self.ripples = x - 74.0, np.zeros(self.columns), np.zeros(2)

    def _paint_bead(self, shade: np.ndarray) -> None:
        scene, rng, px = self.scene, self.rng, PLANE_PX_MM
        reach = scene.bead_mm / 2 + scene.band_mm + 4
        angle = np.radians(scene.seam_deg)
        X0_MM + WIDTH_MM / 2
        ends = [scene.seam_y_mm + np.tan(angle) * (x - 74.0) for x in (X0_MM, X0_MM + WIDTH_MM)]
        top = max(0, int((min(ends) - reach - 2 - Y0_MM) * px))
        bottom = min(self.rows, int((max(ends) + reach + 2 - Y0_MM) * px))
        y = (Y0_MM + (np.arange(top, bottom, dtype=np.float32) + 0.5) / px)[:, None]
        x = (X0_MM + (np.arange(self.columns, dtype=np.float32) + 0.5) / px)[None, :]
        along = (x - 74.0) * np.cos(angle) + (y - scene.seam_y_mm) * np.sin(angle)
        across = -(x - 74.0) * np.sin(angle) + (y - scene.seam_y_mm) * np.cos(angle)
        n = self.columns
        wobble = _noise(rng, n, 15 * px) * 0.12
        half = (
            scene.bead_mm
            / 2
            * (
                1
                + scene.width_noise * _noise(rng, n, 4 * px)
                + scene.drift * (np.arange(n) / n - 0.5) * WIDTH_MM / 100
            )
        )
        axis = (x[0] - 74.0).astype(np.float64)
        self.axis, self.half = axis, half
        across = across - np.interp(along, axis, wobble).astype(np.float32)
        width = np.interp(along, axis, half).astype(np.float32)
        # Round ends.
        beyond = np.maximum(
            np.maximum(
                scene.start_mm + scene.bead_mm / 2 - along,
                along - (scene.stop_mm - scene.bead_mm / 2),
            ),
            0,
        )
        from_axis = np.hypot(across, beyond)
        out = from_axis - width
        steps = np.maximum(
            scene.pitch_mm * (1 + scene.pitch_noise * rng.standard_normal(2000)), 0.2
        )
        ripples = np.cumsum(steps) - 1000 * scene.pitch_mm
        self.ripples = ripples
        if not scene.shows_bead:
            return
        bowed = along + 0.35 * scene.bead_mm * (across / np.maximum(width, 0.1)) ** 2
        phase = np.interp(bowed, ripples, np.arange(len(ripples))).astype(np.float32)
        u = across / np.maximum(width, 0.1)
        part = phase - np.floor(phase)
        ripple = scene.ripple * (np.cos(2 * np.pi * part) * 0.8 + 0.3 * np.cos(4 * np.pi * part))
        light = rng.uniform(-0.2, 0.2)
        bead = (1.05 + ripple) * (1 + light * u) * (1 - 0.25 * u * u)
        film = np.where(
            out > 0,
            scene.film_nm * np.clip(1 - out / scene.band_mm, 0, 1) ** 0.8,
            min(8.0, scene.film_nm * 0.15),
        )
        colour = self.film[np.clip((film / oxide_film.STEP_NM).astype(int), 0, len(self.film) - 1)]
        if scene.grey:
            dull = np.clip(1 - out / scene.band_mm, 0, 1)[..., None] ** 0.3
            grey = self.film[0].mean() * 0.33
            colour = np.where(out[..., None] > 0, colour * (1 - dull) + grey * dull, colour)
        region = self.plane[top:bottom]
        blend = np.clip(0.5 - out * px, 0, 1)
        depth = rng.uniform(0.35, 0.6)
        toe = 1 - depth * np.exp(-0.5 * (out / rng.uniform(0.08, 0.13)) ** 2)
        lit = shade[top:bottom] * (1 - blend) + bead * blend
        region[:] = (lit * toe)[..., None] * colour * np.array(scene.metal, np.float32)
        self.band = (top, bottom)

    def _paint_clutter(self) -> None:
        rng, px = self.rng, PLANE_PX_MM
        for _ in range(self.scene.clutter):
            colour = tuple(float(c) for c in rng.uniform(0.02, 0.8, 3))
            kind = rng.integers(4)
            far = rng.choice([-1, 1])
            y = self.scene.seam_y_mm + far * rng.uniform(25, 60)
            x = rng.uniform(X0_MM + 10, X0_MM + WIDTH_MM - 10)
            at = (int((x - X0_MM) * px), int((y - Y0_MM) * px))
            if kind == 0:
                size = rng.uniform(3, 15, 2) * px
                cv2.ellipse(
                    self.plane,
                    at,
                    (int(size[0]), int(size[1])),
                    rng.uniform(0, 180),
                    0,
                    360,
                    colour,
                    -1,
                )
            elif kind == 1:
                end = (
                    at[0] + int(rng.uniform(-40, 40) * px),
                    at[1] + int(rng.uniform(-15, 15) * px),
                )
                cv2.line(self.plane, at, end, colour, int(rng.uniform(0.3, 4) * px))
            elif kind == 2:
                # A word in felt pen.
                steps = np.array([4 * px, 0]) + rng.uniform(-4, 4, (12, 2)) * px
                points = np.array(at) + np.cumsum(steps * (1, 0.4), 0)
                cv2.polylines(
                    self.plane,
                    [points.astype(np.int32)],
                    False,
                    (0.03, 0.03, 0.05),
                    int(rng.uniform(0.5, 1.2) * px),
                )
            else:
                # Spatter and dirt near the seam.
                for _ in range(6):
                    near = (
                        at[0] + int(rng.uniform(-60, 60) * px),
                        int((self.scene.seam_y_mm + rng.uniform(-12, 12) - Y0_MM) * px),
                    )
                    cv2.circle(
                        self.plane, near, int(rng.uniform(0.1, 0.5) * px), (0.05, 0.05, 0.05), -1
                    )

    def _paint_card(self, card: Card, dx: float, dy: float) -> None:
        scale, px, rng = self.scene.card_scale, PLANE_PX_MM, self.rng

        def fill(box, value):
            x, y = (box.x_mm + dx) * scale, (box.y_mm + dy) * scale
            ends = [
                (x - X0_MM) * px,
                (x + box.width_mm * scale - X0_MM) * px,
                (y - Y0_MM) * px,
                (y + box.height_mm * scale - Y0_MM) * px,
            ]
            left, right = max(0, int(ends[0])), min(self.columns, int(ends[1]) + 1)
            top, bottom = max(0, int(ends[2])), min(self.rows, int(ends[3]) + 1)
            if right <= left or bottom <= top:
                return
            columns, rows = np.arange(left, right), np.arange(top, bottom)
            cover = np.outer(
                np.minimum(rows + 1, ends[3]) - np.maximum(rows, ends[2]),
                np.minimum(columns + 1, ends[1]) - np.maximum(columns, ends[0]),
            )[..., None].astype(np.float32)
            part = self.plane[top:bottom, left:right]
            part[:] = part * (1 - cover) + np.array(value, np.float32) * cover

        paper = np.array([0.86, 0.86, 0.85])
        ink = 1 + rng.uniform(-0.03, 0.03, 3)
        fill(Box(0, 0, card.width_mm, card.height_mm), paper)
        for marker in card.markers:
            fill(marker.box, paper * 0.05)
            for cell in marker.list_white_boxes():
                fill(cell, paper)
        for box, grey in zip(card.ramp, RAMP, strict=True):
            value = ((grey / 255 + 0.055) / 1.055) ** 2.4
            fill(
                box, paper * max(value, 0.05) * (ink if grey < 250 else 1) * rng.uniform(0.95, 1.05)
            )
        for n in range(int(card.ruler.width_mm) + 1):
            fill(
                Box(
                    card.ruler.x_mm + n - 0.1,
                    card.ruler.y_mm,
                    0.2,
                    card.ruler.height_mm * (1 if n % 10 == 0 else 0.5),
                ),
                paper * 0.05,
            )
        x, y = card.check_start_mm
        fill(Box(x, y, 100, 0.3), paper * 0.05)


@dataclass
class Camera:
    """A camera: from plane mm to pixels."""

    homography: np.ndarray
    k1: float
    size: tuple[int, int]
    centre: np.ndarray
    reach: float

    def undistort(self, points: np.ndarray) -> np.ndarray:
        """Return ideal pixels from seen ones: the radius grows by 1 + k1 r²."""
        offset = (points - self.centre) / self.reach
        square = (offset**2).sum(-1, keepdims=True)
        return self.centre + offset * (1 + self.k1 * square) * self.reach


def place_camera(scene: Scene) -> Camera:
    """Return the camera of a scene, far enough away that the whole card is in the picture."""
    view_mm = scene.view_mm
    card = load_cards()[scene.card]
    size = np.array([card.width_mm, card.height_mm]) * scene.card_scale
    corners = np.array([[0, 0], [1, 0], [1, 1], [0, 1]]) * size
    while True:
        camera = _place_camera(scene, view_mm)
        seen = np.column_stack([corners, np.ones(4)]) @ camera.homography.T
        seen = seen[:, :2] / seen[:, 2:]
        if (seen > 30).all() and (seen < np.array(scene.size_px) - 30).all():
            return camera
        view_mm *= 1.04


def _place_camera(scene: Scene, view_mm: float) -> Camera:
    width, height = scene.size_px
    focal = 1.15 * max(width, height)
    target = np.array([74.0, 32.0, 0.0])
    distance = focal * view_mm / max(width, height)
    tilt, to, roll = (np.radians(v) for v in (scene.tilt_deg, scene.tilt_to_deg, scene.roll_deg))
    back = np.array([np.sin(tilt) * np.cos(to), np.sin(tilt) * np.sin(to), -np.cos(tilt)])
    position = target + distance * back
    forward = -back
    right = np.cross(np.array([0.0, 1.0, 0.0]), forward)
    right /= np.linalg.norm(right)
    down = np.cross(forward, right)
    rotation = np.stack([right, down, forward])
    turn = np.array([[np.cos(roll), -np.sin(roll), 0], [np.sin(roll), np.cos(roll), 0], [0, 0, 1]])
    rotation = turn @ rotation
    inner = np.array([[focal, 0, width / 2], [0, focal, height / 2], [0, 0, 1.0]])
    full = inner @ np.column_stack([rotation, -rotation @ position])
    homography = full[:, [0, 1, 3]]
    centre = np.array([width / 2, height / 2])
    return Camera(homography, scene.k1, scene.size_px, centre, float(np.hypot(*centre)))


def render(scene: Scene) -> tuple[np.ndarray, Painted]:
    """Return a photograph, (rows, columns, 3) uint8 RGB, and its painted plane."""
    rng = np.random.default_rng(scene.seed + 1)
    painted = Painted(scene)
    camera = place_camera(scene)
    width, height = scene.size_px
    grid = np.stack(np.meshgrid(np.arange(width), np.arange(height)), -1).astype(np.float64)
    ideal = camera.undistort(grid.reshape(-1, 2))
    inverse = np.linalg.inv(camera.homography)
    seen = np.column_stack([ideal, np.ones(len(ideal))]) @ inverse.T
    plane = seen[:, :2] / seen[:, 2:]
    if scene.curl_mm:
        # The edges of the card are up, so they appear closer to the middle.
        inside = plane[:, 1] > 0
        lift = scene.curl_mm * ((plane[:, 0] - 74) / 74) ** 2 * inside
        tall = scene.view_mm * 1.15
        plane[:, 0] -= (plane[:, 0] - 74) * lift / tall
        plane[:, 1] -= np.where(inside, (plane[:, 1] - 20) * lift / tall, 0) - lift * 0.35
    to_x = ((plane[:, 0] - X0_MM) * PLANE_PX_MM - 0.5).reshape(height, width).astype(np.float32)
    to_y = ((plane[:, 1] - Y0_MM) * PLANE_PX_MM - 0.5).reshape(height, width).astype(np.float32)
    picture = cv2.remap(
        painted.plane,
        to_x,
        to_y,
        cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_CONSTANT,
        borderValue=(0.15, 0.10, 0.06),
    )
    # Light: uneven over the plane, coloured, and half corrected by the camera.
    toward = np.radians(scene.gradient_to_deg)
    share = (
        ((plane[:, 0] - 74) * np.cos(toward) + (plane[:, 1] - 20) * np.sin(toward)) / 220
    ).reshape(height, width)
    picture *= (scene.gradient ** np.clip(share, -0.7, 0.7)).astype(np.float32)[..., None]
    white = oxide_film.calculate_white(scene.kelvin)
    cast = (white / white[1]) ** (1 - scene.balance)
    picture *= (scene.exposure * cast).astype(np.float32)
    for _ in range(scene.glare):
        x = rng.uniform(10, 140)
        y = scene.seam_y_mm + rng.uniform(-6, 6)
        place = camera.homography @ np.array([x, y, 1.0])
        at = (int(place[0] / place[2]), int(place[1] / place[2]))
        axes = tuple(int(rng.uniform(*ends) * scene.glare_size) for ends in ((15, 60), (8, 30)))
        spot = np.zeros((height, width), np.float32)
        cv2.ellipse(spot, at, axes, rng.uniform(0, 180), 0, 360, 1.0, -1)
        picture += cv2.GaussianBlur(spot, (0, 0), 4)[..., None] * 3
    if scene.blur_px:
        picture = cv2.GaussianBlur(picture, (0, 0), scene.blur_px)
    if scene.smear_px > 1:
        length = int(scene.smear_px)
        kernel = np.zeros((length, length), np.float32)
        cv2.line(kernel, (0, length // 3), (length - 1, 2 * length // 3), 1.0)
        picture = cv2.filter2D(picture, -1, kernel / kernel.sum())
    picture += (
        rng.standard_normal(picture.shape, np.float32)
        * scene.noise
        * np.sqrt(np.clip(picture, 0.05, 1))
    )
    if scene.screen:
        stripes = np.ones((3, 3), np.float32) * 0.55 + np.eye(3, dtype=np.float32) * 1.35
        # The dots of a screen, three colours side by side, at any size.
        dot = rng.uniform(1.05, 1.9)
        across = (np.arange(width) / dot).astype(int) % 3
        rows = 1 - 0.35 * ((np.arange(height) / (3 * dot)) % 1 < 0.25)
        picture *= stripes[across][None] * rows[:, None, None].astype(np.float32)
        picture = cv2.GaussianBlur(picture, (0, 0), 0.6)
    value = np.clip(picture, 0, 1)
    value = np.where(value <= 0.0031308, 12.92 * value, 1.055 * np.power(value, 1 / 2.4) - 0.055)
    return np.round(value * 255).astype(np.uint8), painted


def encode(picture: np.ndarray, quality: int = 85) -> bytes:
    """Return a picture as the bytes of a JPEG file."""
    from PIL import Image

    out = io.BytesIO()
    Image.fromarray(picture).save(out, "JPEG", quality=quality)
    return out.getvalue()
