"""Text of the results of a run in both unit systems."""

from __future__ import annotations

import unittest

from msgspec.structs import replace

from wisearc.core.weld_session.course import RunSummary
from wisearc.core.weld_session.pacer import Guide
from wisearc.services.weld_session.session_view import describe_summary

PACE = Guide(2.0, None, None, 3.0, None, "none")
BARE = RunSummary(0.0, 0.0, (), None, None, 0, 0, 0, None, 0.0, 0)


class Results(unittest.TestCase):
    def format(self, **more: object) -> dict[str, str]:
        return dict(describe_summary(replace(BARE, **more), PACE, "mm"))

    def test_missing_results_are_omitted(self) -> None:
        self.assertEqual(self.format(), {"Arc time": "0:00", "Restarts": "0"})

    def test_minutes_and_seconds(self) -> None:
        for arc_s, words in ((59.9, "0:59"), (60.0, "1:00"), (65.2, "1:05"), (600.0, "10:00")):
            with self.subTest(arc_s=arc_s):
                self.assertEqual(self.format(arc_s=arc_s)["Arc time"], words)

    def test_each_result(self) -> None:
        found = self.format(
            arc_s=50.0,
            pool_s=(1.25, 4.0),
            slow_pools=1,
            restarts=2,
            touched=1,
            beats=88,
            taper_s=1.55,
            held_s=6.04,
            length_mm=120.0,
        )
        self.assertEqual(
            found,
            {
                "Arc time": "0:50",
                "Slowest pool": "1.2 s, 4.0 s; 1 time too slow",
                "Restarts": "2",
                "Tungsten contacts": "1 time",
                "Pulse cycles": "88",
                "Taper": "1.6 s",
                "Shortest hold": "at least 6.0 s",
                "Welded length": "120 mm",
                "Travel speed": "2.4 mm/s",
            },
        )
        inches = dict(describe_summary(replace(BARE, arc_s=50.0, length_mm=127.0), PACE, "in"))
        self.assertEqual((inches["Welded length"], inches["Travel speed"]), ("5 in", "6 in/min"))

    def test_zero_beats(self) -> None:
        self.assertEqual(self.format(beats=0)["Pulse cycles"], "0")
        self.assertNotIn("too slow", self.format(pool_s=(1.0,))["Slowest pool"])


if __name__ == "__main__":
    unittest.main()
