"""Markers and plane against exact geometry: a camera with known perspective and lens."""

import unittest

import numpy as np

from tests.photo_scenes import random_scene
from tests.rendered_photograph import Scene, place_camera, render
from wisearc.core.photograph.card import CELLS, load_cards
from wisearc.photo.markers import find_card
from wisearc.photo.plane import find_plane, straighten

# A plane grid beside the card and over it, mm.
POINTS = np.array([[x, y] for x in (0.0, 40.0, 110.0, 148.0) for y in (-35.0, -10.0, 30.0)])


def project(scene: Scene, points: np.ndarray) -> np.ndarray:
    """Return the exact pixels of points of the plane."""
    camera = place_camera(scene)
    ideal = np.column_stack([points, np.ones(len(points))]) @ camera.homography.T
    offset = (ideal[:, :2] / ideal[:, 2:] - camera.centre) / camera.reach
    seen = offset
    for _ in range(30):
        seen = offset / (1 + scene.k1 * (seen**2).sum(1, keepdims=True))
    return camera.centre + seen * camera.reach


class Geometry(unittest.TestCase):
    def test_points_of_the_plane_within_a_tenth_of_a_millimetre(self) -> None:
        for scene in (
            Scene(tilt_deg=0.0, k1=0.0),
            Scene(tilt_deg=40.0, tilt_to_deg=80.0, k1=0.04),
            Scene(tilt_deg=30.0, tilt_to_deg=200.0, k1=-0.04, roll_deg=90.0, kelvin=2700.0),
            Scene(card="strip", tilt_deg=25.0, roll_deg=180.0, gradient=3.0, noise=0.012),
        ):
            with self.subTest(tilt=scene.tilt_deg, card=scene.card):
                picture, _ = render(scene)
                card = find_card(picture)
                plane = find_plane(card, scene.size_px)
                least = plane.measure_steps((74.0, -20.0))[1]
                off = np.linalg.norm(plane.project(POINTS) - project(scene, POINTS), axis=1)
                self.assertLess(off.max() / least, 0.1)
                self.assertLess(plane.error_mm, 0.04)

    def test_corners_within_a_fifth_of_a_pixel(self) -> None:
        scene = Scene(tilt_deg=20.0, blur_px=1.2)
        card = find_card(render(scene)[0])
        exact = project(scene, card.printed_mm)
        self.assertLess(np.abs(card.seen_px - exact).max(), 0.35)
        self.assertLess(np.sqrt(np.mean((card.seen_px - exact) ** 2)), 0.15)

    def test_blur_is_that_of_the_picture(self) -> None:
        """Blur of the lens, and that of the painted plane and of the pixels themselves."""
        sharp, soft = (
            find_card(render(Scene(tilt_deg=0.0, blur_px=blur, noise=0.001))[0]).blur_px
            for blur in (0.7, 2.4)
        )
        self.assertLess(sharp, 1.2)
        self.assertAlmostEqual(soft, 2.4, delta=0.35)

    def test_straightened_view_has_its_scale_and_direction(self) -> None:
        scene = random_scene(3)
        picture, _ = render(scene)
        plane = find_plane(find_card(picture), scene.size_px)
        view = straighten(picture, plane, np.array([0.0, -30.0]), 5.0, (60.0, 20.0), 10.0)
        self.assertEqual(view.rgb.shape, (200, 600, 3))
        end = view.origin_mm + view.along * 60.0
        np.testing.assert_allclose(
            end, [60 * np.cos(np.radians(5)), -30 + 60 * np.sin(np.radians(5))]
        )

    def test_scale_of_the_print_stretches_every_length(self) -> None:
        scene = Scene(tilt_deg=10.0)
        card = find_card(render(scene)[0])
        plane, larger = (find_plane(card, scene.size_px, scale) for scale in (1.0, 1.03))
        np.testing.assert_allclose(larger.project(POINTS * 1.03), plane.project(POINTS), atol=1e-6)


class Layout(unittest.TestCase):
    def test_markers_are_those_of_the_published_dictionary(self) -> None:
        import cv2

        dictionary = cv2.aruco.getPredefinedDictionary(cv2.aruco.DICT_5X5_50)
        for number, rows in enumerate(CELLS):
            drawn = cv2.aruco.generateImageMarker(dictionary, number, 7)[1:-1, 1:-1] // 255
            self.assertEqual(["".join(map(str, row)) for row in drawn.tolist()], list(rows))

    def test_nothing_overlaps_a_marker_or_leaves_the_card(self) -> None:
        for card in load_cards().values():
            boxes = [*card.ramp, *card.white, card.ruler, *(m.box for m in card.markers)]
            for n, box in enumerate(boxes):
                with self.subTest(card=card.key, box=box):
                    self.assertTrue(box.x_mm >= 0 and box.x_mm + box.width_mm <= card.width_mm)
                    self.assertTrue(box.y_mm >= 0 and box.y_mm + box.height_mm <= card.height_mm)
                    for other in boxes[:n]:
                        apart = (
                            other.x_mm + other.width_mm <= box.x_mm + 1e-9
                            or box.x_mm + box.width_mm <= other.x_mm + 1e-9
                            or other.y_mm + other.height_mm <= box.y_mm + 1e-9
                            or box.y_mm + box.height_mm <= other.y_mm + 1e-9
                        )
                        self.assertTrue(apart, (box, other))

    def test_four_markers_of_its_own_each(self) -> None:
        numbers = [m.number for card in load_cards().values() for m in card.markers]
        self.assertEqual(sorted(numbers), list(range(8)))


if __name__ == "__main__":
    unittest.main()
