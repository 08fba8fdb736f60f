"""The end of a purge: how long it runs after the arc."""

from __future__ import annotations

from ..physics.heat_field import glow_after_stop_s, tails_mm
from ..physics.purge import MIN_OFF_S
from .arc.plan_field import build_heat_field
from .plan import Plan
from .shielding.purge import OFF_BELOW_C

MAX_OFF_S = 600.0


def purge_off_s(plan: Plan) -> float:
    """Return the time of the purge after the arc, s.

    Until the maximum is below 200 °C, at least half a minute.

    References:
        Estimate.
    """
    heat = build_heat_field(plan.section, plan.back, plan.travel, plan.pulse)
    tail = tails_mm(heat, (OFF_BELOW_C,))[0]
    return max(MIN_OFF_S, glow_after_stop_s(heat, OFF_BELOW_C, tail, MAX_OFF_S))
