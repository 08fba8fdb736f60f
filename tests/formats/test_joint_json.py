"""Joint files: round trips, and errors that name key, value and rule."""

import json
import unittest

from tests.samples import EVERY, TEE, member
from wisearc.core.errors import InputError
from wisearc.core.joint.data import joint_data, make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.core.shop.shop import ASSUMED
from wisearc.formats.joint_json import load_json, read_joint, write_joint_file
from wisearc.formats.plan_json import plan_data

FILE = {"format": "wisearc/joint", "version": 1}


class RoundTrip(unittest.TestCase):
    def test_every_joint(self) -> None:
        for name, data in EVERY.items():
            joint = make_joint({**data, "title": "Ü & <b>", "pins": {"cup": 6, "flow_l_min": 8.5}})
            with self.subTest(joint=name):
                written = write_joint_file(joint_data(joint))
                again = read_joint(json.loads(json.dumps(written)))
                self.assertEqual(write_joint_file(joint_data(again)), written)
                self.assertEqual(again.members, joint.members)

    def test_example_of_the_format(self) -> None:
        """The example in docs/reference/formats.md."""
        data = {
            **FILE,
            "title": "Lid rim, long side",
            "joint": "outside-corner",
            "position": "flat",
            "members": [
                {"metal": "304L", "form": "sheet", "thickness": "16 ga"},
                {"metal": "304L", "form": "sheet", "thickness_mm": 1.59},
            ],
            "length_mm": 380,
            "gap_mm": 0,
            "reach_mm": 5,
            "angle_deg": 90,
            "filler": "auto",
            "rod_school": "under-sheet",
            "pulse": "auto",
            "back": "auto",
            "finish": "show",
            "service": "wet",
            "control": "pedal",
            "travel_mm_s": None,
        }
        self.assertEqual(read_joint(data).members[1].thickness_mm, 1.59)

    def test_a_plans_own_joint_is_a_joint_file(self) -> None:
        """With every length as typed and in mm."""
        for data in EVERY.values():
            first = plan_data(make_plan(make_joint(data), ASSUMED))
            self.assertTrue(all("thickness_mm" in m for m in first["joint"]["members"]))
            self.assertEqual(plan_data(make_plan(read_joint(first["joint"]), ASSUMED)), first)

    def test_only_joint_and_members_are_required(self) -> None:
        self.assertEqual(
            read_joint({**FILE, "joint": "butt", "members": [member(), member()]}).length.mm, 100
        )


class Refusals(unittest.TestCase):
    CASES = (
        ({"format": "wisearc/plan"}, "format", "must be wisearc/joint"),
        ({"version": 9}, "version", "must be 1"),
        ({"joint": "bütt"}, "joint", "must be one of butt"),
        ({"colour": "red"}, "colour", "Allowed keys"),
        ({"members": [member()]}, "members", "two or three"),
        ({"members": [member(), {"metal": "304L"}]}, "members[1].thickness", "missing"),
        ({"members": [member(), {"thickness": "1 mm"}]}, "members[1].metal", "missing"),
        (
            {"members": [member(), {**member(), "thickness_mm": 2}]},
            "members[1].thickness",
            "Give one of them",
        ),
        ({"gap": "0.1 mm", "gap_mm": 0.2}, "gap", "Give one of them"),
        ({"gap_mm": "wide"}, "gap_mm", "must be a number"),
        ({"gap_mm": -2}, "gap_mm", "from 0 to 10"),
        ({"length": "x" * 99}, "length", "at most 60"),
        ({"length": "long"}, "length", "must be a length"),
    )

    def test_each(self) -> None:
        for change, field, words in self.CASES:
            data = {**FILE, **{k: v for k, v in TEE.items() if k != "length"}, **change}
            with self.subTest(change=change), self.assertRaises(InputError) as caught:
                read_joint(data)
            self.assertEqual(caught.exception.field, field)
            self.assertIn(words, str(caught.exception))

    def test_not_json(self) -> None:
        for text, words in (
            ("{", "file is not JSON at line 1, column 2"),
            ('{"gap_mm": NaN}', "not a JSON number"),
            ("[" * 100000, "nested too deep"),
        ):
            with self.assertRaises(InputError) as caught:
                load_json(text)
            self.assertIn(words, str(caught.exception))

    def test_not_an_object(self) -> None:
        with self.assertRaises(InputError):
            read_joint([1])
