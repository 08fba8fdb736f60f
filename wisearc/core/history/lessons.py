"""The data that one run adds to the shop history: family, metals, ratios, flaws and changes."""

from __future__ import annotations

import math

from msgspec import Struct
from msgspec.structs import replace

from .. import catalogue
from ..diagnosis.actual import MIN_SHARE, Actual
from ..diagnosis.diagnosis import log_doubt
from ..plan.plan import Plan
from ..run.latest_inspection import find_flaws, is_oxidised
from ..run.quality import GOOD, NOT_GOOD, find_observed
from ..run.run import Run
from ..run.verification import judge_run
from ..shop.shop import ASSUMED
from .families import find_joint_family, find_metal_family
from .shop_history import BRIGHT_WEIGHT, TINTED_WEIGHT

# A larger ratio is a typing error: estimate.
MAX_RATIO = 2.0


class Learnt(Struct, frozen=True):
    """The data of a run.

    It has the family of the joint and of the metals ("" if the catalogue no longer has them) and
    the weight of the run (0: none). It has the logarithms of three ratios: current to the rule of
    thumb at its travel speed, and travel speed and post-flow to the plan. It also has the flaws,
    the cause and the change. `unknown`: nobody measured the current, so the run does not count.
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
    unknown: bool = False


class LearntRun(Struct, frozen=True):
    """A run of the library with its data.

    It has the numbers of run, revision and procedure, the revision label, date, machine, welder,
    result, and whether it is excluded from the shop history.
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


def build_lesson(plan: Plan, record: Run, read_off: bool = False) -> Learnt:
    """Return the data of a run.

    Only good runs with a measured current count in the shop history, weighted by their quality.

    Args:
        plan: Plan of the run.
        record: The run.
        read_off: Whether the welder confirmed later that the set current was read off while
            welding.
    """
    kind = catalogue.load_joint_kinds().get(str(plan.joint.get("joint")))
    family = find_joint_family(kind, plan.section.thin_mm) if kind else ""
    metals = (
        find_metal_family(m for m in plan.metals[:2] if m is not None) if all(plan.metals) else ""
    )
    verdict = judge_run(find_observed(record), plan).verdict
    # A log of another joint gives no data.
    actual = Actual(plan, replace(record, arc=None) if log_doubt(record, plan) else record, ASSUMED)
    weight = 0.0
    called_good = record.good or record.as_done
    if called_good and verdict != NOT_GOOD and family and metals:
        weight = BRIGHT_WEIGHT if verdict == GOOD else TINTED_WEIGHT
    speed, travel = actual.travel_mm_s, plan.travel
    travel_speed = _log(speed / travel.speed_mm_s) if speed else None
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
        travel_speed,
        held,
        faults,
        change.cause if change else "",
        change.code if change else "",
        actual.measured_mean_a is None and not read_off,
    )


def _calculate_ratio(actual: Actual) -> float | None:
    """Return the logarithm of the ratio of the steady current to the rule of thumb.

    The rule applies at the recorded travel speed, by Wells 1952.
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
    asked = (MIN_SHARE + speed * wide / (4 * a)) / (
        MIN_SHARE + plan.travel.speed_mm_s * wide / (4 * a)
    )
    return _log(plan.current.steady_a * actual.share / (bench * asked))


def _log(ratio: float) -> float | None:
    return round(math.log(ratio), 5) if 1 / MAX_RATIO <= ratio <= MAX_RATIO else None
