"""The bow of a sheet in rendered side views, against the circle that was painted."""

import random
import unittest

from tests.rendered_photograph import Scene, render
from wisearc.core.errors import InputError
from wisearc.photo.bow import measure_bow
from wisearc.photo.measure import PhotoFacts
from wisearc.photo.overlay import draw_bow


def paint(seed: int, bow_mm: float, **more: float) -> Scene:
    """Return a side view at random with a bow over 220 mm."""
    pick = random.Random(seed)
    return Scene(
        seed=seed,
        edge_mm=pick.uniform(0.8, 2.0),
        bow_mm=bow_mm,
        seam_y_mm=-pick.uniform(3, 9),
        seam_deg=pick.uniform(-1.5, 1.5),
        tilt_deg=pick.uniform(0, 30),
        tilt_to_deg=pick.uniform(0, 360),
        roll_deg=pick.uniform(-180, 180),
        kelvin=pick.uniform(2700, 7500),
        gradient=pick.uniform(1, 2.5),
        k1=pick.uniform(-0.03, 0.03),
        size_px=(1800, 1350),
        **more,
    )


class Bow(unittest.TestCase):
    def test_bow_over_the_length_in_view(self) -> None:
        """Geometry: the sagitta of a flat arc grows with the square of its chord."""
        for seed, bow_mm in enumerate((0.0, 0.5, 2.0, 4.0)):
            scene = paint(seed, bow_mm)
            measurement, view, edge_px = measure_bow(render(scene)[0])
            assert measurement.bow_mm is not None and measurement.bow_over_mm is not None
            true_mm = bow_mm * (measurement.bow_over_mm / scene.bow_over_mm) ** 2
            with self.subTest(bow_mm=bow_mm):
                self.assertAlmostEqual(measurement.bow_mm, true_mm, delta=max(0.06, 0.03 * true_mm))
                self.assertGreater(measurement.bow_over_mm, 140)
                self.assertLessEqual(
                    abs(measurement.bow_mm - true_mm), measurement.uncertainty.bow_mm or 0
                )
            self.assertIsNone(measurement.bead)
            self.assertEqual(draw_bow(view, edge_px).shape[0], 2 * 16 * 10 + 34)

    def test_check_length_scales_the_bow(self) -> None:
        picture, _ = render(paint(3, 4.0))
        plain, scaled = (
            measure_bow(picture, PhotoFacts(check_length_mm=length))[0].bow_mm
            for length in (None, 95.0)
        )
        assert plain is not None and scaled is not None
        self.assertAlmostEqual(scaled / plain, 0.95, delta=0.015)

    def test_without_an_edge_it_is_refused(self) -> None:
        picture, _ = render(Scene(seed=2, shows_bead=False, brushed=0.02))
        with self.assertRaisesRegex(InputError, "No edge of a sheet"):
            measure_bow(picture)


if __name__ == "__main__":
    unittest.main()
