"""Rendered photographs with a known bead are measured, and spoiled ones are refused."""

import unittest

import numpy as np
from scipy import signal

from tests.photo_scenes import (
    SPOILED,
    Truth,
    count_tint_steps,
    is_right,
    random_scene,
    read_truth,
    spoiled_scene,
)
from tests.rendered_photograph import Scene, encode, render
from wisearc.core.errors import InputError
from wisearc.core.photograph.measurement import Measurement
from wisearc.photo.measure import PhotoFacts, Photograph, measure_photograph
from wisearc.photo.picture import read_picture
from wisearc.photo.ripple import read_middle

# The reason that each spoiled photograph gets, in a part of its sentence.
REASONS = {
    "no-card": "No card",
    "two-cards": "two cards",
    "blur": "blurred",
    "shaken": "blurred",
    "curled": "not flat",
    "glare": "Glare|bead|toes|markers|blurred",
    "slanted": "slanted|markers",
    "far": "too small",
    "no-bead": "bead|toes",
    "black": "black",
    "screen": "screen|bead",
    "finger": "3 of the 4 markers",
}


def measure(scene: Scene, facts: PhotoFacts = PhotoFacts()) -> tuple[Photograph, Truth]:  # noqa: B008
    """Return a rendered photograph, measured from its JPEG file, and the truth."""
    picture, painted = render(scene)
    read = read_picture("x.jpg", encode(picture, scene.quality))
    return measure_photograph(read, facts), read_truth(painted)


class Good(unittest.TestCase):
    """Scenes at random within the limits of the product. The benchmark has a hundred more."""

    SEEDS = range(20, 26)

    def test_width_pitch_and_tints(self) -> None:
        steps: list[int] = []
        for seed in self.SEEDS:
            with self.subTest(seed=seed):
                photograph, truth = measure(random_scene(seed))
                m = photograph.measurement
                assert m.bead is not None
                self.assertTrue(is_right(m.bead.width_mm, truth.width_mm, 0.15), m.bead)
                if m.bead.pitch_mm is not None:
                    self.assertTrue(is_right(m.bead.pitch_mm, truth.pitch_mm, 0.0), m.bead)
                self.assertGreater(m.bead.length_mm, 80)
                steps += count_tint_steps(m, truth)
        self.assertGreater(len(steps), 40)
        self.assertGreater(np.mean(np.array(steps) == 0), 0.88)
        self.assertGreaterEqual(np.mean(np.array(steps) <= 1), 0.98)


class Spoiled(unittest.TestCase):
    def test_refused_with_the_reason(self) -> None:
        for n, (kind, reason) in enumerate(REASONS.items()):
            with self.subTest(kind), self.assertRaisesRegex(InputError, reason):
                measure(spoiled_scene(kind, n + 1, (2000, 1500)))

    def test_tint_of_another_metal_is_refused(self) -> None:
        photograph, _ = measure(spoiled_scene("brass", 3))
        self.assertIsNone(photograph.measurement.tint)
        self.assertIn("not the colour", photograph.measurement.explain_refusal("tint") or "")

    def test_every_kind_has_its_reason(self) -> None:
        self.assertEqual({*REASONS, "brass"}, set(SPOILED))


class Figures(unittest.TestCase):
    scene = Scene(seed=4, tilt_deg=12.0, bead_mm=4.0, pitch_mm=1.3, start_mm=-40.0, stop_mm=35.0)
    photograph: Photograph
    measurement: Measurement

    @classmethod
    def setUpClass(cls) -> None:
        cls.photograph, cls.truth = measure(cls.scene)
        cls.measurement = cls.photograph.measurement

    def test_start_and_stop_are_where_they_are_painted(self) -> None:
        bead = self.measurement.bead
        assert bead is not None and bead.start_mm is not None and bead.stop_mm is not None
        self.assertAlmostEqual(bead.start_mm, 74 - 40, delta=1.5)
        self.assertAlmostEqual(bead.stop_mm, 74 + 35, delta=1.5)
        self.assertAlmostEqual(bead.length_mm, 75 - 4, delta=3.0)

    def test_pitch_agrees_with_an_independent_spectrum(self) -> None:
        """SciPy's periodogram of the same light, by its own window and detrending."""
        light, step_mm = read_middle(self.photograph.strip, self.photograph.toes)
        frequency, power = signal.periodogram(light, 1 / step_mm, "blackman", 1 << 15, "linear")
        usable = (frequency > 0.3) & (frequency < 2.5)
        peak = frequency[usable][power[usable].argmax()]
        bead = self.measurement.bead
        assert bead is not None and bead.pitch_mm is not None
        self.assertAlmostEqual(bead.pitch_mm, 1 / peak, delta=0.05 * bead.pitch_mm)
        self.assertTrue(is_right(bead.pitch_mm, self.truth.pitch_mm, 0.0))

    def test_evenness_of_the_ripples(self) -> None:
        even, _ = measure(Scene(seed=4, pitch_mm=1.3, pitch_noise=0.02))
        uneven, _ = measure(Scene(seed=4, pitch_mm=1.3, pitch_noise=0.15))
        spreads = [p.measurement.bead.pitch_sd_mm for p in (even, uneven) if p.measurement.bead]
        self.assertLess(spreads[0] or 9, 0.09)
        self.assertGreater(spreads[1] or 0, 0.11)

    def test_without_ripples_the_pitch_is_refused(self) -> None:
        photograph, _ = measure(Scene(seed=9, ripple=0.0))
        m = photograph.measurement
        assert m.bead is not None
        self.assertIsNone(m.bead.pitch_mm)
        self.assertIn("No regular ripples", m.explain_refusal("pitch") or "")
        self.assertIsNone(m.uncertainty.pitch_mm)

    def test_drift_of_the_width(self) -> None:
        photograph, _ = measure(Scene(seed=2, bead_mm=4.0, drift=0.2, width_noise=0.0))
        bead = photograph.measurement.bead
        assert bead is not None
        # The bead grows by a fifth of its width over 100 mm.
        self.assertAlmostEqual(bead.drift_mm, 0.8, delta=0.15)

    def test_card_of_another_scale_is_corrected_by_its_check_length(self) -> None:
        scene = Scene(seed=6, card_scale=0.94, tilt_deg=10.0, bead_mm=5.0)
        wrong, truth = measure(scene)
        right, _ = measure(scene, PhotoFacts(check_length_mm=94.0))
        widths = [p.measurement.bead.width_mm for p in (wrong, right) if p.measurement.bead]
        self.assertAlmostEqual(widths[0], truth.width_mm / 0.94, delta=0.15)
        self.assertAlmostEqual(widths[1], truth.width_mm, delta=0.12)
        sure, unsure = (p.measurement.uncertainty.width_mm or 0 for p in (right, wrong))
        self.assertLess(sure, unsure)

    def test_upside_down_and_sideways_make_no_difference(self) -> None:
        picture, painted = render(Scene(seed=8, tilt_deg=8.0))
        truth = read_truth(painted)
        for turns in range(4):
            with self.subTest(turns=turns):
                turned = np.ascontiguousarray(np.rot90(picture, turns))
                m = measure_photograph(turned).measurement
                assert m.bead is not None
                self.assertTrue(is_right(m.bead.width_mm, truth.width_mm, 0.15))
                self.assertEqual(m.tint in ("blue", "dark-blue"), True)

    def test_mirrored_is_refused(self) -> None:
        picture, _ = render(Scene(seed=8))
        with self.assertRaisesRegex(InputError, "mirrored"):
            measure_photograph(np.ascontiguousarray(picture[:, ::-1]))

    def test_on_a_tube_only_the_crown_is_measured(self) -> None:
        photograph, _ = measure(Scene(seed=8), PhotoFacts(half_length_mm=9.0))
        bead = photograph.measurement.bead
        assert bead is not None
        self.assertLess(bead.length_mm, 18.5)
        self.assertGreater(bead.length_mm, 14.0)

    def test_grey_face(self) -> None:
        photograph, _ = measure(Scene(seed=5, grey=True, band_mm=4.0))
        self.assertEqual(photograph.measurement.tint, "grey")

    def test_silver_face_has_no_tinted_band(self) -> None:
        photograph, _ = measure(Scene(seed=5, film_nm=2.0))
        self.assertEqual(
            (photograph.measurement.tint, photograph.measurement.band_mm), ("silver", 0)
        )


if __name__ == "__main__":
    unittest.main()
