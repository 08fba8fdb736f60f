"""Measurements in photographs as observations of a run; the welder's own word comes first."""

import unittest

from msgspec.structs import replace

from tests.samples import run
from wisearc.core.photograph.measurement import (
    CardInPhoto,
    MeasuredBead,
    Measurement,
)
from wisearc.core.run.inspection import Inspection
from wisearc.core.run.photographed import (
    Observed,
    fill_inspection,
    read_photographs,
    use_photographs,
)
from wisearc.core.run.run import FrontFace, Photograph, Run, read_run, write_run

JOINT = {
    "joint": "butt",
    "members": [{"metal": "304L", "form": "sheet", "thickness": "1.5 mm"}] * 2,
    "length": "100 mm",
}


def photograph(face: str, tint: str, spread_mm: float = 0.06) -> Photograph:
    """Return a measured photograph."""
    bead = MeasuredBead(3.456, 0.1, 90.0, 0.1, pitch_mm=1.0, pitch_sd_mm=spread_mm)
    card = CardInPhoto(True, 4, 0.01)
    measured = Measurement(0.06, card, bead, tint=tint, band_mm=2.5)
    return Photograph("x.jpg", "0" * 64, face, measured, "1" * 64)


def record(*photographs: Photograph, colour: str = "purple") -> Run:
    """Return a run with a colour of its face, no bead width, and photographs."""
    made = read_run(run(JOINT))
    measured = replace(made.measured, bead_mm=None)
    return replace(made, front=FrontFace(colour), measured=measured, photographs=photographs)


class Observations(unittest.TestCase):
    def test_every_observation_of_a_photograph(self) -> None:
        """The tint across the bead is its width and the tinted width on each side."""
        observed = read_photographs(record(photograph("front", "dark-purple")))
        self.assertEqual(observed, Observed("dark-purple", None, "even", 8.5, 3.46, None))

    def test_without_measured_photographs_nothing_is_observed(self) -> None:
        plain = Photograph("x.jpg", "0" * 64)
        self.assertEqual(read_photographs(record(plain)), Observed())
        self.assertEqual(use_photographs(record(plain)), record(plain))
        self.assertEqual(fill_inspection(Inspection(), record(plain)), Inspection())

    def test_last_photograph_of_each_face_counts(self) -> None:
        both = record(
            photograph("front", "blue"),
            photograph("back", "straw"),
            photograph("front", "dark-purple", spread_mm=0.3),
        )
        observed = read_photographs(both)
        self.assertEqual((observed.front_tint, observed.back_tint), ("dark-purple", "straw"))
        self.assertEqual(observed.ripple, "uneven")

    def test_entered_bead_width_has_priority(self) -> None:
        open_run = record(photograph("front", "blue"))
        self.assertEqual(use_photographs(open_run).measured.bead_mm, 3.46)
        own = replace(open_run, measured=replace(open_run.measured, bead_mm=4.0))
        self.assertEqual(use_photographs(own).measured.bead_mm, 4.0)

    def test_bow_of_a_side_view(self) -> None:
        card = CardInPhoto(True, 4, 0.01)
        side = Photograph("s.jpg", "0" * 64, None, Measurement(0.1, card, bow_mm=1.25))
        self.assertEqual(use_photographs(record(side)).measured.bow_mm, 1.25)
        own = replace(record(side), measured=replace(record(side).measured, bow_mm=0.5))
        self.assertEqual(use_photographs(own).measured.bow_mm, 0.5)

    def test_measured_tint_makes_the_colour_exact_and_replaces_none(self) -> None:
        before = Inspection(front_tint="purple-brown")
        same = record(photograph("front", "dark-purple"), colour="purple")
        self.assertEqual(fill_inspection(before, same).front_tint, "dark-purple")
        other = record(photograph("front", "dark-purple"), colour="straw")
        self.assertEqual(fill_inspection(Inspection(front_tint="straw"), other).front_tint, "straw")
        inspected = replace(same, seen=Inspection(front_tint="purple-brown"))
        self.assertEqual(fill_inspection(before, inspected).front_tint, "purple-brown")

    def test_entered_ripple_and_band_have_priority(self) -> None:
        own = Inspection(ripple="tails", band_mm=12.0)
        filled = fill_inspection(own, record(photograph("front", "blue")))
        self.assertEqual((filled.ripple, filled.band_mm), ("tails", 12.0))

    def test_record_returns_with_its_measurements(self) -> None:
        made = record(photograph("back", "blue"))
        self.assertEqual(read_run(write_run(made)), made)


if __name__ == "__main__":
    unittest.main()
