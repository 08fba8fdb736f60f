"""A joint is a cache key: equal joints have equal hashes, and different joints stay separate."""

import unittest

from tests.samples import CORNER, EVERY
from wisearc.core.joint.data import make_joint
from wisearc.core.joint.joint import Joint


class Key(unittest.TestCase):
    def test_equal_joints_are_one_key(self) -> None:
        for joint in EVERY.values():
            self.assertEqual(len({make_joint(joint), make_joint(dict(joint))}), 1)

    def test_members_with_different_data_stay_separate(self) -> None:
        pinned = {**CORNER, "pins": {"cup": 8}}
        others = (
            CORNER,
            pinned,
            {**CORNER, "pins": {"cup": 10}},
            {**CORNER, "length": "381 mm"},
            {**CORNER, "service": "wet"},
        )
        made: set[Joint] = {make_joint(one) for one in others}
        self.assertEqual(len(made), len(others))


if __name__ == "__main__":
    unittest.main()
