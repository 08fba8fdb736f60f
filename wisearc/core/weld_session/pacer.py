"""The beat that a hand goes by: its rate, how far it travels from one to the next, how the pools
lap. Lengths mm, speed mm/s.
"""

from __future__ import annotations

from msgspec import Struct

from ..physics.pulse_train import pitch_mm
from ..plan.plan import Plan

# no eye and no hand follows more beats a second, and the mark then moves steadily: the flicker's
# lower edge
FOLLOWED_PPS = 2.0
# with no beat of its own a seam with rod is dabbed about once for each step of so much of a pool:
# estimate, the pool's edge stays lapped by half
DAB_STEP = 0.5


class Pace(Struct, frozen=True):
    """A pace to follow: travel mm/s, beats a second (None: none to follow), the step mm, the pool's
    width mm, the overlap %, and what a beat is.
    """

    speed_mm_s: float
    beat_pps: float | None
    step_mm: float | None
    pool_mm: float
    overlap_pct: float | None
    beat: str


def build_pacer(plan: Plan) -> Pace:
    """The pace of a plan: the pulse's beat where a hand can follow it, the pedal's, or the rod's
    dabs; else a steady mark. Estimate: the dabs.
    """
    travel, rate, pool = plan.travel, plan.pulse.rate_pps, plan.travel.pool_width_mm
    beat = "pulse" if plan.pulse.pulsed else "dab"
    if rate is None and plan.filler.rod:
        rate = travel.speed_mm_s / (DAB_STEP * pool)
    if rate is None or rate > FOLLOWED_PPS:
        return Pace(travel.speed_mm_s, None, None, pool, None, "none")
    step = pitch_mm(travel.speed_mm_s, rate)
    return Pace(
        travel.speed_mm_s,
        rate,
        step,
        pool,
        travel.overlap_pct if travel.overlap_pct is not None else 100 * (1 - step / pool),
        beat,
    )
