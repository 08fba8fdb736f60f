"""Text of each change of a job."""

from __future__ import annotations

import unittest
from typing import Any

from wisearc.services.jobs.job_changes import read_change

TEXTS: tuple[tuple[dict[str, Any], str], ...] = (
    ({"do": "seam", "key": "c1", "set": {"joins": ["a", "b"]}}, "c1: joins a, b"),
    ({"do": "seam", "key": "c1", "set": {"after": []}}, "c1: after none"),
    ({"do": "seam", "key": "c1", "set": {"seen": True}}, "c1: seen yes"),
    ({"do": "seam", "key": "c1", "set": {"seen": False}}, "c1: seen no"),
    ({"do": "seam", "key": "c1", "set": {"free_mm": 12.5}}, "c1: free sheet changed"),
    ({"do": "seam", "key": "c1", "set": {"free_mm": None}}, "c1: free sheet none"),
    ({"do": "seam", "key": "c1", "set": {"joint": {}}}, "c1: its joint changed"),
    ({"do": "seam", "key": "c1", "set": {"side": "left"}}, "c1: side left"),
    ({"do": "add-seam", "seam": {"key": "n1"}}, "seam n1 added"),
    ({"do": "drop-seam", "key": "c1"}, "seam c1 removed"),
    ({"do": "part", "name": "a", "set": {"note": "bent"}}, "part a changed"),
    ({"do": "add-part", "name": "lid"}, "part lid added"),
    ({"do": "drop-part", "name": "lid"}, "part lid removed"),
    ({"do": "rename-part", "name": "a", "to": "box"}, "a renamed box"),
    ({"do": "move", "key": "c1", "to": 0}, "c1 moved to place 1"),
    ({"do": "pin", "key": "c1", "at": "first"}, "c1 pinned first"),
    ({"do": "pin", "key": "c1", "at": ""}, "c1 unpinned"),
)


class Texts(unittest.TestCase):
    def test_each_change(self) -> None:
        for data, text in TEXTS:
            with self.subTest(data=data):
                self.assertEqual(read_change(data).describe(), text)


if __name__ == "__main__":
    unittest.main()
