"""What was measured in a run, as the first evidence of its inspection."""

import unittest
from typing import Any

from tests.samples import typed
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.core.shop.shop import ASSUMED
from wisearc.presenters.runs import list_measured

TUBE = {"metal": "316L", "form": "tube", "thickness_mm": 1.5, "diameter_mm": 50}
PLAN = make_plan(
    make_joint({"joint": "tube-butt", "members": [TUBE, TUBE], "length": "all-round"}), ASSUMED
)


class MeasuredRows(unittest.TestCase):
    def list(self, units: str = "mm", **run: Any) -> dict[str, tuple[str, str, bool]]:
        rows = list_measured(typed(run), PLAN, units)
        return {row.label: (row.text, row.planned, row.differs) for row in rows}

    def test_missing_measurements_have_no_row(self) -> None:
        self.assertEqual(self.list(), {})

    def test_purge_gas_speed_and_restarts(self) -> None:
        speed, held = PLAN.travel.speed_mm_s, PLAN.gas.postflow_s
        for factor, differs in ((1.0, False), (1.05, False), (1.15, True)):
            rows = self.list(
                purge={"before_s": 90, "held": factor < 1.1},
                arc={"by": "timer", "held_s": held / factor, "restarts": int(factor > 1.1)},
                measured={"arc_time_s": 100 / (speed * factor), "length_mm": 100},
            )
            self.assertEqual(next(iter(rows)), "Purge before the arc")
            self.assertEqual(len(rows), 4)
            self.assertEqual(rows["Travel speed"][2], differs)
            self.assertEqual(rows["Purge before the arc"][2], differs)
            self.assertEqual(rows["Restarts"], ("1" if differs else "0", "", differs))
            # Any shorter time is too short.
            self.assertEqual(rows["Gas held"][2], factor > 1)
        self.assertIn(
            "in/min",
            self.list("in", measured={"arc_time_s": 30, "length_mm": 100})["Travel speed"][0],
        )

    def test_the_log_where_the_timer_has_nothing(self) -> None:
        rows = self.list(arc={"by": "log", "postflow_s": 3.0})
        self.assertEqual((rows["Gas held"][0], rows["Gas held"][2]), ("3 s", True))
