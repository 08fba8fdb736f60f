"""One set-up for a job: the same torch for all seams, and one setting where it is sound.

The torch is the smallest tungsten and cup with which no seam gets a stop or a further caution.
Seams share a setting if one current is in the allowed range of each. Common practice. The range of
10 % is that of a procedure (estimate).
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Hashable, Mapping, Sequence
from functools import cached_property

from msgspec import Struct
from msgspec.structs import replace

from ...core import catalogue
from ...core.jobs.bench_state import BenchTorch, Task
from ...core.jobs.job import Job, Seam
from ...core.joint.joint import Joint, Pins
from ...core.plan.plan import Plan
from ...core.reasons import Caution
from ...core.run.verification import build_ranges
from ...core.shop.shop import Shop
from ..planning.planner import cached_plan

# The pins of a torch and of a setting.
TORCH_PINS = ("tungsten_type", "tungsten_mm", "front_end", "cup")
LEVELS_TO_AVOID = ("stop", "caution")
LENS = "gas-lens"


class SetupEffect(Struct, frozen=True):
    """The effect of one set-up on a seam: its key, further cautions, change of its current, %."""

    key: str
    cautions: tuple[Caution, ...] = ()
    current_pct: float | None = None


class OneSetup(Struct, frozen=True, dict=True):
    """A job with one set-up.

    Plans by seam, joints with their pins by seam, the common torch or None, the effects on seams,
    and the seams that cannot have the common torch.
    """

    plans: Mapping[str, Plan]
    joints: Mapping[str, Joint]
    torch: BenchTorch | None
    effects: tuple[SetupEffect, ...]
    refused: tuple[str, ...]

    @cached_property
    def is_equal_quality(self) -> bool:
        """Return whether no seam has a further caution, and every seam the common torch."""
        return not self.refused and not any(effect.cautions for effect in self.effects)


PlanSeam = Callable[[Seam], Plan]


def find_one_setup(job: Job, shop: Shop, plans: Mapping[str, Plan]) -> OneSetup:
    """Return the job with the requested set-up.

    Args:
        job: The job.
        shop: The shop.
        plans: The separate plan of each seam.
    """
    result = OneSetup(plans, {}, None, (), ())
    if job.one_torch and job.seams:
        result = _share_torch(job, shop, result)
    if job.same_dial and job.seams:
        result = _share_dial(job, shop, result)
    return result


def _share_torch(job: Job, shop: Shop, separate: OneSetup) -> OneSetup:
    """Return the plans with the smallest torch that is sound for every seam."""
    best: tuple[tuple[int, int, float, int], OneSetup] | None = None
    for torch in _list_torches(job, separate.plans):
        result = _use_torch(job, shop, separate, torch)
        added = sum(len(effect.cautions) for effect in result.effects)
        score = (len(result.refused), added, torch.tungsten_mm, torch.cup)
        if best is None or score < best[0]:
            best = score, result
        if not result.refused and not added:
            break
    return best[1] if best is not None else separate


def _list_torches(job: Job, plans: Mapping[str, Plan]) -> list[BenchTorch]:
    """Return the possible torches, the smallest first: of the seams, and between them."""
    torches = [Task(seam, plans[seam.key]).torch for seam in job.seams]
    # The types in use, the most frequent first: they are in stock.
    types = [tungsten for tungsten, _ in Counter(torch.tungsten for torch in torches).most_common()]
    # A smaller tungsten does not carry the current of every seam.
    tungsten_mm = max(torch.tungsten_mm for torch in torches)
    # A lens reaches as far as a collet body, and further.
    end = min((t.front_end for t in torches), key=lambda name: name != LENS)
    cups = sorted(cup for cup in catalogue.load_cups() if cup >= min(t.cup for t in torches))
    return [BenchTorch(tungsten, tungsten_mm, end, cup) for cup in cups for tungsten in types]


def _use_torch(job: Job, shop: Shop, separate: OneSetup, torch: BenchTorch) -> OneSetup:
    pins: dict[str, float | str] = {
        "tungsten_type": torch.tungsten,
        "tungsten_mm": torch.tungsten_mm,
        "front_end": torch.front_end,
        "cup": torch.cup,
    }
    plans, joints = dict(separate.plans), dict(separate.joints)
    effects, refused = list[SetupEffect](), list[str]()
    for seam in job.seams:
        before = separate.plans[seam.key]
        if Task(seam, before).torch == torch:
            continue
        if seam.joint is None or any(
            seam.joint.pins.get(key, value) != value for key, value in pins.items()
        ):
            # A procedure keeps its torch, and so does a person's choice.
            refused.append(seam.key)
            continue
        joint = _with_pins(seam.joint, pins)
        plan = cached_plan(joint, shop)
        cautions = _find_new_cautions(before, plan)
        if any(caution.level == "stop" for caution in cautions):
            refused.append(seam.key)
            continue
        plans[seam.key], joints[seam.key] = plan, joint
        if cautions:
            effects.append(SetupEffect(seam.key, cautions))
    return OneSetup(plans, joints, torch, tuple(effects), tuple(refused))


def _find_new_cautions(before: Plan, after: Plan) -> tuple[Caution, ...]:
    known = {caution.code for caution in before.cautions if caution.level in LEVELS_TO_AVOID}
    return tuple(
        caution
        for caution in after.cautions
        if caution.level in LEVELS_TO_AVOID and caution.code not in known
    )


def _with_pins(joint: Joint, pins: Mapping[str, float | str]) -> Joint:
    return replace(joint, pins=Pins({**joint.pins, **pins}))


def _share_dial(job: Job, shop: Shop, separate: OneSetup) -> OneSetup:
    """Return the plans with one setting for each group of seams whose ranges overlap."""
    plans, joints = dict(separate.plans), dict(separate.joints)
    effects = list(separate.effects)
    groups: dict[Hashable, list[Seam]] = {}
    for seam in job.seams:
        if seam.joint is not None:
            groups.setdefault(_find_rhythm(seam, plans[seam.key]), []).append(seam)
    for alike in groups.values():
        for group in _group_by_range(alike, plans):
            new = _find_common_setting(group, plans, joints, shop)
            for key, (plan, joint, percent) in new.items():
                plans[key], joints[key] = plan, joint
                effects.append(SetupEffect(key, (), percent))
    return OneSetup(plans, joints, separate.torch, tuple(effects), separate.refused)


def _find_rhythm(seam: Seam, plan: Plan) -> Hashable:
    """Return what must be equal for one setting: pulse, control and torch."""
    pulse, torch = plan.pulse, Task(seam, plan).torch
    return (
        pulse.pulsed,
        pulse.rate_pps if pulse.pulsed else None,
        pulse.on_pct,
        pulse.background_pct,
        plan.joint.get("control"),
        torch,
    )


def _get_current(plan: Plan) -> float:
    return plan.pulse.peak_a if plan.pulse.pulsed else plan.current.steady_a


def _get_range(plan: Plan) -> tuple[float, float]:
    """Return the allowed range of the current of a plan, A."""
    # With a pulse the machine is set to the peak.
    key = "machine_a" if plan.pulse.pulsed else "current_a"
    low, high = build_ranges(plan).get(key, (None, None))
    current = _get_current(plan)
    return (current if low is None else low, current if high is None else high)


def _group_by_range(seams: Sequence[Seam], plans: Mapping[str, Plan]) -> list[list[Seam]]:
    """Return groups of seams whose ranges of current have a common value, the fewest groups."""
    groups: list[list[Seam]] = []
    end = float("-inf")
    for seam in sorted(seams, key=lambda s: _get_range(plans[s.key])[1]):
        low, high = _get_range(plans[seam.key])
        if not groups or low > end:
            groups.append([])
            end = high
        groups[-1].append(seam)
    return groups


def _find_common_setting(
    group: Sequence[Seam], plans: Mapping[str, Plan], joints: Mapping[str, Joint], shop: Shop
) -> dict[str, tuple[Plan, Joint, float]]:
    """Return the plans of a group with one setting, without the seams for which it is not sound."""
    if len({Task(seam, plans[seam.key]).dial for seam in group}) < 2:
        return {}
    ranges = [_get_range(plans[seam.key]) for seam in group]
    current = round((max(low for low, _ in ranges) + min(high for _, high in ranges)) / 2)
    flow = max(plans[seam.key].gas.flow_l_min for seam in group)
    postflow = max(plans[seam.key].gas.postflow_s for seam in group)
    result = {}
    for seam in group:
        before = plans[seam.key]
        current_pin = "peak_a" if before.pulse.pulsed else "current_a"
        pins = {current_pin: float(current), "flow_l_min": flow, "postflow_s": postflow}
        base = joints.get(seam.key, seam.joint)
        if base is None or any(key in base.pins for key in pins):
            continue
        joint = _with_pins(base, pins)
        plan = cached_plan(joint, shop)
        if not _find_new_cautions(before, plan):
            percent = 100 * (current / _get_current(before) - 1)
            result[seam.key] = (plan, joint, percent)
    return result if len(result) > 1 else {}
