"""Upgrade a plan of version 1.0: names, sentence, section and temperature curve.

They come from the plan, and from the names and figures of that version in `frozen/plan_1_0.json`,
never from the present catalogue or rules. The meaning of this module does not change again.
"""

from __future__ import annotations

import json
import math
import re
from functools import cache
from pathlib import Path

from ...core.joint.words import join_without_break
from ...core.quantities import MM_PER_INCH, flow, format_plain, length, speed
from ...core.schema.json_types import Data
from ...core.typed_quantities import Length, parse_length

_GAUGE = re.compile(r"(?:no\.?\s*)?([0-9]+)\s*(?:ga|gauge|swg|bwg|g)\.?(?:\s+([a-z]+))?.*")
_SCALE_NAMES = {
    "carbon": "carbon",
    "mild": "carbon",
    "steel": "carbon",
    "stainless": "stainless",
    "ss": "stainless",
    "tube": "tube",
    "wall": "tube",
    "bwg": "tube",
    "galvanised": "galvanised",
    "galvanized": "galvanised",
    "galv": "galvanised",
    "zinc": "galvanised",
}
_PIN_PLACES = {"filler": "filler", "pulse": "pulse", "back": "back", "travel_mm_s": "travel"}
_AMBIENT_C, _HOT_C = 20.0, 450.0


@cache
def _load_frozen() -> Data:
    text = (Path(__file__).parent / "frozen" / "plan_1_0.json").read_text(encoding="utf-8")
    loaded: Data = json.loads(text)
    return loaded


def plan_from_1_0(data: Data) -> Data:
    """Return a plan of version 1.1 from one of 1.0.

    Args:
        data: Data of a plan file. It does not change.

    Returns:
        Data of a plan file.
    """
    names, joint = _load_frozen(), data["joint"]
    section = _build_section(data)
    front, tungsten = data["torch"]["front_end"], names["tungstens"][data["tungsten"]["type"]]
    backs = names["backs"][data["back"]["cover"]]
    rod = names["rods"].get(data["filler"]["rod"] or "", [None, None])
    sentences = {habit: _build_sentence(joint, habit) for habit in ("mm", "in")}
    titles = {habit: _build_title(joint, habit) for habit in ("mm", "in")}
    back = {k: v for k, v in data["back"].items() if k != "bar_runs"}
    none: Data = {"why": [], "others": []}
    return {
        "format": data["format"],
        "version": 1,
        "minor": 1,
        "title": titles["mm"],
        "title_in": titles["in"],
        "sentence": [
            {"text": a[0], "text_in": b[0], "word": a[1], "tail": a[2]}
            for a, b in zip(sentences["mm"], sentences["in"], strict=True)
        ],
        "joint": joint,
        "section": section,
        "filler": {**data["filler"], "deposit_mm2": _calculate_deposit_mm2(data)},
        "weld_metal": {
            "not_reckoned": [],
            **data["weld_metal"],
            "rod_cr_eq": _round(rod[0]),
            "rod_ni_eq": _round(rod[1]),
            **none,
        },
        "current": {**none, **data["current"]},
        "slopes": {**data["slopes"], "at_peak": data["pulse"]["on_pct"] is not None, **none},
        "pulse": {
            **none,
            **data["pulse"],
            **_remove_rate(data["pulse"]),
            "pattern_name": names["patterns"][data["pulse"]["school"]],
        },
        "travel": {**none, **data["travel"]},
        "tungsten": {**none, **data["tungsten"], "type_name": tungsten[0], "colour": tungsten[1]},
        "torch": {
            **none,
            **data["torch"],
            "front_end_name": names["front_ends"][front],
            "tail_uncovered_mm": max(0.0, data["heat"]["tail_mm"] - data["torch"]["cover_mm"] / 2),
        },
        "gas": {**none, **data["gas"], **_split_argon(data)},
        "back": {
            **none,
            **back,
            "cover_name": backs["name"],
            "bar_lengths": data["back"]["bar_runs"],
            "bar_length_mm": 100.0,
            "bar_setback_mm": 3.0,
            "contact_w_mm2k": backs["contact"],
            "ink": backs["ink"],
        },
        "fit_up": {**none, **data["fit_up"]},
        "tacks": {**none, **data["tacks"]},
        "heat": {
            **none,
            **data["heat"],
            "high_voltage_v": 10 + 0.04 * data["pulse"]["average_a"],
            "hot_c": _HOT_C,
            **_calculate_curve(data, section["heat"]["liquidus_c"]),
        },
        "by_hand": _list_pins(joint),
        "cautions": [{"at": "", **c} for c in data["cautions"]],
    }


def _round(value: float | None) -> float | None:
    return None if value is None else round(value, 2)


def _remove_rate(pulse: Data) -> dict[str, None]:
    """Return no pulse rate without a pulse.

    Version 1.0 saved a manual rate even then.
    """
    return {"rate_pps": None} if pulse["school"] == "none" else {}


def _calculate_deposit_mm2(data: Data) -> float:
    diameter = data["filler"]["diameter_mm"] or 0.0
    return float(
        data["filler"]["length_mm"] / 1.15 * math.pi * diameter**2 / 4 / data["travel"]["length_mm"]
    )


def _split_argon(data: Data) -> Data:
    purge, arc = data["back"]["purge"], data["travel"]["arc_time_s"] / 60
    behind = (
        purge["before_l_min"] * purge["before_s"] / 60 + purge["weld_l_min"] * arc if purge else 0.0
    )
    starts = 1 + max(0, data["back"]["bar_runs"] - 1) + data["tacks"]["count"]
    return {
        "back_l": behind,
        "torch_l": max(0.0, data["gas"]["argon_l"] - behind),
        "starts": starts,
    }


def _build_section(data: Data) -> Data:
    joint, names = data["joint"], _load_frozen()
    kind = names["joints"][joint["joint"]]
    sides = [_build_side(m) for m in joint["members"]]
    sizes = [s["thickness_mm"] for s in sides]
    thin, thick = min(sizes[:2]), max(sizes[:2])
    arms = [min(t, 2 * min(sizes)) for t in sizes]
    kinds = [names["metals"][m["metal"]]["kind"] for m in joint["members"][:2]]
    return {
        "joint_name": kind["name"],
        "shape": kind["shape"],
        "coped": kind["coped"],
        "all_round": joint.get("length") == "all-round",
        "angle_deg": joint["angle_deg"],
        "gap_mm": _parse_mm(joint, "gap"),
        "sides": sides,
        "thin_mm": thin,
        "thick_mm": thick,
        "reckoned_mm": (2 * thin + min(thick, 2 * thin)) / 3,
        "h_mm": (sum(arms) + arms[1] * (kind["through_arms"] - 1)) / 2,
        "length_mm": data["travel"]["length_mm"],
        "heat": _average_properties(joint),
        "carbon_sides": kinds.count("carbon"),
        "stainless_sides": kinds.count("stainless"),
    }


def _build_side(member: Data) -> Data:
    metal = _load_frozen()["metals"][member["metal"]]
    diameter = (
        _parse_mm(member, "diameter") if "diameter" in member or "diameter_mm" in member else None
    )
    return {
        "metal": metal["name"],
        "kind": metal["kind"],
        "form": member["form"],
        "thickness_mm": _parse_mm(member, "thickness"),
        "diameter_mm": diameter,
        "cr_eq": round(metal["cr_eq"], 2),
        "ni_eq": round(metal["ni_eq"], 2),
    }


def _average_properties(joint: Data) -> dict[str, float]:
    rows = [
        _load_frozen()["heat"][_load_frozen()["metals"][m["metal"]]["heat"]]
        for m in joint["members"][:2]
    ]
    k, rho_c = sum(r["k"] for r in rows) / 2 * 1e-3, sum(r["rho"] * r["c"] for r in rows) / 2 * 1e-9
    liquidus = max(r["liquidus_c"] for r in rows)
    return {
        "k": k,
        "rho_c": rho_c,
        "a": k / rho_c,
        "liquidus_c": liquidus,
        "c_part": sum(r["c_part"] for r in rows) / 2,
    }


def _calculate_curve(data: Data, liquidus: float) -> Data:
    """Return Adams' curve through the edge of the pool and the edge of the hot band of the plan.

    References:
        Adams, 1958, as in `core/physics/heat.py`.
    """
    pool, band = data["travel"]["pool_width_mm"] / 2, data["heat"]["hot_band_mm"] / 2
    step = max(3 * band, 24.0) / 96
    top = 1 / (liquidus - _AMBIENT_C)
    slope = (1 / (_HOT_C - _AMBIENT_C) - top) / max(0.05, band - pool)
    return {
        "curve_step_mm": step,
        "curve_c": [_AMBIENT_C + 1 / (top + slope * i * step) for i in range(97)],
    }


def _list_pins(joint: Data) -> list[dict[str, str]]:
    rows = [
        {"key": key, "at": at, "text": "set by hand", "text_in": "set by hand"}
        for key, at in _PIN_PLACES.items()
        if joint.get(key) not in (None, "auto")
    ]
    for key, value in joint.get("pins", {}).items():
        label, at, quantity = _load_frozen()["pins"][key]
        show = {"length": length, "flow": flow}.get(quantity)
        mm, inch = (
            show(value).text(h)
            if show
            else format_plain(value)
            if isinstance(value, float)
            else value
            for h in ("mm", "in")
        )
        rows.append(
            {"key": f"pins.{key}", "at": at, "text": f"{label} {mm}", "text_in": f"{label} {inch}"}
        )
    return rows


def _parse_length(row: Data, key: str) -> Length:
    """Return a typed length, with a gauge by the tables of that version."""
    if row.get(f"{key}_mm") is not None:
        return Length(row[f"{key}_mm"], f"{row[f'{key}_mm']:g} mm")
    typed = row.get(key) or "0 mm"
    match = _GAUGE.fullmatch(typed.lower())
    if not match:
        return parse_length(typed, key)
    metal = _load_frozen()["metals"].get(row.get("metal"), {"kind": "stainless"})
    scale = "tube" if row.get("form") == "tube" else "stainless"
    if metal["kind"] == "carbon" and scale != "tube":
        scale = "galvanised" if row.get("coating") == "zinc" else "carbon"
    scale = _SCALE_NAMES[match[2]] if match[2] else scale
    return Length(round(_load_frozen()["gauges"][scale][match[1]] * MM_PER_INCH, 6), typed, scale)


def _parse_mm(row: Data, key: str) -> float:
    return _parse_length(row, key).mm


def _build_title(joint: Data, habit: str) -> str:
    if joint.get("title"):
        return str(joint["title"])
    names = " to ".join(
        dict.fromkeys(_load_frozen()["metals"][m["metal"]]["name"] for m in joint["members"][:2])
    )
    thin = length(min(_parse_mm(m, "thickness") for m in joint["members"])).text(habit)
    return f"{thin} {names}, {_load_frozen()['joints'][joint['joint']]['name']}"


def _format_length(value: Length, habit: str) -> str:
    text = length(value.mm).text(habit)
    return f"{value.typed} ({text})" if value.scale else text


def _format_member(member: Data, habit: str) -> str:
    metal = (
        _load_frozen()["words"]["coating"][member.get("coating", "none")]
        + _load_frozen()["metals"][member["metal"]]["name"]
    )
    thickness = _parse_length(member, "thickness")
    if "diameter" in member or "diameter_mm" in member:
        over = length(_parse_mm(member, "diameter")).number(habit)
        return f"{over} × {length(thickness.mm).text(habit)} {metal} {member['form']}"
    return f"{_format_length(thickness, habit)} {metal} {member['form']}"


def _build_sentence(joint: Data, habit: str) -> list[tuple[str, str, str]]:
    """Return text, key and end of each piece of the sentence."""
    names, words, members = _load_frozen(), _load_frozen()["words"], joint["members"]
    kind, gap = names["joints"][joint["joint"]], _parse_length(joint, "gap")
    out = [("Join ", ""), (_format_member(members[0], habit), "a"), (" to ", "")]
    out.append(("the same" if members[1] == members[0] else _format_member(members[1], habit), "b"))
    if len(members) == 3:
        out += [(" and ", ""), (_format_member(members[2], habit), "c")]
    out += [(" at ", ""), (kind["phrase"], "joint")]
    if kind["coped"] or joint["angle_deg"] != 90:
        out += [(" of ", ""), (f"{joint['angle_deg']:g}°", "angle")]
    long = (
        "all round"
        if joint.get("length") == "all-round"
        else _format_length(_parse_length(joint, "length"), habit) + " long"
    )
    out += [
        (", ", ""),
        (long, "length"),
        (", ", ""),
        (names["positions"][joint["position"]], "position"),
        (", with ", ""),
    ]
    out += [
        ("no gap" if gap.mm == 0 else f"a gap of {_format_length(gap, habit)}", "gap"),
        (", for ", ""),
    ]
    out += [
        (f"{words['finish'][joint['finish']]} in {words['service'][joint['service']]}", "purpose"),
        (". The back ", ""),
    ]
    out += [
        (words["back_access"][joint["back_access"]], "access"),
        ("; current by ", ""),
        (words["control"][joint["control"]], "control"),
    ]
    if joint.get("travel_mm_s") is not None:
        out += [(", travel ", ""), (speed(joint["travel_mm_s"]).text(habit), "travel")]
    return join_without_break([*out, (".", "")])
