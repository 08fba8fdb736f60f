"""The visible pulse cycle for the welder: frequency, travel per cycle, overlap of the pools.

Lengths mm, speed mm/s.
"""

from __future__ import annotations

from msgspec import Struct

from ..physics.pulse_train import pitch_mm
from ..plan.plan import Plan

# No welder follows a higher frequency, and the mark then moves steadily: the lower limit of
# flicker.
FOLLOWED_PPS = 2.0
# Without a pulse, filler is added about once per this fraction of a pool: estimate, half of the
# pool edge stays overlapped.
DAB_STEP = 0.5


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

    A pulse that the welder can follow, the pedal rhythm, the rod dabs, or a steady mark. Estimate:
    the dabs.
    """
    travel, rate, pool = plan.travel, plan.pulse.rate_pps, plan.travel.pool_width_mm
    beat = "pulse" if plan.pulse.pulsed else "dab"
    if rate is None and plan.filler.rod:
        rate = travel.speed_mm_s / (DAB_STEP * pool)
    if rate is None or rate > FOLLOWED_PPS:
        return Guide(travel.speed_mm_s, None, None, pool, None, "none")
    step = pitch_mm(travel.speed_mm_s, rate)
    return Guide(
        travel.speed_mm_s,
        rate,
        step,
        pool,
        travel.overlap_pct if travel.overlap_pct is not None else 100 * (1 - step / pool),
        beat,
    )
