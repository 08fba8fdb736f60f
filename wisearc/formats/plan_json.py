"""Plan → wisearc/plan."""

from __future__ import annotations

from typing import Any

from ..core.plan import Plan
from ..core.reasons import Caution, Other, Reason
from ..core.sources import title
from .joint_json import write_joint

FORMAT = "wisearc/plan"
VERSION = 1


def write_plan(plan: Plan) -> dict[str, Any]:
    """The data of a plan file. Sentences in `text` (mm) and `text_in` (inches)."""
    return {
        "format": FORMAT,
        "version": VERSION,
        "joint": write_joint(plan.joint),
        "filler": _filler(plan),
        "weld_metal": _weld_metal(plan),
        "tungsten": {
            "type": plan.tungsten.type.key,
            "diameter_mm": plan.tungsten.diameter_mm,
            "included_angle_deg": plan.tungsten.included_angle_deg,
            "tip_flat_mm": plan.tungsten.tip_flat_mm,
            **_reasons(plan.tungsten),
        },
        "torch": _torch(plan),
        "gas": _gas(plan),
        "current": _current(plan),
        "pulse": _pulse(plan),
        "travel": _travel(plan),
        "heat": _heat(plan),
        "slopes": {
            "start_a": _r(plan.setting.start_a, 1),
            "up_s": plan.setting.up_s,
            "down_s": _r(plan.setting.down_s, 1),
            "finish_a": _r(plan.setting.finish_a, 1),
        },
        "back": _back(plan),
        "fit_up": {"max_gap_mm": _r(plan.fit_up.max_gap_mm, 3), **_reasons(plan.fit_up)},
        "tacks": _tacks(plan),
        "cautions": [_caution(c) for c in plan.cautions],
    }


def _r(value: float | None, digits: int) -> float | None:
    return None if value is None else round(value, digits)


def _filler(plan: Plan) -> dict[str, Any]:
    f = plan.filler
    return {
        "rod": f.rod.key if f.rod else None,
        "diameter_mm": f.size.diameter_mm,
        "length_mm": _r(f.size.feed_mm, 1),
        "rods": f.size.rods,
        **_reasons(f),
    }


def _weld_metal(plan: Plan) -> dict[str, Any]:
    m = plan.filler.weld_metal
    return {
        "dilution": plan.filler.dilution,
        "cr_eq": _r(m.cr_eq, 2),
        "ni_eq": _r(m.ni_eq, 2),
        "ferrite_pct": _r(m.ferrite_pct, 1),
        "solidification_ratio": _r(m.solidification_ratio, 3),
        "martensite_start_c": _r(m.martensite_start_c, 0),
        "pren": _r(m.pren, 1),
        "chromium_pct": _r(m.chromium_pct, 2),
        "not_reckoned": list(m.not_reckoned),
    }


def _current(plan: Plan) -> dict[str, Any]:
    return {
        "steady_a": _r(plan.current.steady_a, 1),
        "low_a": _r(plan.current.low_a, 1),
        "high_a": _r(plan.current.high_a, 1),
        "machine_a": _r(plan.setting.machine_a, 1),
        "bench_rule_a": _r(plan.current.bench_rule_a, 1),
        "heat_flow_a": _r(plan.current.heat_flow_a, 1),
        "own_record_a": _r(plan.current.own_record_a, 1),
        "why": [_reason(r) for r in (*plan.current.why, *plan.setting.why)],
        "others": [_other(o) for o in plan.setting.others],
    }


def _pulse(plan: Plan) -> dict[str, Any]:
    return {
        "school": plan.rhythm.school.key,
        "rate_pps": plan.rhythm.rate_pps,
        "on_pct": plan.pulse.on_pct,
        "background_pct": _r(plan.pulse.background_pct, 1),
        "peak_a": _r(plan.pulse.peak_a, 1),
        "background_a": _r(plan.pulse.background_a, 1),
        "average_a": _r(plan.pulse.average_a, 1),
        "why": [_reason(r) for r in (*plan.rhythm.why, *plan.pulse.why)],
        "others": [_other(o) for o in plan.rhythm.others],
    }


def _travel(plan: Plan) -> dict[str, Any]:
    return {
        "speed_mm_s": _r(plan.rhythm.travel_mm_s, 2),
        "pool_width_mm": _r(plan.rhythm.pool_width_mm, 2),
        "pitch_mm": _r(plan.rhythm.pitch_mm, 2),
        "overlap_pct": _r(plan.rhythm.overlap_pct, 1),
        "arc_time_s": _r(plan.rhythm.arc_time_s, 1),
        "arc_length_mm": plan.rhythm.arc_length_mm,
        "length_mm": _r(plan.section.length_mm, 2),
        "why": [_reason(r) for r in plan.rhythm.travel_why],
    }


def _tacks(plan: Plan) -> dict[str, Any]:
    return {
        "count": plan.tacks.count,
        "pitch_mm": _r(plan.tacks.pitch_mm, 2),
        "positions_mm": [_r(p, 2) for p in plan.tacks.positions_mm],
        "order": list(plan.tacks.order),
        "length_mm": _r(plan.tacks.length_mm, 2),
        "current_a": _r(plan.tacks.current_a, 1),
        "time_s": plan.tacks.time_s,
        **_reasons(plan.tacks),
    }


def _torch(plan: Plan) -> dict[str, Any]:
    t = plan.torch
    return {
        "front_end": t.front_end,
        "cup": t.cup,
        "bore_mm": _r(t.bore_mm, 2),
        "stickout_mm": _r(t.stickout_mm, 2),
        "stickout_limit_mm": _r(t.stickout_limit_mm, 2),
        "cover_mm": _r(t.cover_mm, 1),
        "uncovered_mm": _r(t.uncovered_mm, 1),
        "torch": plan.shop.torch,
        **_reasons(t),
    }


def _gas(plan: Plan) -> dict[str, Any]:
    g = plan.gas
    return {
        "gas": g.gas,
        "flow_l_min": _r(g.flow_l_min, 2),
        "flow_cfh": _r(g.flow_cfh, 1),
        "reynolds": _r(g.reynolds, 0),
        "exit_speed_m_s": _r(g.exit_speed_m_s, 2),
        "preflow_s": g.preflow_s,
        "postflow_s": g.postflow_s,
        "postflow_glow_s": _r(g.postflow_glow_s, 1),
        "argon_l": _r(g.argon_l, 1),
        **_reasons(g),
    }


def _heat(plan: Plan) -> dict[str, Any]:
    w = plan.warmth
    return {
        "arc_voltage_v": w.arc_voltage_v,
        "heat_input_kj_mm": _r(w.heat_input_kj_mm, 9),
        "heat_input_en_kj_mm": _r(w.heat_input_en_kj_mm, 9),
        "hot_band_mm": _r(w.hot_band_mm, 1),
        "tail_mm": _r(w.tail_mm, 1),
        "glow_end_s": _r(w.glow_end_s, 1),
        "glow_after_stop_s": _r(w.glow_after_stop_s, 1),
        "interpass_c": w.interpass_c,
        "part_mean_c": _r(w.part_mean_c, 0),
        "why": [_reason(r) for r in w.why],
    }


def _back(plan: Plan) -> dict[str, Any]:
    b = plan.back
    purge = None
    if b.purge:
        purge = {
            "before_l_min": b.purge.before_l_min,
            "before_s": b.purge.before_s,
            "weld_l_min": b.purge.weld_l_min,
            "vent_mm": b.purge.vent_mm,
            "oxygen_ppm": b.purge.oxygen_ppm,
        }
    return {"cover": b.cover, "purge": purge, "bar_runs": b.bar_runs, **_reasons(b)}


def _reasons(choice: Any) -> dict[str, Any]:
    return {"why": [_reason(r) for r in choice.why], "others": [_other(o) for o in choice.others]}


def _reason(r: Reason) -> dict[str, Any]:
    text, text_in = r.sentence.both()
    row: dict[str, Any] = {
        "text": text,
        "text_in": text_in,
        "source": title(r.source, r.mark),
        "mark": r.mark,
        "source_key": r.source,
    }
    if r.formula and r.worked:
        worked, worked_in = r.worked.both()
        row |= {"formula": r.formula, "worked": worked, "worked_in": worked_in}
    return row


def _other(o: Other) -> dict[str, Any]:
    value, value_in = o.value.both()
    text, text_in = o.sentence.both()
    row = {
        "value": value,
        "value_in": value_in,
        "text": text,
        "text_in": text_in,
        "source": title(o.source, o.mark),
        "mark": o.mark,
        "sets": o.sets,
    }
    return row | ({"school": o.school} if o.school else {})


def _caution(c: Caution) -> dict[str, Any]:
    text, text_in = c.sentence.both()
    row: dict[str, Any] = {"level": c.level, "code": c.code, "at": c.at, "text": text, "text_in": text_in}
    return row | ({"mend": c.mend, "sets": c.sets} if c.sets else {})
