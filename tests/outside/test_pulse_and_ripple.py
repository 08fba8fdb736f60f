"""The mean of the pulse train against numeric integration; ripples against a row of circles.

General numerics, no published work needed.
"""

import itertools
import unittest

import numpy as np

from wisearc.core.physics.pulse_train import (
    average_a,
    overlap_pct,
    peak_for_average_a,
    pitch_mm,
    travel_for_overlap_mm_s,
)


class Mean(unittest.TestCase):
    def test_against_the_waveform(self) -> None:
        for peak, share, on, rate in (
            (110, 0.05, 0.30, 1.5),
            (62, 0.33, 0.33, 33),
            (150, 0.4, 0.4, 75),
        ):
            t = (np.arange(400_000) + 0.5) / 400_000 * (20 / rate)
            wave = np.where((t * rate) % 1 < on, peak, peak * share)
            self.assertAlmostEqual(average_a(peak, peak * share, on), wave.mean(), delta=0.01)

    def test_turned_round(self) -> None:
        self.assertAlmostEqual(
            peak_for_average_a(average_a(110, 5.5, 0.3), 5.5, 0.3), 110, places=9
        )


class Ripple(unittest.TestCase):
    def test_against_circles(self) -> None:
        """Each pulse leaves a round pool; the next covers part of its length along the seam."""
        for travel, rate, width in ((3.4, 1.5, 3.5), (2.0, 1.0, 2.6), (4.5, 2.0, 4.0)):
            centres = np.arange(20) * travel / rate
            covered = [
                (left + width / 2) - (right - width / 2)
                for left, right in itertools.pairwise(centres)
            ]
            self.assertAlmostEqual(pitch_mm(travel, rate), float(np.diff(centres).mean()), places=9)
            self.assertAlmostEqual(
                overlap_pct(pitch_mm(travel, rate), width),
                100 * float(np.mean(covered)) / width,
                places=9,
            )

    def test_travel_for_overlap(self) -> None:
        self.assertAlmostEqual(
            overlap_pct(pitch_mm(travel_for_overlap_mm_s(1.5, 3.5, 35), 1.5), 3.5), 35, places=9
        )
