"""Analyses of generated arc logs, with the times outside the limits of a plan."""

from __future__ import annotations

from typing import Any

import numpy as np

from tests.waves import Wave
from wisearc.core.arc_log.arc_log import analyse
from wisearc.core.arc_log.limits import excursion_text, get_limits
from wisearc.core.arc_log.readings import make_readings
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.core.shop.shop import ASSUMED

from .approval import ApprovedCase


class ArcLogs(ApprovedCase):
    """A case is a series of waves and the welded joint."""

    name = "arc_logs"

    @classmethod
    def calculate(cls, case: Any) -> Any:
        """Calculate the analysis of the log."""
        plan = make_plan(make_joint(case["joint"]), ASSUMED)
        parts = [Wave(**wave).rows() for wave in case["waves"]]
        starts_s = np.cumsum([0.0, *(part[0][-1] + 0.01 for part in parts)])
        time_s = np.concatenate([p[0] + s for p, s in zip(parts, starts_s, strict=False)])
        current_a, gas = (np.concatenate([part[i] for part in parts]) for i in (1, 2))
        voltage_v = 10 + 0.02 * current_a if case["voltage"] else None
        readings = make_readings(time_s, current_a, voltage_v, gas)
        held = get_limits(plan)
        log = analyse(readings, case["length_mm"], held)
        return {"held": held, "log": log, "words": [*map(excursion_text, log.left_band)]}

    def test_logs_are_as_approved(self) -> None:
        """Changes in an analysis are detected."""
        self.check()
