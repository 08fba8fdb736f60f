"""The photographs of the demo are those that the tool renders, and their figures are current."""

import json
import unittest

from tools.demo_photographs import FOLDER, SCENES
from wisearc.core.photograph.measurement import Measurement
from wisearc.core.schema.documents import read_document
from wisearc.services.photographs.measuring import measure_to_json


class DemoPhotographs(unittest.TestCase):
    def test_saved_figures_are_those_of_the_saved_photograph(self) -> None:
        for name, scene in SCENES.items():
            saved = read_document(
                Measurement, json.loads((FOLDER / f"{name}.json").read_text()), "measured"
            )
            data = (FOLDER / f"{name}.jpg").read_bytes()
            measured, _ = measure_to_json(name, data, None, 100.0)
            bead = measured["bead"]
            assert isinstance(bead, dict) and saved.bead is not None
            with self.subTest(name):
                # The saved figures are from before the JPEG.
                self.assertAlmostEqual(bead["width_mm"], saved.bead.width_mm, delta=0.09)
                self.assertAlmostEqual(bead["width_mm"], scene.bead_mm, delta=0.16)
                self.assertEqual(measured["tint"], saved.tint)


if __name__ == "__main__":
    unittest.main()
