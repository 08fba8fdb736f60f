"""The visible pulse cycle for the welder: frequency, travel per cycle, overlap of the pools.

Lengths mm, speed mm/s.
"""

from __future__ import annotations

from msgspec import Struct

from ..physics.pulse_train import overlap_pct, pitch_mm
from ..plan.arc.need import pool_length_mm
from ..plan.plan import Plan

# No welder follows a higher frequency, and the mark then moves steadily: the lower limit of
# flicker.
FOLLOWED_PPS = 2.0


class Guide(Struct, frozen=True):
    """A guide to follow.

    Travel speed mm/s, cycles a second (None: none), step mm, pool width mm, overlap %, and the
    meaning of a cycle.
    """

    speed_mm_s: float
    beat_pps: float | None
    step_mm: float | None
    pool_mm: float
    overlap_pct: float | None
    beat: str


def build_pacer(plan: Plan) -> Guide:
    """Return the guide of a plan.

    A pulse that the welder can follow, the pedal rhythm, the rod dabs, or a steady mark.
    """
    travel, rate, pool = plan.travel, plan.pulse.rate_pps, plan.travel.pool_width_mm
    beat = "pulse" if plan.pulse.pulsed else "dab"
    if travel.dab_pitch_mm and (rate is None or rate > FOLLOWED_PPS):
        rate, beat = travel.speed_mm_s / travel.dab_pitch_mm, "dab"
    if rate is None or rate > FOLLOWED_PPS:
        return Guide(travel.speed_mm_s, None, None, pool, None, "none")
    lap = travel.overlap_pct
    step = pitch_mm(travel.speed_mm_s, rate)
    return Guide(
        travel.speed_mm_s,
        rate,
        step,
        pool,
        overlap_pct(step, pool_length_mm(pool)) if lap is None else lap,
        beat,
    )
