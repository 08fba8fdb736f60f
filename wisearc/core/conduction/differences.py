"""Where the figures of a field differ from the plan, and why."""

from __future__ import annotations

from msgspec import Struct

from ..physics.heat_in_time import STEADY_ARC, find_pool
from ..plan.arc.plan_field import calculate_over_600_s
from ..plan.arc.pulse import build_pulse_train
from ..plan.arc.slow_pulse import build_sheet
from ..plan.plan import Plan
from ..quantities import Quantity, size
from .closed_form import calculate_share_of_return
from .findings import Findings
from .limits import DIFFERS_BY
from .problem import Problem

MIN_DIFFERENCE = {"size": 0.3, "seconds": 1.0}

_HOT = "The field counts latent heat and the conductivity of hot metal."
_JET = (
    "In the field, the gas cools only the sheet under the cup, and hot metal has a higher heat "
    "capacity."
)
_RETURN = "The seam ends where it started, and the sheet is still hot there. " + _JET
_SIZE = "The field knows the size of the part, the bars and the loss of both faces."


class Difference(Struct, frozen=True):
    """A figure that differs: its name, both values, and the reason."""

    label: str
    planned: Quantity
    field: Quantity
    why: str


def list_differences(plan: Plan, problem: Problem, answers: Findings) -> tuple[Difference, ...]:
    """Return the figures of a plan that differ from the field by more than 15 %.

    Args:
        plan: The plan.
        problem: The seam of the field, with the settings of the plan.
        answers: The answers of the field.
    """
    pulse, heat = plan.pulse, plan.heat
    train = build_pulse_train(pulse)
    pool = find_pool(
        build_sheet(plan.section),
        STEADY_ARC if train.is_steady else train,
        pulse.average_a if train.is_steady else pulse.peak_a,
        plan.travel.speed_mm_s,
    )
    seconds = _in_seconds
    rows = [
        ("Pool width", size(pool.width_mm), size(answers.width_peak_mm), _HOT),
        (
            "Heat-tint width",
            size(heat.hot_band_mm),
            size(answers.hot_band_mm),
            _HOT,
        ),
        (
            "Red heat after the stop",
            seconds(heat.glow_after_stop_s),
            seconds(answers.glow_after_stop_s),
            _explain_red_heat(problem),
        ),
    ]
    over_600_s = calculate_over_600_s(plan.section, plan.back, plan.travel, pulse)
    rows.append(
        ("Time above 600 °C (1112 °F)", seconds(over_600_s), seconds(answers.over_600_s), _HOT)
    )
    if heat.interpass_wait_s is not None and answers.wait_s is not None:
        wait = seconds(heat.interpass_wait_s), seconds(answers.wait_s)
        rows.append(("Wait to the interpass limit", *wait, _SIZE))
    return tuple(
        Difference(label, planned, field, why)
        for label, planned, field, why in rows
        if _differs(planned, field)
    )


def _explain_red_heat(problem: Problem) -> str:
    """Return why the red heat lasts longer than in the plan."""
    if problem.closed and calculate_share_of_return(problem) > 1 + DIFFERS_BY / 2:
        return _RETURN
    return _JET


def _in_seconds(value: float) -> Quantity:
    return Quantity(round(value, 1), "seconds")


def _differs(planned: Quantity, field: Quantity) -> bool:
    off = abs(field.value - planned.value)
    return off > DIFFERS_BY * abs(planned.value) and off > MIN_DIFFERENCE[planned.kind]
