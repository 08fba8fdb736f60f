"""A link has the complete joint; an invalid pair loses no other."""

import unittest
from urllib.parse import parse_qsl, urlencode

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.samples import EVERY, member
from wisearc.core.joint.data import joint_data, make_joint
from wisearc.core.joint.joint import Joint
from wisearc.formats.link import link_query, read_link

SETTINGS = settings(deadline=None, database=None, derandomize=True, max_examples=150)


KEYS = (
    "joint",
    "a.metal",
    "a.form",
    "a.thickness",
    "a.diameter",
    "b.form",
    "length",
    "gap",
    "pulse",
    "control",
    "pin.cup",
    "pin.x",
    "angle_deg",
    "q",
)


class RoundTrip(unittest.TestCase):
    def test_every_joint(self) -> None:
        for name, data in EVERY.items():
            full = {
                **data,
                "title": "A & b=c",
                "gap": "0.1 mm",
                "service": "wet",
                "travel_mm_s": 3.4,
                "pins": {"cup": 6, "front_end": "plain", "flow_l_min": 8.5},
            }
            joint = make_joint(full)
            with self.subTest(joint=name):
                again, problems = read_link(parse_qsl(urlencode(link_query(joint_data(joint)))))
                self.assertEqual(problems, [])
                self.assertEqual(joint_data(again), joint_data(joint))

    def test_second_member_unlike_in_coating_alone(self) -> None:
        joint = make_joint({"joint": "butt", "members": [member(coating="zinc"), member()]})
        self.assertEqual(read_link(link_query(joint_data(joint)))[0].members, joint.members)

    def test_three_members(self) -> None:
        joint = make_joint(
            {"joint": "tee", "members": [member(), member(), member(thickness="2 mm")]}
        )
        self.assertEqual(read_link(link_query(joint_data(joint)))[0].members, joint.members)

    def test_short_where_all_is_usual(self) -> None:
        joint, _ = read_link([])
        self.assertNotIn("position", dict(link_query(joint_data(joint))))
        self.assertNotIn("b.metal", dict(link_query(joint_data(joint))))


class Nonsense(unittest.TestCase):
    def test_remaining_lines_are_kept(self) -> None:
        joint, problems = read_link(
            parse_qsl(
                "joint=tee&a.metal=316L&a.thickness=2"
                " mm&gap=wide&position=upside&pin.cup=99&zz=1&angle_deg=x"
            )
        )
        self.assertEqual(
            (joint.kind.key, joint.members[0].metal.key, joint.members[0].thickness_mm),
            ("tee", "316L", 2.0),
        )
        self.assertEqual(
            {p.key for p in problems}, {"gap", "position", "pins.cup", "zz", "angle_deg"}
        )
        for problem in problems:
            self.assertTrue(problem.sentence.endswith("."))

    def test_impossible_joint_names_the_nearest(self) -> None:
        _, problems = read_link(parse_qsl("joint=butt&a.form=tube&a.diameter=20 mm"))
        self.assertEqual(problems[0].offers[0][0], "tube-butt")

    @SETTINGS
    @given(
        st.lists(
            st.tuples(
                st.sampled_from(KEYS),
                st.one_of(
                    st.text(max_size=12),
                    st.sampled_from(
                        ["tube", "tube-cope", "all-round", "1 mm", "none", "pedal", "50"]
                    ),
                ),
            ),
            max_size=8,
        )
    )
    def test_any_link_gives_a_joint(self, pairs) -> None:
        joint, _ = read_link(pairs)
        self.assertIsInstance(joint, Joint)
        self.assertEqual(joint_data(read_link(link_query(joint_data(joint)))[0]), joint_data(joint))
