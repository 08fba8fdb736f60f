"""A joint typed in the words of the bench."""

import unittest
from typing import Any

from wisearc.core import catalogue
from wisearc.core.errors import InputError
from wisearc.core.joint.data import make_joint
from wisearc.core.joint.joint import Joint
from wisearc.core.joint.phrase import change_by_phrase, parse_phrase


def read(text: str, units: str = "mm", base: Joint | None = None) -> Joint:
    return make_joint(parse_phrase(text, units, base))


def describe(joint: Joint) -> tuple[Any, ...]:
    """Return kind, members with their sizes in mm, and length."""
    members = [
        (m.metal.key, m.form, round(m.thickness_mm, 2), m.diameter and round(m.diameter.mm, 1))
        for m in joint.members
    ]
    return (
        joint.kind.key,
        *members,
        joint.length if joint.all_round else round(joint.length.mm, 1),
    )


class Phrases(unittest.TestCase):
    def check(self, text: str, *expected: Any, units: str = "mm") -> None:
        with self.subTest(text):
            self.assertEqual(describe(read(text, units))[: len(expected)], expected)

    def test_words_of_the_bench(self) -> None:
        self.check(
            "1.5 304 tube 42 to flange 4, all round",
            "tube-plate",
            ("304", "tube", 1.5, 42.0),
            ("304", "flange", 4.0, None),
        )
        sheet = ("304L", "sheet", 1.59, None)
        self.check("16 ga 304L outside corner 380", "outside-corner", sheet, sheet, 380.0)
        self.check(
            "25 x 1.2 316L tube coped 45 deg on 51x1.5 tube",
            "tube-cope",
            ("316L", "tube", 1.2, 25.0),
            ("316L", "tube", 1.5, 51.0),
        )
        self.check(
            "1.5 304L to 3 mild steel tee 60",
            "tee",
            ("304L", "sheet", 1.5, None),
            ("mild-steel", "sheet", 3.0, None),
            60.0,
        )
        self.check(
            "3 mm rod in 1.6 304 sheet",
            "stud-in-plate",
            ("304", "sheet", 1.6, None),
            ("304", "rod", 3.0, None),
        )
        tube = ("316L", "tube", 1.5, 50.8)
        self.check("tube 50.8 x 1.5 316L mitred 90°", "tube-mitre", tube, tube)
        self.check("316L tube 50.8 od 1.5 wall butt", "tube-butt", tube, tube)

    def test_inches_and_millimetres(self) -> None:
        thin = ("304", "sheet", 1.65, None)
        self.check(".065 304 butt 8 in", "butt", thin, thin, 203.2)
        # A number without a digit before its point is inches in either system.
        self.check(".065 304 butt 8", "butt", thin, thin, 203.2, units="in")
        sixteenth = ("304", "sheet", 1.59, None)
        self.check("1/16 304 butt 100", "butt", sixteenth, sixteenth, 100.0)
        tube = ("304L", "tube", 1.24, 25.4)
        self.check("ss tube 1 x .049 in line purge", "tube-butt", tube, tube, units="in")
        comma = ("304L", "sheet", 1.5, None)
        self.check("1,5 304L butt, 100", "butt", comma, comma, 100.0)

    def test_fields_of_the_joint(self) -> None:
        joint = read("2205 2 mm butt 100 gap 0.5 no pedal overhead purge show wet ER2209 no pulse")
        self.assertEqual(
            (joint.gap.mm, joint.control, joint.position.key, joint.back, joint.finish),
            (0.5, "none", "overhead", "purge", "show"),
        )
        self.assertEqual((joint.service, joint.filler, joint.pulse), ("wet", "ER2209", "none"))

    def test_every_word_of_the_table_has_a_place(self) -> None:
        """A phrase of each word is a joint, or an error of the joint and not of the word."""
        for section, words in catalogue.load_phrases().items():
            for word in words if section not in ("made_by", "between") else ():
                try:
                    read(f"1.5 304L {word} 100")
                except InputError as error:
                    self.assertNotIn("is not understood", error.sentence, word)
        for kind in catalogue.load_phrases()["made_by"].values():
            self.assertIn(kind, catalogue.load_joint_kinds())

    def test_missing_values_are_those_of_the_joint_before(self) -> None:
        base = read("0.9 321 lap 90 hot overhead")
        self.assertEqual(
            describe(read("60 mm", base=base)),
            ("lap", ("321", "sheet", 0.9, None), ("321", "sheet", 0.9, None), 60.0),
        )
        other = read("butt 40", base=base)
        self.assertEqual((describe(other)[1], other.service), (("321", "sheet", 0.9, None), "hot"))
        self.assertEqual(other.position.key, "overhead")
        # A tube is all round, and sheet is not.
        tube = read("1.2 tube 25 to flange 5", base=base)
        self.assertTrue(tube.all_round)
        self.assertFalse(read("1.2 corner 50", base=tube).all_round)

    def test_like_another_joint(self) -> None:
        base = read("25 x 1.2 316L tube coped 45 deg on 51x1.5 tube")
        longer = make_joint(change_by_phrase("1 mm", "mm", read("1.5 304 butt 100")))
        # A thickness holds for both members if they were equal.
        self.assertEqual([m.thickness_mm for m in longer.members], [1.0, 1.0])
        cope = make_joint(change_by_phrase("30°", "mm", base))
        self.assertEqual((cope.kind.key, cope.angle_deg), ("tube-cope", 30.0))
        self.assertEqual([m.diameter.mm for m in cope.members], [25.0, 51.0])
        metal = make_joint(change_by_phrase("304L", "mm", base))
        self.assertEqual({m.metal.key for m in metal.members}, {"304L"})

    def test_words_without_a_meaning(self) -> None:
        for text, words in (
            ("1.5 304 blorp 100", "“blorp” is not understood"),
            ("304 butt 100", "no thickness"),
            ("1.5 butt 100", "no metal"),
            ("1.5 304 100", "does not name the joint"),
            ("1.5 304 butt 100 200 300", "one number too many"),
            ("", "no metal"),
        ):
            with self.subTest(text), self.assertRaisesRegex(InputError, words):
                read(text)


class Tubes(unittest.TestCase):
    def test_angle_and_diameters_of_coped_tubes(self) -> None:
        for text, angle in (
            ("1.5 304 tube 25 to 51 tube at 45, all round", 45.0),
            ("1.5 304 tube 25 to tube 51 at 60", 60.0),
            ("1.5 304 tube 25 to tube 51", None),
        ):
            data = parse_phrase(text, "mm")
            diameters = [member["diameter"] for member in data["members"]]
            self.assertEqual((data["joint"], diameters), ("tube-cope", ["25 mm", "51 mm"]), text)
            self.assertEqual(data.get("angle_deg"), angle)
        self.assertEqual(parse_phrase("1.5 304 tube 42 to tube", "mm")["joint"], "tube-butt")
        # Between sheets, “at” is no angle.
        self.assertEqual(parse_phrase("2 mm 304 butt at 60", "mm")["length"], "60 mm")
