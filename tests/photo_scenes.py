"""Scenes at random: photographs that can be measured, and photographs that are spoiled."""

from __future__ import annotations

import random
from dataclasses import dataclass

import numpy as np

from tests import oxide_film
from tests.rendered_photograph import Painted, Scene
from wisearc.core import catalogue
from wisearc.core.photograph.measurement import Measurement
from wisearc.photo.colour import calculate_ciede2000, convert_to_lab, read_hex

INDICES = (2.1 + 0.05j, 2.2 + 0.08j, 2.3 + 0.1j, 2.4 + 0.15j)
SPOILED = (
    "no-card",
    "two-cards",
    "blur",
    "shaken",
    "curled",
    "glare",
    "slanted",
    "far",
    "no-bead",
    "black",
    "screen",
    "brass",
    "finger",
)
# In the order of thickness, a dark blue film is thinner than a blue one.
BY_THICKNESS = (
    "silver",
    "pale-straw",
    "straw",
    "dark-straw",
    "brown",
    "purple-brown",
    "dark-purple",
    "dark-blue",
    "blue",
    "grey",
)


def random_scene(seed: int, size_px: tuple[int, int] = (2400, 1800)) -> Scene:
    """Return a scene that can be measured, within the limits the product promises."""
    pick = random.Random(seed)
    return Scene(
        seed=seed,
        size_px=size_px,
        card=pick.choice(["card", "card", "strip"]),
        bead_mm=pick.uniform(2, 7),
        pitch_mm=pick.uniform(0.6, 2),
        ripple=pick.choice([0.03, 0.12, 0.2, 0.3]),
        seam_y_mm=-pick.uniform(10, 35),
        seam_deg=pick.uniform(-6, 6),
        film_nm=pick.choice([2, 15, 25, 35, 45, 55, 64]),
        band_mm=pick.uniform(1.5, 7),
        index=pick.choice(INDICES),
        brushed=pick.choice([0.02, 0.05, 0.08]),
        tilt_deg=pick.uniform(0, 40),
        tilt_to_deg=pick.uniform(0, 360),
        roll_deg=pick.uniform(-180, 180),
        k1=pick.uniform(-0.04, 0.04),
        kelvin=pick.uniform(2700, 7500),
        balance=pick.uniform(0.6, 1),
        gradient=pick.uniform(1, 3),
        gradient_to_deg=pick.uniform(0, 360),
        glare=pick.choice([0, 0, 1, 2]),
        blur_px=pick.uniform(0.5, 1.4),
        noise=pick.uniform(0.002, 0.012),
        quality=pick.choice([60, 75, 90]),
        clutter=pick.choice([0, 4, 8, 12]),
        width_noise=pick.uniform(0.01, 0.04),
        view_mm=pick.uniform(235, 290),
        grey=pick.random() < 0.08,
    )


def spoiled_scene(kind: str, seed: int, size_px: tuple[int, int] = (2400, 1800)) -> Scene:
    """Return a scene that must be refused, or whose spoiled figure must be."""
    scene = random_scene(seed, size_px)
    pick = random.Random(seed)
    changes: dict[str, object] = {
        "no-card": {"shows_card": False},
        "two-cards": {"two_cards": True, "view_mm": 420.0, "seam_y_mm": -2.0},
        "blur": {"blur_px": pick.uniform(4, 8)},
        "shaken": {"smear_px": pick.uniform(16, 30)},
        "curled": {"curl_mm": pick.uniform(4, 9)},
        "glare": {"glare": 70, "glare_size": 2.5},
        "slanted": {"tilt_deg": pick.uniform(56, 64)},
        "far": {"view_mm": pick.uniform(620, 900)},
        "no-bead": {"shows_bead": False},
        "black": {"exposure": 0.002},
        "screen": {"screen": True},
        "brass": {"metal": (1.0, 0.72, 0.32)},
        "finger": {"covers_marker": True},
    }[kind]  # type: ignore[assignment]
    for name, value in changes.items():  # type: ignore[attr-defined]
        setattr(scene, name, value)
    return scene


@dataclass
class Truth:
    """The truth of a rendered photograph."""

    width_mm: float
    pitch_mm: float
    scene: Scene

    def tint_at(self, from_toe_mm: float) -> str:
        """Return the tint of the film at a distance from the toe."""
        scene = self.scene
        if scene.grey and from_toe_mm < scene.band_mm:
            return "grey"
        share = np.clip(1 - from_toe_mm / scene.band_mm, 0, 1) ** 0.8
        return label_films(scene.index)[int(scene.film_nm * share / oxide_film.STEP_NM)]


def read_truth(painted: Painted) -> Truth:
    """Return the truth of a painted plane, over the length that a card shows."""
    axis, half = painted.axis, painted.half
    near = (axis > -80) & (axis < 80)
    ripples = painted.ripples[(painted.ripples > -75) & (painted.ripples < 75)]
    return Truth(2 * float(half[near].mean()), float(np.diff(ripples).mean()), painted.scene)


def label_films(index: complex) -> list[str]:
    """Return the nearest tint of the catalogue for each film of `film_colours` in daylight."""
    films = oxide_film.film_colours(6500.0, index)
    tints = [t for t in catalogue.load_tints().values() if not t.above]
    seen = convert_to_lab(films / films[0] * read_hex(tints[0].film))
    known = convert_to_lab(np.array([read_hex(t.film) for t in tints]))
    nearest = calculate_ciede2000(seen[:, None], known[None], 2.0).argmin(1)
    return [tints[n].key for n in nearest]


def count_tint_steps(measurement: Measurement, truth: Truth) -> list[int]:
    """Return the number of tints of each measured band from the truth at its middle."""
    return [
        abs(
            BY_THICKNESS.index(band.tint)
            - BY_THICKNESS.index(truth.tint_at((band.from_mm + band.to_mm) / 2))
        )
        for band in measurement.tints
    ]


def is_right(value: float, truth: float, slack: float) -> bool:
    """Return whether a figure is within 5 % of the truth, or within a slack."""
    return abs(value - truth) <= max(0.05 * truth, slack)
