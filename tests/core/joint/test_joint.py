"""Checks of a joint: refused values, and their sentences."""

import math
import unittest

from tests.samples import COPE, CORNER, EVERY, TEE, joint, member, tube
from wisearc.core.errors import InputError, OutOfRange, UnknownName
from wisearc.core.joint.data import joint_data, make_joint
from wisearc.core.joint.section import build_section, effective_thickness_mm, seam_length_mm
from wisearc.core.joint.words import build_sentence, sentence_text


def refused(case: unittest.TestCase, data: dict, field: str, words: str = "") -> InputError:
    """The error that a joint's data brings, after checking its field and words."""
    with case.assertRaises(InputError) as caught:
        make_joint(data)
    case.assertEqual(caught.exception.field, field)
    case.assertIn(words, str(caught.exception))
    return caught.exception


class Refusals(unittest.TestCase):
    def test_unknown_key(self) -> None:
        refused(self, {**TEE, "lenght": 3}, "lenght", "is not a key")
        refused(
            self,
            {**TEE, "members": [{**member(), "gauge": 1}, member()]},
            "members[0].gauge",
            "is not a key",
        )

    def test_unknown_names_offer_the_nearest(self) -> None:
        error = refused(
            self,
            {**TEE, "members": [member("304l"), member()]},
            "members[0].metal",
            "Did you mean 304",
        )
        self.assertIsInstance(error, UnknownName)
        self.assertEqual(
            refused(self, {**TEE, "joint": "outside corner"}, "joint").nearest, "outside-corner"
        )

    def test_every_choice_is_checked(self) -> None:
        for key in (
            "position",
            "filler",
            "pulse",
            "rod_school",
            "tip_school",
            "setting_school",
            "gas_school",
            "back",
            "back_access",
            "finish",
            "service",
            "control",
        ):
            refused(self, {**TEE, key: "sideways"}, key, "must be one of")
            refused(self, {**TEE, key: 3}, key, "must be one of")

    def test_numbers(self) -> None:
        for key, bad in (
            ("gap_mm", -1),
            ("gap_mm", True),
            ("gap_mm", math.nan),
            ("gap_mm", math.inf),
            ("length_mm", 0),
            ("travel_mm_s", 99),
            ("angle_deg", 5),
            ("part_mass_g", "heavy"),
            ("overlap_pct", 10),
        ):
            data = {k: v for k, v in TEE.items() if k != "length"} | {key: bad}
            with self.subTest(key=key, bad=bad):
                refused(self, data, key)

    def test_range_error_keeps_its_limits(self) -> None:
        with self.assertRaises(OutOfRange) as caught:
            make_joint({**TEE, "travel_mm_s": 99.0})
        self.assertEqual((caught.exception.low, caught.exception.high), (0.3, 20))

    def test_given_twice(self) -> None:
        refused(self, {**TEE, "length_mm": 3.0}, "length", "Give one of them")
        refused(
            self,
            {**TEE, "members": [{**member(), "thickness_mm": 1.0}, member()]},
            "members[0].thickness",
            "Give one of them",
        )
        refused(self, {**EVERY["tube-butt"], "length_mm": 4}, "length", "Give one of them")

    def test_length_as_text_and_number(self) -> None:
        """A plan file contains both, and they agree within 0.0001 mm."""
        for text, mm, words in (
            ("120 mm", 120.00009, ""),
            ("4 3/4 in", 120.65, ""),
            ("120 mm", 120.00011, "is 120 mm, but length_mm is 120. Give one of them"),
            (120, 120.0, "must be text with its unit"),
        ):
            data = {**TEE, "length": text, "length_mm": mm}
            if words:
                refused(self, data, "length", words)
            else:
                self.assertAlmostEqual(make_joint(data).length.mm, mm, places=3)
        tube_butt = {**EVERY["tube-butt"], "length": "all-round", "length_mm": 78.5}
        refused(self, tube_butt, "length", "is the whole tube, but length_mm is 78.5")

    def test_text_where_a_number_belongs(self) -> None:
        refused(self, {**TEE, "gap": 0.2}, "gap", "gap_mm")
        refused(self, {**TEE, "title": 7}, "title")
        refused(self, {**TEE, "title": "x" * 121}, "title")

    def test_maximum_length_of_a_typed_length(self) -> None:
        sheet = {"metal": "304L", "thickness": "1.5 mm"}
        data = {"joint": "butt", "members": [sheet, sheet]}
        long = f"300{' ' * 55}mm"
        self.assertEqual((len(long), make_joint({**data, "length": long}).length.mm), (60, 300))
        with self.assertRaisesRegex(InputError, "at most 60 characters"):
            make_joint({**data, "length": f" {long}"})

    def test_members(self) -> None:
        refused(self, {"joint": "butt"}, "members")
        refused(self, {"joint": "butt", "members": [member()]}, "members")
        refused(self, {"joint": "butt", "members": [member()] * 4}, "members")
        refused(self, {"joint": "butt", "members": ["304L", member()]}, "members[0]")
        refused(
            self,
            {"joint": "butt", "members": [{"metal": "304L"}, member()]},
            "members[0].thickness",
            "missing",
        )

    def test_tubes(self) -> None:
        refused(
            self,
            {"joint": "tube-butt", "members": [member(form="tube"), tube()]},
            "members[0].diameter",
            "missing",
        )
        refused(
            self,
            {"joint": "tube-butt", "members": [tube(wall="5 mm", diameter="10 mm"), tube()]},
            "members[0].thickness",
        )
        refused(
            self,
            {**TEE, "members": [member(diameter="9 mm"), member()]},
            "members[0].diameter",
            "belongs to a tube",
        )

    def test_impossible_joints_name_the_nearest(self) -> None:
        self.assertEqual(
            refused(
                self, {"joint": "tube-butt", "members": [member(), tube()]}, "members[0].form"
            ).nearest,
            "tube",
        )
        self.assertEqual(
            refused(self, {"joint": "butt", "members": [tube(), member()]}, "joint").nearest,
            "tube-plate",
        )
        self.assertEqual(
            refused(self, {"joint": "butt", "members": [tube(), tube()]}, "joint").nearest,
            "tube-butt",
        )
        self.assertEqual(
            refused(
                self, {"joint": "tube-plate", "members": [tube(), tube()]}, "members[1].form"
            ).nearest,
            "flange",
        )
        wide = {"joint": "tube-cope", "members": [tube(diameter="60 mm"), tube(diameter="51 mm")]}
        self.assertEqual(
            refused(self, wide, "members[0].diameter", "wider than the header").nearest, "51 mm"
        )
        refused(
            self,
            {"joint": "tube-butt", "members": [tube(), tube(diameter="40 mm")]},
            "members[1].diameter",
        )
        refused(self, {**TEE, "length": "all-round"}, "length", "for tubes")
        refused(self, {**TEE, "position": "fixed-tube"}, "position")
        refused(self, {**TEE, "pulse": "pedal", "control": "none"}, "pulse")
        refused(
            self,
            {
                **TEE,
                "members": [
                    member(thickness="8 mm", form="bar"),
                    member(thickness="7 mm", form="bar"),
                ],
            },
            "members",
        )

    def test_unspecified_member_fields_are_not_written(self) -> None:
        members = [{**tube(), "coating": "zinc"}, member()]
        written = joint_data(
            make_joint({"joint": "tube-plate", "members": members, "length": "all-round"})
        )
        self.assertEqual(
            set(written["members"][0]) - set(written["members"][1]), {"coating", "diameter_mm"}
        )

    def test_out_of_range_names_the_nearest(self) -> None:
        for text, nearest in (("9 mm", "6 mm"), ("0.1 mm", "0.3 mm")):
            self.assertEqual(
                refused(
                    self,
                    {**TEE, "members": [member(thickness=text), member()]},
                    "members[0].thickness",
                ).nearest,
                nearest,
            )

    def test_minimum_tack_spacing(self) -> None:
        sheet = {"metal": "304L", "thickness": "1.5 mm"}
        data = {"joint": "butt", "members": [sheet, sheet], "length": "7990 mm"}
        with self.assertRaises(InputError) as refused:
            make_joint({**data, "pins": {"tack_pitch_mm": 3.9}})
        # 1999 pitches of 4 mm are 7996 mm
        self.assertEqual(refused.exception.nearest, "4 mm")
        make_joint({**data, "pins": {"tack_pitch_mm": 4}})

    def test_pins(self) -> None:
        refused(self, {**TEE, "pins": {"colour": 1}}, "pins")
        refused(self, {**TEE, "pins": {"cup": 9}}, "pins.cup", "one of")
        refused(self, {**TEE, "pins": {"cup": True}}, "pins.cup")
        refused(self, {**TEE, "pins": {"flow_l_min": 900}}, "pins.flow_l_min")
        refused(self, {**TEE, "pins": [1]}, "pins")


class Words(unittest.TestCase):
    def test_angle_in_the_sentence(self) -> None:
        for made, words in (
            (joint("tee"), "as a tee, "),
            (joint("tee", angle_deg=60), "as a tee of 60°, "),
            (make_joint(COPE), "of 45°, "),
            (make_joint({**COPE, "angle_deg": 90}), "of 90°, "),
        ):
            self.assertIn(words, sentence_text(build_sentence(made)))


class Sections(unittest.TestCase):
    """Arms and lengths, worked by hand."""

    def test_effective_thickness(self) -> None:
        a, b = member(thickness="1 mm"), member(thickness="1.5 mm")
        for kind, expected in (
            ("butt", 1.25),
            ("outside-corner", 1.25),
            ("edge", 1.25),
            ("tee", 2.0),
            ("lap", 2.0),
        ):
            with self.subTest(joint=kind):
                self.assertAlmostEqual(
                    effective_thickness_mm(make_joint({"joint": kind, "members": [a, b]})), expected
                )

    def test_an_arm_counts_up_to_twice_the_thinner(self) -> None:
        thick = member(thickness="8 mm", form="bar")
        self.assertAlmostEqual(
            effective_thickness_mm(
                make_joint({"joint": "butt", "members": [member(thickness="1 mm"), thick]})
            ),
            1.5,
        )

    def test_a_third_member_is_a_third_arm(self) -> None:
        members = [member(thickness="1 mm")] * 3
        self.assertAlmostEqual(
            effective_thickness_mm(make_joint({"joint": "butt", "members": members})), 1.5
        )

    def test_lengths(self) -> None:
        self.assertEqual(seam_length_mm(make_joint(CORNER)), 380)
        self.assertAlmostEqual(seam_length_mm(make_joint(EVERY["tube-butt"])), math.pi * 25)
        self.assertGreater(seam_length_mm(make_joint(EVERY["tube-cope"])), math.pi * 25 * 1.1)

    def test_sides(self) -> None:
        section = build_section(make_joint(TEE))
        self.assertEqual(
            (section.carbon_sides, section.stainless_sides, section.unlike), (1, 1, False)
        )
        self.assertEqual(section.heat.liquidus_c, 1530)
