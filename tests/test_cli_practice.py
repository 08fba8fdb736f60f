"""The command that judges a recorded weld."""

import json
import unittest

from tests.command import wisearc
from tests.practised import lesson_piece
from tests.samples import member
from wisearc.core.practice.simulated_welder import Slip, simulate_weld
from wisearc.core.practice.track import Track
from wisearc.formats.practice_json import write_track

JOINT = {"joint": "butt", "members": [member(thickness="1.6 mm")] * 2, "length_mm": 30}


def track(slip: str = "", amount: float = 0.0) -> Track:
    """Return the track of a short flat bead."""
    return simulate_weld(lesson_piece("taper", 25.0), Slip(slip, amount)).track


class Practice(unittest.TestCase):
    def judge(self, data: object, code: int = 0) -> str:
        ended = wisearc("practice", "-", stdin=json.dumps(data))
        self.assertEqual(ended.returncode, code, ended.stderr)
        if code:
            self.assertEqual(len(ended.stderr.strip().splitlines()), 1, ended.stderr)
        return (ended.stderr if code else ended.stdout).decode()

    def test_a_track_of_a_lesson(self) -> None:
        data = {**write_track(track("end-cut-off", 0.9), None), "lesson": "taper"}
        first, second = self.judge(data), self.judge(data)
        # The same track gives the same answer.
        self.assertEqual(first, second)
        answer = json.loads(first)
        self.assertEqual(answer["format"], "wisearc/practice")
        self.assertEqual(
            (answer["slips"][0]["key"], answer["faults"]), ("end-cut-off", ["crater-crack"])
        )
        self.assertEqual(answer["change"]["code"], "taper-longer")
        self.assertLess(answer["score"], 80)
        self.assertEqual(answer["scores"]["dabs"], None)

    def test_a_track_with_its_joint(self) -> None:
        head = {"format": "wisearc/joint", "version": 1}
        data = write_track(track(), {**head, **JOINT, "filler": "none"})
        self.assertGreater(json.loads(self.judge(data))["score"], 60)

    def test_bad_input_is_one_line(self) -> None:
        good = {**write_track(track(), None), "lesson": "taper"}
        for change, words in (
            ({"format": "wisearc/run"}, "must be wisearc/track"),
            ({"version": 2}, "must be 1"),
            ({"lesson": "none"}, "is not a lesson"),
            ({"lesson": "torch"}, "has no seam"),
            ({"lesson": None}, "is missing"),
            ({"samples": {}}, "list of rows"),
            ({"samples": [[0, 1, 2, 3]]}, "2 to 200000"),
            ({"dabs": 3}, "list of times"),
            ({"gas_off_s": -3}, "from 0 to 600 s"),
            ({"extra": 1}, "extra"),
            ({"joint": {"joint": "butt"}}, "members"),
        ):
            self.assertIn(words, self.judge({**good, **change}, 2), change)
