"""What one run tells for joints like its own: of which family and metals it is, what it took of
what the bench rule says, what was wrong, what was changed after it.
"""

from __future__ import annotations

import math

from msgspec import Struct
from msgspec.structs import replace

from .. import catalogue
from ..diagnosis.actual import STANDING, Actual
from ..diagnosis.diagnosis import log_doubt
from ..plan.plan import Plan
from ..run.closest_look import find_flaws, is_oxidised
from ..run.quality import GOOD, NOT_GOOD, find_observed
from ..run.run import Run
from ..run.verification import judge_run
from ..shop.shop import ASSUMED
from .families import find_joint_family, find_metal_family
from .shop_history import BRIGHT_WEIGHT, TINTED_WEIGHT

# what a ratio beyond this says is a slip of the pen: estimate
MAX_RATIO = 2.0
# of what a run counts that tells what was set with a pedal in hand, and no log: estimate
BY_PEDAL = 0.5


class Learnt(Struct, frozen=True):
    """What a run tells: the family of its joint and of its metals, "" where one is in the catalogue
    no more; how much it counts for its like (0: not at all); the logarithms of its current to the
    bench rule's at its pace, of its pace and its post-flow to what was planned; the faults it had;
    the cause and the change that were taken.
    """

    family: str
    metals: str
    weight: float
    ratio: float | None
    pace: float | None
    held: float | None
    faults: tuple[str, ...]
    cause: str = ""
    change: str = ""


class LearntRun(Struct, frozen=True):
    """A run of the book and what it tells: its number, its revision's and its procedure's; number
    and letter of the revision in words; day, machine and hand; whether it was good, and whether it
    is left out of the own record.
    """

    run: int
    revision: int
    procedure: int
    label: str
    made_on: str
    machine: str
    hand: str
    good: bool
    left_out: bool
    told: Learnt


def build_lesson(plan: Plan, record: Run) -> Learnt:
    """What a run of a plan tells. Own record counts good runs alone, by how they came out."""
    kind = catalogue.load_joint_kinds().get(str(plan.joint.get("joint")))
    family = find_joint_family(kind) if kind else ""
    metals = (
        find_metal_family(m for m in plan.metals[:2] if m is not None) if all(plan.metals) else ""
    )
    verdict = judge_run(find_observed(record), plan).verdict
    # a log that may be another joint's tells nothing
    actual = Actual(plan, replace(record, arc=None) if log_doubt(record, plan) else record, ASSUMED)
    weight = 0.0
    called_good = record.good or record.as_done
    if called_good and verdict != NOT_GOOD and family and metals:
        weight = BRIGHT_WEIGHT if verdict == GOOD else TINTED_WEIGHT
        # a pedal holds back what was set by nobody knows how much
        weight *= (
            1.0
            if actual.logged or plan.slopes.at_peak or plan.joint.get("control") == "none"
            else BY_PEDAL
        )
    speed, travel = actual.travel_mm_s, plan.travel
    pace = _log(speed / travel.speed_mm_s) if speed else None
    held = (
        _log(actual.covered_s / plan.gas.postflow_s)
        if actual.covered_s and plan.gas.postflow_s
        else None
    )
    change = record.reading.change if record.reading else None
    faults = (*(find_flaws(record) or ()), *(("sugar",) if is_oxidised(record) else ()))
    return Learnt(
        family,
        metals,
        weight,
        _calculate_ratio(actual),
        pace,
        held,
        faults,
        change.cause if change else "",
        change.code if change else "",
    )


def _calculate_ratio(actual: Actual) -> float | None:
    """The logarithm of the steady current that burned, brought to the bench rule's at the pace it
    went. Wells 1952 for the pace.
    """
    plan = actual.plan
    bench = plan.current.bench_at_pace_a or plan.current.bench_rule_a
    if actual.share is None or not bench:
        return None
    speed, a, wide = (
        actual.travel_mm_s or plan.travel.speed_mm_s,
        plan.section.heat.a,
        plan.travel.pool_width_mm,
    )
    asked = (STANDING + speed * wide / (4 * a)) / (
        STANDING + plan.travel.speed_mm_s * wide / (4 * a)
    )
    return _log(plan.current.steady_a * actual.share / (bench * asked))


def _log(ratio: float) -> float | None:
    return round(math.log(ratio), 5) if 1 / MAX_RATIO <= ratio <= MAX_RATIO else None
