"""Purges: forecast, fit of readings, warnings and page text."""

from __future__ import annotations

import math
from types import SimpleNamespace
from typing import Any

from msgspec.structs import asdict, replace

from wisearc.core.joint.data import make_joint
from wisearc.core.physics.purge import argon_l, calculate_unmixed_course, make_purging
from wisearc.core.physics.purge_fit import find_warnings, fit_purge
from wisearc.core.plan.plan import Plan, make_plan
from wisearc.core.plan.purge_end import purge_off_s
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.purge.oxygen import MeterReading
from wisearc.services.purge.purge_forecast import (
    before_s,
    build_ask,
    calculate_course,
    gap_mm2,
    purge_file,
)
from wisearc.services.purge.purge_run import format_purge, summarise_purge
from wisearc.services.purge.purge_status import Fits, get_status
from wisearc.store.models import PurgeRun

from .approval import ApprovedCase


class Purges(ApprovedCase):
    """A case has a joint, changes of its purge, parameters of the readings, and states."""

    name = "purges"

    @classmethod
    def calculate(cls, case: Any) -> Any:
        """Calculate the forecast, the fit, the warnings and the page text."""
        plan = make_plan(make_joint(case["joint"]), ASSUMED)
        asked = build_ask(plan)
        ask = make_purging({**asked, **case["ask"]})
        course, weld = calculate_course(plan, ask), calculate_course(plan, ask, welding=True)
        readings = _generate_readings(**case["readings"])
        fit = fit_purge(readings, course, ask.lag_s)
        fitted = fit and {
            "fit": [fit.rate_1_s, fit.delay_s, fit.lag_s, *map(fit.error, range(4))],
            "settles_ppm": fit.settles_ppm,
            "reaches": [fit.reaches_s(ask.target_ppm), fit.reaches_error_s(ask.target_ppm)],
            "shows": [fit.reading_ppm(at_s) for at_s in (1, 10, 100)],
        }
        return {
            "asked": asked,
            "closed_l": ask.closed_l,
            "courses": [course, weld, calculate_unmixed_course(course)],
            "course": [course.settles_ppm, course.rate_1_s, course.reaches_s(ask.target_ppm)],
            "weld": [weld.settles_ppm, weld.rate_1_s, weld.ppm(20)],
            "argon_l": argon_l(before_s(ask), ask.flow_l_min, 60, ask.weld_l_min, 30),
            "gap_mm2": gap_mm2(plan, ask),
            "off_after_s": purge_off_s(plan),
            "file": purge_file(plan),
            "fitted": fitted,
            "signs": find_warnings(readings, fit, ask.target_ppm),
            "ways": [_calculate_state(plan, asdict(ask), readings, **of) for of in case["ways"]],
        }

    @classmethod
    def calculate_flat(cls, case: Any) -> dict[str, Any]:
        """Round fitted values to three digits, because the fit is iterative."""
        flat = super().calculate_flat(case)
        return {
            path: float(f"{value:.3g}")
            if isinstance(value, float) and path.startswith((".fitted", ".signs", ".ways"))
            else value
            for path, value in flat.items()
        }

    def test_purges_are_as_approved(self) -> None:
        """Changes in a purge are detected."""
        self.check()


def _calculate_state(
    plan: Plan,
    ask: Any,
    readings: list[tuple[float, float]],
    state: str,
    began: float,
    started: float | None,
    arc_off: float | None,
    ended: float | None,
    habit: str,
) -> Any:
    """Calculate the state of a purge at 10,000 s and its summary."""
    row = PurgeRun(
        id=1,
        what="x",
        title="",
        ask=ask,
        port=None,
        began=began,
        started=started,
        arc_off=arc_off,
        ended=ended,
        record={"argon_l": 7.5, "before_s": 61.0},
    )
    known = [(at_s, ppm) for at_s, ppm in readings if began + at_s <= 10_000]
    listeners = SimpleNamespace(of=lambda *_: MeterReading(known, state))
    state_now = get_status(row, plan, listeners, Fits(), habit, lambda: 10_000.0)  # type: ignore[arg-type]
    record = summarise_purge(row, plan, known)
    return [replace(state_now, drawing=None), record, format_purge(record).split(";")]  # type: ignore[arg-type]


def _generate_readings(
    rate_1_s: float, delay_s: float, lag_s: float, settles: float, count: int, rising: int
) -> list[tuple[float, float]]:
    """Generate readings (s, ppm) every 3 s, with the lag of the meter and 1 % of noise."""
    shown, taken = 209_500.0, []
    for i in range(count):
        at_s = 3.0 * i
        past_s = max(0.0, at_s - delay_s)
        true = settles + (209_500.0 - settles) * math.exp(-rate_1_s * past_s)
        if i >= count - rising:
            true += 400 * (i - count + rising + 1)
        shown += (true - shown) * (1 - math.exp(-3.0 / max(lag_s, 0.01)))
        taken.append((at_s, shown * (1 + 0.01 * math.sin(i))))
    return taken
