"""The first values of the run form, from a log, the last run and the taps."""

from __future__ import annotations

import unittest
from types import SimpleNamespace
from typing import Any

from msgspec.structs import asdict, replace

from tests.samples import CORNER, run, typed
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.core.run.run import Run, get_planned_values
from wisearc.core.shop.shop import ASSUMED
from wisearc.core.weld_session.course import RunSummary
from wisearc.services.runs import session_records


class Prefilled(unittest.TestCase):
    """Values before the user types."""

    def settings(self, peak_share: float, last: Run | None = None, **more: Any) -> dict[str, Any]:
        made = make_plan(make_joint({**CORNER, "pulse": "slow-cold", "control": "none"}), ASSUMED)
        self.assertTrue(made.slopes.at_peak)
        peak_a = peak_share * get_planned_values(made)["set.current_a"][0]
        log = {
            "rate_pps": 1.2345,
            "on_pct": 33.333,
            "peak_a": peak_a,
            "background_a": 0.25 * peak_a,
        }
        found = session_records._set(made, last, SimpleNamespace(**{**log, **more}))
        planned = {
            key.partition(".")[2]: value
            for key, (value, _) in get_planned_values(made).items()
            if key.startswith("set.")
        }
        return {
            key: (getattr(found, key), getattr(found, key) == planned[key]) for key in planned
        } | {"peak_a": round(peak_a, 1)}

    def test_peak_from_the_log(self) -> None:
        """Estimate: a difference of more than 5 % is a setting."""
        for share, taken in ((0.949, True), (0.951, False), (1.049, False), (1.051, True)):
            found = self.settings(share)
            self.assertEqual(found["current_a"][1], not taken, share)
            if taken:
                self.assertEqual(found["current_a"][0], found["peak_a"])

    def test_pulse_from_the_log(self) -> None:
        found = self.settings(1.0)
        self.assertEqual(
            [found[key][0] for key in ("rate_pps", "on_pct", "background_pct")], [1.23, 33.3, 25.0]
        )
        for missing in ("rate_pps", "on_pct", "peak_a", "background_a"):
            found = self.settings(1.2, **{missing: None})
            self.assertTrue(all(value[1] for key, value in found.items() if key != "peak_a"))

    def test_settings_from_the_last_run(self) -> None:
        last = typed(run(set={"current_a": 41.0, "flow_l_min": None}))
        found = self.settings(41.0, last, rate_pps=None)
        self.assertEqual((found["current_a"][0], found["flow_l_min"][1]), (41.0, True))

    def test_measured_values(self) -> None:
        made = make_plan(make_joint(CORNER), ASSUMED)
        taps = RunSummary(0.0, 0.0, (), None, None, 0, 0, 0, None, 0.0, 0)
        log = SimpleNamespace(stretches=(1,), seam_arc_s=12.34, peak_a=61.26)
        for came, arc_log, expected in (
            (taps, None, {}),
            (replace(taps, arc_s=0.99), None, {}),
            (replace(taps, arc_s=1.0), None, {"arc_time_s": 1.0}),
            (replace(taps, length_mm=12.34), None, {"length_mm": 12.3}),
            (
                replace(taps, arc_s=40.0),
                log,
                {"arc_time_s": 12.3, "peak_a": 61.3, "length_mm": 380.0},
            ),
            (
                replace(taps, arc_s=40.0, length_mm=90.0),
                SimpleNamespace(stretches=(), seam_arc_s=0.0, peak_a=None),
                {"arc_time_s": 40.0, "length_mm": 90.0},
            ),
        ):
            found = session_records._build_measured(came, arc_log, made)
            told = {key: value for key, value in asdict(found).items() if value is not None}
            self.assertEqual(told, expected)
