"""The purge of a joint: request, forecast, times, and data for its run."""

from __future__ import annotations

import json

from ...core.physics.purge import (
    HOSE_L,
    MIN_PURGE_S,
    Course,
    PurgeRequest,
    air_back_l_min,
    argon_l,
    calculate_unmixed_course,
    gap_area_mm2,
    make_purging,
    vent_mm,
)
from ...core.plan.plan import Plan
from ...core.plan.purge_end import purge_off_s
from ...core.plan.shielding.purge import (
    CHANNEL_MM,
    DAM_MM,
    VOLUMES,
    WELD_L_MIN,
    preflow_by_bore_l_min,
)
from ...core.schema.json_types import Json
from ...formats.declared import to_data
from ...formats.joint_json import load_json


def build_ask(plan: Plan) -> dict[str, Json]:
    """Return the purge request of a plan.

    Space by its tubes, flows, vent, gap and target, with defaults.
    """
    tubes = [s for s in plan.section.sides if s.diameter_mm is not None]
    bore = max(((s.diameter_mm or 0.0) - 2 * s.thickness_mm for s in tubes), default=0.0)
    p = plan.back.purge if plan.back.purged else None
    data: dict[str, Json] = (
        {"shape": "tube", "bore_mm": round(bore, 2), "length_mm": 2 * DAM_MM}
        if bore
        else {"shape": "behind", "length_mm": round(plan.travel.length_mm, 1)}
    )
    before = p.preflow_l_min if p else preflow_by_bore_l_min(bore or CHANNEL_MM)
    if p is not None and p.volume_l:
        closed = make_purging(data).closed_l
        if abs(closed - p.volume_l) > 0.01 * p.volume_l + 0.001:
            data |= {"shape": "told", "volume_l": max(0.001, round(p.volume_l - HOSE_L, 3))}
    weld = p.weld_flow_l_min if p else WELD_L_MIN
    target = plan.back.purge.target_ppm if plan.back.purge else 100.0
    own_vent = p.vent_mm if p and p.vent_mm else vent_mm(max(before, weld))
    return data | {
        "flow_l_min": before,
        "weld_l_min": weld,
        "vent_mm": round(own_vent + 0.049, 1),
        "gap_mm": plan.section.gap_mm,
        "target_ppm": target,
    }


def calculate_course(plan: Plan, ask: PurgeRequest, welding: bool = False) -> Course:
    """Return the mixed forecast of a request, before or during welding.

    Args:
        plan: The plan.
        ask: The request.
        welding: Whether during welding.
    """
    q = ask.weld_l_min if welding else ask.flow_l_min
    return Course(
        ask.closed_l, q, air_back_l_min(q, gap_mm2(plan, ask), plan.section.thin_mm, ask.vent_mm)
    )


def gap_mm2(plan: Plan, ask: PurgeRequest) -> float:
    """Return the open area of the gap of a purge, mm².

    Args:
        plan: The plan.
        ask: The request.
    """
    return gap_area_mm2(ask.gap_mm, plan.travel.length_mm)


def before_s(ask: PurgeRequest) -> float:
    """Return the time of ten volumes, s, at least a minute.

    Common practice.
    """
    return max(MIN_PURGE_S, 60 * VOLUMES * ask.closed_l / ask.flow_l_min)


def purge_file(plan: Plan) -> dict[str, Json] | None:
    """Return the purge of a plan as data, with the values of its page, or None."""
    if plan.back.purge is None:
        return None
    data: dict[str, Json] = dict(to_data(plan.back.purge))
    if not plan.back.purged:
        return data
    ask = make_purging(build_ask(plan))
    course, weld = calculate_course(plan, ask), calculate_course(plan, ask, welding=True)
    soonest = calculate_unmixed_course(course).reaches_s(ask.target_ppm)
    return data | {
        "minutes_layered": None if soonest is None else round(soonest / 60, 2),
        "settles_ppm": round(weld.settles_ppm, 1),
        "air_l_min": round(weld.air_l_min, 6),
        "off_after_s": round(purge_off_s(plan), 1),
        "argon_l": round(
            argon_l(
                before_s(ask),
                ask.flow_l_min,
                plan.travel.arc_time_s,
                ask.weld_l_min,
                purge_off_s(plan),
            ),
            1,
        ),
    }


def purged_text(text: str) -> str:
    """Return the text of a joint file with a purge as root cover."""
    data = load_json(text)
    return json.dumps({**data, "back": "purge"} if isinstance(data, dict) else data)
